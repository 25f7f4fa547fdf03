// Height above the ground under each point, by the ground model of select/ground.h.

#include <cmath>

#include "core/base/units.h"
#include "core/score/score.h"
#include "core/select/ground.h"

namespace pristine::score {

void add_ground(std::vector<Score>& s) {
    s.push_back(
        {"ground",
         "Height above ground",
         "length",
         "stands on the ground or hangs over it",
         "ground (about 0), or strays below it (negative)",
         "Under dense vegetation, on roofs of more than the least area (taken for floors), and where the "
         "ground is steeper than allowed.",
         {{"steepest", "Steepest ground", "angle", "Steeper is taken for a wall", 35, 1, 80, false},
          {"area", "Smallest ground", "", "Square metres; a smaller level is no ground", 3, 0.1, 1e5, false}},
         {},
         [](const Input& in, const Parameters& p, Progress& progress) {
             select::GroundOptions options;
             options.metres_per_unit = length_unit(in.cloud.unit()).metres;
             options.steepest = std::tan(p.at("steepest") * 3.14159265358979323846 / 180);
             options.least_area = p.at("area");
             const select::GroundModel ground(in.cloud, in.eligible, options, progress);
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
         }});
}

}  // namespace pristine::score
