// A patch that grows in a hole: refined to the edge lengths of what surrounds it.

#pragma once

#include <array>
#include <cstdint>
#include <vector>

#include "core/base/progress.h"
#include "core/geometry/vec.h"

namespace pristine::repair {

/// A fill of one hole while it is made.
struct PatchMesh {
    std::vector<Vec3> vertices;  ///< those of the rim first
    std::size_t rim = 0;         ///< how many those are
    std::vector<double> scale;   ///< wanted edge length at each vertex
    std::vector<std::array<std::uint32_t, 3>> triangles;
};

/// Puts vertices into the middles of triangles that are large against the scale at their corners, and turns
/// edges until the angles opposite each sum up to no more than 180 degrees (Liepa 2003). Rim edges stay.
void refine(PatchMesh&, Progress&);

}  // namespace pristine::repair
