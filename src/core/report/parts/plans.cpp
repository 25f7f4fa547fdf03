// Plans and views of what is shown, and lines of equal height.

#include "core/report/parts/plans.h"

#include <fmt/format.h>

#include <algorithm>
#include <cmath>

#include "core/base/figure.h"
#include "core/measure/contours.h"
#include "core/report/figures/view.h"

namespace pristine::report {
namespace {

using site::ItemPtr;
using site::LinePtr;

std::pair<double, double> heights_of(const mesh::TriMesh& m) {
    double low = INFINITY, high = -INFINITY;
    for (const auto& t : m.triangles)
        for (const std::uint32_t v : t)
            low = std::min(low, m.vertices[v].z), high = std::max(high, m.vertices[v].z);
    return {low, high};
}

// Pale tints by height, so that lines and words stay in front.
Ink tint(double share) {
    constexpr Ink kTints[] = {0xE3EDE2, 0xEDF1DF, 0xF6F2DC, 0xF4E8D2, 0xEDDCC8};
    const auto k = static_cast<std::size_t>(std::clamp(share, 0.0, 0.999) * 5);
    return kTints[k];
}

// Items that are named, else all that are shown.
std::vector<ItemPtr> things_of(const Context& c) {
    std::vector<ItemPtr> out = c.items();
    if (out.empty())
        for (const ItemPtr& i : c.site().items)
            if (i->visible) out.push_back(i);
    return out;
}

std::string names_of_items(const std::vector<ItemPtr>& items) {
    std::string out;
    for (const ItemPtr& i : items) out += (out.empty() ? "" : ", ") + i->name;
    return out;
}

// A number for each contour line that is kept on the site goes along with it.
void add_lines(const site::Site& s, MapSpec& spec) {
    for (const LinePtr& l : s.lines) {
        if (!l->visible || l->points.size() < 2) continue;
        MapLine line{l->points, l->closed, kind_of_role(l->role), l->label};
        if (line.kind == MapLine::Kind::Contour && l->thick) line.kind = MapLine::Kind::IndexContour;
        if (line.kind == MapLine::Kind::Section) line.label = "A";
        spec.lines.push_back(std::move(line));
    }
}

void name_lines(const site::Site& s, Legend& legend) {
    constexpr std::pair<LineRole, const char*> kRoles[] = {{LineRole::Boundary, "boundary, ticks inside"},
                                                           {LineRole::Breakline, "breakline"},
                                                           {LineRole::Axis, "axis"},
                                                           {LineRole::Contour, "contour"},
                                                           {LineRole::Hole, "hole"}};
    for (const auto& kind : kRoles) {
        const bool any = std::any_of(s.lines.begin(), s.lines.end(),
                                     [&](const LinePtr& l) { return l->visible && l->role == kind.first; });
        if (any) legend.lines.push_back({kind_of_role(kind.first), kind.second});
    }
}

}  // namespace

void bounds_of(const mesh::TriMesh& m, MapSpec& spec) {
    Box3 box;
    for (const auto& t : m.triangles)
        for (const std::uint32_t v : t) box.add(m.vertices[v]);
    if (box.empty()) return;
    spec.west = box.lo.x;
    spec.east = box.hi.x;
    spec.south = box.lo.y;
    spec.north = box.hi.y;
}

MapSpec map_spec(const Context& c, const Shown& shown) {
    MapSpec spec;
    spec.width = c.room.x;
    spec.height = c.sheet ? c.room.y : std::min(c.room.y * 0.7, c.room.x * 0.8);
    spec.all_height = c.sheet;
    spec.scale = static_cast<int>(c.part.number("scale", 0));
    spec.metres = shown.data_metres();
    spec.shown_factor = shown.factor();
    spec.unit = shown.unit();
    spec.dpi = c.material.dpi;
    return spec;
}

void height_ground(MapSpec& spec, const mesh::TriMesh& m, const Shown& shown) {
    const auto [low, high] = heights_of(m);
    spec.ground = [&m, low = low, high = high](double west, double south, double east, double north, int w,
                                               int h) {
        const double span = std::max(high - low, 1e-9);
        return painted(m, west, south, east, north, w, h, [&](double z) { return tint((z - low) / span); });
    };
    spec.legend.title = "Height" + shown.behind();
    for (int k = 4; k >= 0; --k) {
        const double a = low + (high - low) * k / 5, b = low + (high - low) * (k + 1) / 5;
        spec.legend.rows.push_back(
            {tint((k + 0.5) / 5), shown.length(a).text + " to " + shown.length(b).text});
    }
}

Box3 shown_box(const std::vector<ItemPtr>& items) {
    Box3 box;
    for (const ItemPtr& i : items) {
        const ElementSet shown = ~*i->absent;
        if (const auto& m = i->cloud->triangles()) {
            shown.for_each([&](std::uint64_t t) {
                for (const std::uint32_t v : m->triangles[static_cast<std::size_t>(t)])
                    box.add(m->vertices[v]);
            });
            continue;
        }
        for (std::size_t p = 0; p < i->cloud->page_count(); ++p) {
            const cloud::PositionPage page = i->cloud->positions(p);
            shown.for_each_in_page(
                p, [&](std::size_t k) { box.add(i->cloud->grid().world(page.x[k], page.y[k], page.z[k])); });
        }
    }
    return box;
}

Figure figure_of(Map m) {
    Figure f;
    f.scale = m.scale;
    f.ground = Ground{m.x, m.y, m.west, m.north, m.mm_per_unit};
    f.drawings = {std::move(m.drawing)};
    return f;
}

void make_plan(Context& c) {
    const std::vector<ItemPtr> items = things_of(c);
    if (items.empty()) throw Error(ErrorCode::Empty, "Nothing is shown");
    const Shown shown(c.site(), items.front()->cloud->reference());
    const Box3 box = shown_box(items);
    if (box.empty()) throw Error(ErrorCode::Empty, "Everything is out of what is shown");
    MapSpec spec = map_spec(c, shown);
    spec.west = box.lo.x;
    spec.east = box.hi.x;
    spec.south = box.lo.y;
    spec.north = box.hi.y;
    add_lines(c.site(), spec);
    spec.legend.title = "Lines";
    name_lines(c.site(), spec.legend);
    if (c.material.draw)
        spec.ground = [&](double west, double south, double east, double north, int w, int h) {
            Shot shot;
            for (const ItemPtr& i : items) shot.things.push_back(seen(*i));
            shot.box.add(Vec3{west, south, box.lo.z});
            shot.box.add(Vec3{east, north, box.hi.z});
            shot.plan = true;
            shot.width = w;
            shot.height = h;
            return c.material.draw(shot);
        };
    Figure f = figure_of(map(spec));
    f.id = "plan";
    f.caption = fmt::format("{} from above, plan 1 : {}.", names_of_items(items), figure(f.scale, 0));
    f.alt = "Plan of what is shown, with its lines.";
    c.add(std::move(f));
}

void make_view(Context& c) {
    const std::vector<ItemPtr> items = things_of(c);
    if (items.empty()) throw Error(ErrorCode::Empty, "Nothing is shown");
    if (!c.material.draw) {
        c.say("Pictures were not asked for.");
        return;
    }
    Shot shot;
    for (const ItemPtr& i : items) shot.things.push_back(seen(*i));
    shot.box = shown_box(items);
    if (shot.box.empty()) throw Error(ErrorCode::Empty, "Everything is out of what is shown");
    shot.yaw_deg = c.part.number("yaw", 45);
    shot.pitch_deg = c.part.number("pitch", -35);
    const Shown shown(c.site(), items.front()->cloud->reference());
    const ViewLook look{c.room.x,
                        c.sheet ? c.room.y : std::min(c.room.y * 0.7, c.room.x * 0.66),
                        {},
                        shown.factor(),
                        shown.unit()};
    Drawing d = view(shot, look, c.material.draw, c.material.dpi);
    Figure f;
    f.id = "view";
    f.caption =
        fmt::format("{}. {}, not to scale.", names_of_items(items), told_view(shot.yaw_deg, shot.pitch_deg));
    f.alt = "View of what is shown.";
    f.drawings = {std::move(d)};
    c.add(std::move(f));
}

void make_contours(Context& c) {
    const auto items = c.items();
    if (items.empty()) throw Error(ErrorCode::Usage, "No surface is named for the contours");
    const ItemPtr item = items.front();
    const Shown shown(c.site(), item->cloud->reference());
    const mesh::TriMesh m = shown_triangles(*item);
    if (m.triangles.empty()) {
        c.say(item->name + " shows no triangles.");
        return;
    }
    const auto [low, high] = heights_of(m);
    double interval = c.part.number("interval", 0);
    if (!(interval > 0))
        interval = std::max(round_step((high - low) * shown.factor() / 12), 1e-3) / shown.factor();
    MapSpec spec = map_spec(c, shown);
    bounds_of(m, spec);
    height_ground(spec, m, shown);
    const auto all = measure::contours(m, interval, c.progress);
    for (const measure::Contour& line : all) {
        const auto step = std::llround(line.level / interval);
        const bool index = step % 5 == 0;
        spec.lines.push_back(
            {line.points, line.closed, index ? MapLine::Kind::IndexContour : MapLine::Kind::Contour,
             index ? shown.length(line.level, interval * shown.factor() < 0.1 ? 1 : 0).text : std::string()});
    }
    for (const LinePtr& l : c.site().lines)
        if (l->role == LineRole::Boundary)
            spec.lines.push_back({l->points, l->closed, MapLine::Kind::Boundary, {}});
    Figure f = figure_of(map(spec));
    f.id = fmt::format("contours_{}", item->id);
    f.caption = fmt::format("Contours of {}, plan 1 : {}.", item->name, figure(f.scale, 0));
    f.alt = fmt::format("Plan with {} lines of equal height.", all.size());
    c.say("Lines of equal height every " + shown.text_of(shown.length(interval, 1)) + " on " + item->name +
          ", true to its triangles; every fifth is stronger.");
    c.add(std::move(f));
}

}  // namespace pristine::report
