#include "app/tools/solid.h"

#include <algorithm>
#include <array>
#include <numbers>

namespace pristine::app {
namespace {

constexpr int kCircleSteps = 48;
constexpr double kLeast = 1e-3;  // of a radius or half side, data unit

// A box is turned by handles beyond its faces: handle 6 + k stands on the axis kTurnedBy[k] and turns it
// about the axis kTurns[k].
constexpr std::array<int, 3> kTurnedBy{0, 1, 2}, kTurns{2, 0, 1};
constexpr double kBeyond = 1.35;  // of the half side

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
    s.pitch_deg = b.pitch_deg;
    s.roll_deg = b.roll_deg;
    return s;
}

std::vector<Vec3> Solid::handles() const {
    std::vector<Vec3> h;
    if (kind == Kind::Box) {
        const std::array<Vec3, 3> axes = select::axes(box());
        for (int a = 0; a < 3; ++a)
            for (const double sign : {-1.0, 1.0})
                h.push_back(centre + axes[static_cast<std::size_t>(a)] * (sign * half[a]));
        for (const int a : kTurnedBy)
            h.push_back(centre + axes[static_cast<std::size_t>(a)] * (kBeyond * half[a]));
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
    const std::array<Vec3, 3> axes = select::axes(box());
    const auto corner = [&](int i) {
        return centre + axes[0] * (i & 1 ? half.x : -half.x) + axes[1] * (i & 2 ? half.y : -half.y) +
               axes[2] * (i & 4 ? half.z : -half.z);
    };
    std::vector<std::vector<Vec3>> lines;
    for (int z0 = 0; z0 <= 4; z0 += 4)
        lines.push_back({corner(z0), corner(z0 + 1), corner(z0 + 3), corner(z0 + 2), corner(z0)});
    for (int i = 0; i < 4; ++i) lines.push_back({corner(i), corner(i + 4)});
    for (const int a : kTurnedBy) {
        const Vec3 axis = axes[static_cast<std::size_t>(a)];
        lines.push_back({centre + axis * half[a], centre + axis * (kBeyond * half[a])});
    }
    return lines;
}

namespace {

// Degrees about an axis of the box. Seen along the axis it is the angle about the middle; seen from the side,
// how far the handle goes along its circle.
double turned_by(const Solid& s, std::size_t k, PixelPoint from, PixelPoint to, const ViewFrame& view) {
    constexpr double kDegrees = 180 / std::numbers::pi;
    const std::array<Vec3, 3> axes = select::axes(s.box());
    const Vec3 about = axes[static_cast<std::size_t>(kTurns[k])];
    const double along = dot(view.ahead, about);
    if (std::fabs(along) > 0.5) {
        const PixelPoint m = view.project(s.centre);
        const double seen = std::atan2(to.y - m.y, to.x - m.x) - std::atan2(from.y - m.y, from.x - m.x);
        // Pixels run downwards.
        return std::remainder((along < 0 ? -1 : 1) * seen * kDegrees, 360.0);
    }
    const Vec3 handle = s.handles()[6 + k], arm = handle - s.centre;
    return drag_along(handle, normalized(cross(about, arm)), from, to, view) / norm(arm) * kDegrees;
}

Solid drag_box(Solid s, std::size_t h, PixelPoint from, PixelPoint to, const ViewFrame& view) {
    if (h >= 6) {
        const std::size_t k = h - 6;
        const double by = turned_by(s, k, from, to, view);
        return Solid::of(select::turned(s.box(), kTurns[k], by));
    }
    const int a = static_cast<int>(h) / 2;
    const Vec3 out = select::axes(s.box())[static_cast<std::size_t>(a)] * (h % 2 ? 1.0 : -1.0);
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
