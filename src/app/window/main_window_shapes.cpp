// What becomes of the shapes in space and the lines that hand tools make.

#include <QFileDialog>
#include <QSettings>
#include <cmath>

#include "app/cards/align_card.h"
#include "app/cards/holes_card.h"
#include "app/cards/mesh_card.h"
#include "app/cards/rule_card.h"
#include "app/cards/surface_card.h"
#include "app/cards/work_card.h"
#include "app/look/lengths.h"
#include "app/look/theme.h"
#include "app/model/live_surface.h"
#include "app/panes/section_pane.h"
#include "app/tools/line_tool.h"
#include "app/tools/solid_tool.h"
#include "app/window/main_window.h"
#include "app/window/notice.h"
#include "app/window/status_line.h"
#include "core/cloud/triangles.h"
#include "core/io/grid/orthophoto_reader.h"
#include "core/io/lines/lines.h"
#include "core/io/mesh/mesh_cloud.h"
#include "core/measure/contours.h"
#include "core/select/fence.h"
#include "core/select/solid.h"
#include "core/select/triangle_growth.h"
#include "core/select/triangle_solid.h"
#include "core/site/surface_source.h"
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
            return MainWindow::tr("The ball");
        case Solid::Kind::Cylinder:
            return MainWindow::tr("The cylinder");
        case Solid::Kind::Box:
            return MainWindow::tr("The box");
        case Solid::Kind::Plane:
            break;
    }
    return MainWindow::tr("That side of the plane");
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

void MainWindow::shape_made(Stage* stage, const SpaceShape& shape, Qt::KeyboardModifiers modifiers) {
    using Kind = SpaceShape::Kind;
    const std::vector<Vec3>& at = shape.points;
    if (shape.kind == Kind::Pick && tool_id_ == ToolId::RimCorner)
        return holes_->pick(stage->frame(), shape.end);
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
    select_solid(stage, s, combine_for(modifiers), selected_now());
}

void MainWindow::fit_painted_plane(Stage* stage, const SpaceShape& shape, Qt::KeyboardModifiers modifiers) {
    const site::SitePtr s = document_->site();
    const site::ItemPtr item = s->active_item();
    if (!item) return say_refused(tr("Open a scan first."));
    const auto reach = std::make_shared<const ElementSet>(within_reach(*s, stage));
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
                         combine_for(modifiers), selected_now());
        },
        {}, Jobs::Show::IfLong);
}

site::Origin MainWindow::solid_origin(const Solid& solid) const {
    site::Origin origin = hand_origin();
    if (solid.kind == Solid::Kind::Plane) {
        site::Settings& settings = origin.cause.acts.front().settings;
        settings["by"] = card_->plane_offset();
        settings["below"] = card_->below_plane();
    }
    return origin;
}

// Both views show the shape and its handles.
void MainWindow::show_solid(const std::optional<Solid>& solid) {
    for (Tool* t : {tool_.get(), section_tool_.get()})
        if (auto* s = dynamic_cast<SolidTool*>(t); s && !s->begun()) s->set_solid(solid);
    stage_->update();
    section_->stage().update();
}

void MainWindow::select_solid(Stage* stage, const Solid& solid, site::Combine combine,
                              const Selected& before) {
    const site::SitePtr s = document_->site();
    const site::ItemPtr item = s->active_item();
    if (!item) return say_refused(tr("Open a scan first."));
    show_solid(solid);
    const auto set = std::make_shared<ElementSet>();
    const auto reach = std::make_shared<const ElementSet>(within_reach(*s, stage));
    jobs_->start(
        tr("Selecting"),
        [=, by = card_->plane_offset(), below = card_->below_plane(), how = card_->reach_of()](Progress& p) {
            *set = taken(solid, by, below, how, *item->cloud, *reach, p);
        },
        [this, set, item, solid, combine, before, stage, origin = solid_origin(solid)] {
            finish_selecting(item, *set, combine,
                             tr("%1 holds no points of %2.").arg(spoken(solid.kind), QStringLiteral("%1")),
                             origin, &before);
            lives_.push_back({document_->site()->selection, before, solid, combine, stage});
            follow_solid();
        },
        {}, Jobs::Show::IfLong);
}

// Its handles were dragged: what it took before gives way to what it takes now.
void MainWindow::solid_changed(Stage* stage, const Solid& solid) {
    if (tool_id_ == ToolId::Clip) {
        const site::SitePtr s = document_->site();
        const site::ClipBox* now = s->clip_in_force();
        return use_clip({now ? now->id : 0,
                         now ? now->name : tr("Clip box %1").arg(s->clips.size() + 1).toStdString(),
                         solid.box()});
    }
    const Live* live = live_now();
    select_solid(live ? live->stage : stage, solid, live ? live->combine : combine_for({}),
                 live ? live->before : selected_now());
}

