// What the shapes in space say of places and boxes; for solid.cpp and triangle_solid.cpp alone.

#pragma once

#include <algorithm>
#include <cmath>

#include "core/select/solid.h"

namespace pristine::select::shapes {

/// Where a box lies.
enum class Side { Out, In, Crossing };

/// Inside all planes.
struct InHalfSpaces {
    const std::vector<HalfSpace>& planes;
    bool holds(Vec3 p) const {
        return std::all_of(planes.begin(), planes.end(),
                           [&](const HalfSpace& h) { return dot(h.normal, p) <= h.offset; });
    }
    Side judge(const Box3& box) const {
        bool in = true;
        for (const HalfSpace& h : planes) {
            double least = 0, most = 0;
            for (int a = 0; a < 3; ++a) {
                const double u = h.normal[a] * box.lo[a], v = h.normal[a] * box.hi[a];
                least += std::min(u, v);
                most += std::max(u, v);
            }
            // Sums of the corners round a little differently from those of the points.
            const double hair = 1e-12 * (std::fabs(least) + std::fabs(most) + std::fabs(h.offset));
            if (least > h.offset + hair) return Side::Out;
            in &= most < h.offset - hair;
        }
        return in ? Side::In : Side::Crossing;
    }
};

inline double squared(double v) {
    return v * v;
}

/// Within a radius of a place.
struct InBall {
    Vec3 centre;
    double radius;
    bool holds(Vec3 p) const {
        const Vec3 d = p - centre;
        return dot(d, d) <= squared(radius);
    }
    Side judge(const Box3& box) const {
        double nearest = 0, farthest = 0;
        for (int a = 0; a < 3; ++a) {
            const double below = box.lo[a] - centre[a], above = centre[a] - box.hi[a];
            nearest += squared(std::max({0.0, below, above}));
            farthest += squared(std::max(std::fabs(below), std::fabs(above)));
        }
        const double hair = 1e-9 * squared(radius);
        if (nearest > squared(radius) + hair) return Side::Out;
        return farthest < squared(radius) - hair ? Side::In : Side::Crossing;
    }
};

/// Within a radius of an upright axis, between two heights.
struct InCylinder {
    double x, y, radius, lowest, highest;
    bool holds(Vec3 p) const {
        return squared(p.x - x) + squared(p.y - y) <= squared(radius) && p.z >= lowest && p.z <= highest;
    }
    Side judge(const Box3& box) const {
        if (box.lo.z > highest || box.hi.z < lowest) return Side::Out;
        const Box3 flat{{box.lo.x, box.lo.y, 0}, {box.hi.x, box.hi.y, 0}};
        const Side side = InBall{{x, y, 0}, radius}.judge(flat);
        if (side != Side::In) return side;
        return box.lo.z >= lowest && box.hi.z <= highest ? Side::In : Side::Crossing;
    }
};

}  // namespace pristine::select::shapes
