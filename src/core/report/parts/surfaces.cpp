// Figures of terrain surfaces: areas, change between dates, stockpiles, contours and sections.

#include <fmt/format.h>

#include <algorithm>
#include <cmath>

#include "core/base/figure.h"
#include "core/base/units.h"
#include "core/io/pile_table.h"
#include "core/measure/areas.h"
#include "core/measure/change_map.h"
#include "core/measure/figures.h"
#include "core/measure/noise.h"
#include "core/measure/sections.h"
#include "core/report/figures/map.h"
#include "core/report/figures/sections.h"
#include "core/report/parts/context.h"
#include "core/report/parts/plans.h"
#include "core/site/heights.h"
#include "core/surface/clip.h"

namespace pristine::report {
namespace {

using site::ItemPtr;
using site::LinePtr;

// What two dates are compared with.
struct Pair {
    ItemPtr earlier, later;
    mesh::TriMesh before, after;  // inside the boundary
    measure::HeightSigma sigma_before, sigma_after;
    LinePtr boundary;
    std::vector<LinePtr> areas;
    double band = 0;
    bool band_given = false;
};

std::string dated(const site::Site& s, const ItemPtr& i) {
    const std::string date = site::date_of(s, *i);
    return date.empty() ? i->name : i->name + " (" + date + ")";
}

mesh::TriMesh inside_of(const ItemPtr& i, const LinePtr& line, Progress& progress) {
    mesh::TriMesh m = shown_triangles(*i);
    if (!line) return m;
    return surface::clip(m, {line->points}, surface::Keep::Inside, surface::Edges::Exact, progress);
}

Pair pair_of(Context& c) {
    const auto items = c.items();
    if (items.size() != 2) throw Error(ErrorCode::Usage, "A change is between two surfaces");
    Pair p;
    p.earlier = items[0];
    p.later = items[1];
    measure::require_lengths(p.later->cloud->reference());
    if (p.earlier->cloud->unit() != p.later->cloud->unit())
        throw Error(ErrorCode::Usage, p.earlier->name + " and " + p.later->name + " have different units");
    for (const LinePtr& l : c.lines()) {
        if (!l->closed) continue;
        if (!p.boundary && l->role == LineRole::Boundary)
            p.boundary = l;
        else
            p.areas.push_back(l);
    }
    p.before = inside_of(p.earlier, p.boundary, c.progress);
    p.after = inside_of(p.later, p.boundary, c.progress);
    p.sigma_before = site::heights_of(c.site(), *p.earlier);
    p.sigma_after = site::heights_of(c.site(), *p.later);
    if (!(p.sigma_before.noise > 0)) p.sigma_before.noise = measure::noise_of(p.before);
    if (!(p.sigma_after.noise > 0)) p.sigma_after.noise = measure::noise_of(p.after);
    p.band_given = c.part.numbers.count("band") > 0;
    // Less than a millimetre is no band that anybody can measure.
    const double least = 0.001 / Shown(c.site(), p.later->cloud->reference()).data_metres();
    p.band = p.band_given
                 ? c.part.number("band", 0)
                 : std::max(least, two_digits(measure::proposed_band(p.sigma_before, p.sigma_after)));
    return p;
}

std::vector<Cell> change_row(const std::string& name, double area, const measure::Difference& d,
                             const Shown& shown) {
    return {{name},
            shown.area(area),
            shown.spread(d.cut, d.sigma_cut, 3),
            shown.spread(d.fill, d.sigma_fill, 3),
            shown.spread(d.net(), d.sigma_net, 3)};
}

Table change_table(const Pair& p, const measure::Difference& whole,
                   const std::optional<measure::AreaTable>& areas, const Shown& shown) {
    Table t{"change",
            "Cut and fill by work area, with one standard deviation.",
            {{"area", "Work area", false, 2},
             {"plan_area", "Plan area" + shown.behind(2), true},
             {"cut", "Cut" + shown.behind(3), true},
             {"fill", "Fill" + shown.behind(3), true},
             {"net", "Net" + shown.behind(3), true}},
            {}};
    if (areas) {
        for (std::size_t k = 0; k < areas->rows.size(); ++k)
            t.rows.push_back(change_row(fmt::format("{}  {}", k + 1, areas->rows[k].name),
                                        areas->rows[k].area, areas->rows[k].change, shown));
        t.rows.push_back(change_row("Outside", areas->rest.overlap_area, areas->rest, shown));
    }
    t.rows.push_back(
        change_row(p.boundary ? "All inside " + p.boundary->name : "All", whole.overlap_area, whole, shown));
    t.last_is_sum = true;
    return t;
}

void change_map(Context& c, const Pair& p, const measure::Difference& d, const Shown& shown) {
    const mesh::TriMesh change = measure::difference_map(p.before, p.after, c.progress);
    const ChangeClasses classes = change_classes(d.least, d.greatest, p.band, shown.factor());
    MapSpec spec = map_spec(c, shown);
    bounds_of(change, spec);
    spec.legend = legend_of(classes, shown.factor(), shown.unit());
    spec.ground = [&](double west, double south, double east, double north, int w, int h) {
        return painted(change, west, south, east, north, w, h, [&](double z) { return classes.of(z); });
    };
    if (p.boundary) spec.lines.push_back({p.boundary->points, true, MapLine::Kind::Boundary, {}});
    for (std::size_t k = 0; k < p.areas.size(); ++k)
        spec.lines.push_back({p.areas[k]->points, true, MapLine::Kind::WorkArea, std::to_string(k + 1)});
    for (const LinePtr& l : c.site().lines)
        if (l->role == LineRole::Axis)
            spec.lines.push_back({l->points, l->closed, MapLine::Kind::Section, "A"});
    Map m = map(spec);
    Figure f = figure_of(std::move(m));
    f.id = fmt::format("change_{}_{}", p.earlier->id, p.later->id);
    f.caption = fmt::format("Change of height from {} to {}, plan 1 : {}.", p.earlier->name, p.later->name,
                            figure(m.scale, 0));
    f.alt = "Plan of the change of height in classes: fill in blue, cut in orange, as it was in grey.";
    c.add(std::move(f));
}

void say_change(Context& c, const Pair& p, const measure::Difference& d, const Shown& shown) {
    const auto text = [&](double v, double sigma) { return shown.text_of(shown.spread(v, sigma, 3)); };
    c.say({{"From " + dated(c.site(), p.earlier) + " to " + dated(c.site(), p.later) + ", ", false},
           {text(d.fill, d.sigma_fill), true},
           {" were filled and ", false},
           {text(d.cut, d.sigma_cut), true},
           {" cut, a net " + std::string(d.net() < 0 ? "loss of " : "gain of "), false},
           {text(std::fabs(d.net()), d.sigma_net), true},
           {" (one standard deviation).", false}});
    const std::string band = shown.text_of(shown.deviation(p.band));
    if (p.band > 0)
        c.say(p.band_given ? "Changes of up to " + band + ", up or down, are not counted."
                           : "Changes of up to " + band +
                                 ", up or down, are not counted: the band that noise passes on three places "
                                 "of a thousand of unchanged ground.");
    else
        c.say("No band is left out: noise of unchanged ground counts as cut and fill.");
    const auto known = [&](const ItemPtr& i, const measure::HeightSigma& s) {
        const bool stated = site::heights_of(c.site(), *i).noise > 0;
        std::string out =
            i->name + ": heights " +
            (s.noise > 0 ? "\u00b1\u00a0" + shown.text_of(shown.deviation(s.noise))
                         : std::string("of unknown deviation")) +
            (stated ? " by itself as its survey states" : " by itself, estimated from the surface");
        out += s.systematic > 0 ? ", together \u00b1\u00a0" + shown.text_of(shown.deviation(s.systematic))
                                : ", no common deviation stated";
        return out +
               (s.thinning > 0 ? ", thinned by up to " + shown.text_of(shown.deviation(s.thinning))
                               : std::string()) +
               ".";
    };
    c.say(known(p.earlier, p.sigma_before) + " " + known(p.later, p.sigma_after), Paragraph::Kind::Note);
    if (d.uncovered_area > 1e-6 * (d.overlap_area + d.uncovered_area))
        c.say("Covered by one of the surfaces only, and not compared: " +
              shown.text_of(shown.area(d.uncovered_area)) + ".");
}

Image pile_picture(const Context& c, const ItemPtr& item, const LinePtr& line, const measure::Pile& pile) {
    Shot shot;
    shot.things = {seen(*item)};
    for (const Vec3& v : line->points) {
        shot.box.add(Vec3{v.x, v.y, pile.base_low});
        shot.box.add(Vec3{v.x, v.y, pile.highest});
    }
    shot.yaw_deg = 45;
    shot.width = pixels_for(21, c.material.dpi);
    shot.height = pixels_for(14, c.material.dpi);
    return c.material.draw(shot);
}

struct PileSum {
    double volume = 0, variance = 0;
    std::size_t measured = 0;
};

void pile_row(Context& c, Table& t, const ItemPtr& item, const LinePtr& l, std::size_t number,
              const measure::PileOptions& options, double density, const Shown& shown, PileSum& sum) {
    std::vector<Cell> row{{fmt::format("{}  {}", number, l->name)}};
    try {
        const measure::Pile p = measure::stockpile(shown_triangles(*item), l->points, options, c.progress);
        if (c.wants_pictures()) row[0].picture = std::make_shared<const Image>(pile_picture(c, item, l, p));
        sum.volume += p.volume;
        sum.variance += p.sigma * p.sigma;
        ++sum.measured;
        row.insert(row.end(), {shown.area(p.plan_area), shown.length(p.base_low), shown.length(p.highest),
                               shown.spread(p.volume, p.sigma, 3)});
        if (density > 0) {
            const double t_mass = io::tonnes(p.volume, density, item->cloud->reference());
            row.push_back({figure(t_mass, decimals_for(t_mass, 1, 1)), t_mass, "t"});
        }
        if (p.outline_area > p.plan_area * 1.001)
            c.say(l->name + ": the surface does not cover all of it, " +
                      shown.text_of(shown.area(p.outline_area - p.plan_area)) + " are missing.",
                  Paragraph::Kind::Warning);
    } catch (const Error& e) {
        row.resize(t.columns.size(), Cell{"none"});
        c.say(l->name + ": " + e.what(), Paragraph::Kind::Warning);
    }
    t.rows.push_back(std::move(row));
}

const char* told_base(measure::PileBase b) {
    switch (b) {
        case measure::PileBase::TriangulatedRim:
            return "its foot, triangulated";
        case measure::PileBase::LowestOfRim:
            return "a level at the lowest height of its foot";
        case measure::PileBase::MeanOfRim:
            return "a level at the mean height of its foot";
        case measure::PileBase::PlaneOfRim:
            return "the plane through its foot";
        case measure::PileBase::Level:
            return "a given level";
        case measure::PileBase::OtherSurface:
            return "the other surface";
    }
    return "";
}

Table sections_table(const measure::Sections& s, const Shown& shown, bool two) {
    Table t{"sections",
            "Sections by distance along the line.",
            {{"chainage", "Distance" + shown.behind(), true}, {"width", "Width" + shown.behind(), true}},
            {}};
    if (two) {
        t.columns.push_back({"cut", "Cut" + shown.behind(2), true});
        t.columns.push_back({"fill", "Fill" + shown.behind(2), true});
    }
    for (const measure::CrossSection& x : s.all) {
        double width = x.both;
        if (!two)
            for (const auto& stretch : x.surfaces.front())
                if (!stretch.empty()) width += stretch.back().offset - stretch.front().offset;
        t.rows.push_back({shown.length(x.chainage), shown.length(width)});
        if (two) t.rows.back().insert(t.rows.back().end(), {shown.area(x.cut), shown.area(x.fill)});
    }
    return t;
}

}  // namespace

void make_surfaces(Context& c) {
    const Shown shown(c.site(), site::reference_of(c.site()));
    Table t{"surfaces",
            "Surfaces as they are shown.",
            {{"item", "Surface", false, 2},
             {"date", "Date"},
             {"triangles", "Triangles", true},
             {"plan_area", "Plan area" + shown.behind(2), true},
             {"surface_area", "Surface area" + shown.behind(2), true},
             {"perimeter", "Length of rims" + shown.behind(), true},
             {"lowest", "Lowest" + shown.behind(), true},
             {"highest", "Highest" + shown.behind(), true}},
            {}};
    for (const ItemPtr& i : c.items()) {
        const Shown own(c.site(), i->cloud->reference());
        const mesh::TriMesh m = shown_triangles(*i);
        if (m.triangles.empty()) {
            c.say(i->name + " shows no triangles.");
            continue;
        }
        const std::string date = site::date_of(c.site(), *i);
        try {
            measure::require_lengths(i->cloud->reference());
        } catch (const Error& e) {
            c.say(i->name + ": " + e.what(), Paragraph::Kind::Warning);
            continue;
        }
        const measure::SurfaceFigures f = measure::figures(m);
        t.rows.push_back({{i->name},
                          {date.empty() ? "not stated" : date},
                          count_cell(m.triangles.size()),
                          own.area(f.plan_area),
                          own.area(f.surface_area),
                          own.length(f.perimeter),
                          own.length(f.lowest),
                          own.length(f.highest)});
    }
    c.add(std::move(t));
}

void make_change(Context& c) {
    const Pair p = pair_of(c);
    const Shown shown(c.site(), p.later->cloud->reference());
    if (p.before.triangles.empty() || p.after.triangles.empty()) {
        c.say("One of the surfaces has no triangles" +
                  std::string(p.boundary ? " inside " + p.boundary->name : "") + ".",
              Paragraph::Kind::Warning);
        return;
    }
    const measure::DifferenceOptions options{p.band, p.sigma_before, p.sigma_after};
    const measure::Difference d = measure::difference(p.before, p.after, options, c.progress);
    std::optional<measure::AreaTable> areas;
    if (!p.areas.empty()) {
        std::vector<measure::WorkArea> work;
        for (const LinePtr& l : p.areas) work.push_back({l->name, l->points});
        try {
            areas = measure::difference_by_area(p.before, p.after, work, options, c.progress);
        } catch (const Error& e) {
            c.say(e.what(), Paragraph::Kind::Warning);
        }
    }
    say_change(c, p, d, shown);
    if (c.part.word("pictures", "all") != "none") change_map(c, p, d, shown);
    c.add(change_table(p, d, areas, shown));
    if (areas && !areas->overlapping.empty())
        c.say("Work areas overlap: what lies in both counts in both rows, and the rows do not add up to all.",
              Paragraph::Kind::Warning);
}

void make_piles(Context& c) {
    const auto items = c.items();
    if (items.empty()) throw Error(ErrorCode::Usage, "No surface is named for the stockpiles");
    const ItemPtr item = items.front();
    measure::require_lengths(item->cloud->reference());
    const Shown shown(c.site(), item->cloud->reference());
    measure::PileOptions options;
    options.base = measure::pile_base_of(c.part.word("base", "rim"));
    options.level = c.part.number("level", 0);
    mesh::TriMesh other;
    if (options.base == measure::PileBase::OtherSurface) {
        if (items.size() < 2)
            throw Error(ErrorCode::Usage, "The other surface of the stockpiles is not named");
        other = shown_triangles(*items[1]);
        options.other = &other;
    }
    options.noise = site::heights_of(c.site(), *item).noise;
    const double density = c.part.number("density", 0);
    Table t{"piles",
            "Stockpiles with one standard deviation.",
            {{"name", "Pile", false, 2.5},
             {"plan_area", "Plan area" + shown.behind(2), true},
             {"base", "Lowest of the base" + shown.behind(), true},
             {"highest", "Highest" + shown.behind(), true},
             {"volume", "Volume" + shown.behind(3), true}},
            {}};
    if (density > 0) t.columns.push_back({"mass", "Mass, t", true});
    c.say("On " + dated(c.site(), item) + ". Each stands on " + told_base(options.base) + "." +
          (density > 0 ? " Density: " + figure(density, 2) + "\u00a0t/m³." : std::string()));
    PileSum sum;
    std::size_t number = 0;
    MapSpec spec = map_spec(c, shown);
    const mesh::TriMesh ground = shown_triangles(*item);
    Box3 box;
    for (const LinePtr& l : c.lines()) {
        if (!l->closed) continue;
        pile_row(c, t, item, l, ++number, options, density, shown, sum);
        spec.lines.push_back({l->points, true, MapLine::Kind::WorkArea, std::to_string(number)});
        for (const Vec3& v : l->points) box.add(v);
    }
    if (number == 0) {
        c.say("No closed line is named.");
        return;
    }
    if (sum.measured > 1) {
        std::vector<Cell> all(t.columns.size());
        all[0] = {"All"};
        all[4] = shown.spread(sum.volume, std::sqrt(sum.variance), 3);
        if (density > 0) {
            const double mass = io::tonnes(sum.volume, density, item->cloud->reference());
            all[5] = {figure(mass, decimals_for(mass, 1, 1)), mass, "t"};
        }
        t.rows.push_back(std::move(all));
        t.last_is_sum = true;
    }
    if (c.part.word("pictures", "all") != "none") {
        spec.west = box.lo.x, spec.east = box.hi.x, spec.south = box.lo.y, spec.north = box.hi.y;
        height_ground(spec, ground, shown);
        Figure f = figure_of(map(spec));
        f.id = fmt::format("piles_{}", item->id);
        f.caption = fmt::format("Where the piles lie, plan 1 : {}.", figure(f.scale, 0));
        f.alt = "Plan of the heights with the line round each pile and its number.";
        c.add(std::move(f));
    }
    c.add(std::move(t));
}

void make_sections(Context& c) {
    const auto items = c.items();
    const auto lines = c.lines();
    if (items.empty() || lines.empty()) throw Error(ErrorCode::Usage, "Sections need a surface and a line");
    measure::require_lengths(items.front()->cloud->reference());
    const Shown shown(c.site(), items.front()->cloud->reference());
    std::vector<mesh::TriMesh> meshes;
    std::vector<const mesh::TriMesh*> surfaces;
    SectionsSpec spec;
    for (const ItemPtr& i : items) {
        meshes.push_back(shown_triangles(*i));
        spec.surfaces.push_back(i->name);
    }
    for (const mesh::TriMesh& m : meshes) surfaces.push_back(&m);
    std::vector<Vec3> axis = lines.front()->points;
    if (lines.front()->closed) axis.push_back(axis.front());
    double length = 0;
    for (std::size_t k = 1; k < axis.size(); ++k)
        length += std::hypot(axis[k].x - axis[k - 1].x, axis[k].y - axis[k - 1].y);
    measure::SectionPlan plan;
    plan.every = c.part.number("every", 0);
    if (!(plan.every > 0))
        plan.every = std::max(round_step(length * shown.factor() / 6), 1e-6) / shown.factor();
    plan.half_width = c.part.number("half_width", 0);
    if (!(plan.half_width > 0))
        plan.half_width = std::max(round_step(length * shown.factor() / 2), 1e-6) / shown.factor();
    const measure::Sections s = measure::sections(surfaces, axis, plan, c.progress);
    const bool two = surfaces.size() > 1;
    c.say(fmt::format("Along {}, every {}, {} to either side, seen along the line{}.", lines.front()->name,
                      shown.text_of(shown.length(plan.every)), shown.text_of(shown.length(plan.half_width)),
                      two ? "; " + items.front()->name + " dashed, " + items.back()->name + " solid" : ""));
    if (two) {
        const auto& v = s.volumes;
        const auto text = [&](double x) { return shown.text_of(shown.volume(x)); };
        c.say("By prisms " + text(v.cut_prisms) + " cut and " + text(v.fill_prisms) + " fill, by end areas " +
              text(v.cut_ends) + " and " + text(v.fill_ends) +
              (v.cut_exact ? "; by the triangles " + text(*v.cut_exact) + " and " + text(*v.fill_exact) + "."
                           : ". " + v.why_not_exact + "."));
    }
    if (c.part.word("pictures", "all") != "none") {
        spec.width = c.room.x;
        spec.most_height = c.sheet ? c.room.y : c.room.y * 0.8;
        spec.metres = shown.data_metres();
        spec.shown_factor = shown.factor();
        spec.unit = shown.unit();
        spec.exaggeration = c.part.number("exaggeration", 1);
        spec.scale = static_cast<int>(c.part.number("scale", 0));
        SectionsDrawn drawn = section_drawings(s.all, spec);
        for (std::size_t k = 0; k < drawn.drawings.size(); ++k) {
            Figure f{fmt::format("sections_{}_{}", lines.front()->id, k + 1),
                     fmt::format("Sections along {}, 1 : {}, heights {} times; distances and heights in {}. "
                                 "Fill blue with slanting strokes, cut "
                                 "orange with upright ones.",
                                 lines.front()->name, figure(drawn.scale, 0), figure(spec.exaggeration, 0),
                                 shown.unit()),
                     "Sections one above the other, each with its distance along the line.",
                     {}};
            f.drawings = {std::move(drawn.drawings[k])};
            f.scale = drawn.scale;
            c.add(std::move(f));
        }
    }
    c.add(sections_table(s, shown, two));
}

}  // namespace pristine::report
