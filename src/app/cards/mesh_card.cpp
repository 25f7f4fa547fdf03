#include "app/cards/mesh_card.h"

#include <QCheckBox>
#include <QComboBox>
#include <QDoubleSpinBox>
#include <QFormLayout>
#include <QHeaderView>
#include <QLabel>
#include <QPushButton>
#include <QSpinBox>
#include <QTreeWidget>
#include <QVBoxLayout>
#include <algorithm>
#include <cmath>

#include "app/look/theme.h"
#include "app/model/document.h"
#include "app/model/jobs.h"
#include "app/model/mending.h"
#include "core/cloud/triangles.h"
#include "core/io/mesh/mesh_cloud.h"
#include "core/repair/crossings.h"
#include "core/repair/deviation.h"
#include "core/repair/guard.h"
#include "core/repair/one.h"
#include "core/repair/patch.h"
#include "core/repair/reduce.h"
#include "core/repair/wrap.h"
#include "render/scene.h"

namespace pristine::app {

using repair::Fault;

struct MeshCard::Made {
    mesh::TriMesh mesh;
    QString told;
    std::vector<double> off{};             ///< of each triangle from the original, to colour by; empty: none
    std::uint64_t removed = 0, added = 0;  ///< told as %1 and %2, where no ledger counts them
    std::vector<repair::Unrepaired> left{};
    bool heals = false;
    site::Settings found{};  ///< what the cause of the entry tells
};

namespace {

QString title_of(Fault f) {
    switch (f) {
        case Fault::NonManifoldEdge:
            return MeshCard::tr("Edges of more than two");
        case Fault::NonManifoldVertex:
            return MeshCard::tr("Corners of two fans");
        case Fault::InconsistentEdge:
            return MeshCard::tr("Facing opposite ways");
        case Fault::SelfCrossing:
            return MeshCard::tr("Crossings");
        case Fault::Degenerate:
            return MeshCard::tr("Without area");
        case Fault::TinyEdge:
            return MeshCard::tr("Tiny edges");
        case Fault::Spike:
            return MeshCard::tr("Spikes");
        case Fault::DuplicateFace:
            return MeshCard::tr("Doubled triangles");
        case Fault::SmallPiece:
            return MeshCard::tr("Small pieces");
        case Fault::Hole:
            return MeshCard::tr("Holes");
        case Fault::InnerShell:
            return MeshCard::tr("Shells inside");
    }
    return {};
}

bool is_mesh(const site::ItemPtr& item) {
    return item && item->cloud->triangles();
}

QPushButton* button(QWidget* parent, const char* name, const QString& text, const QString& help) {
    auto* b = new QPushButton(text, parent);
    b->setObjectName(QString::fromLatin1(name));
    b->setToolTip(help);
    return b;
}

}  // namespace

MeshCard::MeshCard(Document* document, Jobs* jobs, QWidget* parent)
    : SideCard(QStringLiteral("mesh"), tr("Check and repair"), QStringLiteral("mesh.md"), parent),
      document_(document),
      jobs_(jobs),
      latest_(jobs) {
    state_ = new QLabel(this);
    state_->setObjectName(QStringLiteral("meshState"));
    state_->setWordWrap(true);
    body()->addWidget(state_);
    add_tour();
    add_repairs();
    add_figures();
    body()->addStretch(1);
}

void MeshCard::add_tour() {
    kinds_ = new QTreeWidget(this);
    kinds_->setObjectName(QStringLiteral("meshKinds"));
    kinds_->setAccessibleName(tr("What was found, by kind; tick what is to be repaired"));
    kinds_->setHeaderLabels({tr("Found"), tr("Count")});
    kinds_->setRootIsDecorated(false);
    kinds_->header()->setStretchLastSection(false);
    kinds_->header()->setSectionResizeMode(0, QHeaderView::Stretch);
    kinds_->header()->setSectionResizeMode(1, QHeaderView::ResizeToContents);
    kinds_->setFixedHeight(288);
    body()->addWidget(kinds_);
    auto* tour = new QHBoxLayout;
    previous_ = button(this, "meshPrevious", tr("Back"), tr("Flies to the finding before"));
    next_ = button(this, "meshNext", tr("Next"),
                   tr("Flies to the next finding of this kind and selects its triangles"));
    place_ = new QLabel(this);
    place_->setObjectName(QStringLiteral("meshPlace"));
    place_->setAlignment(Qt::AlignCenter);
    tour->addWidget(previous_);
    tour->addWidget(place_, 1);
    tour->addWidget(next_);
    body()->addLayout(tour);
    why_ = new QLabel(this);
    why_->setObjectName(QStringLiteral("meshWhy"));
    why_->setWordWrap(true);
    why_->hide();
    body()->addWidget(why_);
    connect(previous_, &QPushButton::clicked, this, [this] { go(-1); });
    connect(next_, &QPushButton::clicked, this, [this] { go(1); });
    connect(kinds_, &QTreeWidget::currentItemChanged, this, [this] {
        at_ = -1;
        place_->clear();
        why_->hide();
    });
}

void MeshCard::add_repairs() {
    auto* row = new QHBoxLayout;
    one_ = button(this, "meshRepairOne", tr("This one"), tr("Repairs the finding in hand, and nothing else"));
    kind_ = button(this, "meshRepairKinds", tr("Ticked"),
                   tr("Repairs every finding of the kinds that are ticked"));
    all_ = button(this, "meshRepairAll", tr("All"),
                  tr("Repairs everything that was found, and fills every hole"));
    auto* title = new QLabel(tr("Repair"), this);
    row->addWidget(title);
    for (QPushButton* b : {one_, kind_, all_}) row->addWidget(b);
    body()->addLayout(row);
    try_ =
        button(this, "meshPreview", tr("What would go?"),
               tr("Tries the repair of what is ticked: how much it would take and make, and in the stage the "
                  "triangles that would go. Nothing is changed"));
    body()->addWidget(try_);
    connect(try_, &QPushButton::clicked, this, &MeshCard::preview_repair);
    auto* form = new QFormLayout;
    fill_ = new QComboBox(this);
    fill_->setObjectName(QStringLiteral("meshFill"));
    fill_->addItems({tr("flat"), tr("tangent"), tr("by curvature")});
    fill_->setCurrentIndex(2);
    fill_->setToolTip(
        tr("How holes are filled: as a film would; going on as the surroundings run up to the rim; bending "
           "on as "
           "they bend"));
    form->addRow(tr("Fill holes"), fill_);
    largest_ = new QSpinBox(this);
    largest_->setObjectName(QStringLiteral("meshLargestHole"));
    largest_->setRange(0, 10'000'000);
    largest_->setSpecialValueText(tr("no limit"));
    largest_->setSuffix(tr(" edges"));
    largest_->setToolTip(tr("Holes with more edges than this stay open"));
    form->addRow(tr("Largest hole"), largest_);
    outer_ = new QCheckBox(tr("edge of an open scan too"), this);
    outer_->setObjectName(QStringLiteral("meshOuter"));
    outer_->setToolTip(tr("The edge of an open scan is no hole; it is closed only when this is ticked"));
    form->addRow(QString(), outer_);
    beside_ = new QCheckBox(tr("beside this one"), this);
    beside_->setObjectName(QStringLiteral("meshBeside"));
    beside_->setToolTip(
        tr("Repairs leave the mesh as it is; what they make is put beside it, coloured by how far it lies "
           "from the original"));
    form->addRow(tr("Repaired"), beside_);
    shortest_ = new LengthBox(0, 0, 100, this);
    shortest_->setObjectName(QStringLiteral("meshShortest"));
    shortest_->setSpecialValueText(tr("0.01 of the usual"));
    shortest_->setKeyboardTracking(false);
    shortest_->setToolTip(tr("Edges shorter than this are tiny, and are closed up by the repair"));
    form->addRow(tr("Shortest edge"), shortest_);
    connect(shortest_, &QDoubleSpinBox::valueChanged, this, [this] {
        if (is_open()) check();
    });
    detail_ = new LengthBox(0.05, 1e-7, 1000, this);
    detail_->set_more_digits(5);
    detail_->setObjectName(QStringLiteral("meshDetail"));
    detail_->setToolTip(
        tr("Side of a cell of the wrap; smaller things are rounded off, openings up to twice as wide are "
           "closed"));
    gap_ = new LengthBox(0, 0, 100, this);
    gap_->setObjectName(QStringLiteral("meshGap"));
    gap_->setSpecialValueText(tr("twice the detail"));
    gap_->setToolTip(tr("Openings and hollows up to this wide are closed over by the wrap"));
    form->addRow(tr("Wrap closes"), gap_);
    wrap_ = button(this, "meshWrap", tr("Wrap"),
                   tr("A closed solid round the mesh, coloured by how far it lies from it"));
    auto* wrap_row = new QHBoxLayout;
    wrap_row->addWidget(detail_, 1);
    wrap_row->addWidget(wrap_);
    form->addRow(tr("Detail"), wrap_row);
    triangles_ = new QSpinBox(this);
    triangles_->setObjectName(QStringLiteral("meshTriangles"));
    triangles_->setRange(4, 100'000'000);
    triangles_->setSingleStep(1000);
    triangles_->setToolTip(
        tr("How many triangles are to be left, of the selection if there is one; rims stay"));
    reduce_ = button(this, "meshReduce", tr("Reduce"), tr("Closes up the edges that matter least"));
    auto* reduce_row = new QHBoxLayout;
    reduce_row->addWidget(triangles_, 1);
    reduce_row->addWidget(reduce_);
    form->addRow(tr("Triangles"), reduce_row);
    body()->addLayout(form);
    auto* last = new QHBoxLayout;
    lines_ = button(this, "meshLines", tr("As lines"),
                    tr("Keeps holes and crossings as line objects in the contents, which can be exported"));
    patch_ = button(this, "meshPatch", tr("Replace the selection"),
                    tr("Takes the selected triangles away and fills the hole, in one step"));
    last->addWidget(lines_);
    last->addWidget(patch_, 1);
    body()->addLayout(last);
    connect(patch_, &QPushButton::clicked, this, &MeshCard::replace_selection);
    connect(one_, &QPushButton::clicked, this, &MeshCard::repair_current);
    connect(kind_, &QPushButton::clicked, this, [this] {
        if (const auto kinds = ticked(); !kinds.empty())
            return repair_kinds(kinds, tr("Repair what is ticked"));
        emit said(tr("Tick a kind first."));
    });
    connect(all_, &QPushButton::clicked, this, [this] { repair_kinds({}, tr("Repair everything")); });
    connect(wrap_, &QPushButton::clicked, this, &MeshCard::wrap);
    connect(reduce_, &QPushButton::clicked, this, &MeshCard::reduce);
    connect(lines_, &QPushButton::clicked, this, &MeshCard::keep_lines);
}

void MeshCard::add_figures() {
    auto* row = new QHBoxLayout;
    row->addWidget(new QLabel(tr("Density"), this));
    density_ = new QDoubleSpinBox(this);
    density_->setObjectName(QStringLiteral("meshDensity"));
    density_->setRange(0, 100'000);
    density_->setDecimals(0);
    density_->setSuffix(tr(" kg/m³"));
    density_->setSpecialValueText(tr("not given"));
    density_->setToolTip(tr("Mass of a cubic metre"));
    row->addWidget(density_, 1);
    body()->addLayout(row);
    figures_ = new QLabel(this);
    figures_->setObjectName(QStringLiteral("meshFigures"));
    figures_->setWordWrap(true);
    figures_->setTextInteractionFlags(Qt::TextSelectableByMouse);
    body()->insertWidget(1, figures_);  // what all this is for, in sight on a small screen
    close_ =
        button(this, "meshFillHoles", tr("Fill every hole"),
               tr("Closes the rims that are marked, so that there is a volume; nothing else is repaired"));
    body()->insertWidget(2, close_);
    told_ = new QLabel(this);
    told_->setObjectName(QStringLiteral("meshTold"));
    told_->setWordWrap(true);
    told_->setTextInteractionFlags(Qt::TextSelectableByMouse);
    told_->hide();
    body()->insertWidget(3, told_);
    // The status line is short; what a repair says is not.
    connect(this, &MeshCard::said, told_, [this](const QString& text) {
        told_->setText(text);
        told_->show();
    });
    connect(close_, &QPushButton::clicked, this,
            [this] { repair_kinds({Fault::Hole}, tr("Fill every hole")); });
    connect(density_, &QDoubleSpinBox::valueChanged, this, &MeshCard::say_figures);
}

void MeshCard::on_open() {
    for (LengthBox* box : {detail_, gap_, shortest_}) box->set_lengths(Lengths(*document_->site()));
    cloud_ = nullptr;
    told_->hide();
    refresh();
}

void MeshCard::on_close() {
    latest_.drop();
    fresh_ = false;
    emit guides_changed();
}

std::vector<std::vector<Vec3>> MeshCard::guides() const {
    std::vector<std::vector<Vec3>> out;
    if (!is_open() || !fresh_) return out;
    if (left_of_ == cloud_)
        for (const repair::Unrepaired& u : left_)
            for (int a = 0; a < 3; ++a) {
                Vec3 d;
                d[a] = 0.01 * cloud_->bounds().diagonal();
                out.push_back({u.where - d, u.where + d});
            }
    if (check_->closed) return out;
    constexpr std::size_t kMost = 1000;  // more would hide the mesh
    std::vector<repair::Finding> rims = check_->of(Fault::Hole);
    rims.insert(rims.end(), check_->outer.begin(), check_->outer.end());
    for (std::size_t k = 0; k < std::min(kMost, rims.size()); ++k) {
        out.emplace_back();
        for (const std::uint32_t v : rims[k].vertices) out.back().push_back(mesh_->vertices[v]);
        if (!out.back().empty()) out.back().push_back(out.back().front());
    }
    return out;
}

void MeshCard::refresh() {
    if (!is_open()) return;
    const site::ItemPtr item = document_->site()->active_item();
    if (item && item->cloud == cloud_ && absent_ && (item->absent == absent_ || *item->absent == *absent_))
        return;
    check();
}

void MeshCard::check() {
    const site::ItemPtr item = document_->site()->active_item();
    fresh_ = false;
    latest_.drop();
    cloud_ = item ? item->cloud : nullptr;
    absent_ = item ? item->absent : nullptr;
    for (QPushButton* b : {previous_, next_, one_, kind_, all_, try_, lines_, wrap_, reduce_, patch_})
        b->setEnabled(false);
    close_->hide();
    told_->hide();
    emit guides_changed();
    if (!is_mesh(item)) {
        kinds_->clear();
        figures_->clear();
        return state_->setText(tr("Take a mesh in work: open PLY, OBJ, STL or OFF."));
    }
    state_->setText(tr("Checking what is shown…"));
    struct Checked {
        std::shared_ptr<mesh::TriMesh> mesh = std::make_shared<mesh::TriMesh>();
        std::shared_ptr<repair::Check> found = std::make_shared<repair::Check>();
    };
    latest_.start<Checked>(
        tr("Checking the mesh"),
        [=, shortest = shortest_->in_data()](Progress& p, Checked& r) {
            *r.mesh = io::mesh_of(*item->cloud, ~*item->absent);
            repair::CheckOptions options;
            options.tiny_edge = shortest;
            *r.found = repair::check(*r.mesh, options, p);
        },
        [this](Checked& r) {
            mesh_ = r.mesh;
            check_ = r.found;
            fresh_ = true;
            fill();
        },
        [this](const QString& why) { state_->setText(why.isEmpty() ? tr("Cancelled.") : why); },
        Jobs::Show::IfLong);
}

void MeshCard::fill() {
    const repair::Check& c = *check_;
    kinds_->clear();
    int first = -1;
    for (std::size_t k = 0; k < repair::kFaults; ++k) {
        const auto f = static_cast<Fault>(k);
        auto* row = new QTreeWidgetItem(kinds_, {title_of(f), grouped(c.count(f))});
        row->setTextAlignment(1, Qt::AlignRight | Qt::AlignVCenter);
        row->setData(0, Qt::UserRole, static_cast<int>(k));
        row->setCheckState(0, c.count(f) > 0 ? Qt::Checked : Qt::Unchecked);
        row->setDisabled(c.count(f) == 0);
        if (c.count(f) > 0 && first < 0) first = static_cast<int>(k);
    }
    if (first >= 0) kinds_->setCurrentItem(kinds_->topLevelItem(first));
    for (QPushButton* b : {previous_, next_, one_, kind_, all_, try_, lines_}) b->setEnabled(first >= 0);
    for (QPushButton* b : {wrap_, reduce_, patch_}) b->setEnabled(true);
    triangles_->setValue(static_cast<int>(mesh_->triangles.size() / 2));
    // A detail that fits this mesh, once for each; what somebody typed since stays.
    if (detail_of_ != cloud_) {
        detail_of_ = cloud_;
        const Lengths l(*document_->site());
        detail_->setValue(l.shown(repair::suggested_detail(*mesh_)));
    }
    QString pieces = tr("%n piece(s)", "", static_cast<int>(c.components));
    if (!c.outer.empty()) pieces += tr(", an open scan: its edge is no hole");
    state_->setText(c.sound()  ? tr("Sound: closed, no crossings. %1, genus %2.").arg(pieces).arg(c.genus)
                    : c.closed ? tr("Closed, but not sound. %1.").arg(pieces)
                               : tr("Not closed. %1.").arg(pieces));
    close_->setVisible(!c.closed && c.count(Fault::Hole) > 0);
    say_figures();
    emit guides_changed();
}

void MeshCard::say_figures() {
    if (!fresh_) return;
    const Lengths l(*document_->site());
    double area = 0;
    for (const auto& t : mesh_->triangles)
        area += 0.5 * norm(cross(mesh_->vertices[t[1]] - mesh_->vertices[t[0]],
                                 mesh_->vertices[t[2]] - mesh_->vertices[t[0]]));
    QString text = tr("Area %1.").arg(l.area(area));
    if (!check_->closed) {
        const auto rims = static_cast<int>(check_->count(Fault::Hole) + check_->outer.size());
        text +=
            " " + (rims > 0 ? tr("No volume: the mesh is open at %n rim(s), marked in the view.", "", rims)
                            : tr("No volume: edges of more than two triangles, or faces that disagree. "
                                 "Repair it, or wrap it."));
    } else {
        const double v = std::fabs(mesh::signed_volume(*mesh_));
        text += " " + tr("Volume <b>%1</b>.").arg(l.volume(v));
        if (density_->value() > 0)
            text +=
                " " + (l.known()
                           ? tr("Mass <b>%1</b>.")
                                 .arg(QString::fromStdString(mass_text(
                                     v * std::pow(l.data_metres(), 3) * density_->value(), number_marks())))
                           : tr("No mass: the unit is not set."));
        if (const auto n = check_->count(Fault::SelfCrossing); n > 0)
            text += " " + tr("It crosses itself at %n place(s): the volume counts some places twice.", "",
                             static_cast<int>(n));
    }
    figures_->setText(text);
}

const repair::Finding* MeshCard::current() const {
    const QTreeWidgetItem* row = kinds_->currentItem();
    if (!fresh_ || !row) return nullptr;
    const auto& all = check_->of(static_cast<Fault>(row->data(0, Qt::UserRole).toInt()));
    return at_ >= 0 && static_cast<std::size_t>(at_) < all.size() ? &all[static_cast<std::size_t>(at_)]
                                                                  : nullptr;
}

void MeshCard::go(int by) {
    const QTreeWidgetItem* row = kinds_->currentItem();
    if (!fresh_ || !row) return;
    const auto n = static_cast<int>(check_->count(static_cast<Fault>(row->data(0, Qt::UserRole).toInt())));
    if (n == 0) return;
    at_ = at_ < 0 ? (by > 0 ? 0 : n - 1) : (at_ + by + n) % n;
    place_->setText(tr("%1 of %2").arg(at_ + 1).arg(n));
    const QString why = why_left(*current());
    why_->setText(why);
    why_->setVisible(!why.isEmpty());
    show_finding(*current());
}

// Flies there and selects its triangles: the k-th triangle of what was checked is the k-th element that is
// shown.
void MeshCard::show_finding(const repair::Finding& f) {
    Box3 box;
    for (const std::uint32_t t : f.triangles)
        for (const std::uint32_t v : mesh_->triangles[t]) box.add(mesh_->vertices[v]);
    if (box.empty()) box.add(f.where);
    const double margin = std::max(0.5 * box.diagonal(), 1e-9);
    box.add(box.lo - Vec3{margin, margin, margin});
    box.add(box.hi + Vec3{margin, margin, margin});
    emit fly(box);
    std::vector<std::uint32_t> wanted = f.triangles;
    std::sort(wanted.begin(), wanted.end());
    ElementSet set(cloud_->size());
    const ElementSet shown = ~*absent_;
    std::uint64_t first = 0;  // number of the first shown element of a page
    for (std::size_t p = 0; p < shown.page_count(); ++p) {
        const std::uint64_t members = shown.page_members(p);
        const auto from = std::lower_bound(wanted.begin(), wanted.end(), first),
                   to = std::lower_bound(wanted.begin(), wanted.end(), first + members);
        if (from != to) {
            PageBits bits;
            auto next = from;
            std::uint64_t k = first;
            shown.for_each_in_page(p, [&](std::size_t i) {
                if (next != to && *next == k) {
                    bits.set(i);
                    while (next != to && *next == k) ++next;
                }
                ++k;
            });
            set.set_page(p, bits);
        }
        first += members;
    }
    document_->apply(tr("Select a finding: %1").arg(title_of(f.fault)), [&](const site::Site& s) {
        return site::select(s, set, site::Combine::New,
                            {site::by({.kind = site::Act::Kind::Findings, .id = repair::id_of(f.fault)}),
                             tr("Fault").toStdString()});
    });
}

void MeshCard::keep_left(std::vector<repair::Unrepaired> left) {
    const site::ItemPtr item = document_->site()->active_item();
    left_ = std::move(left);
    left_of_ = item ? item->cloud : nullptr;
    emit guides_changed();
}

// Why the last repair left this one; empty: it was not asked to repair it, or something changed since.
QString MeshCard::why_left(const repair::Finding& f) const {
    if (left_of_ != cloud_) return {};
    // Of a rim another corner may come first now: the nearest is meant.
    const repair::Unrepaired* nearest = nullptr;
    for (const repair::Unrepaired& u : left_)
        if (u.fault == f.fault && (!nearest || norm(u.where - f.where) < norm(nearest->where - f.where)))
            nearest = &u;
    return nearest ? tr("Left by the repair: %1.").arg(QString::fromStdString(nearest->why)) : QString();
}

std::vector<Fault> MeshCard::ticked() const {
    std::vector<Fault> out;
    for (int i = 0; i < kinds_->topLevelItemCount(); ++i)
        if (kinds_->topLevelItem(i)->checkState(0) == Qt::Checked)
            out.push_back(static_cast<Fault>(kinds_->topLevelItem(i)->data(0, Qt::UserRole).toInt()));
    return out;
}

repair::RepairOptions MeshCard::options() const {
    repair::RepairOptions o;
    o.fill.kind = static_cast<repair::FillKind>(fill_->currentIndex());
    o.check.tiny_edge = check_->tiny_edge;
    o.check.small_piece = std::max<std::uint64_t>(check_->small_piece, 1);
    o.max_hole = static_cast<std::uint64_t>(largest_->value());
    o.fill_outer = outer_->isChecked();
    return o;
}

void MeshCard::mend(const QString& title, const QString& reason, const char* repair, Work work) {
    const site::ItemPtr item = document_->site()->active_item();
    if (!is_mesh(item) || !fresh_) return;
    if (beside_->isChecked() || cloud::is_surface(*item->cloud))
        return make(title, tr("repaired"), std::move(work));
    Mending m;
    m.item = item;
    m.title = title;
    m.reason = reason;
    m.repair = repair;
    const auto left = std::make_shared<std::vector<repair::Unrepaired>>();
    m.work = [source = mesh_, work = std::move(work), left](Progress& p) {
        Made made = work(*source, p);
        *left = std::move(made.left);
        return Mending::Result{std::move(made.mesh), made.told, std::move(made.found), made.heals};
    };
    m.nothing = tr("There was nothing to change.");
    m.said = [this, left](const QString& text) {
        keep_left(*left);
        emit said(text);
    };
    start_mending(document_, jobs_, std::move(m));
}

void MeshCard::make(const QString& title, const QString& suffix, Work work) {
    const site::ItemPtr item = document_->site()->active_item();
    if (!is_mesh(item) || !fresh_) return;
    const auto made = std::make_shared<Made>();
    const auto fresh = std::make_shared<std::shared_ptr<const cloud::PointCloud>>();
    jobs_->start(
        title,
        [=, source = mesh_](Progress& p) {
            *made = work(*source, p);
            if (made->mesh.triangles.empty()) return;
            const std::string name = made->off.empty() ? "" : render::kDeviationColumn;
            *fresh = io::made_from(*item->cloud, ~*item->absent, made->mesh, p, name, std::move(made->off));
        },
        [this, item, made, fresh, title, suffix] {
            if (made->told.contains(QStringLiteral("%1")))
                made->told = made->told.arg(grouped(made->removed), grouped(made->added));
            if (!*fresh) return emit said(made->told);
            const std::string name =
                tr("%1 %2").arg(QString::fromStdString(item->name), suffix).toStdString();
            document_->apply(title, [&](const site::Site& s) {
                site::SitePtr next = site::set_visible(s, item->id, false);
                next = site::add_cloud(*next, *fresh, name, "made from " + item->name);
                const std::uint64_t id = next->items.back()->id;
                if ((*fresh)->records()->layout().find(render::kDeviationColumn)) {
                    site::Style style = next->items.back()->style;
                    style.colour_by = site::ColourBy::Column;
                    style.column = render::kDeviationColumn;
                    next = site::set_style(*next, id, style);
                }
                return site::activate(*next, id);
            });
            keep_left(made->left);
            emit said(made->told);
        },
        [this](const QString& why) { emit said(why.isEmpty() ? tr("Cancelled.") : why); });
}

namespace {

QString told_of(const repair::Deviation& d, const Lengths& l) {
    return " " + MeshCard::tr("What was made lies %1 from what was there in the mean, %2 at most.")
                     .arg(l.spread(d.mean), l.spread(d.max));
}

// How much surface goes and comes, and what stays as it is because the repair would make it worse.
QString change_of(const repair::Repaired& r, const Lengths& l) {
    const double share = r.area_before > 0 ? 100 * r.area_taken / r.area_before : 0;
    QString text =
        MeshCard::tr("%1 of surface taken (%2 %), %3 made.")
            .arg(l.area(r.area_taken), shown_figure(share, share < 1 ? 2 : 1), l.area(r.area_made));
    if (r.left_alone > 0)
        text += " " + MeshCard::tr("%n place(s) stayed as before: a repair would have made them worse.", "",
                                   static_cast<int>(r.left_alone));
    return text;
}

site::Settings found_by(const repair::Repaired& r, const std::vector<repair::Unrepaired>& left) {
    site::Settings found{
        {"area_taken", r.area_taken}, {"area_made", r.area_made}, {"sound", r.after.sound()}};
    std::vector<std::string> kinds, not_done;
    for (const repair::RepairStep& s : r.steps)
        if (s.removed + s.made > 0) kinds.push_back(repair::id_of(s.fault));
    for (const repair::Unrepaired& u : left)
        if (not_done.size() < 3) not_done.push_back(std::string(repair::id_of(u.fault)) + " (" + u.why + ")");
    if (!kinds.empty()) found["kinds"] = kinds;
    if (!not_done.empty()) found["left"] = not_done;
    if (r.made > 0) {
        found["off_mean"] = r.deviation.mean;
        found["off_max"] = r.deviation.max;
    }
    return found;
}

}  // namespace

// The same work as the repair itself, without a commit: numbers, and in the stage the triangles that would
// go.
void MeshCard::preview_repair() {
    const site::ItemPtr item = document_->site()->active_item();
    if (!is_mesh(item) || !fresh_) return;
    repair::RepairOptions o = options();
    const auto kinds = ticked();
    o.only = {kinds.begin(), kinds.end()};
    const auto result = std::make_shared<repair::Repaired>();
    const auto goes = std::make_shared<ElementSet>(item->cloud->size());
    jobs_->start(
        tr("Trying the repair"),
        [=, source = mesh_, known = check_](Progress& p) {
            *result = repair::repair(*source, o, p, known.get());
            const std::vector<char> stays = repair::still_there(*source, result->mesh);
            std::size_t k = 0;  // the k-th triangle of what was checked is the k-th element that is shown
            (~*item->absent).for_each([&](std::uint64_t e) {
                if (!stays[k++]) goes->insert(e);
            });
        },
        [this, item, result, goes] {
            if (document_->site()->active_item() != item) return;
            const Lengths l(*document_->site());
            const repair::Repaired& r = *result;
            QString text =
                r.taken + r.made == 0
                    ? tr("Nothing would change.")
                    : tr("It would take %1 triangles and make %2: ").arg(grouped(r.taken), grouped(r.made)) +
                          change_of(r, l);
            if (!r.after.closed) text += " " + tr("The mesh would stay open.");
            if (!goes->empty())
                document_->apply(tr("Show what a repair would take"), [&](const site::Site& s) {
                    return site::select(
                        s, *goes, site::Combine::New,
                        {site::by({.kind = site::Act::Kind::WouldChange}), tr("Fault").toStdString()});
                });
            emit said(text);
        },
        [this](const QString& why) { emit said(why.isEmpty() ? tr("Cancelled.") : why); });
}

void MeshCard::repair_current() {
    const repair::Finding* f = current();
    if (!f) return emit said(tr("Go to a finding first: Next."));
    const repair::Finding finding = *f;
    mend(tr("Repair: %1").arg(title_of(finding.fault)), title_of(finding.fault), "repair.one",
         [finding, o = options(), l = Lengths(*document_->site())](const mesh::TriMesh& m, Progress& p) {
             repair::Step s = repair::repair_one(m, finding, o, p);
             if (!s.unrepaired.empty())
                 return Made{{}, tr("Not repaired: %1.").arg(QString::fromStdString(s.unrepaired[0].why)),
                             {}, 0,
                             0,  s.unrepaired};
             QString told = tr("%1 triangles taken, %2 made; everything else is as it was.");
             // Of a hole nothing was there.
             if (finding.fault != Fault::Hole && s.made > 0)
                 told += told_of(repair::deviation_of_made(m, s.mesh, p), l);
             Made made{std::move(s.mesh), told, {}, s.removed, s.made};
             made.found["kinds"] = std::vector<std::string>{repair::id_of(finding.fault)};
             return made;
         });
}

// No kinds: all.
void MeshCard::repair_kinds(const std::vector<Fault>& kinds, const QString& title) {
    repair::RepairOptions o = options();
    o.only = {kinds.begin(), kinds.end()};
    const Lengths lengths(*document_->site());
    mend(title, tr("Repaired"), "repair.check",
         [o, l = lengths, off = beside_->isChecked(), known = check_](const mesh::TriMesh& m, Progress& p) {
             repair::Repaired r = repair::repair(m, o, p, known.get());
             const std::uint64_t taken = r.taken, made = r.made;
             QString told =
                 taken + made > 0 ? tr("%1 triangles taken, %2 made.") : tr("Nothing could be repaired.");
             if (taken + made > 0) told += " " + change_of(r, l);
             told += r.after.sound() ? " " + tr("The mesh is sound.") : QString();
             if (made > 0) told += told_of(r.deviation, l);
             for (const repair::Unrepaired& u : r.unrepaired) {
                 told += " " + tr("Left: %1 (%2).").arg(title_of(u.fault), QString::fromStdString(u.why));
                 if (&u - r.unrepaired.data() == 2) break;
             }
             if (taken + made == 0) return Made{{}, told, {}, 0, 0, std::move(r.unrepaired)};
             std::vector<double> distance;
             if (off) distance = repair::distances(r.mesh, m, p);
             Made done{std::move(r.mesh), told, std::move(distance), taken, made, std::move(r.unrepaired)};
             done.found = found_by(r, done.left);
             return done;
         });
}

void MeshCard::wrap() {
    const Lengths l(*document_->site());
    make(tr("Wrap"), tr("wrapped"),
         [detail = detail_->in_data(), gap = gap_->in_data(), l](const mesh::TriMesh& m, Progress& p) {
             const auto wrapped = [&] {
                 const Progress::Part part(p, 0, 0.7, "");
                 return repair::wrap(m, {detail, gap}, p);
             };
             repair::Wrapped w = wrapped();
             p.stretch(0.7, 1, "Measuring the deviation");
             const QString told =
                 tr("The wrap lies %1 from the mesh in the mean, %2 for 95 %, %3 at most.")
                     .arg(l.spread(w.deviation.mean), l.spread(w.deviation.p95), l.spread(w.deviation.max));
             std::vector<double> off = repair::distances(w.mesh, m, p);
             return Made{std::move(w.mesh), told, std::move(off)};
         });
}

// Of what is shown, whether it is selected: the k-th element that is shown is the k-th triangle of what was
// checked. Empty: nothing is.
std::vector<char> MeshCard::chosen() const {
    const site::SitePtr s = document_->site();
    std::vector<char> in;
    if (!fresh_ || !s->selection_in_work() || s->of_removed) return in;
    in.reserve(mesh_->triangles.size());
    (~*absent_).for_each([&](std::uint64_t e) { in.push_back(s->selection_in_work()->contains(e)); });
    return in;
}

// The whole becomes a mesh of its own beside this one; a part is a repair like others.
void MeshCard::reduce() {
    if (!fresh_) return;
    std::vector<char> only = chosen();
    const auto part = static_cast<std::size_t>(std::count(only.begin(), only.end(), 1));
    const std::size_t left = static_cast<std::size_t>(triangles_->value()),
                      n = only.empty() ? left : mesh_->triangles.size() - part + std::min(left, part);
    const bool whole = only.empty();
    Work work = [n, l = Lengths(*document_->site()), only = std::move(only)](const mesh::TriMesh& m,
                                                                             Progress& p) {
        repair::Reduced r = repair::reduce(m, {n, true, only}, p);
        const QString told =
            tr("%1 triangles; %2 from the original in the mean, %3 at most.")
                .arg(grouped(r.mesh.triangles.size()), l.spread(r.deviation.mean), l.spread(r.deviation.max));
        return Made{std::move(r.mesh), told, {}};
    };
    if (whole)
        make(tr("Reduce"), tr("reduced"), std::move(work));
    else
        mend(tr("Reduce the selection"), tr("Reduced"), "repair.reduce", std::move(work));
}

void MeshCard::replace_selection() {
    std::vector<char> gone = chosen();
    if (gone.empty()) return emit said(tr("Select the bad patch first."));
    mend(tr("Replace a patch"), tr("Patch"), "repair.patch",
         [gone = std::move(gone), o = options().fill](const mesh::TriMesh& m, Progress& p) {
             repair::Step done = repair::replace_patch(m, gone, o, p);
             if (!done.unrepaired.empty())
                 return Made{
                     {}, tr("Not replaced: %1.").arg(QString::fromStdString(done.unrepaired[0].why)), {}};
             return Made{std::move(done.mesh),
                         tr("%1 triangles taken, %2 made."),
                         {},
                         done.removed,
                         done.made,
                         {},
                         true};
         });
}

void MeshCard::keep_lines() {
    if (!fresh_) return;
    std::vector<site::Line> lines;
    for (const repair::Finding& f : check_->of(Fault::Hole)) {
        site::Line l;
        l.role = LineRole::Finding;
        l.name = tr("Hole %1").arg(lines.size() + 1).toStdString();
        for (const std::uint32_t v : f.vertices) l.points.push_back(mesh_->vertices[v]);
        l.closed = l.points.size() > 2;
        lines.push_back(std::move(l));
    }
    int n = 0;
    for (const repair::Finding& f : check_->of(Fault::SelfCrossing)) {
        site::Line l;
        l.role = LineRole::Finding;
        l.name = tr("Crossing %1").arg(++n).toStdString();
        l.points = repair::shared_stretch(*mesh_, f.triangles[0], f.triangles[1]);
        if (l.points.size() == 2) lines.push_back(std::move(l));
    }
    if (lines.empty()) return emit said(tr("There are no open edges and no crossings."));
    const site::ItemPtr item = document_->site()->active_item();
    if (item && lines.size() > 12)
        for (site::Line& l : lines)
            l.group = tr("Findings in %1").arg(QString::fromStdString(item->name)).toStdString();
    document_->apply(tr("Keep %n finding(s) as lines", "", static_cast<int>(lines.size())),
                     [&](const site::Site& s) { return site::put_lines(s, std::move(lines)); });
}

}  // namespace pristine::app
