#include "core/geometry/arc.h"

#include <cmath>
#include <numbers>

#include "core/geometry/predicates.h"

namespace pristine {

std::vector<Vec3> arc_points(Vec3 from, Vec3 centre, Vec3 to, bool clockwise, double sagitta) {
    const double r = std::hypot(from.x - centre.x, from.y - centre.y), turn = 2 * std::numbers::pi;
    const double a = std::atan2(from.y - centre.y, from.x - centre.x);
    double sweep = std::atan2(to.y - centre.y, to.x - centre.x) - a;
    if (clockwise && sweep >= 0) sweep -= turn;
    if (!clockwise && sweep <= 0) sweep += turn;
    // A chord over the angle 2 h leaves the arc by r (1 - cos h).
    const double half = sagitta < r ? std::acos(1 - sagitta / r) : std::numbers::pi / 4;
    const double step = std::min(2 * half, std::numbers::pi / 2);
    const auto n = static_cast<int>(std::ceil(std::fabs(sweep) / std::max(step, 1e-4) - 1e-9));
    std::vector<Vec3> points;
    for (int i = 1; i < n; ++i) {
        const double t = static_cast<double>(i) / n, at = a + sweep * t;
        points.push_back(
            {centre.x + r * std::cos(at), centre.y + r * std::sin(at), from.z + t * (to.z - from.z)});
    }
    points.push_back(to);
    return points;
}

std::vector<Vec3> arc_points_through(Vec3 from, Vec3 between, Vec3 to, double sagitta) {
    const int side = orientation(from.x, from.y, between.x, between.y, to.x, to.y);
    const double bx = between.x - from.x, by = between.y - from.y, cx = to.x - from.x, cy = to.y - from.y;
    if (from.x == to.x && from.y == to.y && (bx != 0 || by != 0)) {
        // A full circle: the place between lies across.
        return arc_points(from, {from.x + bx / 2, from.y + by / 2, from.z}, to, false, sagitta);
    }
    const double d = 2 * (bx * cy - by * cx);
    if (side == 0 || d == 0) return {to};
    const double b2 = bx * bx + by * by, c2 = cx * cx + cy * cy;
    const Vec3 centre{from.x + (cy * b2 - by * c2) / d, from.y + (bx * c2 - cx * b2) / d, from.z};
    return arc_points(from, centre, to, side < 0, sagitta);
}

}  // namespace pristine