const MainWindow::Live* MainWindow::live_now() const {
    const site::SetPtr now = document_->site()->selection;
    for (auto l = lives_.rbegin(); l != lives_.rend(); ++l)
        if (l->selection == now) return &*l;
    return nullptr;
}

// After every change: the handles are at the shape that made the present selection, also after undo.
void MainWindow::follow_solid() {
    if (tool_id_ == ToolId::Clip || lives_.empty()) return;
    const Live* live = live_now();
    show_solid(live ? std::optional(live->solid) : std::nullopt);
}

void MainWindow::plane_settings_changed() {
    const Live* live = live_now();
    if (live && live->solid.kind == Solid::Kind::Plane)
        select_solid(live->stage, live->solid, live->combine, live->before);
}

void MainWindow::line_dragged(const DrawnLine& drawn) {
    const site::LinePtr old = document_->site()->line(drawn.id);
    if (!old || rule_->is_open()) return;
    site::Line line = *old;
    line.points = drawn.points;
    live_->drag(line);
}

void MainWindow::line_let_go() {
    live_->stop();
    // Nothing changes: then the old surface is shown again; line_drawn follows at once when something does.
    QTimer::singleShot(0, this, [this, before = document_->site()] {
        if (ahead_ && document_->site() == before) {
            ahead_ = nullptr;
            show_scene();
        }
    });
}

void MainWindow::line_drawn(const DrawnLine& drawn) {
    const site::SitePtr s = document_->site();
    const site::LinePtr old = s->line(drawn.id);
    site::Line line = old ? *old : site::Line{};
    line.points = drawn.points;
    line.closed = drawn.closed;
    if (!old) line.name = tr("Line %1").arg(s->lines.size() + 1).toStdString();
    const site::SitePtr seen = ahead_;
    if (!document_->apply(old ? tr("Change %1").arg(QString::fromStdString(line.name))
                              : tr("Draw %1").arg(QString::fromStdString(line.name)),
                          [&](const site::Site& site) { return site::put_lines(site, {line}); }))
        return;
    line_in_work_ = old ? old->id : document_->site()->lines.back()->id;
    if (seen) {
        // What was seen while it was dragged stays until the surface is built.
        ahead_ = seen;
        ahead_of_ = document_->site();
        show_scene();
    }
    follow_lines();
    if (old) follow_surfaces(old->id);
}

// Surfaces that follow a line, or end there, are built again at once; large ones say that they are out of
// date.
void MainWindow::follow_surfaces(std::uint64_t line) {
    const site::SitePtr s = document_->site();
    for (const site::ItemPtr& i : followers(*s, line)) {
        const site::SourcePtr source = site::with_lines_of(*i->source, *s);
        if (!source) continue;
        const QString name = QString::fromStdString(i->name);
        if (source->definition.points.size() > LiveSurface::kMostPoints) {
            status_->say(tr("%1 is out of date: build it again by Tools › New surface.").arg(name), true);
            continue;
        }
        surface_->build_again(i->id, source, tr("%1 follows its line").arg(name));
    }
}

void MainWindow::line_round() {
    const site::ItemPtr item = document_->site()->active_item();
    if (!item || !item->cloud->triangles()) return;
    const surface::Rings rings = surface::boundary_of(io::mesh_of(*item->cloud, ~*item->absent));
    std::vector<site::Line> lines;
    for (const auto& ring : rings) {
        double area = 0;
        for (std::size_t i = 0; i < ring.size(); ++i) {
            const Vec3 p = ring[i] - ring[0], q = ring[(i + 1) % ring.size()] - ring[0];
            area += p.x * q.y - p.y * q.x;
        }
        const std::string name = (area < 0 ? tr("Hole in %1") : tr("Rim of %1"))
                                     .arg(QString::fromStdString(item->name))
                                     .toStdString();
        lines.push_back({0, name, ring, true, true});
    }
    if (lines.empty()) return say_refused(tr("The surface has no rim."));
    document_->apply(tr("Line round %1").arg(QString::fromStdString(item->name)),
                     [&](const site::Site& s) { return site::put_lines(s, std::move(lines)); });
}

// A rod height typed wrongly: the points whose triangles are all selected leave the definition.
void MainWindow::drop_points() {
    const site::SitePtr s = document_->site();
    const site::ItemPtr item = s->active_item();
    if (!item || !item->source || !s->selection) return;
    const auto [source, count] = site::without_points(*item, *s->selection);
    if (count == 0)
        return say_refused(
            tr("No point has all of its triangles selected: select every triangle round it. Points of lines "
               "are moved, not dropped."));
    surface_->build_again(item->id, source, tr("Drop %n point(s)", "", static_cast<int>(count)));
}

