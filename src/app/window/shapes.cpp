#include "app/window/shapes.h"

#include <QInputDialog>
#include <QMenu>
#include <cmath>

#include "app/cards/holes_card.h"
#include "app/cards/rule_card.h"
#include "app/cards/work_card.h"
#include "app/look/lengths.h"
#include "app/look/theme.h"
#include "app/model/document.h"
#include "app/model/jobs.h"
#include "app/panes/panorama_pane.h"
#include "app/panes/section_pane.h"
#include "app/tools/solid_tool.h"
#include "app/window/scene_view.h"
#include "app/window/status_line.h"
#include "core/cloud/triangles.h"
#include "core/select/solid.h"
#include "core/select/triangle_solid.h"
#include "render/renderer.h"

namespace pristine::app {

namespace {

// At most so many painted places are looked round.
constexpr std::size_t kMostPainted = 200;

double length(Vec3 v) {
    return std::sqrt(dot(v, v));
}

Solid plane_solid(Vec3 point, Vec3 normal, double patch) {
    Solid s;
    s.kind = Solid::Kind::Plane;
    s.centre = point;
    s.normal = normal * (1 / length(normal));
    s.radius = patch;
    return s;
}

QString spoken(Solid::Kind kind) {
    switch (kind) {
        case Solid::Kind::Ball:
            return Shapes::tr("The ball");
        case Solid::Kind::Cylinder:
            return Shapes::tr("The cylinder");
        case Solid::Kind::Box:
            return Shapes::tr("The box");
        case Solid::Kind::Plane:
            break;
    }
    return Shapes::tr("That side of the plane");
}

// What a solid takes. `by`: of a plane, how far from it a point must lie.
ElementSet taken(const Solid& s, double by, bool below, select::Reach reach, const cloud::PointCloud& c,
                 const ElementSet& e, Progress& p) {
    switch (s.kind) {
        case Solid::Kind::Ball:
            return select::in_ball(c, s.centre, s.radius, e, reach, p);
        case Solid::Kind::Cylinder:
            return select::in_cylinder(c, s.centre.x, s.centre.y, s.radius, s.bottom, s.top, e, reach, p);
        case Solid::Kind::Box:
            return select::inside(c, select::half_spaces(s.box()), e, reach, p);
        case Solid::Kind::Plane:
            break;
    }
    // Below: n.p <= o - by. Above: -n.p <= -(o + by).
    const double o = dot(s.normal, s.centre);
    return select::inside(
        c, {below ? select::HalfSpace{s.normal, o - by} : select::HalfSpace{s.normal * -1.0, -(o + by)}}, e,
        reach, p);
}

}  // namespace
Shapes::Shapes(Desk& desk) : HandyPart(desk), holes_(desk.find<HolesCard>()) {
    for (Stage* stage : {stage_, &section_->stage()}) {
        connect(stage, &Stage::shape_made, this,
                [this, stage](const SpaceShape& s, Qt::KeyboardModifiers m) { shape_made(stage, s, m); });
        connect(stage, &Stage::solid_changed, this,
                [this, stage](const Solid& s) { solid_changed(stage, s); });
    }
    connect(&panorama_->view(), &PanoramaView::picked, this, [this](const PixelPoint& at) {
        if (hand_.id() != ToolId::Pick) return;
        const auto seen = panorama_->seen_at(at);
        const site::ItemPtr item = seen ? document_->site()->item(seen->item) : nullptr;
        if (!item) return say_refused(tr("There is no point here."));
        show_values(item->id, *item->cloud, seen->element, item->cloud->position(seen->element));
    });
    connect(&hand_, &Hand::taken, this, &Shapes::tool_taken);
    connect(&desk_, &Desk::site_changed, this, [this] {
        follow_clip();
        follow_solid();
    });
    connect(card_, &WorkCard::plane_changed, this, &Shapes::plane_settings_changed);
}

void Shapes::add_commands() {
    add_iconed(
        "view.unclip", tr("Show what the clip box hides"),
        tr("The box stays in the list and can be used again"), "", QKeySequence(Qt::SHIFT | Qt::Key_Z),
        tr("-View"), [this] { document_->apply(tr("Without a clip box"), site::clear_clip); },
        [this] { return document_->site()->clip ? QString() : tr("No clip box is in force."); });
    commands_.add({"view.clip_open",
                   tr("Tools also touch what the clip box hides"),
                   tr("Off, as long as nobody wants it: what a tool takes outside the box is not seen"),
                   "",
                   {},
                   tr("View"),
                   [this] {
                       const bool open = !document_->site()->clip_in_force()->open;
                       document_->apply(open ? tr("Tools reach beyond the clip box")
                                             : tr("Tools stay inside the clip box"),
                                        [&](const site::Site& s) { return site::open_clip(s, open); });
                   },
                   [this] { return document_->site()->clip ? QString() : tr("No clip box is in force."); },
                   [this] {
                       const site::ClipBox* now = document_->site()->clip_in_force();
                       return now && now->open;
                   },
                   {}});
    add(
        "view.clip_wall", tr("Clip box against a wall…"),
        tr("Click a wall, a floor, a slope: the clip box turns until one of its faces lies on it"), {},
        tr("View"),
        [this] {
            hand_.pick_next(tr("Click a place of the wall."), [this](const Vec3& at) { clip_against(at); });
        },
        [this] { return document_->site()->clip ? QString() : tr("No clip box is in force."); });
    add_menu("view.clips", tr("Clip boxes"), tr("Clip boxes of this site: take one, rename it, drop it"),
             tr("View"), [this](QMenu* menu) { fill_clips(menu); });
}

void Shapes::shape_made(Stage* stage, const SpaceShape& shape, Qt::KeyboardModifiers modifiers) {
    using Kind = SpaceShape::Kind;
    const std::vector<Vec3>& at = shape.points;
    if (shape.kind == Kind::Pick && hand_.id() == ToolId::RimCorner)
        return holes_->pick(stage->frame(), shape.end);
    if (shape.kind == Kind::Pick && hand_.id() == ToolId::Single) return;  // pointing.h
    if (shape.kind == Kind::Mark) return;                                  // marks.h
    if (shape.kind == Kind::Pick) return pick(stage, shape);
    if (shape.kind == Kind::Section) {
        if (stage != stage_) return say_refused(tr("Draw the section line in the view above."));
        if (std::hypot(at[1].x - at[0].x, at[1].y - at[0].y) < 1e-6)
            return say_refused(
                tr("The line stands upright: draw it from another side, best from above (key 1)."));
        return section_->open(at[0], at[1], document_->site());
    }
    if (shape.kind == Kind::PaintedPlane) return fit_painted_plane(stage, shape, modifiers);
    const Box3 site_box = stage_->scene().robust_bounds();
    const double patch = site_box.empty() ? 1 : site_box.diagonal() / 8;
    Solid s;
    s.centre = at[0];
    if (shape.kind == Kind::Level) {
        s = plane_solid(at[0], {0, 0, 1}, patch);
    } else if (shape.kind == Kind::Plane) {
        try {
            const select::HalfSpace plane = select::plane_through(at[0], at[1], at[2]);
            s = plane_solid((at[0] + at[1] + at[2]) * (1.0 / 3), plane.normal, patch);
        } catch (const Error& e) {
            return say_refused(QString::fromStdString(e.what()));
        }
    } else {
        // Seen from the side, the drag is a radius too.
        s.radius = length(at[1] - at[0]);
        s.half = {s.radius, s.radius, s.radius};
        s.kind = shape.kind == Kind::Ball       ? Solid::Kind::Ball
                 : shape.kind == Kind::Cylinder ? Solid::Kind::Cylinder
                                                : Solid::Kind::Box;
        s.drawn_bottom = site_box.empty() ? at[0].z - s.radius : std::min(site_box.lo.z, at[0].z);
        s.drawn_top = site_box.empty() ? at[0].z + s.radius : std::max(site_box.hi.z, at[0].z);
    }
    select_solid(stage, s, hand_.combine_for(modifiers), hand_.selected_now());
}

void Shapes::fit_painted_plane(Stage* stage, const SpaceShape& shape, Qt::KeyboardModifiers modifiers) {
    const site::SitePtr s = document_->site();
    const site::ItemPtr item = s->active_item();
    if (!item) return say_refused(tr("Open a scan first."));
    const auto reach = std::make_shared<const ElementSet>(hand_.within_reach(*item, stage));
    const auto plane = std::make_shared<std::optional<FittedPlane>>();
    jobs_->start(
        tr("Fitting the plane"),
        [item, shape, reach, plane](Progress& p) {
            ElementSet painted(item->cloud->size());
            const std::size_t step = shape.points.size() / kMostPainted + 1;
            for (std::size_t i = 0; i < shape.points.size(); i += step)
                painted = painted | select::in_ball(*item->cloud, shape.points[i], shape.radius, *reach, p);
            *plane = select::fitted_plane(*item->cloud, painted);
        },
        [this, stage, plane, modifiers] {
            if (!*plane)
                return say_refused(
                    tr("What was painted spans no plane: paint a wider patch of the surface."));
            const Box3 b = stage_->scene().robust_bounds();
            const Lengths l(*document_->site());
            status_->say(tr("The plane fits what was painted to %1").arg(l.text((*plane)->rms, 2)), false);
            select_solid(stage,
                         plane_solid((*plane)->point, (*plane)->normal, b.empty() ? 1 : b.diagonal() / 8),
                         hand_.combine_for(modifiers), hand_.selected_now());
        },
        {}, Jobs::Show::IfLong);
}

site::Origin Shapes::solid_origin(const Solid& solid) const {
    site::Origin origin = hand_.hand_origin();
    if (solid.kind == Solid::Kind::Plane) {
        site::Settings& settings = origin.cause.acts.front().settings;
        settings["by"] = card_->plane_offset();
        settings["below"] = card_->below_plane();
    }
    return origin;
}

// Both views show the shape and its handles.
void Shapes::show_solid(const std::optional<Solid>& solid) {
    for (Tool* t : hand_.tools())
        if (auto* s = dynamic_cast<SolidTool*>(t); s && !s->begun()) s->set_solid(solid);
    stage_->update();
    section_->stage().update();
}

void Shapes::select_solid(Stage* stage, const Solid& solid, site::Combine combine,
                          const Hand::Selected& before) {
    const site::SitePtr s = document_->site();
    if (!s->active_item()) return say_refused(tr("Open a scan first."));
    show_solid(solid);
    hand_.select_in(
        hand_.targets(*s, stage),
        [solid, by = card_->plane_offset(), below = card_->below_plane(), how = card_->reach_of()](
            const cloud::PointCloud& c, const ElementSet& e, Progress& p) {
            return taken(solid, by, below, how, c, e, p);
        },
        {combine, tr("%1 holds no points of %2.").arg(spoken(solid.kind), QStringLiteral("%1")),
         solid_origin(solid), before},
        [this, solid, combine, before, stage] {
            lives_.push_back({document_->site()->selection, before, solid, combine, stage});
            follow_solid();
        });
}

// Its handles were dragged: what it took before gives way to what it takes now.
void Shapes::solid_changed(Stage* stage, const Solid& solid) {
    if (hand_.id() == ToolId::Clip) {
        const site::SitePtr s = document_->site();
        const site::ClipBox* now = s->clip_in_force();
        return use_clip({now ? now->id : 0,
                         now ? now->name : tr("Clip box %1").arg(s->clips.size() + 1).toStdString(),
                         solid.box(), now && now->open});
    }
    const ShapeSelection* live = live_now();
    select_solid(live ? live->stage : stage, solid, live ? live->combine : hand_.combine_for({}),
                 live ? live->before : hand_.selected_now());
}

const Shapes::ShapeSelection* Shapes::live_now() const {
    const site::Parts& now = document_->site()->selection;
    for (auto l = lives_.rbegin(); l != lives_.rend(); ++l)
        if (l->selection == now) return &*l;
    return nullptr;
}

// After every change: the handles are at the shape that made the present selection, also after undo.
void Shapes::follow_solid() {
    if (hand_.id() == ToolId::Clip || lives_.empty()) return;
    const ShapeSelection* live = live_now();
    show_solid(live ? std::optional(live->solid) : std::nullopt);
}

void Shapes::plane_settings_changed() {
    const ShapeSelection* live = live_now();
    if (live && live->solid.kind == Solid::Kind::Plane)
        select_solid(live->stage, live->solid, live->combine, live->before);
}

void Shapes::use_clip(const site::ClipBox& clip) {
    const site::SitePtr s = document_->site();
    const auto next = std::make_shared<site::SitePtr>();
    jobs_->start(
        tr("Clipping"), [=](Progress& p) { *next = site::use_clip(*s, clip, p); },
        [this, s, next] {
            if (document_->site() != s)
                return say_refused(tr("Something changed meanwhile; drag the box once more."));
            document_->apply(tr("Clip to a box"), [&](const site::Site&) { return *next; });
        },
        {}, Jobs::Show::IfLong);
}

// The plane of what is seen round the place; a circle of 0.25 m that is doubled until it holds enough.
void Shapes::clip_against(const Vec3& at) {
    constexpr std::uint64_t kEnough = 60;
    constexpr double kFirst = 0.25, kLast = 4;  // metres
    const site::SitePtr s = document_->site();
    const site::ClipBox* now = s->clip_in_force();
    if (!now) return;
    const double metre = 1 / Lengths(*s).data_metres();
    for (double r = kFirst; r <= kLast; r *= 2)
        for (const site::ItemPtr& item : s->items) {
            if (!item->visible) continue;
            const ElementSet near = select::in_ball(*item->cloud, at, r * metre, ~*item->absent);
            const auto plane = near.count() >= kEnough ? select::fitted_plane(*item->cloud, near)
                                                       : std::optional<FittedPlane>();
            if (plane) return use_clip({now->id, now->name, select::against(now->box, *plane), now->open});
        }
    say_refused(tr("Too little lies round this place to tell a plane."));
}

void Shapes::follow_clip() {
    const site::ClipBox* now = document_->site()->clip_in_force();
    if (hand_.id() != ToolId::Clip || !now) return;
    for (Tool* t : hand_.tools())
        if (!t->begun()) static_cast<SolidTool*>(t)->set_solid(Solid::of(now->box));
    stage_->update();
    section_->stage().update();
}

void Shapes::fill_clips(QMenu* menu) {
    const site::SitePtr s = document_->site();
    for (const site::ClipBox& c : s->clips) {
        QAction* a = menu->addAction(QString::fromStdString(c.name), this, [this, c] { use_clip(c); });
        a->setCheckable(true);
        a->setChecked(c.id == s->clip);
    }
    if (const site::ClipBox* now = s->clip_in_force()) {
        menu->addSeparator();
        menu->addAction(tr("Rename this box…"), this, [this, now = *now] {
            const QString name = QInputDialog::getText(window_, tr("Clip box"), tr("Name"), QLineEdit::Normal,
                                                       QString::fromStdString(now.name))
                                     .trimmed();
            if (!name.isEmpty()) use_clip({now.id, name.toStdString(), now.box, now.open});
        });
        menu->addAction(tr("Another box from this one"), this, [this, now = *now, n = s->clips.size()] {
            use_clip({0, tr("Clip box %1").arg(n + 1).toStdString(), now.box, now.open});
        });
        menu->addAction(tr("Drop this box"), this, [this, id = s->clip] {
            document_->apply(tr("Drop a clip box"),
                             [&](const site::Site& site) { return site::drop_clip(site, id); });
        });
    }
    if (menu->isEmpty()) menu->addAction(tr("None yet: take the clip box tool"))->setEnabled(false);
}

void Shapes::pick(Stage* stage, const SpaceShape& shape) {
    const auto id = stage->seen_at(shape.end);
    if (!id) return say_refused(tr("There is no point here."));
    const render::Scene::PageRef ref = stage->scene().pages()[*id >> 16];
    const render::DrawItem& item = stage->scene().items()[ref.item];
    // Of a triangle the place that was clicked, not its middle.
    const std::uint64_t element = std::uint64_t{ref.page} * kPageSize + (*id & 0xFFFFu);
    show_values(item.id, *item.cloud, element,
                item.cloud->triangles() ? stage->anchor(shape.end) : item.cloud->position(element));
}

void Shapes::show_values(std::uint64_t item, const cloud::PointCloud& cloud, std::uint64_t element,
                         const Vec3& w) {
    const auto records = cloud.records();
    const cloud::RecordLayout& layout = records->layout();
    std::vector<std::byte> record(layout.record_bytes);
    const std::uint64_t number = cloud.order()->page(element / kPageSize)[element % kPageSize];
    records->read(number, record);
    const site::ItemPtr owner = document_->site()->item(item);
    const Lengths l(*document_->site(), owner.get());
    QString text =
        tr("E %1\nN %2\nH %3\n").arg(l.coordinate(w.x, 2), l.coordinate(w.y, 2), l.coordinate(w.z, 2));
    if (last_pick_) {
        const Vec3 d = w - *last_pick_;
        text += tr("From the last: %1 (%2 in plan, %3 in height)\n")
                    .arg(l.text(std::sqrt(dot(d, d)), 2), l.text(std::hypot(d.x, d.y), 2), l.text(d.z, 2));
    }
    text += tr("Record %1 of %2\n").arg(grouped(number + 1), grouped(records->count()));
    int shown = 0;
    for (const cloud::Field& f : layout.fields) {
        if (f.name == "x" || f.name == "y" || f.name == "z") continue;
        if (++shown > 24) break;
        const double v = value(f, record.data());
        text += QStringLiteral("%1 %2%3").arg(
            QString::fromStdString(f.name),
            f.words ? QString::fromStdString(word_of(f, v)) : QString::number(v, 'g', 10),
            shown % 2 ? QStringLiteral("   ") : QStringLiteral("\n"));
    }
    if (item == document_->site()->active)
        if (const QString why = rule_->value_of(element); !why.isEmpty()) text = why + "\n" + text;
    last_pick_ = w;
    card_->set_picked(text.trimmed());
}

void Shapes::tool_taken(ToolId id) {
    if (id == ToolId::Clip) {
        const Box3 b = stage_->scene().robust_bounds();
        if (!b.empty())
            for (Tool* t : hand_.tools())
                static_cast<SolidTool*>(t)->set_solid(
                    Solid::of({(b.lo + b.hi) * 0.5, (b.hi - b.lo) * 0.5, 0}));
        follow_clip();
    }
    lives_.clear();
    if (id == ToolId::Pick) return;
    card_->set_picked({});
    last_pick_.reset();
}

}  // namespace pristine::app
