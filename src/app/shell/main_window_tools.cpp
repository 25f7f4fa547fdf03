// The hand tools in the window: what they are, and what becomes of fences and brush strokes.

#include <algorithm>
#include <cmath>

#include "app/panels/panorama_pane.h"
#include "app/panels/section_pane.h"
#include "app/panels/status_line.h"
#include "app/panels/work_card.h"
#include "app/shell/main_window.h"
#include "app/shell/stroke.h"
#include "app/shell/theme.h"
#include "app/tools/fence_tools.h"
#include "app/tools/line_tool.h"
#include "app/tools/path_tools.h"
#include "app/tools/solid_tool.h"
#include "app/tools/space_tools.h"
#include "core/cloud/triangles.h"
#include "core/select/solid.h"
#include "core/select/triangle_fence.h"
#include "core/select/triangle_solid.h"
#include "render/renderer.h"

namespace pristine::app {

// A brush stroke as it grows: shown at once, committed when the button is let go.
std::unique_ptr<Tool> MainWindow::make_tool(Hand hand) {
    using Kind = SpaceShape::Kind;
    const auto solid = [](std::unique_ptr<Tool> maker) {
        return std::make_unique<SolidTool>(std::move(maker));
    };
    switch (hand) {
        case Hand::Rectangle:
            return std::make_unique<RectangleTool>();
        case Hand::Polygon:
            return std::make_unique<PolygonTool>();
        case Hand::Freehand:
            return std::make_unique<FreehandTool>();
        case Hand::Circle:
            return std::make_unique<CircleTool>();
        case Hand::Brush:
        case Hand::BallBrush:
        case Hand::Relax:
        case Hand::Flatten:
        case Hand::Region:
            return std::make_unique<BrushTool>();
        case Hand::Ball:
            return solid(std::make_unique<SpanTool>(Kind::Ball));
        case Hand::Cylinder:
            return solid(std::make_unique<SpanTool>(Kind::Cylinder));
        case Hand::Box:
            return solid(std::make_unique<SpanTool>(Kind::Box));
        case Hand::Plane:
            return solid(std::make_unique<PointsTool>(Kind::Plane, 3));
        case Hand::PaintedPlane:
            return solid(std::make_unique<SampleTool>());
        case Hand::Level:
            return solid(std::make_unique<PointsTool>(Kind::Level, 1));
        case Hand::Section:
            return std::make_unique<SpanTool>(Kind::Section);
        case Hand::Line:
            return std::make_unique<LineTool>();
        case Hand::Pick:
        case Hand::RimCorner:
            return std::make_unique<PointsTool>(Kind::Pick, 1);
        case Hand::Clip:
            return solid(nullptr);
        case Hand::Across:
            return std::make_unique<AcrossTool>();
    }
    return nullptr;
}

void MainWindow::add_tool_commands() {
    constexpr auto none = static_cast<Qt::Key>(0);  // no key of its own
    const struct {
        const char* id;
        QString title, help, icon;
        Qt::Key key;
        Qt::KeyboardModifiers with;
        Hand hand;
        bool group;
    } tools[] = {
        {"select.rectangle",
         tr("Rectangle fence"),
         tr("Press, drag, release: selects what lies in a rectangle of the view"),
         "rectangle",
         Qt::Key_R,
         {},
         Hand::Rectangle,
         false},
        {"select.polygon",
         tr("Polygon fence"),
         tr("Click corners, or hold the button to draw freehand; double click or Enter closes, Backspace "
            "takes one back, Esc drops it"),
         "polygon",
         Qt::Key_O,
         {},
         Hand::Polygon,
         false},
        {"select.freehand",
         tr("Freehand fence"),
         tr("Press, draw a loop, release"),
         "freehand",
         Qt::Key_N,
         {},
         Hand::Freehand,
         false},
        {"select.circle",
         tr("Circle fence"),
         tr("Press at the middle, drag to the rim, release"),
         "circle",
         Qt::Key_K,
         {},
         Hand::Circle,
         false},
        {"select.across", tr("Line across triangles"),
         tr("Press, draw a line, release: selects the triangles that it crosses. A click at an edge takes "
            "the triangles on both sides of it"),
         "across", Qt::Key_X, Qt::ShiftModifier, Hand::Across, false},
        {"select.brush",
         tr("Disc brush"),
         tr("Paint over the view; Ctrl+wheel sizes the disc"),
         "brush",
         Qt::Key_B,
         {},
         Hand::Brush,
         true},
        {"select.ball_brush", tr("Ball brush"),
         tr("Paint on what is seen: takes what lies near it in space; Ctrl+wheel sizes the ball"),
         "ball-brush", Qt::Key_B, Qt::ShiftModifier, Hand::BallBrush, false},
        {"select.ball",
         tr("Ball"),
         tr("Press on its middle, drag out its radius"),
         "ball",
         Qt::Key_U,
         {},
         Hand::Ball,
         true},
        {"select.cylinder",
         tr("Upright cylinder"),
         tr("Press on its axis, drag out its radius; it reaches from bottom to top"),
         "cylinder",
         Qt::Key_Y,
         {},
         Hand::Cylinder,
         false},
        {"select.box",
         tr("Box"),
         tr("Press on its middle, drag out half a side; then drag its faces, turn it by the handle beside "
            "it"),
         "box",
         Qt::Key_M,
         {},
         Hand::Box,
         false},
        {"select.plane",
         tr("Plane through three points"),
         tr("Click three places of the base; selects what lies above it, or below"),
         "plane",
         Qt::Key_T,
         {},
         Hand::Plane,
         false},
        {"select.painted_plane", tr("Plane from a painted patch"),
         tr("Paint over a flat surface: the plane through what was painted, strays aside; Ctrl+wheel sizes "
            "the brush"),
         "painted-plane", Qt::Key_J, Qt::ShiftModifier, Hand::PaintedPlane, false},
        {"select.level", tr("Level plane"), tr("Click a height; selects what lies above it, or below"),
         "level", Qt::Key_T, Qt::ShiftModifier, Hand::Level, false},
        {"view.section",
         tr("Section"),
         tr("Press at one end of a line, drag to the other: the strip along it opens below, seen from the "
            "side"),
         "section",
         Qt::Key_X,
         {},
         Hand::Section,
         true},
        {"view.line",
         tr("Line"),
         tr("Click places, Enter ends it, a click on the first closes it. Corners of the line in work are "
            "dragged; Ctrl+click takes one out, a double click between two puts one in"),
         "line",
         Qt::Key_J,
         {},
         Hand::Line,
         false},
        {"view.clip",
         tr("Clip box"),
         tr("Drag its faces, or turn it by the handle beside it; only its inside is shown, and tools touch "
            "nothing else"),
         "clip",
         Qt::Key_Z,
         {},
         Hand::Clip,
         false},
        {"view.pick",
         tr("Pick a point"),
         tr("Click a point: its coordinates, all its values, and the distance to the last one picked"),
         "pick",
         Qt::Key_I,
         {},
         Hand::Pick,
         false},
        {"select.region",
         tr("Region up to an angle"),
         tr("Press on a triangle and drag: the farther, the sharper the edges that the region spreads over"),
         "",
         none,
         {},
         Hand::Region,
         false},
        {"tools.relax",
         tr("Relax brush"),
         tr("Paint over a mesh: bumps under the brush even out; Ctrl+wheel sizes it, the strength is below"),
         "",
         none,
         {},
         Hand::Relax,
         true},
        {"tools.flatten",
         tr("Flatten brush"),
         tr("Paint over a mesh: what is under the brush moves towards the plane that fits it best"),
         "",
         none,
         {},
         Hand::Flatten,
         false},
        {"tools.rim_corner",
         tr("Corners of rims"),
         tr("Click two corners at the edges of holes; the card of holes shows what would be filled between "
            "them"),
         "",
         none,
         {},
         Hand::RimCorner,
         false}};
    for (const auto& t : tools) hand_ids_[t.hand] = QString::fromLatin1(t.id);
    for (const auto& t : tools)
        commands_.add({t.id,
                       t.title,
                       t.help,
                       t.icon,
                       QKeySequence(t.with | t.key),
                       t.group ? tr("-Tools") : tr("Tools"),
                       [this, hand = t.hand] { take_tool(hand); },
                       {},
                       [this, hand = t.hand] { return hand_ == hand; },
                       {}});
}

void MainWindow::take_tool(Hand hand) {
    hand_ = hand;
    auto fresh = make_tool(hand), fresh_section = make_tool(hand);
    stage_->set_tool(fresh.get());
    section_->stage().set_tool(fresh_section.get());
    tool_ = std::move(fresh);
    section_tool_ = std::move(fresh_section);
    panorama_->view().set_tool(nullptr);
    panorama_tool_ = hand <= Hand::Circle ? make_tool(hand) : nullptr;  // fences only
    panorama_->view().set_tool(panorama_tool_.get());
    if (hand == Hand::Clip) {
        const Box3 b = stage_->scene().robust_bounds();
        if (!b.empty())
            for (Tool* t : {tool_.get(), section_tool_.get()})
                static_cast<SolidTool*>(t)->set_solid(
                    Solid::of({(b.lo + b.hi) * 0.5, (b.hi - b.lo) * 0.5, 0}));
        follow_clip();
    }
    lives_.clear();
    follow_lines();
    card_->show_plane_settings(hand == Hand::Plane || hand == Hand::PaintedPlane || hand == Hand::Level);
    card_->show_brush_settings(hand == Hand::Relax || hand == Hand::Flatten);
    if (const Command* c = commands_.find(hand_id()))
        card_->set_tool(c->title,
                        tr("%1. Right drag turns the view, the wheel zooms, at any time.").arg(c->help));
    if (hand != Hand::Pick) {
        card_->set_picked({});
        last_pick_.reset();
    }
    commands_.refresh();
}

void MainWindow::connect_stage(Stage* stage) {
    connect(stage, &Stage::fence_closed, this,
            [this, stage](const select::Fence& f, Qt::KeyboardModifiers m) { close_fence(stage, f, m); });
    connect(stage, &Stage::stroke_step, this,
            [this, stage](const select::Fence& f, Qt::KeyboardModifiers m) { stroke_step(stage, f, m); });
    connect(stage, &Stage::stroke_ended, this, &MainWindow::stroke_ended);
    connect(stage, &Stage::shape_made, this,
            [this, stage](const SpaceShape& s, Qt::KeyboardModifiers m) { shape_made(stage, s, m); });
    connect(stage, &Stage::solid_changed, this, [this, stage](const Solid& s) { solid_changed(stage, s); });
    connect(stage, &Stage::line_dragged, this, &MainWindow::line_dragged);
    connect(stage, &Stage::line_let_go, this, &MainWindow::line_let_go);
    connect(stage, &Stage::line_drawn, this, &MainWindow::line_drawn);
    connect(stage, &Stage::refused, this, &MainWindow::say_refused);
    connect(stage, &Stage::pointed, status_, &StatusLine::set_position);
    connect(stage, &Stage::pointed_at, this, [this, stage](double x, double y) {
        say_value_at(stage, {x, y});
    });
}

site::Combine MainWindow::combine_for(Qt::KeyboardModifiers modifiers) const {
    if (modifiers & Qt::ShiftModifier) return site::Combine::Add;
    if (modifiers & Qt::ControlModifier) return site::Combine::TakeAway;
    return card_->combine();
}

ElementSet MainWindow::within_reach(const site::Site& s, const Stage* stage) const {
    const site::ItemPtr item = s.active_item();
    ElementSet set = among_removed_ ? site::eligible_removed(*item) : site::eligible(*item);
    if (stage == &section_->stage()) {
        const site::SetPtr strip = section_->strip_of(item->cloud.get());
        return strip ? set & *strip : ElementSet(item->cloud->size());
    }
    return set;
}

void MainWindow::finish_selecting(const site::ItemPtr& item, const ElementSet& set, site::Combine combine,
                                  const QString& empty, const site::Origin& origin, const Selected* before) {
    // The item may have been closed or exchanged meanwhile: then the result speaks of nothing.
    const site::ItemPtr now = document_->site()->active_item();
    if (!now || now->cloud != item->cloud)
        return say_refused(tr("The item in work changed meanwhile; the selection was dropped."));
    const QString title = combine == site::Combine::TakeAway ? tr("Take %1 from the selection")
                          : combine == site::Combine::Add    ? tr("Add %1 to the selection")
                                                             : tr("Select %1");
    document_->apply(title.arg(counted(*document_, set.count())), [&](const site::Site& now) {
        site::Site site = now;
        if (before) {
            site.selection = before->set;
            site.origin = before->origin;
        }
        return among_removed_ ? site::select_removed(site, set, combine, origin)
                              : site::select(site, set, combine, origin);
    });
    if (set.empty()) say_refused(empty.arg(QString::fromStdString(now->name)));
}

void MainWindow::close_fence(Stage* stage, const select::Fence& fence, Qt::KeyboardModifiers modifiers) {
    const site::SitePtr s = document_->site();
    const site::ItemPtr item = s->active_item();
    if (!item) return say_refused(tr("Open a scan first."));
    const site::Combine combine = combine_for(modifiers);
    const bool visible_only = card_->visible_only() && !among_removed_;
    const auto set = std::make_shared<ElementSet>();
    const auto scene = std::make_shared<const render::Scene>(stage->scene());
    const auto reach = std::make_shared<const ElementSet>(within_reach(*s, stage));
    const bool across = hand_ == Hand::Across;
    if (across && !item->cloud->triangles())
        return say_refused(tr("A line crosses triangles; the item in work is made of points. Take a fence."));
    if (across && fence.corners.size() < 2) return select_edge(stage, fence, modifiers);
    jobs_->start(
        tr("Selecting"),
        [=, options = fence_options()](Progress& p) mutable {
            render::Picture picture;
            std::vector<float> depths;
            select::DepthPicture seen;
            if (visible_only) {
                picture = render::render_picture(scene, fence.view);
                depths = picture.depths();
                seen = {picture.width, picture.height, depths};
                options.seen = &seen;
            }
            *set = across ? select::across_line(*item->cloud, fence.view, fence.corners, *reach, options, p)
                          : select::fence(*item->cloud, fence, *reach, options, p);
        },
        [this, set, item, combine, origin = hand_origin()] {
            finish_selecting(item, *set, combine, tr("The fence holds no points of %1."), origin);
        },
        {}, true);
}

select::FenceOptions MainWindow::fence_options() const {
    select::FenceOptions options;
    options.reach = card_->reach_of();
    options.towards_only = card_->towards_only();
    return options;
}

// The triangles on both sides of the edge that was clicked.
void MainWindow::select_edge(Stage* stage, const select::Fence& at, Qt::KeyboardModifiers modifiers) {
    constexpr double kWithin_px = 8;
    const site::SitePtr s = document_->site();
    const site::ItemPtr item = s->active_item();
    const auto id = stage->seen_at(at.corners[0]);
    if (!id) return say_refused(tr("There is no triangle here."));
    const render::Scene::PageRef ref = stage->scene().pages()[*id >> 16];
    if (stage->scene().items()[ref.item].id != item->id)
        return say_refused(tr("This triangle is not of the item in work."));
    const std::uint64_t t = std::uint64_t{ref.page} * kPageSize + (*id & 0xFFFFu);
    const auto edge = select::edge_near(*item->cloud, at.view, t, at.corners[0], kWithin_px);
    if (!edge) return say_refused(tr("Click nearer to an edge, or draw a line across the triangles."));
    ElementSet set(item->cloud->size());
    set.insert(t);
    const std::uint32_t o = cloud::adjacency_of(*item->cloud)->across[t][static_cast<std::size_t>(*edge)];
    if (o != topology::kNone) set.insert(o);
    finish_selecting(item, set & within_reach(*s, stage), combine_for(modifiers),
                     tr("The triangles at this edge of %1 are out or guarded."), hand_origin());
}

// Runs on this thread: a step touches few pages, and the eye wants to see it at once.
void MainWindow::stroke_step(Stage* stage, const select::Fence& fence, Qt::KeyboardModifiers modifiers) {
    const site::SitePtr s = document_->site();
    const site::ItemPtr item = s->active_item();
    if (!item) return;
    if (!stroke_) {
        stroke_ = std::make_shared<Stroke>();
        stroke_->item = item;
        stroke_->eligible = within_reach(*s, stage);
        stroke_->taken = ElementSet(item->cloud->size());
        stroke_->combine = combine_for(modifiers);
        stroke_->visible_only = card_->visible_only() && hand_ == Hand::Brush && !among_removed_;
        stroke_->picture = stage->picture();
        if (const auto& picture = stroke_->picture; stroke_->visible_only && picture) {
            stroke_->depths = picture->depths();
            stroke_->seen = {picture->width, picture->height, stroke_->depths};
        }
    }
    ElementSet step(item->cloud->size());
    if (mesh_stroke_step(stage, fence)) {
        // It knows what it took.
    } else if (hand_ == Hand::BallBrush) {
        const auto* brush = static_cast<const BrushTool*>(stage->tool());
        const auto place =
            stroke_->picture ? Stage::place_in(*stroke_->picture, brush->pointer()) : std::nullopt;
        if (!place) return;
        if (stroke_->ball_radius == 0)
            stroke_->ball_radius = brush->radius_px() / fence.view.pixels_per_unit(fence.view.depth(*place));
        step =
            select::in_ball(*item->cloud, *place, stroke_->ball_radius, stroke_->eligible, card_->reach_of());
    } else {
        select::FenceOptions options = fence_options();
        if (stroke_->visible_only) options.seen = &stroke_->seen;
        step = select::fence(*item->cloud, fence, stroke_->eligible, options);
    }
    stroke_->taken = stroke_->taken | step;
    // A glance at what the selection will be, without a commit.
    try {
        const site::SitePtr shown = among_removed_
                                        ? site::select_removed(*s, stroke_->taken, stroke_->combine)
                                        : site::select(*s, stroke_->taken, stroke_->combine);
        show_scene_of(shown);
    } catch (const Error& e) {
        say_refused(QString::fromStdString(e.what()));
    }
}

void MainWindow::stroke_ended() {
    if (!stroke_) return;
    const std::shared_ptr<Stroke> done = std::move(stroke_);
    if (hand_ == Hand::Relax || hand_ == Hand::Flatten) return mesh_stroke_ended(done);
    finish_selecting(done->item, done->taken, done->combine, tr("The brush met no points of %1."),
                     hand_origin());
    show_scene();
}

void MainWindow::select_shape(
    const QString& what, Stage* stage, Qt::KeyboardModifiers modifiers, const site::Origin& origin,
    std::function<ElementSet(const cloud::PointCloud&, const ElementSet&, Progress&)> shape) {
    const site::SitePtr s = document_->site();
    const site::ItemPtr item = s->active_item();
    if (!item) return say_refused(tr("Open a scan first."));
    const auto set = std::make_shared<ElementSet>();
    const auto reach = std::make_shared<const ElementSet>(within_reach(*s, stage));
    jobs_->start(
        tr("Selecting"), [=](Progress& p) { *set = shape(*item->cloud, *reach, p); },
        [this, set, item, what, origin, combine = combine_for(modifiers)] {
            finish_selecting(item, *set, combine,
                             tr("%1 holds no points of %2.").arg(what, QStringLiteral("%1")), origin);
        },
        {}, true);
}

}  // namespace pristine::app
