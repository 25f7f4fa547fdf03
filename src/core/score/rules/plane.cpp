// Distance to a given plane, to both sides.

#include <cmath>

#include "core/score/score.h"

namespace pristine::score {

void add_plane(std::vector<Score>& s) {
    const auto number = [](const char* name, const char* title, const char* unit, double usual) {
        return Parameter{name, title, unit, "Of the plane", usual, -1e9, 1e9, false, 6};
    };
    s.push_back({"plane",
                 "Height over a plane",
                 "length",
                 "far on the side that the normal points to",
                 "far on the other side (negative)",
                 "The plane has no rim: what lies beyond the surface meant is judged too.",
                 {number("x", "East of a place on it", "length", 0), number("y", "North", "length", 0),
                  number("z", "Height", "length", 0), number("nx", "Normal, east", "", 0),
                  number("ny", "Normal, north", "", 0), number("nz", "Normal, up", "", 1)},
                 {},
                 [](const Input& in, const Parameters& p, Progress& progress) {
                     const Vec3 at{p.at("x"), p.at("y"), p.at("z")};
                     Vec3 normal{p.at("nx"), p.at("ny"), p.at("nz")};
                     const double length = std::sqrt(dot(normal, normal));
                     if (!(length > 0))
                         throw Error(ErrorCode::Usage, "The normal of the plane has no direction");
                     normal = normal * (1 / length);
                     Column c;
                     c.values = for_members(in, progress, [&](std::size_t page, std::vector<float>& values) {
                         const cloud::PositionPage points = in.cloud.positions(page);
                         in.eligible.for_each_in_page(page, [&](std::size_t i) {
                             const Vec3 w = in.cloud.grid().world(points.x[i], points.y[i], points.z[i]);
                             values[i] = static_cast<float>(dot(w - at, normal));
                         });
                     });
                     return c;
                 }});
    s.back().applies = Score::Applies::Both;
}

}  // namespace pristine::score
