// The hand tools in the window: what they are, and what becomes of the shapes that they make.

#include <QFileDialog>
#include <QInputDialog>
#include <QMenu>
#include <QSettings>

#include <algorithm>
#include <cmath>

#include "app/panels/panorama_pane.h"
#include "app/panels/section_pane.h"
#include "app/panels/status_line.h"
#include "app/panels/work_card.h"
#include "app/shell/main_window.h"
#include "app/shell/theme.h"
#include "app/tools/fence_tools.h"
#include "app/tools/path_tools.h"
#include "app/tools/space_tools.h"
#include "core/io/fence_file.h"
#include "core/select/ground.h"
#include "core/select/growth.h"
#include "core/select/solid.h"
#include "render/renderer.h"

namespace pristine::app {

// A brush stroke as it grows: shown at once, committed when the button is let go.
struct MainWindow::Stroke {
    site::ItemPtr item;
    ElementSet eligible, taken;
    site::Combine combine = site::Combine::Add;
    std::vector<float> depths;
    select::DepthPicture seen;
    bool visible_only = false;
    double ball_radius = 0;  // world; of the ball brush, from the first place
};

namespace {

std::unique_ptr<Tool> make_tool(int hand) {
    switch (hand) {
        case 0:
            return std::make_unique<RectangleTool>();
        case 1:
            return std::make_unique<PolygonTool>();
        case 2:
            return std::make_unique<FreehandTool>();
        case 3:
            return std::make_unique<CircleTool>();
        case 4:
        case 5:
            return std::make_unique<BrushTool>();
        case 6:
            return std::make_unique<SpanTool>(SpaceShape::Kind::Ball);
        case 7:
            return std::make_unique<SpanTool>(SpaceShape::Kind::Cylinder);
        case 8:
            return std::make_unique<PointsTool>(SpaceShape::Kind::Plane, 3);
        case 9:
            return std::make_unique<PointsTool>(SpaceShape::Kind::Level, 1);
        case 10:
            return std::make_unique<SpanTool>(SpaceShape::Kind::Section);
        case 11:
            return std::make_unique<PointsTool>(SpaceShape::Kind::Pick, 1);
        default:
            return std::make_unique<BoxTool>();
    }
}

}  // namespace

void MainWindow::add_tool_commands() {
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
        {"select.plane",
         tr("Plane through three points"),
         tr("Click three places of the base; selects what lies above it, or below"),
         "plane",
         Qt::Key_T,
         {},
         Hand::Plane,
         false},
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
         false}};
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
    auto fresh = make_tool(static_cast<int>(hand)), fresh_section = make_tool(static_cast<int>(hand));
    stage_->set_tool(fresh.get());
    section_->stage().set_tool(fresh_section.get());
    tool_ = std::move(fresh);
    section_tool_ = std::move(fresh_section);
    panorama_->view().set_tool(nullptr);
    panorama_tool_ = hand <= Hand::Circle ? make_tool(static_cast<int>(hand)) : nullptr;  // fences only
    panorama_->view().set_tool(panorama_tool_.get());
    if (hand == Hand::Clip) {
        const Box3 b = stage_->scene().robust_bounds();
        if (!b.empty())
            for (Tool* t : {tool_.get(), section_tool_.get()})
                static_cast<BoxTool*>(t)->set_box({(b.lo + b.hi) * 0.5, (b.hi - b.lo) * 0.5, 0});
        follow_clip();
    }
    card_->show_plane_settings(hand == Hand::Plane || hand == Hand::Level);
    for (const Command& c : commands_.all())
        if (c.checked && c.menu.endsWith(tr("Tools")) && c.checked())
            card_->set_tool(c.title,
                            tr("%1. Right drag turns the view, the wheel zooms, at any time.").arg(c.help));
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
    connect(stage, &Stage::box_changed, this, [this](const select::Box& box) {
        const site::SitePtr s = document_->site();
        const site::ClipBox* now = s->clip_in_force();
        use_clip({now ? now->id : 0,
                  now ? now->name : tr("Clip box %1").arg(s->clips.size() + 1).toStdString(), box});
    });
    connect(stage, &Stage::refused, this, &MainWindow::say_refused);
    connect(stage, &Stage::pointed, status_, &StatusLine::set_position);
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
                                  const QString& empty) {
    // The item may have been closed or exchanged meanwhile: then the result speaks of nothing.
    const site::ItemPtr now = document_->site()->active_item();
    if (!now || now->cloud != item->cloud)
        return say_refused(tr("The item in work changed meanwhile; the selection was dropped."));
    const QString title = combine == site::Combine::TakeAway ? tr("Take %1 points from the selection")
                          : combine == site::Combine::Add    ? tr("Add %1 points to the selection")
                                                             : tr("Select %1 points");
    document_->apply(title.arg(grouped(set.count())), [&](const site::Site& site) {
        return among_removed_ ? site::select_removed(site, set, combine) : site::select(site, set, combine);
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
    jobs_->start(
        tr("Selecting"),
        [=](Progress& p) {
            select::FenceOptions options;
            render::Picture picture;
            std::vector<float> depths;
            select::DepthPicture seen;
            if (visible_only) {
                picture = render::render_picture(scene, fence.view);
                depths = picture.depths();
                seen = {picture.width, picture.height, depths};
                options.seen = &seen;
            }
            *set = select::fence(*item->cloud, fence, *reach, options, p);
        },
        [this, set, item, combine] {
            finish_selecting(item, *set, combine, tr("The fence holds no points of %1."));
        },
        {}, true);
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
        if (const auto picture = stage->picture(); stroke_->visible_only && picture) {
            stroke_->depths = picture->depths();
            stroke_->seen = {picture->width, picture->height, stroke_->depths};
        }
    }
    ElementSet step(item->cloud->size());
    if (hand_ == Hand::BallBrush) {
        const auto* brush = static_cast<const BrushTool*>(stage->tool());
        const PixelPoint middle = brush->pointer();
        if (!stage->seen_at(middle)) return;
        const Vec3 place = stage->anchor(middle);
        if (stroke_->ball_radius == 0)
            stroke_->ball_radius = brush->radius_px() / fence.view.pixels_per_unit(fence.view.depth(place));
        step = select::in_ball(*item->cloud, place, stroke_->ball_radius, stroke_->eligible);
    } else {
        select::FenceOptions options;
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
    finish_selecting(done->item, done->taken, done->combine, tr("The brush met no points of %1."));
    show_scene();
}

void MainWindow::select_shape(
    const QString& what, Stage* stage, Qt::KeyboardModifiers modifiers,
    std::function<ElementSet(const cloud::PointCloud&, const ElementSet&, Progress&)> shape) {
    const site::SitePtr s = document_->site();
    const site::ItemPtr item = s->active_item();
    if (!item) return say_refused(tr("Open a scan first."));
    const auto set = std::make_shared<ElementSet>();
    const auto reach = std::make_shared<const ElementSet>(within_reach(*s, stage));
    jobs_->start(
        tr("Selecting"), [=](Progress& p) { *set = shape(*item->cloud, *reach, p); },
        [this, set, item, what, combine = combine_for(modifiers)] {
            finish_selecting(item, *set, combine,
                             tr("%1 holds no points of %2.").arg(what, QStringLiteral("%1")));
        },
        {}, true);
}

void MainWindow::shape_made(Stage* stage, const SpaceShape& shape, Qt::KeyboardModifiers modifiers) {
    using Kind = SpaceShape::Kind;
    const std::vector<Vec3> at = shape.points;
    if (shape.kind == Kind::Pick) return pick(stage, shape);
    if (shape.kind == Kind::Section) {
        if (stage != stage_) return say_refused(tr("Draw the section line in the view above."));
        if (std::hypot(at[1].x - at[0].x, at[1].y - at[0].y) < 1e-6)
            return say_refused(
                tr("The line stands upright: draw it from another side, best from above (key 1)."));
        return section_->open(at[0], at[1], document_->site());
    }
    if (shape.kind == Kind::Ball) {
        const Vec3 d = at[1] - at[0];
        const double radius = std::sqrt(dot(d, d));
        return select_shape(tr("The ball"), stage, modifiers,
                            [=](const cloud::PointCloud& c, const ElementSet& e, Progress& p) {
                                return select::in_ball(c, at[0], radius, e, p);
                            });
    }
    if (shape.kind == Kind::Cylinder) {
        // Seen from the side, the drag is a radius too.
        const Vec3 d = at[1] - at[0];
        const double radius = std::sqrt(dot(d, d));
        return select_shape(tr("The cylinder"), stage, modifiers,
                            [=](const cloud::PointCloud& c, const ElementSet& e, Progress& p) {
                                return select::in_cylinder(c, at[0].x, at[0].y, radius, -INFINITY, INFINITY,
                                                           e, p);
                            });
    }
    select::HalfSpace plane{{0, 0, 1}, at[0].z};
    try {
        if (shape.kind == Kind::Plane) plane = select::plane_through(at[0], at[1], at[2]);
    } catch (const Error& e) {
        return say_refused(QString::fromStdString(e.what()));
    }
    // Below: n.p <= o - by. Above: -n.p <= -(o + by).
    const double by = card_->plane_offset();
    plane = card_->below_plane() ? select::HalfSpace{plane.normal, plane.offset - by}
                                 : select::HalfSpace{plane.normal * -1.0, -(plane.offset + by)};
    select_shape(tr("That side of the plane"), stage, modifiers,
                 [plane](const cloud::PointCloud& c, const ElementSet& e, Progress& p) {
                     return select::inside(c, {plane}, e, p);
                 });
}

void MainWindow::pick(Stage* stage, const SpaceShape& shape) {
    const auto id = stage->seen_at(shape.end);
    if (!id) return say_refused(tr("There is no point here."));
    const render::Scene::PageRef ref = stage->scene().pages()[*id >> 16];
    const render::DrawItem& item = stage->scene().items()[ref.item];
    const std::size_t in_page = *id & 0xFFFFu;
    const Vec3 w = item.cloud->position(std::uint64_t{ref.page} * kPageSize + in_page);
    const auto records = item.cloud->records();
    const cloud::RecordLayout& layout = records->layout();
    std::vector<std::byte> record(layout.record_bytes);
    const std::uint64_t number = item.cloud->order()->page(ref.page)[in_page];
    records->read(number, record);
    QString text =
        tr("E %1\nN %2\nH %3\n")
            .arg(QString::number(w.x, 'f', 4), QString::number(w.y, 'f', 4), QString::number(w.z, 'f', 4));
    if (last_pick_) {
        const Vec3 d = w - *last_pick_;
        text += tr("From the last: %1 (%2 in plan, %3 in height)\n")
                    .arg(QString::number(std::sqrt(dot(d, d)), 'f', 4),
                         QString::number(std::hypot(d.x, d.y), 'f', 4), QString::number(d.z, 'f', 4));
    }
    text += tr("Record %1 of %2\n").arg(grouped(number + 1), grouped(records->count()));
    int shown = 0;
    for (const cloud::Field& f : layout.fields) {
        if (f.name == "x" || f.name == "y" || f.name == "z") continue;
        if (++shown > 24) break;
        text += QStringLiteral("%1 %2%3").arg(QString::fromStdString(f.name),
                                              QString::number(value(f, record.data()), 'g', 10),
                                              shown % 2 ? QStringLiteral("   ") : QStringLiteral("\n"));
    }
    last_pick_ = w;
    card_->set_picked(text.trimmed());
}

// ---- growing, guarding, and the like
// ---------------------------------------------------------------------------

void MainWindow::grow(
    const QString& title,
    std::function<ElementSet(const cloud::PointCloud&, const ElementSet&, const ElementSet&, Progress&)>
        how) {
    const site::SitePtr s = document_->site();
    const site::ItemPtr item = s->active_item();
    const auto set = std::make_shared<ElementSet>();
    jobs_->start(
        title,
        [=](Progress& p) {
            *set = how(*item->cloud, *s->selection,
                       s->of_removed ? site::eligible_removed(*item) : site::eligible(*item), p);
        },
        [this, set, s, title] {
            if (document_->site()->selection != s->selection)
                return say_refused(tr("The selection changed meanwhile; nothing was added."));
            document_->apply(tr("%1: %2 points").arg(title, grouped(set->count())),
                             [&](const site::Site& site) {
                                 return site.of_removed ? site::select_removed(site, *set, site::Combine::New)
                                                        : site::select(site, *set, site::Combine::New);
                             });
        });
}

void MainWindow::guard_ground() {
    const site::SitePtr s = document_->site();
    const site::ItemPtr item = s->active_item();
    const double margin = card_->ground_margin();
    const std::string& unit = item->cloud->unit();
    const auto set = std::make_shared<ElementSet>();
    jobs_->start(
        tr("Looking for the ground"),
        [=](Progress& p) {
            select::GroundOptions options;
            options.metres_per_unit = unit == "ft" ? 0.3048 : unit == "usft" ? 1200.0 / 3937 : 1;
            const ElementSet shown = ~*item->absent;
            const select::GroundModel ground(*item->cloud, shown, options, p);
            *set = select::ground_guard(*item->cloud, ground, shown, margin, p);
        },
        [this, set, item, margin] {
            if (set->empty())
                return say_refused(tr("No ground was found: nothing level of three square metres or more."));
            document_->apply(
                tr("Guard %1 points of ground").arg(grouped(set->count())), [&](const site::Site& site) {
                    if (site.active != item->id)
                        throw Error(ErrorCode::Usage, "The item in work changed meanwhile");
                    return site::guard(
                        site, *set,
                        tr("Ground, up to %1 above it").arg(QString::number(margin, 'f', 2)).toStdString());
                });
        });
}

void MainWindow::close_panorama_fence(const Polygon& corners, Qt::KeyboardModifiers modifiers) {
    if (!panorama_->seen()) return say_refused(tr("The panorama is still being drawn."));
    const bool visible_only = card_->visible_only();
    select_shape(tr("The fence"), stage_, modifiers,
                 [corners, frame = panorama_->frame(), seen = panorama_->seen(), visible_only](
                     const cloud::PointCloud& c, const ElementSet& e, Progress& p) {
                     return select::panorama_fence(c, frame, corners, e, visible_only ? seen.get() : nullptr,
                                                   p);
                 });
}

void MainWindow::choose_lines() {
    const QString file = QFileDialog::getOpenFileName(
        this, tr("Closed lines"), QSettings().value("folder").toString(),
        tr("Lines (*.geojson *.json *.shp *.gpkg *.dxf *.xml *.txt *.xyz);;All files (*)"));
    if (!file.isEmpty()) select_lines(file.toStdString());
}

void MainWindow::select_lines(const std::filesystem::path& file) {
    select_shape(tr("The lines"), stage_, {},
                 [file](const cloud::PointCloud& c, const ElementSet& e, Progress& p) {
                     return select::plan_fence(c, io::read_rings(file), e, p);
                 });
}

void MainWindow::use_clip(const site::ClipBox& clip) {
    const site::SitePtr s = document_->site();
    const auto next = std::make_shared<site::SitePtr>();
    jobs_->start(
        tr("Clipping"), [=](Progress& p) { *next = site::use_clip(*s, clip, p); },
        [this, s, next] {
            if (document_->site() != s)
                return say_refused(tr("Something changed meanwhile; drag the box once more."));
            document_->apply(tr("Clip to a box"), [&](const site::Site&) { return *next; });
        },
        {}, true);
}

void MainWindow::follow_clip() {
    const site::ClipBox* now = document_->site()->clip_in_force();
    if (hand_ != Hand::Clip || !now) return;
    for (Tool* t : {tool_.get(), section_tool_.get()})
        if (!t->begun()) static_cast<BoxTool*>(t)->set_box(now->box);
    stage_->update();
    section_->stage().update();
}

void MainWindow::fill_clips() {
    clips_->clear();
    const site::SitePtr s = document_->site();
    for (const site::ClipBox& c : s->clips) {
        QAction* a = clips_->addAction(QString::fromStdString(c.name), this, [this, c] { use_clip(c); });
        a->setCheckable(true);
        a->setChecked(c.id == s->clip);
    }
    if (const site::ClipBox* now = s->clip_in_force()) {
        clips_->addSeparator();
        clips_->addAction(tr("Rename this box…"), this, [this, now = *now] {
            const QString name = QInputDialog::getText(this, tr("Clip box"), tr("Name"), QLineEdit::Normal,
                                                       QString::fromStdString(now.name))
                                     .trimmed();
            if (!name.isEmpty()) use_clip({now.id, name.toStdString(), now.box});
        });
        clips_->addAction(tr("Another box from this one"), this, [this, now = *now, n = s->clips.size()] {
            use_clip({0, tr("Clip box %1").arg(n + 1).toStdString(), now.box});
        });
        clips_->addAction(tr("Drop this box"), this, [this, id = s->clip] {
            document_->apply(tr("Drop a clip box"),
                             [&](const site::Site& site) { return site::drop_clip(site, id); });
        });
    }
    if (clips_->isEmpty()) clips_->addAction(tr("None yet: take the clip box tool"))->setEnabled(false);
}

QString MainWindow::needs_hidden() const {
    if (const QString why = needs_item(); !why.isEmpty()) return why;
    return document_->site()->active_item()->hidden ? QString() : tr("Nothing of this item is hidden.");
}

void MainWindow::add_more_select_commands() {
    const auto add = [this](const char* id, const QString& title, const QString& help, QKeySequence key,
                            const QString& menu, std::function<void()> run, std::function<QString()> why_not,
                            std::function<bool()> checked = {}) {
        commands_.add(
            {id, title, help, "", key, menu, std::move(run), std::move(why_not), std::move(checked), {}});
    };
    const auto selected = [this] { return needs_selection(); };
    add(
        "select.again", tr("The last selection again"), tr("Brings back what was selected before"),
        QKeySequence(Qt::CTRL | Qt::SHIFT | Qt::Key_I), tr("Select"),
        [this] { document_->apply(tr("The last selection again"), site::reselect); },
        [this] {
            return document_->site()->last_selection ? QString() : tr("Nothing was selected before.");
        });
    add(
        "select.grow", tr("Grow by one step"),
        tr("Adds what lies within one step of the selection; the work card has the step"),
        QKeySequence(Qt::Key_BracketRight), tr("-Select"),
        [this] {
            grow(tr("Grow"), [d = card_->reach()](auto& c, auto& s, auto& e, Progress& p) {
                return select::grown(c, s, e, d, p);
            });
        },
        selected);
    add(
        "select.shrink", tr("Shrink by one step"),
        tr("Takes off what lies within one step of points that are not selected"),
        QKeySequence(Qt::Key_BracketLeft), tr("Select"),
        [this] {
            grow(tr("Shrink"), [d = card_->reach()](auto& c, auto& s, auto& e, Progress& p) {
                return select::shrunk(c, s, e, d, p);
            });
        },
        selected);
    add(
        "select.connected", tr("Everything connected"),
        tr("Adds everything that is reached from the selection in steps"), QKeySequence(Qt::Key_C),
        tr("Select"),
        [this] {
            grow(tr("Connected"), [d = card_->reach()](auto& c, auto& s, auto& e, Progress& p) {
                return select::connected(c, s, e, {d, -1}, p);
            });
        },
        selected);
    add(
        "select.similar", tr("Everything connected of like colour"),
        tr("The same, but only from point to point of similar colour"), QKeySequence(Qt::SHIFT | Qt::Key_C),
        tr("Select"),
        [this] {
            grow(tr("Alike"), [d = card_->reach()](auto& c, auto& s, auto& e, Progress& p) {
                return select::connected(c, s, e, {d, 20}, p);
            });
        },
        selected);
    add(
        "select.lines", tr("Inside closed lines of a file…"),
        tr("Selects what lies inside the lines in plan: GeoJSON, Shapefile, GeoPackage, DXF, LandXML, or "
           "text with a corner on each line"),
        {}, tr("-Select"), [this] { choose_lines(); }, [this] { return needs_item(); });
    add(
        "select.keep", tr("Keep this selection under a name…"),
        tr("It stays with the item and can be used again at any time"), {}, tr("-Select"),
        [this] {
            bool ok = false;
            const QString name =
                QInputDialog::getText(this, tr("Keep the selection"), tr("Name"), QLineEdit::Normal, {}, &ok);
            if (ok)
                document_->apply(tr("Keep the selection as %1").arg(name), [&](const site::Site& s) {
                    return site::keep_selection(s, name.trimmed().toStdString());
                });
        },
        selected);
    add(
        "select.among_removed", tr("Select among what is out"),
        tr("Tools take ghosts, so that a part of what was removed can be put back"), QKeySequence(Qt::Key_Q),
        tr("-Select"),
        [this] {
            among_removed_ = !among_removed_;
            if (document_->site()->selection)
                document_->apply(tr("Drop the selection"), site::clear_selection);
            show_scene();
            commands_.refresh();
        },
        [this] { return among_removed_ ? QString() : needs_removed(); }, [this] { return among_removed_; });
}

void MainWindow::add_more_decide_commands() {
    const auto add = [this](const char* id, const QString& title, const QString& help, const QString& icon,
                            QKeySequence key, const QString& menu, std::function<void()> run,
                            std::function<QString()> why_not) {
        commands_.add({id, title, help, icon, key, menu, std::move(run), std::move(why_not), {}, {}});
    };
    const auto selected = [this] {
        return document_->site()->of_removed ? tr("What is selected is out: put it back first.")
                                             : needs_selection();
    };
    const auto apart = [this](bool move) {
        const QString name = tr("%1 part %2")
                                 .arg(QString::fromStdString(document_->site()->active_item()->name))
                                 .arg(document_->site()->items.size());
        document_->apply(move ? tr("Set %1 points apart").arg(grouped(document_->site()->selected()))
                              : tr("Set a copy apart"),
                         [&](const site::Site& s) { return site::set_apart(s, name.toStdString(), move); });
    };
    add(
        "decide.put_back", tr("Put the selection back"),
        tr("Brings the selected ghosts back; their ledger entries keep the rest"), "put-back",
        QKeySequence(Qt::CTRL | Qt::Key_B), tr("-Decide"),
        [this] {
            document_->apply(tr("Put %1 points back").arg(grouped(document_->site()->selected())),
                             [](const site::Site& s) { return site::put_back_selection(s); });
            if (needs_removed().isEmpty()) return;
            among_removed_ = false;
            show_scene();
            commands_.refresh();
        },
        [this] {
            return document_->site()->of_removed ? QString()
                                                 : tr("Select something among what is out first (Q).");
        });
    add(
        "decide.apart", tr("Set the selection apart"), tr("Moves the selection to an item of its own"),
        "apart", QKeySequence(Qt::Key_A), tr("-Decide"), [apart] { apart(true); }, selected);
    add(
        "decide.apart_copy", tr("Set a copy apart"),
        tr("An item of its own with the selection, which also stays where it is"), "", {}, tr("Decide"),
        [apart] { apart(false); }, selected);
    add(
        "decide.merge", tr("Merge what is shown into one item"),
        tr("A new item with what is shown of all visible ones, which stay in the contents, hidden"), "", {},
        tr("Decide"), [this] { document_->merge_shown(); },
        [this] {
            int visible = 0;
            for (const site::ItemPtr& i : document_->site()->items) visible += i->visible;
            return visible > 1 ? QString() : tr("Show at least two items.");
        });
    add(
        "decide.guard", tr("Guard the selection"), tr("No tool touches it until the guard is lifted"),
        "guard", QKeySequence(Qt::Key_W), tr("-Decide"),
        [this] {
            document_->apply(tr("Guard %1 points").arg(grouped(document_->site()->selected())),
                             [](const site::Site& s) { return site::guard(s, *s.selection, "Selection"); });
        },
        selected);
    add(
        "decide.guard_ground", tr("Guard the ground"),
        tr("Protects ground and floors, up to the margin of the work card above them"), "",
        QKeySequence(Qt::SHIFT | Qt::Key_W), tr("Decide"), [this] { guard_ground(); },
        [this] { return needs_item(); });
    add(
        "decide.lift_guards", tr("Lift the guards of this item"),
        tr("Everything of it may be selected and removed again"), "", {}, tr("Decide"),
        [this] {
            document_->apply(tr("Lift the guards"), [](const site::Site& s) {
                site::SitePtr next;
                for (const site::Guard& g : s.active_item()->guards)
                    next = site::lift_guard(next ? *next : s, s.active, g.id);
                return next;
            });
        },
        [this] {
            if (const QString why = needs_item(); !why.isEmpty()) return why;
            return document_->site()->active_item()->guarded ? QString()
                                                             : tr("Nothing of this item is guarded.");
        });
    add(
        "view.panorama", tr("Panorama from the station"),
        tr("Opens the scan as its scanner saw it, below; fences work in it. Without a known station it is "
           "drawn from where you stand"),
        "", QKeySequence(Qt::SHIFT | Qt::Key_P), tr("-View"),
        [this] {
            if (panorama_->is_open()) return panorama_->close_pane();
            panorama_->open(document_->site(), stage_->camera().eye, stage_->camera().yaw_deg);
        },
        [this] { return needs_item(); });
    add(
        "view.unclip", tr("Show what the clip box hides"),
        tr("The box stays in the list and can be used again"), "", QKeySequence(Qt::SHIFT | Qt::Key_Z),
        tr("-View"), [this] { document_->apply(tr("Without a clip box"), site::clear_clip); },
        [this] { return document_->site()->clip ? QString() : tr("No clip box is in force."); });
    add(
        "view.hide_selection", tr("Hide the selection"),
        tr("Hidden points are safe from every tool; nothing is removed"), "", QKeySequence(Qt::Key_H),
        tr("-View"),
        [this] {
            document_->apply(tr("Hide %1 points").arg(grouped(document_->site()->selected())),
                             site::hide_selection);
        },
        selected);
    add(
        "view.only_selection", tr("Show only the selection"), tr("Hides everything else of the item"), "",
        QKeySequence(Qt::SHIFT | Qt::Key_H), tr("View"),
        [this] {
            document_->apply(tr("Show only %1 points").arg(grouped(document_->site()->selected())),
                             site::show_only_selection);
        },
        selected);
    add(
        "view.show_all", tr("Show all of the item"), tr("Shows again what was hidden of it"), "",
        QKeySequence(Qt::CTRL | Qt::SHIFT | Qt::Key_H), tr("View"),
        [this] {
            document_->apply(tr("Show all"), [](const site::Site& s) { return site::show_all(s, s.active); });
        },
        [this] { return needs_hidden(); });
}

void MainWindow::fill_kept() {
    kept_->clear();
    const site::ItemPtr item = document_->site()->active_item();
    if (item)
        for (const site::KeptSelection& k : item->kept)
            kept_->addAction(
                tr("%1 (%2 points)").arg(QString::fromStdString(k.name), grouped(k.elements->count())), this,
                [this, id = k.id] {
                    document_->apply(tr("Use a kept selection"), [&](const site::Site& s) {
                        return site::use_kept(s, id, card_->combine());
                    });
                });
    if (kept_->isEmpty()) kept_->addAction(tr("None yet"))->setEnabled(false);
}

void MainWindow::fill_merge() {
    merge_->clear();
    const site::SitePtr s = document_->site();
    const site::ItemPtr item = s->active_item();
    for (const site::ItemPtr& other : s->items)
        if (item && other != item && other->cloud == item->cloud)
            merge_->addAction(
                QString::fromStdString(other->name), this,
                [this, into = other->id, from = item->id, name = other->name] {
                    document_->apply(
                        tr("Put it back into %1").arg(QString::fromStdString(name)),
                        [&](const site::Site& site) { return site::merge_items(site, into, from); });
                });
    if (merge_->isEmpty()) merge_->addAction(tr("No other piece of the same scan"))->setEnabled(false);
}

}  // namespace pristine::app
