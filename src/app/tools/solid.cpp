#include "app/tools/solid.h"

#include <algorithm>
#include <numbers>

namespace pristine::app {
namespace {

constexpr int kCircleSteps = 48;
constexpr double kLeast = 1e-3;  // of a radius or half side, data unit

Vec3 box_axis(double yaw_deg, int a) {
    const double t = yaw_deg * std::numbers::pi / 180;
    if (a == 0) return {std::cos(t), std::sin(t), 0};
    if (a == 1) return {-std::sin(t), std::cos(t), 0};
    return {0, 0, 1};
}

std::vector<Vec3> ring(Vec3 middle, Vec3 u, Vec3 v) {
    std::vector<Vec3> line;
    for (int i = 0; i <= kCircleSteps; ++i) {
        const double a = 2 * std::numbers::pi * i / kCircleSteps;
        line.push_back(middle + u * std::cos(a) + v * std::sin(a));
    }
    return line;
}

// Two directions at right angles to the normal.
std::pair<Vec3, Vec3> along_plane(Vec3 n) {
    const Vec3 other = std::fabs(n.z) > 0.9 ? Vec3{1, 0, 0} : Vec3{0, 0, 1};
    Vec3 u = cross(other, n);
    u = u * (1 / std::sqrt(dot(u, u)));
    return {u, cross(n, u)};
}

// How far along `out` (unit length) the drag goes from a place, as it is seen. Seen square on, the mouse
// moves up for outward.
double drag_along(Vec3 place, Vec3 out, PixelPoint from, PixelPoint to, const ViewFrame& view) {
    const PixelPoint q = view.project(place), r = view.project(place + out);
    const double ux = r.x - q.x, uy = r.y - q.y, length = ux * ux + uy * uy;
    const double per_unit = view.pixels_per_unit(view.depth(place));
    if (length < 0.01 * per_unit * per_unit) return (from.y - to.y) / per_unit;
    return ((to.x - from.x) * ux + (to.y - from.y) * uy) / length;
}

// The drag in the plane of the view, at the depth of a place.
Vec3 drag_across(Vec3 place, PixelPoint from, PixelPoint to, const ViewFrame& view) {
    const double depth = view.depth(place);
    return view.lift(to, depth) - view.lift(from, depth);
}

}  // namespace

Solid Solid::of(const select::Box& b) {
    Solid s;
    s.kind = Kind::Box;
    s.centre = b.centre;
    s.half = b.half;
    s.yaw_deg = b.yaw_deg;
    return s;
}

std::vector<Vec3> Solid::handles() const {
    std::vector<Vec3> h;
    if (kind == Kind::Box) {
        for (int a = 0; a < 3; ++a)
            for (const double sign : {-1.0, 1.0})
                h.push_back(centre + box_axis(yaw_deg, a) * (sign * half[a]));
        h.push_back(centre + box_axis(yaw_deg, 0) * (1.35 * half.x));
        return h;
    }
    if (kind == Kind::Plane) return {centre + normal * (0.6 * radius), centre};
    for (const Vec3& out : {Vec3{1, 0, 0}, Vec3{-1, 0, 0}, Vec3{0, 1, 0}, Vec3{0, -1, 0}})
        h.push_back(centre + out * radius);
    if (kind == Kind::Ball) {
        h.push_back(centre + Vec3{0, 0, radius});
        h.push_back(centre - Vec3{0, 0, radius});
    } else {
        h.push_back({centre.x, centre.y, std::isfinite(top) ? top : drawn_top});
        h.push_back({centre.x, centre.y, std::isfinite(bottom) ? bottom : drawn_bottom});
    }
    h.push_back(centre);
    return h;
}

std::vector<std::vector<Vec3>> Solid::outline() const {
    const Vec3 x{radius, 0, 0}, y{0, radius, 0}, z{0, 0, radius};
    switch (kind) {
        case Kind::Ball:
            return {ring(centre, x, y), ring(centre, x, z), ring(centre, y, z)};
        case Kind::Cylinder: {
            const std::vector<Vec3> h = handles();
            std::vector<std::vector<Vec3>> lines{ring(h[4], x, y), ring(h[5], x, y)};
            for (const Vec3& side : {x, x * -1.0, y, y * -1.0}) lines.push_back({h[4] + side, h[5] + side});
            return lines;
        }
        case Kind::Plane: {
            const auto [u, v] = along_plane(normal);
            const Vec3 a = u * radius, b = v * radius;
            return {{centre - a - b, centre + a - b, centre + a + b, centre - a + b, centre - a - b},
                    {centre, handles()[0]}};
        }
        case Kind::Box:
            break;
    }
    const auto corner = [&](int i) {
        return centre + box_axis(yaw_deg, 0) * (i & 1 ? half.x : -half.x) +
               box_axis(yaw_deg, 1) * (i & 2 ? half.y : -half.y) +
               box_axis(yaw_deg, 2) * (i & 4 ? half.z : -half.z);
    };
    std::vector<std::vector<Vec3>> lines;
    for (int z0 = 0; z0 <= 4; z0 += 4)
        lines.push_back({corner(z0), corner(z0 + 1), corner(z0 + 3), corner(z0 + 2), corner(z0)});
    for (int i = 0; i < 4; ++i) lines.push_back({corner(i), corner(i + 4)});
    lines.push_back({centre + box_axis(yaw_deg, 0) * half.x, handles().back()});
    return lines;
}

namespace {

Solid drag_box(Solid s, std::size_t h, PixelPoint from, PixelPoint to, const ViewFrame& view) {
    if (h == 6) {  // turn: the angle about the middle, as seen
        const PixelPoint m = view.project(s.centre);
        const double seen = std::atan2(to.y - m.y, to.x - m.x) - std::atan2(from.y - m.y, from.x - m.x);
        const double sense = view.ahead.z < 0 ? -1 : 1;  // pixels run downwards
        s.yaw_deg = std::remainder(s.yaw_deg + sense * seen * 180 / std::numbers::pi, 360.0);
        return s;
    }
    const int a = static_cast<int>(h) / 2;
    const Vec3 out = box_axis(s.yaw_deg, a) * (h % 2 ? 1.0 : -1.0);
    const double by =
        std::max(drag_along(s.centre + out * s.half[a], out, from, to, view), -1.98 * s.half[a]);
    s.half[a] += by / 2;
    s.centre = s.centre + out * (by / 2);
    return s;
}

}  // namespace

Solid Solid::dragged(std::size_t h, PixelPoint from, PixelPoint to, const ViewFrame& view) const {
    if (kind == Kind::Box) return drag_box(*this, h, from, to, view);
    Solid s = *this;
    const std::vector<Vec3> held = handles();
    if (kind == Kind::Plane) {
        s.centre = centre + normal * drag_along(held[h], normal, from, to, view);
        return s;
    }
    if (h + 1 == held.size()) {
        Vec3 by = drag_across(centre, from, to, view);
        if (kind == Kind::Cylinder) by.z = 0;  // its ends have handles of their own
        s.centre = centre + by;
        return s;
    }
    if (kind == Kind::Cylinder && h >= 4) {
        const double by = drag_along(held[h], {0, 0, 1}, from, to, view);
        const double least = 2 * kLeast;
        if (h == 4)
            s.top = std::max(held[4].z + by, held[5].z + least);
        else
            s.bottom = std::min(held[5].z + by, held[4].z - least);
        return s;
    }
    const Vec3 out = (held[h] - centre) * (1 / radius);
    s.radius = std::max(kLeast, radius + drag_along(held[h], out, from, to, view));
    return s;
}

}  // namespace pristine::app
