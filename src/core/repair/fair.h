// Where the new vertices of a patch go, given what surrounds it.

#pragma once

#include <array>
#include <cstdint>
#include <vector>

#include "core/geometry/vec.h"

namespace pristine::repair {

/// A patch with rings of what surrounds it: vertices of which the free ones move.
struct FairProblem {
    std::vector<Vec3> vertices;
    std::vector<char> free;
    std::vector<std::array<std::uint32_t, 3>> triangles;  ///< of the patch and of the surroundings
    std::size_t patch = 0;                                ///< so many of them, the first, are of the patch
    std::vector<char> loose{};  ///< vertices of the patch's rim with nothing beyond; empty: none
};

/// Least area, nearly: the membrane of the patch alone, with cotangent weights.
void fair_flat(FairProblem&);
/// Least bending, nearly: the squared Laplacian over free vertices and those of the rim, so that the patch
/// goes on as the surroundings run up to it.
void fair_tangent(FairProblem&);

/// Moves the free vertices of a patch that is fair already onto the quadric that the vertices of the
/// surroundings lie on (fitted to places and normals), bent so that it passes through the rim. False, and
/// nothing moved, when they lie on none: farther off than a tenth of the mean edge.
bool follow_curvature(FairProblem&);

}  // namespace pristine::repair
