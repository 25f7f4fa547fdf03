// Several meshes in one, joined where their edges lie together.

#pragma once

#include <cstdint>
#include <span>

#include "core/mesh/tri_mesh.h"

namespace pristine::mesh {

/// One mesh of several, and what that cost.
struct Merged {
    TriMesh mesh;  ///< triangles of the first, the second, …, in their order; those that were split in their
                   ///< place
    std::uint64_t joined = 0;   ///< vertices that became one with a vertex of another mesh
    std::uint64_t split = 0;    ///< edges that took a vertex of another mesh
    std::uint64_t dropped = 0;  ///< triangles that joining made flat
    double farthest = 0;        ///< the farthest that a vertex was moved, or an edge bent
};

/// Meshes side by side as one. Vertices on the open edges of different meshes within `tolerance` (data unit)
/// of each other become one, at the place of the mesh that was named first; never two of the same mesh. A
/// vertex within it of an open edge of another mesh is put into that edge, unless that would turn a triangle
/// over. With a tolerance of 0 places must be the same to the bit. What lies inside a mesh is not touched.
/// Throws Error(Usage) for a tolerance below 0, and for one that is larger than half of the shortest open
/// edge (details would be lost). O(n log n).
Merged merged(std::span<const TriMesh>, double tolerance);

/// How many triangles of terrain surfaces lie over or under another one of them: by their middles and the
/// middles of their edges, in plan. 0: they may be one surface. O(n log n).
std::uint64_t overlapping(std::span<const TriMesh>);

}  // namespace pristine::mesh
