#include "app/cards/place_card.h"

#include <QCheckBox>
#include <QFileDialog>
#include <QFormLayout>
#include <QHeaderView>
#include <QSettings>
#include <QStackedWidget>
#include <QTreeWidget>
#include <QVBoxLayout>
#include <cmath>

#include "app/cards/level_page.h"
#include "app/look/make.h"
#include "app/model/document.h"
#include "app/model/jobs.h"
#include "core/base/file.h"
#include "core/io/mapped_cloud.h"
#include "core/io/pairs_file.h"
#include "core/place/residual_map.h"
#include "core/select/fence.h"

namespace pristine::app {
namespace {

using place::Freedom;

QDoubleSpinBox* number(QWidget* parent, const char* name, const QString& what, double value, double least,
                       double most, int decimals) {
    auto* box = new QDoubleSpinBox(parent);
    box->setObjectName(QString::fromLatin1(name));
    box->setAccessibleName(what);
    box->setRange(least, most);
    box->setDecimals(decimals);
    box->setValue(value);
    return box;
}

}  // namespace

PlaceCard::PlaceCard(Document* document, Jobs* jobs, QWidget* parent)
    : SideCard(QStringLiteral("place"), tr("Place"), QStringLiteral("place.md"), parent),
      document_(document),
      jobs_(jobs),
      latest_(jobs) {
    way_ = make_choice(this, "placeWay", tr("How it is placed"));
    way_->addItems({tr("By numbers"), tr("Level, and by known distances"), tr("By pairs of places"),
                    tr("On the surfaces of another item")});
    body()->addWidget(way_);
    pages_ = new QStackedWidget(this);
    level_ = new LevelPage(document, this);
    for (QWidget* page : {numbers_page(), static_cast<QWidget*>(level_), pairs_page(), surfaces_page()})
        pages_->addWidget(page);
    connect(level_, &LevelPage::pick_wanted, this, &PlaceCard::pick_wanted);
    connect(level_, &LevelPage::said, this, &PlaceCard::said);
    connect(level_, &LevelPage::changed, this, [this] {
        emit guides_changed();
        say();
    });
    body()->addWidget(pages_);
    body()->addWidget(state_ = make_sentence(this, "placeState"));
    place_ = make_button(this, "placePlace", tr("Place as a new item"),
                         tr("A new item in the new place, with its decisions; this one stays, hidden"));
    body()->addWidget(place_);
    body()->addStretch(1);
    connect(way_, &QComboBox::currentIndexChanged, this, [this](int way) {
        pages_->setCurrentIndex(way);
        emit guides_changed();
        say();
    });
    connect(place_, &QPushButton::clicked, this, &PlaceCard::place);
}

QWidget* PlaceCard::numbers_page() {
    auto* page = new QWidget(this);
    auto* form = new QFormLayout(page);
    form->setContentsMargins(0, 0, 0, 0);
    const auto length = [&](const char* name, const QString& title, const QString& what) {
        auto* box = new LengthBox(0, -1e7, 1e7, this);
        box->setObjectName(QString::fromLatin1(name));
        box->setAccessibleName(what);
        connect(box, &QDoubleSpinBox::valueChanged, this, &PlaceCard::say);
        form->addRow(title, box);
        return box;
    };
    e_ = length("placeE", tr("Shift E"), tr("Shift to the east"));
    n_ = length("placeN", tr("N"), tr("Shift to the north"));
    h_ = length("placeH", tr("H"), tr("Shift upwards"));
    turn_ = number(this, "placeTurn", tr("Turn about the vertical, clockwise from above"), 0, -360, 360, 5);
    turn_->setSuffix(QStringLiteral("°"));
    scale_ = number(this, "placeScale", tr("Scale"), 1, 1e-6, 1e6, 8);
    form->addRow(tr("Turn, clockwise"), turn_);
    form->addRow(tr("Scale"), scale_);
    auto* matrix = make_button(this, "placeMatrix", tr("Open a matrix…"),
                               tr("A file of sixteen numbers, by rows, in place of these numbers"));
    form->addRow(matrix);
    for (QDoubleSpinBox* box : {turn_, scale_})
        connect(box, &QDoubleSpinBox::valueChanged, this, [this] {
            matrix_.reset();
            say();
        });
    connect(matrix, &QPushButton::clicked, this, &PlaceCard::choose_matrix);
    return page;
}

QWidget* PlaceCard::pairs_page() {
    auto* page = new QWidget(this);
    auto* rows = new QVBoxLayout(page);
    rows->setContentsMargins(0, 0, 0, 0);
    list_ = new QTreeWidget(this);
    list_->setObjectName(QStringLiteral("placePairs"));
    list_->setAccessibleName(tr("Pairs of places; the tick says whether one is used"));
    list_->setHeaderLabels({tr("Pair"), tr("Off by")});
    list_->setRootIsDecorated(false);
    list_->header()->setStretchLastSection(false);
    list_->header()->setSectionResizeMode(0, QHeaderView::Stretch);
    list_->header()->setSectionResizeMode(1, QHeaderView::ResizeToContents);
    list_->setFixedHeight(150);
    rows->addWidget(list_);
    auto* buttons = new QHBoxLayout;
    auto* add = make_button(this, "placeAdd", tr("Add a pair"),
                            tr("Click where a place is, then where it should be"));
    auto* open = make_button(this, "placeOpen", tr("Table…"),
                             tr("Lines of name, E, N, H where it is, E, N, H where it should be"));
    drop_ = make_button(this, "placeDrop", tr("Drop"), tr("Takes the pair in hand off the list"));
    for (QPushButton* b : {add, open, drop_}) buttons->addWidget(b);
    rows->addLayout(buttons);
    parameters_ = make_choice(this, "placeParameters", tr("What the placement may do"));
    parameters_->addItem(tr("Shift (3 parameters)"), static_cast<int>(Freedom::Shift));
    parameters_->addItem(tr("Shift, turn about the vertical (4)"), static_cast<int>(Freedom::Level));
    parameters_->addItem(tr("Shift and turn (6)"), static_cast<int>(Freedom::Rigid));
    parameters_->addItem(tr("Shift, turn and scale (7)"), static_cast<int>(Freedom::Similarity));
    parameters_->setCurrentIndex(2);
    rows->addWidget(parameters_);
    connect(add, &QPushButton::clicked, this, [this] {
        level_->stop_picking();
        half_.reset();
        emit pick_wanted(tr("Click where the place is now."));
    });
    connect(open, &QPushButton::clicked, this, [this] {
        const QString file =
            QFileDialog::getOpenFileName(this, tr("Pairs of places"), QSettings().value("folder").toString(),
                                         tr("Tables (*.csv *.txt *.xyz);;All files (*)"));
        if (!file.isEmpty()) read_pairs(file.toStdString());
    });
    connect(drop_, &QPushButton::clicked, this, &PlaceCard::drop_pair);
    connect(parameters_, &QComboBox::currentIndexChanged, this, &PlaceCard::solve);
    connect(list_, &QTreeWidget::itemChanged, this, &PlaceCard::ticked);
    return page;
}

QWidget* PlaceCard::surfaces_page() {
    auto* page = new QWidget(this);
    auto* form = new QFormLayout(page);
    form->setContentsMargins(0, 0, 0, 0);
    other_ = make_choice(this, "placeOther", tr("The item that stays"));
    form->addRow(tr("Fit to"), other_);
    fit_parameters_ = make_choice(this, "placeFitParameters", tr("What the placement may do"));
    fit_parameters_->addItem(tr("Shift (3 parameters)"), static_cast<int>(Freedom::Shift));
    fit_parameters_->addItem(tr("Shift, turn about the vertical (4)"), static_cast<int>(Freedom::Level));
    fit_parameters_->addItem(tr("Shift and turn (6)"), static_cast<int>(Freedom::Rigid));
    fit_parameters_->setCurrentIndex(2);
    form->addRow(fit_parameters_);
    reach_ = new LengthBox(0.5, 0.001, 1000, this);
    reach_->setObjectName(QStringLiteral("placeReach"));
    reach_->setAccessibleName(tr("How far apart the two may be now"));
    form->addRow(tr("Apart by at most"), reach_);
    inside_ = new QCheckBox(tr("Only inside closed lines"), this);
    inside_->setObjectName(QStringLiteral("placeInside"));
    inside_->setToolTip(tr("Inside those that are shown nothing has changed between the two"));
    form->addRow(inside_);
    fit_button_ = make_button(this, "placeFit", tr("Fit"), tr("Finds the placement; nothing is moved yet"));
    map_ = make_button(this, "placeResiduals", tr("Residual map"),
                       tr("A new item: how far each place lies from the other item after the fit"));
    auto* buttons = new QHBoxLayout;
    buttons->addWidget(fit_button_);
    buttons->addWidget(map_);
    form->addRow(buttons);
    connect(fit_button_, &QPushButton::clicked, this, &PlaceCard::fit);
    connect(map_, &QPushButton::clicked, this, &PlaceCard::map_residuals);
    for (QComboBox* box : {other_, fit_parameters_})
        connect(box, &QComboBox::activated, this, [this] {
            fitted_.reset();
            say();
        });
    return page;
}

void PlaceCard::on_open() {
    pages_->setCurrentIndex(way_->currentIndex());
    refresh();
    emit guides_changed();
}

void PlaceCard::on_close() {
    latest_.drop();
    emit guides_changed();
}

// Of another item nothing of this holds.
void PlaceCard::refresh() {
    if (!is_open()) return;
    const site::SitePtr s = document_->site();
    if (s->active != item_) {
        item_ = s->active;
        fitted_.reset();
        matrix_.reset();
        latest_.drop();
        level_->forget();
    }
    level_->refresh();
    for (LengthBox* box : {e_, n_, h_, reach_}) box->set_lengths(Lengths(*s));
    fill_others();
    solve();
}

void PlaceCard::fill_others() {
    const QVariant before = other_->currentData();
    other_->clear();
    for (const site::ItemPtr& i : document_->site()->items)
        if (i->id != document_->site()->active && !i->cloud->triangles())
            other_->addItem(QString::fromStdString(i->name), quint64{i->id});
    if (const int at = other_->findData(before); at >= 0) other_->setCurrentIndex(at);
    fit_button_->setEnabled(other_->count() > 0);
}

void PlaceCard::fill_pairs() {
    filling_ = true;
    const int in_hand = list_->indexOfTopLevelItem(list_->currentItem());
    const Lengths l(*document_->site());
    list_->clear();
    for (std::size_t k = 0; k < pairs_.size(); ++k) {
        auto* row = new QTreeWidgetItem(list_, {QString::fromStdString(pairs_[k].name)});
        row->setCheckState(0, pairs_[k].used ? Qt::Checked : Qt::Unchecked);
        if (!solved_) continue;
        const place::Residual& r = solved_->residuals[k];
        row->setText(1, r.outlier ? tr("%1, outlier").arg(l.text(r.size, 1)) : l.text(r.size, 1));
        row->setToolTip(
            1, tr("E %1, N %2, H %3").arg(l.text(r.off.x, 1), l.text(r.off.y, 1), l.text(r.off.z, 1)));
        if (r.outlier) row->setForeground(1, QColor(0xB0, 0x3A, 0x2E));
    }
    if (in_hand >= 0)
        list_->setCurrentItem(list_->topLevelItem(std::min(in_hand, list_->topLevelItemCount() - 1)));
    drop_->setEnabled(!pairs_.empty());
    filling_ = false;
}

void PlaceCard::read_pairs(const std::filesystem::path& file) {
    try {
        pairs_ = io::read_pairs(file);
    } catch (const Error& e) {
        return emit said(QString::fromStdString(e.what()));
    }
    solve();
    emit said(tr("%n pair(s) of %1", "", static_cast<int>(pairs_.size()))
                  .arg(QString::fromStdString(file.filename().string())));
}

void PlaceCard::picked(const Vec3& place) {
    if (level_->picking()) return level_->picked(place);
    if (!half_) {
        half_ = place;
        return emit pick_wanted(tr("Click where it should be."));
    }
    pairs_.push_back({tr("Pair %1").arg(pairs_.size() + 1).toStdString(), *half_, place});
    half_.reset();
    solve();
}

void PlaceCard::drop_pair() {
    const int k = list_->indexOfTopLevelItem(list_->currentItem());
    if (k < 0) return emit said(tr("Click a pair in the list first."));
    pairs_.erase(pairs_.begin() + k);
    solve();
}

void PlaceCard::ticked(QTreeWidgetItem* row, int column) {
    if (filling_ || column != 0) return;
    pairs_[static_cast<std::size_t>(list_->indexOfTopLevelItem(row))].used =
        row->checkState(0) == Qt::Checked;
    solve();
}

void PlaceCard::solve() {
    solved_.reset();
    problem_.clear();
    try {
        if (!pairs_.empty())
            solved_ = place::by_pairs(pairs_, static_cast<Freedom>(parameters_->currentData().toInt()));
    } catch (const Error& e) {
        problem_ = QString::fromStdString(e.what());
    }
    fill_pairs();
    emit guides_changed();
    say();
}

std::vector<std::vector<Vec3>> PlaceCard::guides() const {
    std::vector<std::vector<Vec3>> out;
    if (is_open() && way_->currentIndex() == kLevel) return level_->guides();
    if (!is_open() || way_->currentIndex() != kPairs) return out;
    for (const place::Pair& p : pairs_) out.push_back({p.is, p.should});
    return out;
}

void PlaceCard::choose_matrix() {
    const QString file = QFileDialog::getOpenFileName(
        this, tr("Matrix"), QSettings().value("folder").toString(), tr("Text (*.txt *.csv);;All files (*)"));
    if (file.isEmpty()) return;
    try {
        matrix_ = io::read_matrix(file.toStdString());
    } catch (const Error& e) {
        emit said(QString::fromStdString(e.what()));
    }
    say();
}

void PlaceCard::fit() {
    const site::SitePtr s = document_->site();
    const site::ItemPtr item = s->active_item(), other = s->item(other_->currentData().toULongLong());
    if (!item || !other) return;
    std::vector<Polygon> rings;
    if (inside_->isChecked()) {
        for (const site::LinePtr& l : s->lines) {
            if (!l->visible || !l->closed) continue;
            rings.emplace_back();
            for (const Vec3& p : l->points) rings.back().push_back({p.x, p.y});
        }
        if (rings.empty()) return state_->setText(tr("No closed line is shown."));
    }
    place::FitOptions options;
    options.freedom = static_cast<Freedom>(fit_parameters_->currentData().toInt());
    options.reach = reach_->in_data();
    fitted_.reset();
    state_->setText(tr("Fitting…"));
    struct Result {
        place::Fit fit;
        std::shared_ptr<const ElementSet> where;
    };
    latest_.start<Result>(
        tr("Fitting %1").arg(QString::fromStdString(item->name)),
        [=](Progress& p, Result& result) {
            ElementSet stable = ~*other->absent;
            if (!rings.empty()) stable = select::plan_fence(*other->cloud, rings, stable, p);
            result.fit = place::fit(*item->cloud, ~*item->absent, *other->cloud, stable, options, p);
            result.where = std::make_shared<const ElementSet>(std::move(stable));
        },
        [this, options, id = other->id](Result& result) {
            fitted_ = result.fit;
            fitted_where_ = result.where;
            fitted_to_ = id;
            fitted_with_ = options;
            say();
        },
        [this](const QString& why) { state_->setText(why.isEmpty() ? tr("Cancelled.") : why); });
}

// Of both items as they are: what was fitted shows itself where it does not fit.
void PlaceCard::map_residuals() {
    const site::SitePtr s = document_->site();
    const site::ItemPtr item = s->active_item(), other = s->item(fitted_to_);
    if (!item || !other || !fitted_) return;
    if (fitted_where_->size() != other->cloud->size())
        return emit said(tr("%1 has changed: fit again.").arg(QString::fromStdString(other->name)));
    const auto made = std::make_shared<std::shared_ptr<const cloud::PointCloud>>();
    jobs_->start(
        tr("Mapping the residuals"),
        [=, fit = *fitted_, where = fitted_where_, options = fitted_with_](Progress& p) {
            *made = place::residual_map(*item->cloud, ~*item->absent, *other->cloud, *where, fit, options, p);
        },
        [this, made, item, other] {
            const std::string name =
                tr("%1 to %2, residuals")
                    .arg(QString::fromStdString(item->name), QString::fromStdString(other->name))
                    .toStdString();
            document_->apply(tr("Map the residuals"), [&](const site::Site& now) {
                site::SitePtr next = std::make_shared<const site::Site>(now);
                for (const std::uint64_t id : {item->id, other->id})
                    next = site::set_visible(*next, id, false);
                next = site::add_cloud(*next, *made, name, "measured");
                site::Style style = next->items.back()->style;
                style.colour_by = site::ColourBy::Column;
                style.column = place::kResidualColumn;
                style.point_size = 3;
                next = site::set_style(*next, next->items.back()->id, style);
                return site::activate(*next, item->id);
            });
            emit said(
                tr("%1 is listed; take it in work to see its scale.").arg(QString::fromStdString(name)));
        },
        [this](const QString& why) { emit said(why); });
}

std::optional<Similarity> PlaceCard::placement() const {
    const site::ItemPtr item = document_->site()->active_item();
    if (!item) return std::nullopt;
    switch (way_->currentIndex()) {
        case kPairs:
            return solved_ ? std::optional(solved_->placement) : std::nullopt;
        case kLevel:
            return level_->placement();
        case kSurfaces:
            return fitted_ ? std::optional(fitted_->placement) : std::nullopt;
        default:
            break;
    }
    if (matrix_) return matrix_;
    const Vec3 shift{e_->in_data(), n_->in_data(), h_->in_data()};
    if (norm(shift) == 0 && turn_->value() == 0 && scale_->value() == 1) return std::nullopt;
    const Box3 box = item->cloud->robust_bounds();
    return Similarity::about(box.empty() ? Vec3{} : box.centre(), {0, 0, 1}, -turn_->value(), scale_->value(),
                             shift);
}

void PlaceCard::say() {
    if (!is_open()) return;
    const site::ItemPtr item = document_->site()->active_item();
    const Lengths l(*document_->site());
    place_->setEnabled(item && placement());
    map_->setEnabled(item && fitted_);
    if (!item) return state_->setText(tr("Open a scan first."));
    QString move;
    if (const auto by = placement()) {
        const Box3 box = item->cloud->robust_bounds();
        const Vec3 d = box.empty() ? Vec3{} : (*by)(box.centre()) - box.centre();
        move = tr("Moves the middle by E %1, N %2, H %3, turns by %4°.\n")
                   .arg(l.text(d.x, 1), l.text(d.y, 1), l.text(d.z, 1))
                   .arg(by->turn_deg(), 0, 'f', 4);
    }
    const int way = way_->currentIndex();
    if (way == kLevel)
        return state_->setText(move +
                               (level_->told().isEmpty()
                                    ? tr("Say what should be level, or click a distance that is known.")
                                    : level_->told() + QLatin1Char('.')));
    if (way == kPairs)
        return state_->setText(
            move +
            (!problem_.isEmpty() ? problem_
             : !solved_          ? tr("Add pairs by two clicks each, or open a table of them.")
             : std::isfinite(solved_->sigma)
                 ? tr("rms %1, at most %2; a coordinate to ± %3.")
                       .arg(l.spread(solved_->rms), l.spread(solved_->worst), l.spread(solved_->sigma))
                 : tr("These pairs are met exactly: nothing is left over that tells how good they are.")));
    if (way == kSurfaces) {
        if (other_->count() == 0) return state_->setText(tr("Open the cloud that it is to be fitted to."));
        if (!fitted_) return state_->setText(tr("Surfaces that both have bring this item onto the other."));
        QString text = tr("rms %1; overlap %2 %, of it stable %3 %. Shift to ± %4, turn to ± %5°.")
                           .arg(l.spread(fitted_->rms))
                           .arg(100 * fitted_->overlap, 0, 'f', 0)
                           .arg(100 * fitted_->stable, 0, 'f', 0)
                           .arg(l.spread(fitted_->sigma_shift))
                           .arg(fitted_->sigma_turn_deg, 0, 'g', 2);
        for (const std::string& open : fitted_->open)
            text += "\n" + tr("Not determined, so left as it was: %1.").arg(QString::fromStdString(open));
        if (!fitted_->settled) text += "\n" + tr("The fit did not come to rest: look at the result.");
        return state_->setText(move + text);
    }
    state_->setText(move + (matrix_
                                ? tr("By the matrix of the file, scale %1.").arg(matrix_->scale, 0, 'g', 9)
                                : tr("Turn and scale leave the middle of the item in place.")));
}

// What the placement rests on, for whoever reads a figure of the item later.
QString PlaceCard::told() const {
    const Lengths l(*document_->site());
    switch (way_->currentIndex()) {
        case kLevel:
            return level_->told();
        case kPairs: {
            int used = 0;
            for (const place::Pair& p : pairs_) used += p.used;
            QString text = tr("by %n pair(s) of places", "", used);
            if (solved_ && std::isfinite(solved_->sigma)) text += tr(", rms %1").arg(l.spread(solved_->rms));
            return text;
        }
        case kSurfaces:
            return fitted_ ? tr("fitted to %1, rms %2").arg(other_->currentText(), l.spread(fitted_->rms))
                           : QString();
        default:
            return matrix_ ? tr("by a matrix of a file") : tr("by numbers");
    }
}

void PlaceCard::place() {
    const auto by = placement();
    const site::ItemPtr item = document_->site()->active_item();
    if (!by || !item) return;
    const auto made = std::make_shared<std::shared_ptr<const cloud::PointCloud>>();
    const site::ItemPtr other = way_->currentIndex() == kSurfaces
                                    ? document_->site()->item(other_->currentData().toULongLong())
                                    : nullptr;
    const cloud::Reference reference = (other ? other : item)->cloud->reference();
    jobs_->start(
        tr("Placing %1").arg(QString::fromStdString(item->name)),
        [=](Progress& p) { *made = io::placed(item->cloud, *by, reference, p); },
        [this, made, item, by, how = told().toStdString()] {
            const std::string name = tr("%1 placed").arg(QString::fromStdString(item->name)).toStdString();
            document_->apply(tr("Place %1").arg(QString::fromStdString(item->name)), [&](const site::Site&
                                                                                             s) {
                const site::SitePtr next = site::add_converted(s, item->id, *made, name, "placed");
                // What moved it before counts too.
                Similarity whole = *by;
                if (item->placement.size() == 16) {
                    std::array<double, 16> before{};
                    std::copy(item->placement.begin(), item->placement.end(), before.begin());
                    whole = by->after(Similarity::of_matrix(before));
                }
                const auto rows = whole.matrix();
                return site::set_placement(*next, next->items.back()->id, {rows.begin(), rows.end()}, how);
            });
            pairs_.clear();
            level_->forget();
            solve();
            emit said(tr("%1 stands in its new place; the one before is hidden.")
                          .arg(QString::fromStdString(item->name)));
        });
}

}  // namespace pristine::app
