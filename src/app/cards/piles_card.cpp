#include "app/cards/piles_card.h"

#include <QComboBox>
#include <QDoubleSpinBox>
#include <QFileDialog>
#include <QFormLayout>
#include <QHeaderView>
#include <QLabel>
#include <QPushButton>
#include <QSettings>
#include <QTreeWidget>
#include <QVBoxLayout>
#include <cmath>

#include "app/look/make.h"
#include "app/model/document.h"
#include "app/model/jobs.h"
#include "core/base/output.h"
#include "core/io/mesh/mesh_cloud.h"
#include "core/measure/figures.h"
#include "core/measure/pile_outlines.h"

namespace pristine::app {

using measure::PileBase;

PilesCard::PilesCard(Document* document, Jobs* jobs, QWidget* parent)
    : SideCard(QStringLiteral("piles"), tr("Stockpiles"), QStringLiteral("stockpiles.md"), parent),
      document_(document),
      jobs_(jobs),
      latest_(jobs) {
    add_settings();
    list_ = new QTreeWidget(this);
    list_->setObjectName(QStringLiteral("pilesList"));
    list_->setAccessibleName(tr("Piles: a row for each closed line that is shown; click to fly there"));
    list_->setHeaderLabels({tr("Pile"), tr("Volume ± 1 σ"), tr("Mass")});
    list_->setRootIsDecorated(false);
    list_->header()->setSectionResizeMode(QHeaderView::ResizeToContents);
    list_->header()->setStretchLastSection(false);
    body()->addWidget(list_, 1);
    body()->addWidget(total_ = make_sentence(this, "pilesTotal"));
    body()->addWidget(state_ = make_sentence(this, "pilesState"));
    add_actions();
    connect(list_, &QTreeWidget::itemClicked, this, [this](QTreeWidgetItem* row) {
        const auto k = static_cast<std::size_t>(list_->indexOfTopLevelItem(row));
        if (k >= of_.lines.size()) return;
        Box3 box;
        for (const Vec3& p : of_.lines[k]->points) box.add(p);
        emit fly(box);
    });
}

void PilesCard::add_settings() {
    form_ = new QFormLayout;
    base_ = make_choice(this, "pilesBase", tr("What the piles stand on"));
    base_->addItem(tr("their foot, triangulated"), static_cast<int>(PileBase::TriangulatedRim));
    base_->addItem(tr("the lowest place of their foot"), static_cast<int>(PileBase::LowestOfRim));
    base_->addItem(tr("the mean height of their foot"), static_cast<int>(PileBase::MeanOfRim));
    base_->addItem(tr("a plane through their foot"), static_cast<int>(PileBase::PlaneOfRim));
    base_->addItem(tr("a level"), static_cast<int>(PileBase::Level));
    base_->addItem(tr("another surface"), static_cast<int>(PileBase::OtherSurface));
    form_->addRow(tr("Above"), base_);
    level_ = new LengthBox(0, -100'000, 100'000, this);
    level_->setObjectName(QStringLiteral("pilesLevel"));
    level_->setAccessibleName(tr("The level that volumes are counted from"));
    form_->addRow(tr("Level"), level_);
    other_ = make_choice(this, "pilesOther", tr("The surface that volumes are counted from"));
    form_->addRow(tr("Surface"), other_);
    density_ = new QDoubleSpinBox(this);
    density_->setObjectName(QStringLiteral("pilesDensity"));
    density_->setAccessibleName(tr("Density, tonnes a cubic metre; 0: no mass"));
    density_->setRange(0, 30);
    density_->setDecimals(3);
    density_->setSingleStep(0.05);
    density_->setSuffix(tr(" t/m³"));
    density_->setSpecialValueText(tr("not given"));
    density_->setKeyboardTracking(false);
    form_->addRow(tr("Density"), density_);
    body()->addLayout(form_);
    connect(base_, &QComboBox::activated, this, &PilesCard::compute);
    connect(other_, &QComboBox::activated, this, &PilesCard::compute);
    connect(level_, &QDoubleSpinBox::valueChanged, this, [this] {
        if (!filling_) compute();
    });
    connect(density_, &QDoubleSpinBox::valueChanged, this, &PilesCard::fill);
}

void PilesCard::add_actions() {
    auto* row = new QHBoxLayout;
    least_ = new LengthBox(1, 0.05, 1000, this);
    least_->setObjectName(QStringLiteral("pilesLeast"));
    least_->setAccessibleName(tr("Piles that are proposed are at least this high"));
    least_->setToolTip(least_->accessibleName());
    propose_ =
        make_button(this, "pilesPropose", tr("Propose lines"),
                    tr("A closed line round everything that rises from the surface with steep flanks, at "
                       "least this high; look at each before you use it"));
    row->addWidget(propose_, 1);
    row->addWidget(least_);
    body()->addLayout(row);
    body()->addWidget(save_ = make_button(this, "pilesSave", tr("Save the table…"), tr("As CSV")));
    connect(propose_, &QPushButton::clicked, this, &PilesCard::propose);
    connect(save_, &QPushButton::clicked, this, &PilesCard::choose_file);
}

PileBase PilesCard::base() const {
    return static_cast<PileBase>(base_->currentData().toInt());
}

void PilesCard::on_open() {
    of_ = {};
    refresh();
}

void PilesCard::refresh() {
    if (!is_open()) return;
    const site::SitePtr s = document_->site();
    filling_ = true;
    for (LengthBox* box : {level_, least_}) box->set_lengths(Lengths(*s));
    filling_ = false;
    fill_others();
    if (s->unit != unit_) {
        unit_ = s->unit;
        fill();
    }
    compute();
}

void PilesCard::fill_others() {
    const QVariant before = other_->currentData();
    other_->clear();
    for (const site::ItemPtr& i : document_->site()->items)
        if (i->id != document_->site()->active && i->role == site::ItemRole::Terrain)
            other_->addItem(QString::fromStdString(i->name), quint64{i->id});
    if (const int at = other_->findData(before); at >= 0) other_->setCurrentIndex(at);
}

PilesCard::Of PilesCard::wanted() const {
    const site::SitePtr s = document_->site();
    Of of;
    const site::ItemPtr item = s->active_item();
    if (!item || item->role != site::ItemRole::Terrain) return of;
    of.cloud = item->cloud;
    of.absent = item->absent;
    of.base = base();
    if (of.base == PileBase::Level) of.level = level_->in_data();
    if (of.base == PileBase::OtherSurface)
        if (const site::ItemPtr other = s->item(other_->currentData().toULongLong())) {
            of.other = other->cloud;
            of.other_absent = other->absent;
        }
    for (const site::LinePtr& l : s->lines)
        if (l->closed && l->visible && l->role != LineRole::Hole && l->role != LineRole::Contour)
            of.lines.push_back(l);
    return of;
}

void PilesCard::compute() {
    form_->setRowVisible(level_, base() == PileBase::Level);
    form_->setRowVisible(other_, base() == PileBase::OtherSurface);
    Of of = wanted();
    propose_->setEnabled(of.cloud != nullptr);
    if (of == of_) return;
    of_ = std::move(of);
    latest_.drop();
    piles_.clear();
    overlapping_.clear();
    fill();
    if (!of_.cloud) return state_->setText(tr("Take a terrain surface in work."));
    if (of_.lines.empty())
        return state_->setText(
            tr("Draw a closed line round each pile, add lines from a file, or let them be "
               "proposed."));
    if (of_.base == PileBase::OtherSurface && !of_.other)
        return state_->setText(tr("Open the surface that the piles stand on."));
    state_->setText(tr("Computing…"));
    latest_.start<Table>(
        tr("Stockpiles"),
        [of = of_](Progress& p, Table& table) {
            measure::require_lengths(of.cloud->reference());
            const mesh::TriMesh m = io::mesh_of(*of.cloud, ~*of.absent);
            mesh::TriMesh other;
            measure::PileOptions options;
            options.base = of.base;
            options.level = of.level;
            if (of.other) {
                other = io::mesh_of(*of.other, ~*of.other_absent);
                options.other = &other;
            }
            std::vector<std::vector<Vec3>> rings;
            std::vector<std::size_t> number;
            for (const site::LinePtr& l : of.lines) {
                io::NamedPile& n = table.piles.emplace_back();
                n.name = l->name;
                try {
                    n.pile = measure::stockpile(m, l->points, options, p);
                    rings.push_back(l->points);
                    number.push_back(table.piles.size() - 1);
                } catch (const Error& e) {
                    n.problem = e.what();
                }
            }
            for (const auto& [a, b] : measure::overlapping_outlines(rings))
                table.overlapping.emplace_back(number[a], number[b]);
        },
        [this](Table& table) { take(table); },
        [this](const QString& why) { state_->setText(why.isEmpty() ? tr("Cancelled.") : why); },
        Jobs::Show::IfLong);
}

void PilesCard::take(Table& table) {
    piles_ = std::move(table.piles);
    overlapping_ = std::move(table.overlapping);
    fill();
}

void PilesCard::fill() {
    const Lengths l(*document_->site());
    const cloud::Reference reference = of_.cloud ? of_.cloud->reference() : cloud::Reference();
    const double density = density_->value();
    const auto mass = [&](double volume) {
        return density > 0 && l.known()
                   ? tr("%1 t").arg(shown_figure(io::tonnes(volume, density, reference), 1))
                   : tr("–");
    };
    list_->clear();
    double volume = 0, variance = 0, below = 0;
    QStringList problems;
    for (const io::NamedPile& n : piles_) {
        const QString name = QString::fromStdString(n.name);
        if (!n.problem.empty()) {
            (new QTreeWidgetItem(list_, {name, tr("none")}))
                ->setToolTip(0, QString::fromStdString(n.problem));
            problems << tr("%1: %2").arg(name, QString::fromStdString(n.problem));
            continue;
        }
        const measure::Pile& p = n.pile;
        auto* row = new QTreeWidgetItem(list_, {name, l.with_spread(p.volume, p.sigma, 3), mass(p.volume)});
        for (const int column : {1, 2}) row->setTextAlignment(column, Qt::AlignRight | Qt::AlignVCenter);
        row->setToolTip(
            0, tr("%1 in plan, %2 on the surface; base %3 to %4, top %5; %6 below the base")
                   .arg(l.area(p.plan_area), l.area(p.surface_area), l.coordinate(p.base_low, 1),
                        l.coordinate(p.base_high, 1), l.coordinate(p.highest, 1), l.volume(p.below)));
        if (p.plan_area < 0.999 * p.outline_area)
            problems << tr("The surface covers %1 % of %2.")
                            .arg(100 * p.plan_area / p.outline_area, 0, 'f', 1)
                            .arg(name);
        volume += p.volume;
        below += p.below;
        variance += p.sigma * p.sigma;
    }
    for (const auto& [a, b] : overlapping_)
        problems << tr("%1 and %2 overlap: what lies in both counts twice.")
                        .arg(QString::fromStdString(piles_[a].name), QString::fromStdString(piles_[b].name));
    total_->setText(piles_.empty()
                        ? QString()
                        : tr("Together %1, %2; %3 below the base.")
                              .arg(l.with_spread(volume, std::sqrt(variance), 3),
                                   density > 0 ? mass(volume) : tr("no density given"), l.volume(below)));
    if (!piles_.empty())
        state_->setText(
            (QStringList{tr("± is one standard deviation, from the noise of the heights.")} + problems)
                .join(QLatin1Char('\n')));
    save_->setEnabled(!piles_.empty());
}

void PilesCard::propose() {
    const site::ItemPtr item = document_->site()->active_item();
    if (!item || item->role != site::ItemRole::Terrain) return;
    const auto lines = std::make_shared<std::vector<std::vector<Vec3>>>();
    jobs_->start(
        tr("Looking for piles"),
        [=, least = least_->in_data()](Progress& p) {
            measure::PileSearch search;
            search.least_height = least;
            *lines = measure::pile_outlines(io::mesh_of(*item->cloud, ~*item->absent), search, p);
        },
        [this, lines] {
            if (lines->empty()) return emit said(tr("Nothing that high rises from the surface like a pile."));
            std::vector<site::Line> fresh;
            for (std::vector<Vec3>& points : *lines) {
                site::Line l;
                l.name = tr("Pile %1").arg(fresh.size() + 1).toStdString();
                l.points = std::move(points);
                l.closed = true;
                fresh.push_back(std::move(l));
            }
            document_->apply(tr("Propose %n pile(s)", "", static_cast<int>(fresh.size())),
                             [&](const site::Site& s) { return site::put_lines(s, std::move(fresh)); });
        },
        [this](const QString& why) { emit said(why); });
}

void PilesCard::choose_file() {
    const QString file = QFileDialog::getSaveFileName(
        this, tr("Save the table"), QSettings().value("folder").toString(), tr("Tables (*.csv)"));
    if (!file.isEmpty()) save(file.toStdString());
}

void PilesCard::save(const std::filesystem::path& file) {
    if (piles_.empty()) return;
    try {
        OutputFile out(file, true);
        out.write(io::pile_table(piles_, of_.base, density_->value(), of_.cloud->reference()));
        out.finish();
        emit said(tr("Saved as %1.").arg(QString::fromStdString(file.filename().string())));
    } catch (const Error& e) {
        emit said(QString::fromStdString(e.what()));
    }
}

}  // namespace pristine::app
