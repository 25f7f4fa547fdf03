// Triangles of a polygon in space that need not be convex.

#pragma once

#include <array>
#include <cstdint>
#include <span>
#include <vector>

#include "core/geometry/vec.h"

namespace pristine::mesh {

/// Ears cut off one by one (Meisters 1975), in the plane of the polygon's area vector, decided exactly there.
/// Gives n - 2 triangles of the same corners and turning; a polygon that crosses itself is cut somehow.
/// O(n^2) typically. Throws Error(Unsupported) for more than 1000 corners.
void triangulate_polygon(std::span<const Vec3> vertices, std::span<const std::uint32_t> corners,
                         std::vector<std::array<std::uint32_t, 3>>& out);

}  // namespace pristine::mesh
