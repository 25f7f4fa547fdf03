// Distances to triangles in space.

#pragma once

#include <array>

#include "core/geometry/vec.h"

namespace pristine {

/// The place of the segment a-b nearest to p.
inline Vec3 closest_on_segment(Vec3 p, Vec3 a, Vec3 b) {
    const Vec3 d = b - a;
    const double l = dot(d, d);
    return a + d * (l > 0 ? std::clamp(dot(p - a, d) / l, 0.0, 1.0) : 0.0);
}

/// The place of the triangle nearest to p, by its Voronoi regions (Ericson 2005, "Real-Time Collision
/// Detection", 5.1.5). Flat triangles are the longest of their edges.
Vec3 closest_on_triangle(Vec3 p, Vec3 a, Vec3 b, Vec3 c);

/// The weights of the corners at the place of the triangle's plane nearest to p; they sum up to 1, and one is
/// negative outside of the triangle. 1, 0, 0 for a triangle without area.
std::array<double, 3> barycentric(Vec3 p, Vec3 a, Vec3 b, Vec3 c);

}  // namespace pristine