// Round the hole, or the outer rim, that is nearest to the selection.
void MainWindow::select_round_rim() {
    grow("select.rim", tr("Round the rim"), {},
         [](const cloud::PointCloud& c, const ElementSet& s, const ElementSet& e, Progress& p) {
             ElementSet all = s;
             std::uint64_t first = s.size();
             for (std::size_t page = 0; page < s.page_count() && first == s.size(); ++page)
                 s.for_each_in_page(page, [&](std::size_t i) {
                     first = std::min<std::uint64_t>(first, page * kPageSize + i);
                 });
             return first < s.size() ? all | select::round_rim(c, first, e, p) : all;
         });
}

void MainWindow::choose_drape(std::uint64_t item) {
    const QString file = QFileDialog::getOpenFileName(
        this, tr("Picture of the ground"), QSettings().value("folder").toString(),
        tr("Pictures with a place (*.tif *.tiff *.jp2 *.png *.jpg);;All files (*)"));
    if (!file.isEmpty()) drape(item, file.toStdString());
}

void MainWindow::drape(std::uint64_t item, const std::filesystem::path& file) {
    const auto picture = std::make_shared<std::shared_ptr<const surface::Orthophoto>>();
    jobs_->start(
        tr("Reading the picture"), [=](Progress& p) { *picture = io::read_orthophoto(file, 50'000'000, p); },
        [this, picture, item, file] {
            document_->apply(tr("Drape %1").arg(QString::fromStdString(file.filename().string())),
                             [&](const site::Site& s) { return site::set_drape(s, item, *picture); });
        },
        [this](const QString& why) { say_refused(why); });
}

// Of the surface in work; made anew only when what is shown of it changed.
const std::vector<std::vector<Vec3>>& MainWindow::arrows_now() {
    const site::ItemPtr item = document_->site()->active_item();
    const bool surface = item && item->visible && cloud::is_surface(*item->cloud);
    const site::SetPtr absent = surface ? item->absent : nullptr;
    if (absent != arrows_of_) {
        arrows_of_ = absent;
        arrows_ = absent ? measure::slope_arrows(io::mesh_of(*item->cloud, ~*absent), 600)
                         : std::vector<std::vector<Vec3>>();
    }
    return arrows_;
}

std::uint64_t MainWindow::outline_in_work() const {
    const site::SitePtr s = document_->site();
    if (const site::LinePtr l = s->line(line_in_work_); l && l->closed) return l->id;
    for (auto l = s->lines.rbegin(); l != s->lines.rend(); ++l)
        if ((*l)->closed && (*l)->visible) return (*l)->id;
    return 0;
}

// The closed line is the outline; what else is shown inside it becomes lines that the new triangles follow.
void MainWindow::replace_inside(std::uint64_t id) {
    const site::SitePtr s = document_->site();
    const site::ItemPtr item = s->active_item();
    const site::LinePtr outline = s->line(id);
    if (!item || !outline) return;
    std::vector<site::LinePtr> lines;
    for (const site::LinePtr& l : s->lines)
        if (l->visible && l->id != id) lines.push_back(l);
    try {
        const site::SourcePtr source = site::with_patch(*site::source_of(*item), *outline, lines);
        const auto along = static_cast<int>(source->definition.patches.back().lines.size());
        surface_->build_again(item->id, source, tr("Replace a part along %n line(s)", "", along));
    } catch (const Error& e) {
        say_refused(QString::fromStdString(e.what()));
    }
}

void MainWindow::edit_line(std::uint64_t id) {
    line_in_work_ = id;
    take_tool(ToolId::Line);
}

// After every change: the lines that are shown, and the corners of the one in work.
void MainWindow::follow_lines() {
    const site::SitePtr s = document_->site();
    const site::LinePtr in_work = tool_id_ == ToolId::Line ? s->line(line_in_work_) : nullptr;
    for (Tool* t : {tool_.get(), section_tool_.get()})
        if (auto* tool = dynamic_cast<LineTool*>(t); tool && !tool->begun())
            tool->set_line(in_work ? std::optional(DrawnLine{in_work->id, in_work->points, in_work->closed})
                                   : std::nullopt);
    std::vector<Stage::Guide> shown;
    for (const site::LinePtr& l : s->lines) {
        if (!l->visible || l == in_work) continue;
        shown.push_back({l->points, QString::fromStdString(l->label), l->thick});
        if (l->closed) shown.back().points.push_back(l->points.front());
    }
    section_->stage().set_guides(shown);
    if (section_->is_open()) shown.push_back({section_->outline()});
    for (auto& l : rule_->limit_lines()) shown.push_back({std::move(l)});
    if (slope_arrows_)
        for (const auto& l : arrows_now()) shown.push_back({l});
    for (auto& l : holes_->guides()) shown.push_back({std::move(l)});
    for (auto& l : surface_->guides()) shown.push_back({std::move(l)});
    for (auto& l : mesh_->guides()) shown.push_back({std::move(l)});
    for (auto& l : align_->guides()) shown.push_back({std::move(l)});
    stage_->set_guides(std::move(shown));
}

