#include "app/panes/cross_sections_pane.h"

#include <QBuffer>
#include <QComboBox>
#include <QDoubleSpinBox>
#include <QFileDialog>
#include <QHBoxLayout>
#include <QHeaderView>
#include <QLabel>
#include <QPushButton>
#include <QScrollArea>
#include <QSettings>
#include <QSignalBlocker>
#include <QSplitter>
#include <QTreeWidget>
#include <QVBoxLayout>
#include <algorithm>

#include "app/look/make.h"
#include "app/look/rich_label.h"
#include "app/model/document.h"
#include "app/model/jobs.h"
#include "app/panes/cross_section_sheet.h"
#include "core/base/error.h"
#include "core/base/output.h"
#include "core/io/ending.h"
#include "core/io/mesh/mesh_cloud.h"
#include "core/io/section_files.h"
#include "core/measure/figures.h"

namespace pristine::app {

CrossSectionsPane::CrossSectionsPane(Document* document, Jobs* jobs, QWidget* parent)
    : QWidget(parent), document_(document), latest_(jobs) {
    setObjectName(QStringLiteral("crossPane"));
    setAttribute(Qt::WA_StyledBackground);
    auto* layout = new QVBoxLayout(this);
    layout->setContentsMargins(8, 4, 8, 4);
    layout->addLayout(build_head());
    auto* split = new QSplitter(Qt::Horizontal, this);
    auto* left = new QWidget(this);
    auto* column = new QVBoxLayout(left);
    column->setContentsMargins(0, 0, 0, 0);
    list_ = new QTreeWidget(this);
    list_->setObjectName(QStringLiteral("crossList"));
    list_->setAccessibleName(tr("A row for each section; click to see it in the drawing and in the stage"));
    list_->setHeaderLabels({tr("At"), tr("Cut"), tr("Fill")});
    list_->setRootIsDecorated(false);
    list_->setUniformRowHeights(true);
    list_->header()->setSectionResizeMode(QHeaderView::ResizeToContents);
    column->addWidget(list_, 1);
    column->addWidget(volumes_ = make_sentence(this, "crossVolumes"));
    volumes_->setTextInteractionFlags(Qt::TextSelectableByMouse);
    sheet_ = new CrossSectionSheet(this);
    scroll_ = new QScrollArea(this);
    scroll_->setWidgetResizable(true);
    scroll_->setWidget(sheet_);
    split->addWidget(left);
    split->addWidget(scroll_);
    split->setSizes({360, 640});
    layout->addWidget(split, 1);
    setMinimumHeight(220);
    hide();
    connect(list_, &QTreeWidget::currentItemChanged, this, [this](QTreeWidgetItem* row) {
        if (row) choose(static_cast<std::size_t>(list_->indexOfTopLevelItem(row)));
    });
    connect(sheet_, &CrossSectionSheet::chosen, this,
            [this](std::size_t k) { list_->setCurrentItem(list_->topLevelItem(static_cast<int>(k))); });
    connect(sheet_, &CrossSectionSheet::pointed, state_, &QLabel::setText);
}

QBoxLayout* CrossSectionsPane::build_head() {
    auto* head = new QHBoxLayout;
    head->addWidget(new QLabel(tr("Sections across"), this));
    head->addWidget(line_ = make_choice(this, "crossLine", tr("The line that sections are cut across")));
    line_->setSizeAdjustPolicy(QComboBox::AdjustToMinimumContentsLengthWithIcon);
    line_->setMinimumContentsLength(10);
    const auto length = [&](const char* name, double value, const QString& title, const QString& help) {
        auto* box = new LengthBox(value, 0.001, 100'000, this);
        box->setObjectName(QString::fromLatin1(name));
        box->setAccessibleName(help);
        box->setToolTip(help);
        box->setKeyboardTracking(false);
        head->addWidget(new QLabel(title, this));
        head->addWidget(box);
        connect(box, &QDoubleSpinBox::valueChanged, this, &CrossSectionsPane::compute);
        return box;
    };
    every_ = length("crossEvery", 10, tr("every"), tr("From one section to the next, along the line"));
    width_ = length("crossWidth", 40, tr("wide"), tr("From the left to the right end of a section"));
    exaggeration_ = new QDoubleSpinBox(this);
    exaggeration_->setObjectName(QStringLiteral("crossExaggeration"));
    exaggeration_->setAccessibleName(tr("How much larger heights are drawn than widths"));
    exaggeration_->setToolTip(exaggeration_->accessibleName());
    exaggeration_->setRange(0.1, 100);
    exaggeration_->setValue(1);
    exaggeration_->setDecimals(1);
    exaggeration_->setPrefix(QStringLiteral("× "));
    head->addWidget(new QLabel(tr("heights"), this));
    head->addWidget(exaggeration_);
    state_ = new QLabel(this);
    state_->setObjectName(QStringLiteral("crossState"));
    state_->setMinimumWidth(1);
    head->addWidget(state_, 1);
    head->addWidget(save_ = make_button(this, "crossSave", tr("Save…"),
                                        tr("As a table (csv), a drawing to scale (dxf) or a picture (png)")));
    auto* close = make_button(this, "crossClose", tr("Close"));
    head->addWidget(close);
    connect(line_, &QComboBox::activated, this, &CrossSectionsPane::compute);
    connect(exaggeration_, &QDoubleSpinBox::valueChanged, this,
            [this](double v) { sheet_->set_exaggeration(v); });
    connect(save_, &QPushButton::clicked, this, &CrossSectionsPane::choose_file);
    connect(close, &QPushButton::clicked, this, &CrossSectionsPane::close_pane);
    return head;
}

bool CrossSectionsPane::Of::operator==(const Of& o) const {
    const auto same = [](const site::ItemPtr& a, const site::ItemPtr& b) {
        return a->id == b->id && a->cloud == b->cloud && *a->absent == *b->absent && a->name == b->name;
    };
    return line == o.line && every == o.every && width == o.width &&
           std::equal(surfaces.begin(), surfaces.end(), o.surfaces.begin(), o.surfaces.end(), same);
}

void CrossSectionsPane::open() {
    show();
    of_ = {};
    refresh();
}

void CrossSectionsPane::close_pane() {
    latest_.drop();
    hide();
    emit closed();
}

void CrossSectionsPane::refresh() {
    if (!is_open()) return;
    {
        const QSignalBlocker a(every_), b(width_);
        for (LengthBox* box : {every_, width_}) box->set_lengths(Lengths(*document_->site()));
    }
    fill_lines();
    if (document_->site()->unit != unit_) {
        unit_ = document_->site()->unit;
        of_ = {};
    }
    compute();
}

void CrossSectionsPane::fill_lines() {
    const quint64 before = line_->currentData().toULongLong();
    line_->clear();
    int axis = -1;
    for (const site::LinePtr& l : document_->site()->lines) {
        if (!l->visible || l->role == LineRole::Contour) continue;
        if (l->role == LineRole::Axis) axis = line_->count();
        line_->addItem(QString::fromStdString(l->name), static_cast<quint64>(l->id));
    }
    // An axis, else the line drawn last, is most likely meant.
    const int at = line_->findData(before);
    line_->setCurrentIndex(at >= 0 ? at : axis >= 0 ? axis : line_->count() - 1);
}

CrossSectionsPane::Of CrossSectionsPane::wanted() const {
    const site::SitePtr s = document_->site();
    Of of{s->line(line_->currentData().toULongLong()), {}, every_->in_data(), width_->in_data()};
    for (const site::ItemPtr& i : s->items)
        if (i->visible && i->role == site::ItemRole::Terrain) of.surfaces.push_back(i);
    std::stable_sort(of.surfaces.begin(), of.surfaces.end(), [&](const auto& a, const auto& b) {
        return site::date_of(*s, *a) < site::date_of(*s, *b);
    });
    return of;
}

void CrossSectionsPane::compute() {
    if (!is_open()) return;
    Of of = wanted();
    if (of == of_) return;
    of_ = std::move(of);
    latest_.drop();
    measure::Sections none;
    take(none);
    if (!of_.line || of_.surfaces.empty())
        return state_->setText(of_.line ? tr("No surface is shown.")
                                        : tr("Draw a line along the middle of the work first."));
    state_->setText(tr("Cutting…"));
    latest_.start<measure::Sections>(
        tr("Cutting sections"),
        [of = of_](Progress& p, measure::Sections& made) {
            std::vector<mesh::TriMesh> meshes;
            for (const site::ItemPtr& i : of.surfaces) {
                measure::require_lengths(i->cloud->reference());
                meshes.push_back(io::mesh_of(*i->cloud, ~*i->absent));
            }
            std::vector<const mesh::TriMesh*> all;
            for (const mesh::TriMesh& m : meshes) all.push_back(&m);
            std::vector<Vec3> axis = of.line->points;
            if (of.line->closed) axis.push_back(axis.front());
            made = measure::sections(all, axis, {of.every, of.width / 2}, p);
        },
        [this](measure::Sections& made) {
            take(made);
            state_->setText({});
        },
        [this](const QString& why) { state_->setText(why.isEmpty() ? tr("Cancelled.") : why); },
        Jobs::Show::IfLong);
}

// Volumes by three ways beside each other; the exact one, or why there is none.
static QString volumes_text(const measure::SectionVolumes& v, const Lengths& l) {
    const QString line = QStringLiteral(
        "<tr><td>%1&nbsp;&nbsp;</td><td align=right>%2&nbsp;&nbsp;</td><td align=right>%3</td></tr>");
    QString text =
        "<table style='white-space: nowrap'>" +
        line.arg(QString(), CrossSectionsPane::tr("Cut"), CrossSectionsPane::tr("Fill")) +
        line.arg(CrossSectionsPane::tr("by end areas"), l.volume(v.cut_ends), l.volume(v.fill_ends)) +
        line.arg(CrossSectionsPane::tr("by prisms"), l.volume(v.cut_prisms), l.volume(v.fill_prisms));
    if (v.cut_exact)
        text += line.arg(CrossSectionsPane::tr("by the triangles"), l.volume(*v.cut_exact),
                         l.volume(*v.fill_exact));
    text += "</table>";
    if (!v.why_not_exact.empty()) text += QString::fromStdString(v.why_not_exact) + '.';
    return text;
}

void CrossSectionsPane::take(measure::Sections& made) {
    sections_ = std::move(made);
    const Lengths l(*document_->site());
    std::vector<std::string> names;
    for (const site::ItemPtr& i : of_.surfaces) names.push_back(i->name);
    const bool two = of_.surfaces.size() > 1;
    {
        const QSignalBlocker quiet(list_);
        list_->clear();
        for (const measure::CrossSection& s : sections_.all) {
            auto* row = new QTreeWidgetItem(
                list_, {l.number(s.chainage) + l.suffix(), two ? l.plain_area(s.cut) : QString(),
                        two ? l.plain_area(s.fill) : QString()});
            for (int c = 0; c < 3; ++c) row->setTextAlignment(c, Qt::AlignRight | Qt::AlignVCenter);
        }
    }
    list_->setColumnHidden(1, !two);
    list_->setColumnHidden(2, !two);
    set_rich(volumes_, two && !sections_.all.empty() ? volumes_text(sections_.volumes, l) : QString());
    save_->setEnabled(!sections_.all.empty());
    sheet_->show_sections(sections_, names, l);
}

void CrossSectionsPane::choose(std::size_t section) {
    if (section >= sections_.all.size()) return;
    sheet_->set_highlighted(section);
    const QRect at = sheet_->place_of(section);
    scroll_->ensureVisible(0, at.center().y(), 0, at.height() / 2 + 4);
    const measure::CrossSection& s = sections_.all[section];
    Box3 box;
    for (Vec3 p : {s.left, s.right}) {
        p.z = s.at.z;
        box.add(p);
    }
    emit fly(box);
}

void CrossSectionsPane::save(const std::filesystem::path& file) {
    if (sections_.all.empty()) throw Error(ErrorCode::Usage, "There are no sections yet");
    const cloud::Reference reference = of_.surfaces.front()->cloud->reference();
    const std::string ending = io::ending_of(file);
    if (ending == ".png") {
        QByteArray bytes;
        QBuffer buffer(&bytes);
        sheet_->picture().save(&buffer, "PNG");
        OutputFile out(file, true);
        out.write(bytes.toStdString());
        return out.finish();
    }
    if (ending == ".dxf") {
        std::vector<std::string> names;
        for (const site::ItemPtr& i : of_.surfaces) names.push_back(i->name);
        return io::write_section_drawing(sections_, names, {exaggeration_->value(), 0}, file, true,
                                         reference);
    }
    OutputFile out(file, true);
    out.write(io::section_table(sections_, reference));
    out.finish();
}

void CrossSectionsPane::choose_file() {
    QString file =
        QFileDialog::getSaveFileName(this, tr("Save the sections"), QSettings().value("folder").toString(),
                                     tr("Tables (*.csv);;Drawings (*.dxf);;Pictures (*.png)"));
    if (file.isEmpty()) return;
    if (io::ending_of(file.toStdString()).empty()) file += QStringLiteral(".csv");
    try {
        save(file.toStdString());
        state_->setText(tr("Saved %1").arg(file));
    } catch (const Error& e) {
        state_->setText(QString::fromStdString(e.what()));
    }
}

}  // namespace pristine::app
