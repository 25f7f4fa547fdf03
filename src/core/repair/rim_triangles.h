// Triangles between the corners of a rim, without new ones.

#pragma once

#include <array>
#include <functional>
#include <vector>

#include "core/geometry/vec.h"

namespace pristine::repair {

/// The corners in the order in which the fill runs round (counter-clockwise seen from its front), and across
/// each edge i - i+1 the corner of the triangle beyond, for folds.
struct Rim {
    std::vector<Vec3> corners, beyond;
    /// Edges i - i+1 beyond which there is nothing: the fill may end there at any fold. Empty: none.
    std::vector<char> open{};
    /// Whether an edge between two corners that are no neighbours is taken already.
    std::function<bool(std::size_t, std::size_t)> taken;
};

/// n - 2 triangles with the least worst fold, and of those the least area; by dynamic programming up to 300
/// corners, by cutting off the ear with the least angle beyond. Empty when there are none that use no taken
/// edge.
std::vector<std::array<std::size_t, 3>> rim_triangles(const Rim&);

}  // namespace pristine::repair