void MainWindow::fly_to_line(std::uint64_t id) {
    const site::LinePtr line = document_->site()->line(id);
    if (!line) return;
    Box3 box;
    for (const Vec3& p : line->points) box.add(p);
    stage_->look_at(box);
}

void MainWindow::choose_lines_to_add() {
    const QString file =
        QFileDialog::getOpenFileName(this, tr("Add lines"), QSettings().value("folder").toString(),
                                     tr("Lines (*.geojson *.json *.shp *.gpkg *.dxf *.xml);;All files (*)"));
    if (!file.isEmpty()) add_lines(file.toStdString());
}

namespace {
constexpr std::size_t kFewLines = 12;  // so many are listed one by one
}  // namespace

void MainWindow::add_lines(const std::filesystem::path& file, bool if_any) {
    const auto lines = std::make_shared<std::vector<io::MapLine>>();
    const auto note = std::make_shared<std::string>();
    jobs_->start(
        tr("Reading lines"),
        [=, wanted = site::reference_of(*document_->site())](Progress&) {
            try {
                io::PlacedLines placed = io::read_lines_in(file, wanted);
                *lines = std::move(placed.lines);
                *note = std::move(placed.note);
            } catch (const Error&) {
                if (!if_any) throw;
            }
        },
        [this, lines, note, file] {
            if (lines->empty()) return;
            std::vector<site::Line> fresh;
            const std::string name = file.stem().string();
            for (std::size_t i = 0; i < lines->size(); ++i) {
                io::MapLine& l = (*lines)[i];
                std::string own = l.layer.empty() ? name : l.layer;
                if (lines->size() > 1) own.append(" ").append(std::to_string(i + 1));
                fresh.push_back({0, std::move(own), std::move(l.points), l.closed, true});
                if (lines->size() > kFewLines) fresh.back().group = name;
            }
            document_->apply(tr("Add %1 lines of %2").arg(fresh.size()).arg(QString::fromStdString(name)),
                             [&](const site::Site& s) { return site::put_lines(s, std::move(fresh)); });
            if (!note->empty())
                notice_->show_text(
                    tr("The lines of %1 were %2. Undo takes them away again.")
                        .arg(QString::fromStdString(file.filename().string()), QString::fromStdString(*note)),
                    false);
        });
}

// In plan: of the line in work if it is closed, else of all closed lines that are shown.
void MainWindow::select_inside_lines(std::uint64_t only) {
    const site::SitePtr s = document_->site();
    std::vector<Polygon> rings;
    std::vector<std::string> names;
    for (const site::LinePtr& l : s->lines) {
        if (!l->closed || (only != 0 ? l->id != only : !l->visible)) continue;
        names.push_back(l->name);
        rings.emplace_back();
        for (const Vec3& p : l->points) rings.back().push_back({p.x, p.y});
    }
    if (rings.empty())
        return say_refused(only != 0 ? tr("This line is open: nothing is inside it.")
                                     : tr("No closed line is shown: draw one, or add lines from a file."));
    select_shape(
        tr("The lines"), stage_, {},
        {site::by({.kind = site::Act::Kind::Lines, .settings = {{"lines", names}}}),
         tr("By lines").toStdString()},
        [rings, reach = card_->reach_of()](const cloud::PointCloud& c, const ElementSet& e, Progress& p) {
            return select::plan_fence(c, rings, e, p, reach);
        });
}

void MainWindow::pick(Stage* stage, const SpaceShape& shape) {
    const auto id = stage->seen_at(shape.end);
    if (!id) return say_refused(tr("There is no point here."));
    const render::Scene::PageRef ref = stage->scene().pages()[*id >> 16];
    const render::DrawItem& item = stage->scene().items()[ref.item];
    const std::size_t in_page = *id & 0xFFFFu;
    // Of a triangle the place that was clicked, not its middle.
    const Vec3 w = item.cloud->triangles()
                       ? stage->anchor(shape.end)
                       : item.cloud->position(std::uint64_t{ref.page} * kPageSize + in_page);
    const auto records = item.cloud->records();
    const cloud::RecordLayout& layout = records->layout();
    std::vector<std::byte> record(layout.record_bytes);
    const std::uint64_t number = item.cloud->order()->page(ref.page)[in_page];
    records->read(number, record);
    const site::ItemPtr owner = document_->site()->item(item.id);
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
    if (item.id == document_->site()->active)
        if (const QString why = rule_->value_of(std::uint64_t{ref.page} * kPageSize + in_page);
            !why.isEmpty())
            text = why + "\n" + text;
    last_pick_ = w;
    card_->set_picked(text.trimmed());
}

}  // namespace pristine::app
