// Pairs of triangles of a mesh that pass through each other.
//
// Law (tested): the pairs are those that testing every pair finds, decided exactly (geometry/predicates.h) on
// the coordinates as they are.

#pragma once

#include <array>
#include <cstdint>
#include <vector>

#include "core/base/progress.h"
#include "core/mesh/tri_mesh.h"

namespace pristine::repair {

using Pair = std::array<std::uint32_t, 2>;

/// Whether two triangles have more in common than the corners that they share: borders belong, so touching is
/// crossing. Sharing two corners they cross when one is folded onto the other; sharing all three is not
/// looked at. Corners in the same place are shared only when they are one vertex. Exact.
bool cross(const mesh::TriMesh&, std::uint32_t, std::uint32_t);

/// All such pairs, the lower number first, in ascending order. O(n log n + pairs of meeting boxes), parallel.
/// Throws Cancelled.
std::vector<Pair> crossings(const mesh::TriMesh&, Progress& = Progress::none());

/// Where two crossing triangles meet: the ends of the stretch that they share, or one place; empty when it is
/// an area. Rounded.
std::vector<Vec3> intersection_segment(const mesh::TriMesh&, std::uint32_t, std::uint32_t);

}  // namespace pristine::repair
