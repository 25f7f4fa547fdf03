#include "app/window/meshes.h"

#include <QInputDialog>
#include <cmath>

#include "app/cards/holes_card.h"
#include "app/cards/markers_card.h"
#include "app/cards/work_card.h"
#include "app/look/lengths.h"
#include "app/look/theme.h"
#include "app/model/document.h"
#include "app/model/jobs.h"
#include "app/model/mending.h"
#include "app/model/stroke.h"
#include "app/tools/path_tools.h"
#include "app/window/hand.h"
#include "app/window/scene_view.h"
#include "app/window/status_line.h"
#include "app/window/text_import.h"
#include "core/cloud/triangles.h"
#include "core/io/mesh/mesh_cloud.h"
#include "core/repair/refine.h"
#include "core/repair/smooth.h"
#include "core/select/growth.h"
#include "core/select/triangle_growth.h"
#include "core/select/triangle_solid.h"

namespace pristine::app {

namespace {

constexpr double kDegreesPerPixel = 0.25;  // of dragging a region open

// Which triangles of what is shown may be touched: the k-th shown element is the k-th of them.
std::vector<char> touchable(const site::Item& item) {
    const ElementSet free = site::eligible(item);
    std::vector<char> may;
    (~*item.absent).for_each([&](std::uint64_t e) { may.push_back(free.contains(e)); });
    return may;
}

}  // namespace
Meshes::Meshes(Desk& desk) : HandyPart(desk), holes_(desk.find<HolesCard>()) {
    hand_.set_own_strokes({[this](Stage* stage, const select::Fence& fence, Stroke& stroke) {
                               return mesh_stroke_step(stage, fence, stroke);
                           },
                           [this](const std::shared_ptr<Stroke>& done) { return mesh_stroke_ended(done); }});
    connect(holes_, &HolesCard::pick_corners, this, [this] { hand_.take_tool(ToolId::RimCorner); });
    auto* markers = desk.find<MarkersCard>();
    connect(markers, &MarkersCard::preview_wanted, this, [this, markers](const std::filesystem::path& file) {
        auto* preview = new TextImport(file, window_);
        preview->setAttribute(Qt::WA_DeleteOnClose);
        preview->setWindowTitle(tr("Markers of %1").arg(QString::fromStdString(file.filename().string())));
        connect(preview, &QDialog::accepted, markers, [=] { markers->read_table(file, preview->reading()); });
        preview->show();
    });
    connect(holes_, &HolesCard::preview_changed, this, [this] {
        view_.show_scene();
        view_.show_guides();
    });
}

void Meshes::add_commands() {
    for (const char* card : {"tools.mesh", "tools.holes", "tools.align", "tools.markers"})
        add_card(QString::fromLatin1(card));
    commands_.add({"tools.refine",
                   tr("Refine the selected triangles…"),
                   tr("Cuts edges longer than a length in two, so that a brush finds enough corners to move"),
                   "",
                   {},
                   tr("Tools"),
                   [this] { refine_selection(); },
                   [this] {
                       const site::ItemPtr item = document_->site()->active_item();
                       if (!item || !item->cloud->triangles() || cloud::is_surface(*item->cloud))
                           return tr("Take a mesh in work.");
                       return needs_selection();
                   },
                   {},
                   {}});
    const auto needs_part = [this] {
        const site::ItemPtr item = document_->site()->active_item();
        if (!item || !item->cloud->triangles() || cloud::is_surface(*item->cloud))
            return tr("Take a mesh in work.");
        return needs_free_selection();
    };
    add(
        "tools.smooth_selection", tr("Smooth the selection"),
        tr("Evens out the selected triangles; everything else stays to the bit. Once more smooths more"), {},
        tr("Tools"), [this] { even_out(false); }, needs_part);
    add(
        "tools.flatten_selection", tr("Flatten the selection"),
        tr("Brings the inside of the selection onto the plane that most of it lies on; everything else stays "
           "to the bit"),
        {}, tr("Tools"), [this] { even_out(true); }, needs_part);
    add_iconed(
        "decide.keep_connected", tr("Keep only what is connected to the selection"),
        tr("Takes everything of the item out that is not reached from the selection: the rest of the "
           "fixture, floating "
           "pieces. Steps of the work card for points, shared edges for triangles"),
        "", {}, tr("Decide"), [this] { keep_connected(); }, [this] { return needs_free_selection(); });
}

void Meshes::keep_connected() {
    const site::SitePtr s = document_->site();
    const site::ItemPtr item = s->active_item();
    const auto set = std::make_shared<ElementSet>();
    const auto picture = std::make_shared<std::shared_ptr<const site::Thumbnail>>();
    jobs_->start(
        tr("Connected"),
        [=, d = card_->reach(), picture_of = document_->picture_of()](Progress& p) {
            const ElementSet all = site::eligible(*item);
            *set = item->cloud->triangles()
                       ? select::connected_triangles(*item->cloud, *s->selection_in_work(), all, 180, p)
                       : select::connected(*item->cloud, *s->selection_in_work(), all, {d, -1}, p);
            *picture = picture_of(item->cloud, all - *set);
        },
        [this, s, set, picture] {
            if (document_->site() != s)
                return say_refused(tr("Something changed meanwhile; nothing was removed."));
            document_->apply(tr("Keep only %1 that are connected").arg(counted(*document_, set->count())),
                             [&](const site::Site& now) {
                                 const site::SitePtr chosen = site::select(now, *set, site::Combine::New);
                                 return site::keep_only_selection(
                                     *chosen, {tr("Not connected").toStdString(),
                                               site::wrapped(s->origin.cause, site::Act::Kind::NotConnected),
                                               site::Signature::now(), *picture});
                             });
        });
}

// What is selected, and may be touched.
void Meshes::even_out(bool flatten) {
    const site::SitePtr s = document_->site();
    const site::ItemPtr item = s->active_item();
    if (!item || !item->cloud->triangles() || !s->selection_in_work()) return;
    const Lengths l(*s);
    Mending m;
    m.item = item;
    m.title = flatten ? tr("Flattening") : tr("Smoothing");
    m.step = flatten ? tr("Flatten %1 triangles") : tr("Smooth %1 triangles");
    m.reason = flatten ? tr("Flattened") : tr("Smoothed");
    m.repair = flatten ? "repair.flat" : "repair.smooth";
    m.work = [=, said = tr("%1 corners moved, by %2 at most")](Progress& p) {
        const ElementSet shown = ~*item->absent, may = site::eligible(*item);
        std::vector<char> chosen;
        shown.for_each([&](std::uint64_t e) {
            chosen.push_back(s->selection_in_work()->contains(e) && may.contains(e));
        });
        const mesh::TriMesh mesh = io::mesh_of(*item->cloud, shown);
        repair::Moved moved =
            flatten ? repair::flattened(mesh, chosen, p) : repair::smoothed(mesh, chosen, 10, 1, p);
        const QString told = QString(said)
                                 .replace(QLatin1String("%1"), grouped(moved.corners))
                                 .replace(QLatin1String("%2"), l.spread(moved.farthest));
        if (moved.corners == 0) return Mending::Result{mesh, told};
        return Mending::Result{std::move(moved.mesh), told};
    };
    m.nothing = tr("Nothing could be moved: only corners inside of the selection are.");
    m.said = [this](const QString& text) { status_->say(text, false); };
    start_mending(document_, jobs_, std::move(m));
}

void Meshes::refine_selection() {
    const site::SitePtr s = document_->site();
    const site::ItemPtr item = s->active_item();
    if (!item || !item->cloud->triangles() || !s->selection_in_work()) return;
    // Half of the usual edge there.
    double sum = 0;
    const mesh::TriMesh& all = *item->cloud->triangles();
    s->selection_in_work()->for_each([&](std::uint64_t e) {
        const auto& c = all.triangles[e];
        sum += std::sqrt(
            norm(cross(all.vertices[c[1]] - all.vertices[c[0]], all.vertices[c[2]] - all.vertices[c[0]])));
    });
    const Lengths l(*s);
    bool ok = false;
    const double edge = QInputDialog::getDouble(
        window_, tr("Refine"), tr("Longest edge%1").arg(l.suffix()),
        l.shown(0.5 * sum / static_cast<double>(s->selection_in_work()->count())), 1e-6, 1e6, 6, &ok);
    if (!ok) return;
    Mending m;
    m.item = item;
    m.title = tr("Refining");
    m.step = tr("Refine into %1 triangles");
    m.reason = tr("Refined");
    m.repair = "repair.refine";
    m.settings = {{"edge", l.data(edge)}};
    m.work = [item, s, in_data = l.data(edge),
              told = tr("Edges up to %1%2").arg(edge).arg(l.suffix())](Progress& p) {
        const ElementSet shown = ~*item->absent;
        std::vector<char> chosen;
        shown.for_each([&](std::uint64_t e) { chosen.push_back(s->selection_in_work()->contains(e)); });
        return Mending::Result{repair::refine(io::mesh_of(*item->cloud, shown), chosen, in_data, p), told};
    };
    m.nothing = tr("No edge is longer than that.");
    m.said = [this](const QString& text) { status_->say(text, false); };
    start_mending(document_, jobs_, std::move(m));
}

bool Meshes::mesh_stroke_step(Stage* stage, const select::Fence& fence, Stroke& s) {
    const bool brush = hand_.id() == ToolId::Relax || hand_.id() == ToolId::Flatten;
    if (!brush && hand_.id() != ToolId::Region) return false;
    const auto* tool = static_cast<const BrushTool*>(stage->tool());
    const PixelPoint at = tool->pointer();
    const site::ItemPtr item = s.of.front().item;
    if (!item->cloud->triangles() || (brush && cloud::is_surface(*item->cloud))) {
        say_refused(tr("This is for meshes; the item in work is none."));
        return true;
    }
    if (hand_.id() == ToolId::Region) {
        if (!s.seed) {
            s.from = at;
            const auto id = stage->seen_at(at);
            if (!id || stage->scene().items()[stage->scene().pages()[*id >> 16].item].id != item->id)
                return true;
            s.seed = std::uint64_t{stage->scene().pages()[*id >> 16].page} * kPageSize + (*id & 0xFFFFu);
        }
        ElementSet seed(item->cloud->size());
        seed.insert(*s.seed);
        const double angle = std::min(180.0, kDegreesPerPixel * std::hypot(at.x - s.from.x, at.y - s.from.y));
        Stroke::Of& mine = s.of.front();
        mine.taken = select::connected_triangles(*item->cloud, seed & mine.eligible, mine.eligible, angle);
        status_->say(tr("Turning by up to %1°").arg(angle, 0, 'f', 1), false);
        return true;
    }
    brush_along(s, fence.view, tool->radius_px(), at);
    return true;
}

// However fast or slowly the events come, the brush works once in a quarter of its size along its way.
void Meshes::brush_along(Stroke& s, const ViewFrame& view, double radius_px, PixelPoint to) {
    if (!s.picture) return;
    const PixelPoint from = s.last.value_or(to);
    s.last = to;
    const int n = std::max(
        1, static_cast<int>(std::ceil(std::hypot(to.x - from.x, to.y - from.y) / (0.25 * radius_px))));
    for (int i = 1; i <= n; ++i) {
        const double t = static_cast<double>(i) / n;
        const PixelPoint p{from.x + t * (to.x - from.x), from.y + t * (to.y - from.y)};
        const auto seen = Stage::place_in(*s.picture, p);
        if (!seen) continue;
        const Vec3 place = *seen;
        if (s.brush.radius == 0) s.brush.radius = radius_px / view.pixels_per_unit(view.depth(place));
        if (!s.brush.places.empty() && norm(place - s.brush.places.back()) < 0.2 * s.brush.radius) continue;
        s.brush.places.push_back(place);
        Stroke::Of& mine = s.of.front();
        mine.taken = mine.taken | select::in_ball(*mine.item->cloud, place, s.brush.radius, mine.eligible,
                                                  select::Reach::Touches);
    }
}

bool Meshes::mesh_stroke_ended(const std::shared_ptr<Stroke>& done) {
    if (hand_.id() != ToolId::Relax && hand_.id() != ToolId::Flatten) return false;
    if (done->brush.places.empty()) {
        view_.show_scene();
        return true;
    }
    const bool flatten = hand_.id() == ToolId::Flatten;
    done->brush.kind = flatten ? repair::BrushKind::Flatten : repair::BrushKind::Relax;
    done->brush.strength = card_->brush_strength();
    const site::ItemPtr item = done->of.front().item;
    const Lengths l(*document_->site());
    Mending m;
    m.item = item;
    m.title = flatten ? tr("Flattening") : tr("Relaxing");
    m.step = flatten ? tr("Flatten %1 triangles") : tr("Relax %1 triangles");
    m.reason = flatten ? tr("Flattened") : tr("Relaxed");
    m.repair = flatten ? "repair.flatten" : "repair.relax";
    m.settings = {{"radius", done->brush.radius}, {"strength", done->brush.strength}};
    m.work = [item, done,
              told = tr("A stroke of %1 radius, strength %2 %")
                         .arg(l.text(done->brush.radius, 2))
                         .arg(std::lround(100 * done->brush.strength))](Progress& p) {
        const mesh::TriMesh shown = io::mesh_of(*item->cloud, ~*item->absent);
        return Mending::Result{repair::brushed(shown, done->brush, touchable(*item), false, p), told};
    };
    m.nothing = tr("The brush moved nothing here.");
    m.said = [this](const QString& text) {
        status_->say(text, false);
        view_.show_scene();  // the tint of the stroke goes
    };
    start_mending(document_, jobs_, std::move(m));
    return true;
}

}  // namespace pristine::app
