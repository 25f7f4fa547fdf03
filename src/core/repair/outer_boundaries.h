// Which rims are the edges of open scans, and which are holes.
//
// A rim bounds its piece as the edge of a sheet does when the piece is little more than a lid on it: when the
// directed area of the rim (half the sum of cross products of its corners, which no fill can be smaller than)
// is a quarter of the area of the piece or more. Of a flat sheet that share is 1, of half a ball 0.5, of a
// box without its lid 0.2, of a ball with a bite far less. Only the largest rim of a piece can be such an
// edge.

#pragma once

#include <vector>

#include "core/mesh/tri_mesh.h"

namespace pristine::repair {

inline constexpr double kOuterShare = 0.25;

/// For each rim (vertices in order) whether it is the edge of an open scan. `piece` is the number of the
/// piece of each triangle. O(triangles + corners of rims).
std::vector<bool> outer_boundaries(const mesh::TriMesh&, const std::vector<std::vector<std::uint32_t>>& rims,
                                   const std::vector<std::uint32_t>& piece);

}  // namespace pristine::repair
