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

#include "app/look/make.h"
#include "app/look/theme.h"
#include "app/model/document.h"
#include "app/model/jobs.h"
#include "app/model/mending.h"
#include "app/model/mesh_work.h"
#include "core/cloud/triangles.h"
#include "core/elements/ranks.h"
#include "core/io/mesh/mesh_cloud.h"
#include "core/repair/guard.h"
#include "core/repair/wrap.h"
#include "core/select/triangle_growth.h"
#include "render/scene.h"

namespace pristine::app {

using repair::Fault;

namespace {

constexpr const char* kPatch = "repair.patch";

bool is_mesh(const site::ItemPtr& item) {
    return item && item->cloud->triangles();
}

}  // namespace

MeshCard::MeshCard(Document* document, Jobs* jobs, QWidget* parent)
    : SideCard(QStringLiteral("mesh"), tr("Check and repair"), QStringLiteral("mesh.md"), parent),
      document_(document),
      jobs_(jobs),
      latest_(jobs) {
    state_ = make_sentence(this, "meshState");
    body()->addWidget(state_);
    add_tour();
    add_repairs();
    auto* form = new QFormLayout;
    add_settings(form);
    add_wrap_and_reduce(form);
    body()->addLayout(form);
    add_for_findings();
    add_figures();
    body()->addStretch(1);
}

void MeshCard::add_tour() {
    kinds_ = new QTreeWidget(this);
    kinds_->setObjectName(QStringLiteral("meshKinds"));
    kinds_->setAccessibleName(tr("What was found, by kind; tick what is to be repaired"));
    kinds_->setHeaderLabels({tr("Found"), tr("Count"), tr("Costs")});
    kinds_->setRootIsDecorated(false);
    kinds_->setIndentation(12);
    kinds_->setItemsExpandable(false);
    kinds_->header()->setStretchLastSection(false);
    kinds_->header()->setSectionResizeMode(0, QHeaderView::Stretch);
    for (const int c : {1, 2}) kinds_->header()->setSectionResizeMode(c, QHeaderView::ResizeToContents);
    kinds_->setFixedHeight(366);
    body()->addWidget(kinds_);
    auto* tour = new QHBoxLayout;
    previous_ = make_button(this, "meshPrevious", tr("Back"), tr("Flies to the finding before"));
    next_ = make_button(this, "meshNext", tr("Next"),
                        tr("Flies to the next finding of this kind and selects its triangles"));
    place_ = new QLabel(this);
    place_->setObjectName(QStringLiteral("meshPlace"));
    place_->setAlignment(Qt::AlignCenter);
    tour->addWidget(previous_);
    tour->addWidget(place_, 1);
    tour->addWidget(next_);
    body()->addLayout(tour);
    why_ = make_sentence(this, "meshWhy");
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
    one_ = make_button(this, "meshRepairOne", tr("This one"),
                       tr("Repairs the finding in hand, and nothing else"));
    kind_ = make_button(this, "meshRepairKinds", tr("Ticked"),
                        tr("Repairs every finding of the kinds that are ticked"));
    all_ = make_button(this, "meshRepairAll", tr("All"),
                       tr("Repairs everything that was found, and fills every hole"));
    auto* title = new QLabel(tr("Repair"), this);
    row->addWidget(title);
    for (QPushButton* b : {one_, kind_, all_}) row->addWidget(b);
    body()->addLayout(row);
    try_ = make_button(
        this, "meshPreview", tr("What would go?"),
        tr("Tries the repair of what is ticked: how much it would take and make, and in the stage the "
           "triangles that would go. Nothing is changed"));
    body()->addWidget(try_);
    connect(try_, &QPushButton::clicked, this, &MeshCard::preview_repair);
    connect(one_, &QPushButton::clicked, this, &MeshCard::repair_current);
    connect(kind_, &QPushButton::clicked, this, [this] {
        if (const auto kinds = ticked(); !kinds.empty())
            return repair_kinds(kinds, tr("Repair what is ticked"));
        emit said(tr("Tick a kind first."));
    });
    connect(all_, &QPushButton::clicked, this, [this] { repair_kinds({}, tr("Repair everything")); });
}

// How repairs work.
void MeshCard::add_settings(QFormLayout* form) {
    fill_ = new QComboBox(this);
    fill_->setObjectName(QStringLiteral("meshFill"));
    fill_->addItems({tr("taut"), tr("level with the rim"), tr("rounded")});
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
}

void MeshCard::add_wrap_and_reduce(QFormLayout* form) {
    detail_ = new LengthBox(0.05, 1e-7, 1000, this);
    detail_->set_more_digits(5);
    detail_->setObjectName(QStringLiteral("meshDetail"));
    detail_->setToolTip(tr(
        "Side of a cell of the closed skin; smaller things are rounded off, openings up to twice as wide are "
        "closed"));
    gap_ = new LengthBox(0, 0, 100, this);
    gap_->setObjectName(QStringLiteral("meshGap"));
    gap_->setSpecialValueText(tr("twice the detail"));
    gap_->setToolTip(tr("Openings and hollows up to this wide are closed over by the skin"));
    form->addRow(tr("Skin closes"), gap_);
    wrap_ = make_button(this, "meshWrap", tr("Closed skin"),
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
    reduce_ = make_button(this, "meshReduce", tr("Reduce"), tr("Closes up the edges that matter least"));
    auto* reduce_row = new QHBoxLayout;
    reduce_row->addWidget(triangles_, 1);
    reduce_row->addWidget(reduce_);
    form->addRow(tr("Triangles"), reduce_row);
    connect(wrap_, &QPushButton::clicked, this, &MeshCard::wrap);
    connect(reduce_, &QPushButton::clicked, this, &MeshCard::reduce);
}

void MeshCard::add_for_findings() {
    auto* last = new QHBoxLayout;
    lines_ =
        make_button(this, "meshLines", tr("As lines"),
                    tr("Keeps holes and crossings as line objects in the contents, which can be exported"));
    patch_ = make_button(this, "meshPatch", tr("Replace the selection"),
                         tr("Takes the selected triangles away and fills the hole, in one step"));
    last->addWidget(lines_);
    last->addWidget(patch_, 1);
    body()->addLayout(last);
    widen_ = make_button(this, "meshWiden", tr("Widen and try again"),
                         tr("Selects one ring of triangles more, and replaces that"));
    widen_->hide();
    body()->addWidget(widen_);
    connect(widen_, &QPushButton::clicked, this, &MeshCard::widen_selection);
    connect(patch_, &QPushButton::clicked, this, &MeshCard::replace_selection);
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
    figures_ = make_sentence(this, "meshFigures");
    figures_->setTextInteractionFlags(Qt::TextSelectableByMouse);
    body()->insertWidget(1, figures_);  // what all this is for, in sight on a small screen
    close_ = make_button(
        this, "meshFillHoles", tr("Fill every hole"),
        tr("Closes the rims that are marked, so that there is a volume; nothing else is repaired"));
    body()->insertWidget(2, close_);
    told_ = make_sentence(this, "meshTold");
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
    widen_->hide();
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
        std::array<repair::Cost, repair::kFaults> costs{};
    };
    latest_.start<Checked>(
        tr("Checking the mesh"),
        [=, shortest = shortest_->in_data()](Progress& p, Checked& r) {
            *r.mesh = io::mesh_of(*item->cloud, ~*item->absent);
            repair::CheckOptions options;
            options.tiny_edge = shortest;
            *r.found = repair::check(*r.mesh, options, p);
            r.costs = repair::costs_of(*r.mesh, *r.found);
        },
        [this](Checked& r) {
            mesh_ = r.mesh;
            check_ = r.found;
            costs_ = r.costs;
            fresh_ = true;
            fill();
        },
        [this](const QString& why) { state_->setText(why.isEmpty() ? tr("Cancelled.") : why); },
        Jobs::Show::IfLong);
}

void MeshCard::fill() {
    const repair::Check& c = *check_;
    fill_kinds();
    const bool any = kind_in_hand().has_value();
    for (QPushButton* b : {previous_, next_, one_, kind_, all_, try_, lines_}) b->setEnabled(any);
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
    figures_->setText(figures_of(*mesh_, *check_, density_->value(), l));
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

void MeshCard::mend(const QString& title, const QString& reason, const char* repair, MeshWork work) {
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
        MeshMade made = work(*source, p);
        *left = std::move(made.left);
        return Mending::Result{std::move(made.mesh), made.told, std::move(made.found), made.heals};
    };
    m.nothing = tr("There was nothing to change.");
    m.said = [this, left, patch = m.repair == kPatch](const QString& text) {
        keep_left(*left);
        emit said(text);
        widen_->setVisible(patch && !left->empty());
    };
    start_mending(document_, jobs_, std::move(m));
}

void MeshCard::make(const QString& title, const QString& suffix, MeshWork work) {
    const site::ItemPtr item = document_->site()->active_item();
    if (!is_mesh(item) || !fresh_) return;
    const auto made = std::make_shared<MeshMade>();
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
                next = site::set_role(*next, id, site::role_of(site::name_of(item->role), **fresh));
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
            *goes =
                ~*item->absent - members_flagged(~*item->absent, repair::still_there(*source, result->mesh));
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
    mend(tr("Repair: %1").arg(title_of(f->fault)), title_of(f->fault), "repair.one",
         repair_one_work(*f, options(), Lengths(*document_->site())));
}

// No kinds: all.
void MeshCard::repair_kinds(const std::vector<Fault>& kinds, const QString& title) {
    repair::RepairOptions o = options();
    o.only = {kinds.begin(), kinds.end()};
    mend(title, tr("Repaired"), "repair.check",
         repair_work(o, check_, beside_->isChecked(), Lengths(*document_->site())));
}

void MeshCard::wrap() {
    make(tr("Closed skin"), tr("closed skin"),
         wrap_work({detail_->in_data(), gap_->in_data()}, Lengths(*document_->site())));
}

// Of what is shown, whether it is selected, by rank. Empty: nothing is.
std::vector<char> MeshCard::chosen() const {
    const site::SitePtr s = document_->site();
    if (!fresh_ || !s->selection_in_work() || s->of_removed) return {};
    return flags_of(~*absent_, *s->selection_in_work());
}

// The whole becomes a mesh of its own beside this one; a part is a repair like others.
void MeshCard::reduce() {
    if (!fresh_) return;
    const std::vector<char> only = chosen();
    const auto part = static_cast<std::size_t>(std::count(only.begin(), only.end(), 1));
    const std::size_t left = static_cast<std::size_t>(triangles_->value()),
                      n = only.empty() ? left : mesh_->triangles.size() - part + std::min(left, part);
    MeshWork work = reduce_work({n, true, only}, Lengths(*document_->site()));
    if (only.empty())
        make(tr("Reduce"), tr("reduced"), std::move(work));
    else
        mend(tr("Reduce the selection"), tr("Reduced"), "repair.reduce", std::move(work));
}

void MeshCard::replace_selection() {
    std::vector<char> gone = chosen();
    if (gone.empty()) return emit said(tr("Select the bad patch first."));
    mend(tr("Replace a patch"), tr("Patch"), kPatch, patch_work(std::move(gone), options().fill));
}

// The rim of the patch was not fit: one ring farther out it may be.
void MeshCard::widen_selection() {
    const site::ItemPtr item = document_->site()->active_item();
    const site::SetPtr part = document_->site()->selection_in_work();
    if (!is_mesh(item) || !part) return emit said(tr("Select the bad patch first."));
    const ElementSet wider = select::grown_by_ring(*item->cloud, *part, site::eligible(*item));
    site::Origin origin = document_->site()->origin;
    origin.cause = site::grown(origin.cause, "select.grow", {});
    if (document_->apply(tr("Widen the selection"), [&](const site::Site& s) {
            return site::select(s, wider, site::Combine::New, origin);
        }))
        replace_selection();
}

void MeshCard::keep_lines() {
    if (!fresh_) return;
    const site::ItemPtr item = document_->site()->active_item();
    std::vector<site::Line> lines =
        findings_as_lines(*mesh_, *check_, item ? QString::fromStdString(item->name) : QString());
    if (lines.empty()) return emit said(tr("There are no open edges and no crossings."));
    document_->apply(tr("Keep %n finding(s) as lines", "", static_cast<int>(lines.size())),
                     [&](const site::Site& s) { return site::put_lines(s, std::move(lines)); });
}

}  // namespace pristine::app
