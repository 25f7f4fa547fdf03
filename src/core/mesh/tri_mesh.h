// A triangle mesh in memory: vertices, and triangles as three numbers of vertices each.
//
// What every function over a TriMesh may expect: each number in `triangles` is below vertices.size(), and
// every coordinate is finite. Readers see to it (they refuse what breaks it); repairs keep it. Nothing else
// is promised: vertices may be unused or lie in the same place (weld.h makes those one), triangles may have
// no area or name a vertex twice, edges may have one, two or more triangles, and faces may disagree. A
// function that needs more says so. Both lists may be empty. At most 2^32 - 1 vertices and as many triangles.

#pragma once

#include <array>
#include <cstdint>
#include <vector>

#include "core/geometry/vec.h"

namespace pristine::mesh {

/// Vertices and triangles, as said above.
struct TriMesh {
    std::vector<Vec3> vertices;                           ///< in the unit of the data
    std::vector<std::array<std::uint32_t, 3>> triangles;  ///< counter-clockwise seen from outside
};

/// Enclosed volume by the divergence theorem, summed about the first vertex, cubic data units; only of use
/// for closed meshes. Negative when the triangles face inwards; 0 for no triangles. O(triangles).
double signed_volume(const TriMesh&);
/// Sum of the areas of all triangles, square data units; 0 for none. O(triangles).
double surface_area(const TriMesh&);
/// Edges that belong to one triangle only. O(n log n).
std::uint64_t open_edges(const TriMesh&);

}  // namespace pristine::mesh
