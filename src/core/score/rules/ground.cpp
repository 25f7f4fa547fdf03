// Height above the ground: of a site with one ground at each place, or of floors above each other.

#include <fmt/format.h>

#include <cmath>
#include <numbers>

#include "core/base/units.h"
#include "core/score/score.h"
#include "core/terrain/floors.h"
#include "core/terrain/terrain.h"

namespace pristine::score {
namespace {

// Two digits, in the unit of the data.
std::string length_text(double metres, const cloud::PointCloud& c) {
    const LengthUnit& unit = length_unit(c.unit());
    return fmt::format("{:.2g} {}", metres / unit.metres, c.unit().empty() ? "units" : unit.symbol);
}

std::string note_of(const terrain::LargestObject& found, const cloud::PointCloud& c) {
    if (found.share == 0) return {};
    const std::string where = fmt::format("{:.0f} {:.0f}", found.where.x, found.where.y);
    return fmt::format(
        "Largest object {}, found from the points; with {} another {:.1f} % would be ground, most of it near "
        "{}",
        length_text(found.side, c), length_text(found.smaller, c), 100 * found.share, where);
}

Column above_ground(const Input& in, const Parameters& p, Progress& progress) {
    terrain::Options options;
    options.metres_per_unit = length_unit(in.cloud.unit()).metres;
    options.steepest = p.at("steepest");
    options.largest_object = p.at("object") * options.metres_per_unit;
    options.cell = p.at("cell") * options.metres_per_unit;
    Column c;
    if (options.largest_object == 0) {
        const Progress::Part part(progress, 0, 0.3, "Looking for the largest object");
        const terrain::LargestObject found =
            terrain::largest_object(in.cloud, in.eligible, options, progress);
        options.largest_object = found.side;
        c.note = note_of(found, in.cloud);
    }
    const terrain::Terrain ground(in.cloud, in.eligible, options, progress);
    c.values = for_members(in, progress, [&](std::size_t page, std::vector<float>& values) {
        const cloud::PositionPage points = in.cloud.positions(page);
        in.eligible.for_each_in_page(page, [&](std::size_t i) {
            if (const auto h = ground.above(in.cloud.grid().world(points.x[i], points.y[i], points.z[i])))
                values[i] = static_cast<float>(*h);
        });
    });
    return c;
}

Column above_floor(const Input& in, const Parameters& p, Progress& progress) {
    terrain::GroundOptions options;
    options.metres_per_unit = length_unit(in.cloud.unit()).metres;
    options.steepest = std::tan(p.at("steepest") * std::numbers::pi / 180);
    options.least_area = p.at("area");
    const terrain::GroundModel ground(in.cloud, in.eligible, options, progress);
    Column c;
    c.values = for_members(in, progress, [&](std::size_t page, std::vector<float>& values) {
        const cloud::PositionPage points = in.cloud.positions(page);
        in.eligible.for_each_in_page(page, [&](std::size_t i) {
            const Vec3 w = in.cloud.grid().world(points.x[i], points.y[i], points.z[i]);
            if (const auto h = ground.below(w.x, w.y, w.z, ground.column()))
                values[i] = static_cast<float>(w.z - *h);
        });
    });
    return c;
}

}  // namespace

void add_ground(std::vector<Score>& s) {
    s.push_back(
        {"ground",
         "Height above ground",
         "length",
         "stands on the ground or hangs over it",
         "ground (about 0, faces of the ground too), or noise below it (negative)",
         "Under vegetation without a gap, and for things larger than the largest object: they are taken for "
         "ground, as is a straight wall seen from one side only with nothing measured behind it. Heaps "
         "smaller "
         "than the largest object that rise steeply all round are taken for objects.",
         {{"steepest", "Steepest ground", "angle",
           "Against the general slope of the site; steeper is a face or the side of something", 35, 5, 80,
           false},
          {"object", "Largest object", "length",
           "Side of the largest thing that is no ground; 0: found from the points", 0, 0, 1000, false},
          {"cell", "Squares", "length",
           "Side of the squares of plan that it is found in; 0: from the density of the points. Tiles of one "
           "site need the same",
           0, 0, 10, false}},
         {},
         above_ground});
    s.back().reason = "%1 above the ground";
    s.back().begins = 0.07;
    s.push_back({"floor",
                 "Height above floor",
                 "length",
                 "stands on a floor or hangs over it",
                 "floor (about 0), or strays below it (negative)",
                 "Roofs, tables and shelves of more than the least area are floors too.",
                 {{"steepest", "Steepest floor", "angle", "Steeper is taken for a wall", 35, 1, 80, false},
                  {"area", "Smallest floor [m²]", "", "Square metres; a smaller level is no floor", 3, 0.1,
                   1e5, false}},
                 {},
                 above_floor});
    s.back().reason = "%1 above the floor beneath it";
    s.back().begins = 0.07;
}

}  // namespace pristine::score
