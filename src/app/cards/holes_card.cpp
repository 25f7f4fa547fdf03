#include "app/cards/holes_card.h"

#include <QComboBox>
#include <QFormLayout>
#include <QHeaderView>
#include <QLabel>
#include <QPushButton>
#include <QSpinBox>
#include <QTreeWidget>
#include <QVBoxLayout>
#include <algorithm>
#include <cmath>

#include "app/look/lengths.h"
#include "app/look/theme.h"
#include "app/model/document.h"
#include "app/model/jobs.h"
#include "app/model/mending.h"
#include "core/cloud/triangles.h"
#include "core/io/mesh/mesh_cloud.h"
#include "core/measure/figures.h"
#include "core/repair/cost.h"
#include "core/repair/crossings.h"
#include "core/repair/deviation.h"
#include "core/repair/inside.h"
#include "core/repair/patch.h"
#include "core/topology/adjacency.h"

namespace pristine::app {
namespace {

constexpr double kPick_px = 30;  // a corner farther from the pointer is not meant

Box3 box_of(const mesh::TriMesh& m, const std::vector<std::uint32_t>& rim) {
    Box3 b;
    for (const std::uint32_t v : rim) b.add(m.vertices[v]);
    return b;
}

// The triangles of a fill as a mesh.
mesh::TriMesh alone(const mesh::TriMesh& m, const repair::Fill& f) {
    mesh::TriMesh fill = m;
    fill.vertices.insert(fill.vertices.end(), f.vertices.begin(), f.vertices.end());
    fill.triangles = f.triangles;
    return fill;
}

// How far a fill lies from the taut one, at most; 0 where that cannot be made.
double bulge_of(const mesh::TriMesh& m, const std::vector<std::uint32_t>& rim, const mesh::TriMesh& fill,
                Progress& p) {
    repair::FillOptions taut;
    taut.kind = repair::FillKind::Flat;
    const repair::Fill flat = repair::fill_boundary(m, rim, taut, p);
    return flat.triangles.empty() ? 0 : repair::deviation(fill, alone(m, flat), p).max;
}

bool crosses(const mesh::TriMesh& whole, std::size_t before, Progress& p) {
    const auto pairs = repair::crossings(whole, p);
    return std::any_of(pairs.begin(), pairs.end(),
                       [&](const repair::Pair& pair) { return std::max(pair[0], pair[1]) >= before; });
}

}  // namespace

HolesCard::HolesCard(Document* document, Jobs* jobs, QWidget* parent)
    : SideCard(QStringLiteral("holes"), tr("Holes"), QStringLiteral("holes.md"), parent),
      document_(document),
      jobs_(jobs),
      latest_(jobs) {
    state_ = new QLabel(this);
    state_->setObjectName(QStringLiteral("holesState"));
    state_->setWordWrap(true);
    body()->addWidget(state_);
    list_ = new QTreeWidget(this);
    list_->setObjectName(QStringLiteral("holesList"));
    list_->setAccessibleName(tr("Holes, the widest first; choosing one flies there and shows its fill"));
    list_->setHeaderLabels({tr("Hole"), tr("Edges"), tr("Across"), tr("Area")});
    list_->setRootIsDecorated(false);
    list_->header()->setStretchLastSection(false);
    list_->header()->setSectionResizeMode(0, QHeaderView::Stretch);
    for (const int c : {1, 2, 3}) list_->header()->setSectionResizeMode(c, QHeaderView::ResizeToContents);
    body()->addWidget(list_, 1);
    add_choices();
    told_ = new QLabel(this);
    told_->setObjectName(QStringLiteral("holesTold"));
    told_->setWordWrap(true);
    body()->addWidget(told_);
    const auto button = [&](const char* name, const QString& text, const QString& help) {
        auto* b = new QPushButton(text, this);
        b->setObjectName(QString::fromLatin1(name));
        b->setToolTip(help);
        body()->addWidget(b);
        return b;
    };
    fill_ = button("holesFill", tr("Make this fill"), tr("Puts the fill that is shown into the mesh"));
    widen_ =
        button("holesWiden", tr("Take a ring away and fill"),
               tr("For a rim that is not fit: its outermost triangles go, and what that opens is filled"));
    connect(fill_, &QPushButton::clicked, this, &HolesCard::accept);
    connect(widen_, &QPushButton::clicked, this, &HolesCard::widen);
    connect(list_, &QTreeWidget::currentItemChanged, this, &HolesCard::choose_hole);
}

void HolesCard::add_choices() {
    auto* form = new QFormLayout;
    kind_ = new QComboBox(this);
    kind_->setObjectName(QStringLiteral("holesKind"));
    kind_->addItems({tr("taut"), tr("level with the rim"), tr("rounded")});
    kind_->setCurrentIndex(2);
    form->addRow(tr("Fill"), kind_);
    pick_ = new QPushButton(tr("Pick two corners of rims"), this);
    pick_->setObjectName(QStringLiteral("holesPick"));
    pick_->setToolTip(
        tr("Two corners of one rim: a part of it is filled, or bridged; of two rims: a bridge"));
    form->addRow(pick_);
    side_ = new QComboBox(this);
    side_->setObjectName(QStringLiteral("holesSide"));
    side_->addItems({tr("the shorter side"), tr("the longer side"), tr("a bridge")});
    side_->setToolTip(tr("What of the rim is filled between the two corners"));
    form->addRow(tr("Between them"), side_);
    width_ = new QSpinBox(this);
    width_->setObjectName(QStringLiteral("holesWidth"));
    width_->setRange(1, 200);
    width_->setValue(2);
    width_->setSuffix(tr(" edges"));
    width_->setToolTip(tr("How wide a bridge is at either end"));
    form->addRow(tr("Bridge"), width_);
    body()->addLayout(form);
    connect(pick_, &QPushButton::clicked, this, [this] {
        picked_.clear();
        list_->setCurrentItem(nullptr);
        no_preview(tr("Click two corners at the edges of holes."));
        emit pick_corners();
    });
    for (QComboBox* box : {kind_, side_})
        connect(box, &QComboBox::activated, this, [this] { make_preview(); });
    connect(width_, &QSpinBox::valueChanged, this, [this] { make_preview(); });
}

void HolesCard::on_open() {
    cloud_ = nullptr;
    refresh();
}

void HolesCard::on_close() {
    latest_.drop();
    picked_.clear();
    rims_.clear();
    preview_ = nullptr;
    ready_ = nullptr;
    emit preview_changed();
}

void HolesCard::refresh() {
    if (!is_open()) return;
    const site::ItemPtr item = document_->site()->active_item();
    if (item && item->cloud == cloud_ && absent_ && (item->absent == absent_ || *item->absent == *absent_))
        return;
    find_rims();
}

void HolesCard::find_rims() {
    const site::ItemPtr item = document_->site()->active_item();
    latest_.drop();
    cloud_ = item ? item->cloud : nullptr;
    absent_ = item ? item->absent : nullptr;
    rims_.clear();
    picked_.clear();
    trouble_.reset();
    list_->clear();
    no_preview({});
    if (!item || !item->cloud->triangles())
        return state_->setText(tr("Take a mesh in work: open PLY, OBJ, STL or OFF."));
    if (cloud::is_surface(*item->cloud))
        return state_->setText(
            tr("This is a terrain surface: it is open all round. Holes in it are closed by its "
               "boundary and its limits (New surface)."));
    struct Found {
        std::shared_ptr<mesh::TriMesh> mesh = std::make_shared<mesh::TriMesh>();
        Rims rims;
    };
    latest_.start<Found>(
        tr("Looking for holes"),
        [=](Progress&, Found& r) {
            *r.mesh = io::mesh_of(*item->cloud, ~*item->absent);
            r.rims = topology::boundary_loops(r.mesh->triangles, topology::adjacency(r.mesh->triangles));
            std::stable_sort(r.rims.begin(), r.rims.end(), [&](const auto& a, const auto& b) {
                return box_of(*r.mesh, a).diagonal() > box_of(*r.mesh, b).diagonal();
            });
        },
        [this](Found& r) {
            mesh_ = r.mesh;
            rims_ = std::move(r.rims);
            list_rims();
        },
        {}, Jobs::Show::IfLong);
}

void HolesCard::list_rims() {
    const Lengths l(*document_->site());
    constexpr std::size_t kMostRows = 2000;
    for (std::size_t k = 0; k < std::min(rims_.size(), kMostRows); ++k) {
        auto* row = new QTreeWidgetItem(list_, {QString::number(k + 1), grouped(rims_[k].size()),
                                                l.brief(box_of(*mesh_, rims_[k]).diagonal(), 1),
                                                l.brief(repair::area_across(*mesh_, rims_[k]), 2)});
        row->setToolTip(3, tr("Of its shadow along its mean normal; every fill has at least this area"));
        for (const int c : {1, 2, 3}) row->setTextAlignment(c, Qt::AlignRight | Qt::AlignVCenter);
    }
    state_->setText(
        rims_.empty() ? tr("There is no hole: the mesh is closed.")
        : rims_.size() > kMostRows
            ? tr("%1 holes; the widest %2 are listed.").arg(grouped(rims_.size()), grouped(kMostRows))
            : tr("Choose a hole: its fill is shown before it is made."));
}

void HolesCard::choose_hole() {
    picked_.clear();
    const int k = list_->indexOfTopLevelItem(list_->currentItem());
    if (k < 0 || static_cast<std::size_t>(k) >= rims_.size()) return;
    Box3 box = box_of(*mesh_, rims_[static_cast<std::size_t>(k)]);
    const double margin = std::max(0.7 * box.diagonal(), 1e-9);
    box.add(box.lo - Vec3{margin, margin, margin});
    box.add(box.hi + Vec3{margin, margin, margin});
    emit fly(box);
    make_preview();
}

void HolesCard::pick(const ViewFrame& view, PixelPoint at) {
    std::optional<repair::RimCorner> best;
    double nearest = kPick_px;
    for (std::size_t k = 0; k < rims_.size(); ++k)
        for (std::size_t i = 0; i < rims_[k].size(); ++i) {
            const Vec3& p = mesh_->vertices[rims_[k][i]];
            if (view.depth(p) <= view.near_depth) continue;
            const PixelPoint q = view.project(p);
            const double d = std::hypot(q.x - at.x, q.y - at.y);
            if (d < nearest) nearest = d, best = repair::RimCorner{k, i};
        }
    if (!best) return emit said(tr("There is no rim near: click at the edge of a hole."));
    if (picked_.size() == 2) picked_.clear();
    picked_.push_back(*best);
    if (picked_.size() == 1) {
        no_preview(tr("Now the second corner, of the same rim or of another."));
        return;
    }
    make_preview();
}

std::vector<std::vector<std::uint32_t>> HolesCard::wanted() const {
    return repair::stretches(rims_, picked_[0], picked_[1],
                             static_cast<repair::Between>(side_->currentIndex()),
                             static_cast<std::size_t>(width_->value()));
}

repair::FillOptions HolesCard::options() const {
    repair::FillOptions o;
    o.kind = static_cast<repair::FillKind>(kind_->currentIndex());
    return o;
}

void HolesCard::make_preview() {
    const int k = list_->indexOfTopLevelItem(list_->currentItem());
    if (picked_.size() == 1 || (picked_.empty() && k < 0)) return no_preview({});
    const site::ItemPtr item = document_->site()->active_item();
    if (!item || !mesh_) return;
    Rims parts;
    try {
        if (picked_.size() == 2) parts = wanted();
    } catch (const Error& e) {
        return no_preview(QString::fromStdString(e.what()));
    }
    struct Result {
        repair::Fill fill;
        bool crosses = false;
        std::optional<Vec3> inside;
        double area = 0, bulge = 0;
    };
    trouble_.reset();
    const bool whole = parts.empty();
    const std::vector<std::uint32_t> rim = whole ? rims_[static_cast<std::size_t>(k)] : parts[0];
    no_preview(tr("Working out the fill…"));
    latest_.start<Result>(
        tr("Working out a fill"),
        [=, mesh = mesh_, o = options()](Progress& p, Result& result) {
            result.fill =
                whole ? repair::fill_boundary(*mesh, rim, o, p) : repair::fill_between(*mesh, parts, o, p);
            if (!result.fill.triangles.empty())
                result.crosses = crosses(repair::with_fill(*mesh, result.fill), mesh->triangles.size(), p);
            const mesh::TriMesh fill = alone(*mesh, result.fill);
            result.area = measure::figures(fill).surface_area;
            if (whole && o.kind != repair::FillKind::Flat && !fill.triangles.empty())
                result.bulge = bulge_of(*mesh, rim, fill, p);
            if (whole)
                result.inside =
                    repair::joins_inner_sheet(mesh::WindingTree(*mesh), repair::Incidence(*mesh), rim);
        },
        [this, whole](Result& result) {
            widen_->setEnabled(whole);
            if (!result.fill.why_not.empty()) {
                trouble_ = result.fill.where;
                no_preview(tr("%1. The place is marked.").arg(QString::fromStdString(result.fill.why_not)));
                if (whole) offer_to_widen();
                return;
            }
            ready_ = std::make_shared<const repair::Fill>(std::move(result.fill));
            trouble_ = result.inside;
            if (whole && (result.inside || result.crosses)) offer_to_widen();
            QString text =
                result.inside
                    ? tr("%1 triangles, but this rim joins the outside to a sheet inside (the place is "
                         "marked): widen and try again, or remove the inner sheet first.")
                : result.crosses
                    ? tr("%1 triangles, but they would cross the mesh: try another kind, or widen and try "
                         "again.")
                : whole ? tr("%1 triangles would close it.")
                        : tr("%1 triangles would be made.");
            const Lengths l(*document_->site());
            text = text.arg(grouped(ready_->triangles.size())) + QLatin1Char(' ');
            const double least = 1e-6 * std::sqrt(result.area);  // less is rounding
            text += result.bulge > least ? tr("Its area is %1; it bulges %2 out of a taut fill.")
                                               .arg(l.brief(result.area, 2), l.brief(result.bulge, 1))
                                         : tr("Its area is %1.").arg(l.brief(result.area, 2));
            show_preview(alone(*mesh_, *ready_), text);
        },
        [this](const QString& why) { no_preview(why); }, Jobs::Show::IfLong);
}

void HolesCard::show_preview(const mesh::TriMesh& fill, const QString& text) {
    preview_ = cloud::cloud_of_triangles(fill, {cloud_->unit(), {}, false, {}, {}, {}});
    told_->setText(text);
    fill_->setEnabled(true);
    emit preview_changed();
}

void HolesCard::no_preview(const QString& why) {
    ready_ = nullptr;
    preview_ = nullptr;
    told_->setText(why);
    fill_->setEnabled(false);
    widen_->setEnabled(picked_.empty() && list_->currentItem());
    widen_->setText(tr("Take a ring away and fill"));
    emit preview_changed();
}

// The rim in hand is bad, or its fill is.
void HolesCard::offer_to_widen() {
    widen_->setText(tr("Widen and try again"));
    widen_->setEnabled(true);
}

void HolesCard::put(const QString& title, const char* repair, const QString& told,
                    std::function<mesh::TriMesh(Progress&)> work) {
    const site::ItemPtr item = document_->site()->active_item();
    if (!item) return;
    Mending m;
    m.item = item;
    m.title = title;
    m.reason = tr("Hole");
    m.repair = repair;
    m.work = [work = std::move(work), told](Progress& p) { return Mending::Result{work(p), told}; };
    m.nothing = tr("Nothing could be filled here.");
    m.said = [this](const QString& text) { emit said(text); };
    start_mending(document_, jobs_, std::move(m));
}

void HolesCard::accept() {
    if (!ready_) return;
    put(tr("Fill a hole"), "repair.hole", tr("%1 triangles taken, %2 made; everything else is as it was."),
        [mesh = mesh_, fill = ready_](Progress&) { return repair::with_fill(*mesh, *fill); });
}

void HolesCard::widen() {
    const int k = list_->indexOfTopLevelItem(list_->currentItem());
    if (k < 0 || !mesh_) return;
    put(tr("Take a ring away and fill"), "repair.wider_hole", tr("%1 triangles taken, %2 made."),
        [mesh = mesh_, rim = rims_[static_cast<std::size_t>(k)], o = options()](Progress& p) {
            return repair::fill_wider(*mesh, rim, o, p).mesh;
        });
}

std::vector<std::vector<Vec3>> HolesCard::guides() const {
    std::vector<std::vector<Vec3>> out;
    if (!is_open() || !mesh_) return out;
    const auto add = [&](const std::vector<std::uint32_t>& rim, bool closed) {
        out.emplace_back();
        for (const std::uint32_t v : rim) out.back().push_back(mesh_->vertices[v]);
        if (closed && !rim.empty()) out.back().push_back(out.back().front());
    };
    const int k = list_->indexOfTopLevelItem(list_->currentItem());
    if (picked_.empty() && k >= 0 && static_cast<std::size_t>(k) < rims_.size())
        add(rims_[static_cast<std::size_t>(k)], true);
    const auto mark = [&](const Vec3& p, double r) {
        for (int a = 0; a < 3; ++a) {
            Vec3 d;
            d[a] = r;
            out.push_back({p - d, p + d});
        }
    };
    for (const repair::RimCorner& c : picked_) {
        // A small cross, as large as the edges there.
        const auto& rim = rims_[c.rim];
        const Vec3 p = mesh_->vertices[rim[c.corner]];
        mark(p, 0.7 * norm(mesh_->vertices[rim[(c.corner + 1) % rim.size()]] - p));
    }
    if (trouble_ && k >= 0 && static_cast<std::size_t>(k) < rims_.size())
        mark(*trouble_, 0.1 * box_of(*mesh_, rims_[static_cast<std::size_t>(k)]).diagonal());
    return out;
}

}  // namespace pristine::app
