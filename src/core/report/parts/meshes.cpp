// Meshes: faults, repairs and what they changed; tunnels by stretches; what was measured by hand.

#include <fmt/format.h>

#include <algorithm>
#include <cmath>

#include "core/base/figure.h"
#include "core/measure/figures.h"
#include "core/measure/solid.h"
#include "core/repair/cost.h"
#include "core/report/figures/histogram.h"
#include "core/report/figures/map.h"
#include "core/report/parts/context.h"
#include "core/site/making.h"
#include "core/tunnel/inside.h"

namespace pristine::report {
namespace {

using site::Item;
using site::ItemPtr;

constexpr std::size_t kMostForCrossings = 1'000'000;

const char* told_fault(repair::Fault f) {
    constexpr std::array<const char*, repair::kFaults> kWords{"edges of more than two triangles",
                                                              "corners with several fans",
                                                              "edges where triangles face opposite ways",
                                                              "triangles that pass through each other",
                                                              "triangles without area",
                                                              "tiny edges",
                                                              "spikes",
                                                              "triangles that are there twice",
                                                              "small pieces",
                                                              "holes",
                                                              "pieces inside others"};
    return kWords[static_cast<std::size_t>(f)];
}

const char* told_harm(repair::Harm h) {
    switch (h) {
        case repair::Harm::KeepsOpen:
            return "keeps it open";
        case repair::Harm::WrongVolume:
            return "makes the volume wrong";
        case repair::Harm::OnlyUgly:
            return "only ugly";
    }
    return "";
}

void check_item(Context& c, const Item& i) {
    const Shown shown(c.site(), i.cloud->reference());
    const mesh::TriMesh m = shown_triangles(i);
    if (m.triangles.empty()) {
        c.say(i.name + " shows no triangles.");
        return;
    }
    repair::CheckOptions options;
    options.crossings = m.triangles.size() <= kMostForCrossings || c.part.number("crossings", 0) > 0;
    const repair::Check check = repair::check(m, options, c.progress);
    const auto costs = repair::costs_of(m, check);
    const measure::SolidFigures solid = measure::solid(m, c.progress);
    const std::string body = solid.closed ? "closed, volume " + shown.text_of(shown.volume(solid.volume))
                                          : std::string("not closed, so without a volume");
    c.say({{i.name + ": ", true},
           {counted(m.triangles.size(), "triangle", "triangles") + " in " +
                counted(check.components, "piece", "pieces") + ", " + body + ", area " +
                shown.text_of(shown.area(solid.area)) + ".",
            false}});
    if (!options.crossings)
        c.say(fmt::format("Triangles that pass through each other were not looked for: that is done up to {} "
                          "triangles unless it is asked for.",
                          figure(static_cast<double>(kMostForCrossings), 0)),
              Paragraph::Kind::Warning);
    if (!check.outer.empty())
        c.say(counted(check.outer.size(), "rim", "rims") + " of the open scan: no fault, and left open.");
    Table t{fmt::format("faults_{}", i.id),
            "Faults of " + i.name + " as it is shown.",
            {{"fault", "Fault", false, 3},
             {"harm", "Harm", false, 2},
             {"count", "Count", true},
             {"area", "Area" + shown.behind(2), true},
             {"length", "Length" + shown.behind(), true}},
            {}};
    for (std::size_t k = 0; k < repair::kFaults; ++k) {
        const auto fault = static_cast<repair::Fault>(k);
        if (check.count(fault) == 0) continue;
        t.rows.push_back({{told_fault(fault)},
                          {told_harm(repair::harm_of(fault))},
                          count_cell(check.count(fault)),
                          costs[k].area > 0 ? shown.area(costs[k].area) : Cell{},
                          costs[k].length > 0 ? shown.length(costs[k].length) : Cell{}});
    }
    if (t.rows.empty())
        c.say(options.crossings ? "No fault was found." : "No other fault was found.");
    else
        c.add(std::move(t));
}

double number_in(const site::Act& a, const char* name) {
    const auto it = a.settings.find(name);
    const double* v = it == a.settings.end() ? nullptr : std::get_if<double>(&it->second);
    return v ? *v : NAN;
}

void add_repairs(Context& c) {
    const Shown shown(c.site(), site::reference_of(c.site()));
    Table t{"repairs",
            "Repairs in force, and how far what they made lies from what was there.",
            {{"item", "Item", false, 2},
             {"repair", "Repair", false, 2},
             {"taken", "Taken", true},
             {"made", "Made", true},
             {"mean", "Off in the mean" + shown.behind(), true},
             {"most", "Off at most" + shown.behind(), true}},
            {}};
    for (const ItemPtr& i : c.site().items)
        for (const site::LedgerEntry& e : i->ledger) {
            if (!e.active || !e.made) continue;
            const Shown own(c.site(), i->cloud->reference());
            const site::Act* act = nullptr;
            for (const site::Act& a : e.cause.acts)
                if (a.kind == site::Act::Kind::Repair) act = &a;
            const double mean = act ? number_in(*act, "off_mean") : NAN,
                         most = act ? number_in(*act, "off_max") : NAN;
            const auto off = [&](double v) {
                return std::isfinite(v) ? own.deviation(v) : Cell{"not measured"};
            };
            const char* phrase = act ? site::phrase_of(act->id) : nullptr;
            t.rows.push_back({{i->name},
                              {phrase ? phrase : "repair"},
                              count_cell(e.elements->count()),
                              count_cell(e.made->count()),
                              off(mean),
                              off(most)});
        }
    if (!t.rows.empty()) c.add(std::move(t));
}

std::string unit_of(const MarkFigure& f, const Shown& shown) {
    switch (f.quantity) {
        case MarkQuantity::Area:
            return shown.unit(2);
        case MarkQuantity::Angle:
            return "°";
        case MarkQuantity::Slope:
            return "%";
        case MarkQuantity::Coordinate:
        case MarkQuantity::Length:
            break;
    }
    return shown.unit();
}

Cell mark_cell(const MarkFigure& f, const Shown& shown) {
    switch (f.quantity) {
        case MarkQuantity::Coordinate:
            return shown.coordinate(f.value);
        case MarkQuantity::Length:
            return std::string(f.id) == "run_per_rise" ? Cell{figure(f.value, 2), f.value, {}}
                                                       : shown.length(f.value, 1);
        case MarkQuantity::Area:
            return shown.area(f.value);
        case MarkQuantity::Angle:
        case MarkQuantity::Slope:
            break;
    }
    return {figure(f.value, 2), f.value, unit_of(f, shown)};
}

// The unrolled lining: angle across, distance along; what lies inside it by depth, openings white.
Image unrolled(const tunnel::Lining& l, const tunnel::Inside& in, double deepest) {
    Image out{static_cast<int>(l.rows()), static_cast<int>(l.columns()), {}};
    out.argb.assign(l.rows() * l.columns(), 0xffffffffu);
    for (std::size_t row = 0; row < l.rows(); ++row)
        for (std::size_t column = 0; column < l.columns(); ++column) {
            std::uint32_t& pixel = out.argb[column * l.rows() + row];
            if (l.hole(row, column)) continue;
            const float depth = in.deepest[row * l.columns() + column];
            pixel = 0xffd3d1cbu;
            if (!(depth > 0)) continue;
            const double share = std::min(1.0, depth / deepest);
            const auto mix = [&](int a, int b) {
                return static_cast<std::uint32_t>(a + share * (b - a)) & 255u;
            };
            pixel = 0xff000000u | mix(0xF1, 0x9C) << 16 | mix(0xCF, 0x4A) << 8 | mix(0xA6, 0x06);
        }
    return out;
}

// Distances along the line and round the lining (at its mean radius) are true to one scale.
void add_unrolled(Context& c, const tunnel::Lining& lining, const tunnel::Inside& in, const Shown& shown,
                  const std::string& name) {
    double deepest = 0, radius = 0;
    std::size_t known = 0;
    for (const float d : in.deepest)
        if (std::isfinite(d)) deepest = std::max(deepest, static_cast<double>(d));
    for (std::size_t row = 0; row < lining.rows(); ++row)
        for (std::size_t column = 0; column < lining.columns(); ++column)
            if (const double r = lining.radius(row, column); std::isfinite(r)) radius += r, ++known;
    radius /= static_cast<double>(std::max<std::size_t>(1, known));
    const double length = static_cast<double>(lining.rows()) * lining.row_length();
    const double round = static_cast<double>(lining.columns()) * lining.column_angle() * radius;
    const double left = 12, room_x = c.room.x - left - 2, room_y = (c.sheet ? c.room.y : c.room.y * 0.6) - 9;
    const double least = 1000 * shown.data_metres() * std::max(length / room_x, round / room_y);
    const int scale = scale_for(least, static_cast<int>(c.part.number("scale", 0)), "the unrolled lining");
    const double mm = 1000 * shown.data_metres() / scale, wide = length * mm, high = round * mm;
    Drawing d;
    d.width = left + wide + 2;
    d.height = high + 8;
    d.shapes.emplace_back(Placed{std::make_shared<const Image>(unrolled(lining, in, std::max(deepest, 1e-6))),
                                 left, 0, wide, high});
    d.frame(left, 0, wide, high, 0.25);
    for (const double at : round_places(0, length * shown.factor(), 8)) {
        const double x = left + at / shown.factor() * mm;
        d.line({x, high}, {x, high + 1}, 0.2);
        d.text({x, high + 4}, figure(at, at == std::floor(at) ? 0 : 1), 7, Anchor::Middle);
    }
    constexpr std::array<const char*, 5> kAngles{"invert", "left", "crown", "right", "invert"};
    for (std::size_t k = 0; k < kAngles.size(); ++k)
        d.text({left - 1, high * static_cast<double>(k) / 4 + (k == 0   ? 2.4
                                                               : k == 4 ? -0.2
                                                                        : 1)},
               kAngles[k], 6.5, Anchor::Right);
    d.text({left + wide / 2, high + 7.6}, "distance along the line, " + shown.unit(), 7, Anchor::Middle,
           kSecondInk);
    Figure f{"unrolled",
             fmt::format("The lining of {} unrolled at its mean radius of {}, 1 : {}. What lies inside it is "
                         "orange, up to {} deep; openings "
                         "are white.",
                         name, shown.text_of(shown.length(radius)), figure(scale, 0),
                         shown.text_of(shown.length(deepest))),
             "The lining by distance along the line and angle round it.",
             {std::move(d)},
             scale};
    c.add(std::move(f));
}

}  // namespace

void make_checks(Context& c) {
    bool any = false;
    for (const ItemPtr& i : c.site().items) {
        if (i->role != site::ItemRole::Mesh && i->role != site::ItemRole::Lining) continue;
        check_item(c, *i);
        any = true;
    }
    add_repairs(c);
    if (!any && c.blocks.empty()) c.say("The site holds no mesh.");
}

void make_tunnel(Context& c) {
    const auto items = c.items();
    const auto lines = c.lines();
    if (items.empty() || lines.empty())
        throw Error(ErrorCode::Usage, "A tunnel needs points and a line inside it");
    const ItemPtr item = items.front();
    measure::require_lengths(item->cloud->reference());
    const Shown shown(c.site(), item->cloud->reference());
    tunnel::Options options;
    options.metres_per_unit = shown.data_metres();
    options.spacing = c.part.number("spacing", 0.2 / shown.data_metres());
    options.lift = c.part.number("lift", 0);
    const ElementSet eligible = ~*item->absent;
    const tunnel::Lining lining(*item->cloud, eligible, lines.front()->points, options, c.progress);
    const double interval = c.part.number("interval", 10 / shown.data_metres());
    const double tolerance = c.part.number("tolerance", 0.05 / shown.data_metres());
    const tunnel::Inside in = tunnel::inside(*item->cloud, eligible, lining, tolerance, c.progress);
    Table t{"stretches",
            "What the lining encloses, openings closed over.",
            {{"from", "From" + shown.behind(), true},
             {"to", "To" + shown.behind(), true},
             {"area", "Lining" + shown.behind(2), true},
             {"volume", "Volume" + shown.behind(3), true}},
            {}};
    double volume = 0, area = 0;
    for (const auto& v : lining.volumes(interval)) {
        t.rows.push_back(
            {shown.length(v.from), shown.length(v.to), shown.area(v.area), shown.volume(v.volume)});
        volume += v.volume;
        area += v.area;
    }
    t.rows.push_back({{"All"}, {}, shown.area(area), shown.volume(volume)});
    t.last_is_sum = true;
    c.say({{"Along " + lines.front()->name + " the lining of " + item->name + " encloses ", false},
           {shown.text_of(shown.volume(volume)), true},
           {". " + counted(in.points.count(), "point lies", "points lie") + " more than " +
                shown.text_of(shown.length(tolerance)) + " inside it.",
            false}});
    if (c.part.word("pictures", "all") != "none") add_unrolled(c, lining, in, shown, item->name);
    c.add(std::move(t));
    Table holes{"openings",
                "Openings and places where nothing was measured.",
                {{"chainage", "Distance" + shown.behind(), true},
                 {"angle", "Angle from the crown, °", true},
                 {"area", "Area" + shown.behind(2), true}},
                {}};
    for (const tunnel::Hole& h : lining.holes())
        holes.rows.push_back(
            {shown.length(h.chainage), {figure(h.angle_deg, 0), h.angle_deg, "°"}, shown.area(h.area)});
    if (!holes.rows.empty()) c.add(std::move(holes));
}

void make_marks(Context& c) {
    const Shown shown(c.site(), site::reference_of(c.site()));
    Table t{"marks",
            "What was measured by hand and kept.",
            {{"name", "Name", false, 2},
             {"what", "What", false, 2},
             {"value", "Value", true},
             {"unit", "Unit"},
             {"note", "Note", false, 2}},
            {}};
    for (const site::MarkPtr& m : c.site().marks) {
        std::string note = m->note;
        const ItemPtr over = m->over ? c.site().item(m->over) : nullptr;
        if (m->over && (!over || site::stamp_of(*over) != m->stamp)) {
            note +=
                (note.empty() ? "" : "; ") + std::string("out of date: what it was measured above changed");
            c.warnings.push_back("The measurement " + m->name + " is out of date.");
        }
        bool first = true;
        for (const MarkFigure& f : mark_figures(m->kind, m->points)) {
            std::string what = f.id;
            std::replace(what.begin(), what.end(), '_', ' ');
            Cell value = mark_cell(f, shown);
            const std::string unit = value.unit;
            t.rows.push_back({{first ? m->name : ""}, {what}, std::move(value), {unit}, {first ? note : ""}});
            first = false;
        }
    }
    if (t.rows.empty())
        c.say("Nothing was measured by hand.");
    else
        c.add(std::move(t));
}

}  // namespace pristine::report
