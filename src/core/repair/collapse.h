// Fewer triangles, edge by edge, without ever folding the surface or tearing it.

#pragma once

#include <cstddef>
#include <vector>

#include "core/base/progress.h"
#include "core/mesh/tri_mesh.h"

namespace pristine::repair {

/// How far a mesh may be made smaller.
struct CollapseOptions {
    std::size_t triangles = 0;  ///< wanted
    bool lock_rim = true;       ///< no vertex of a rim goes
    std::vector<char> only{};   ///< of each triangle, whether it may change; empty: all
    double shorter_than = 0;    ///< data unit: only such edges go, with `triangles` 0 all of them; 0: any
};

/// Closes up edges, the cheapest first, until no more triangles are left than wanted or no edge may go. One
/// end of an edge goes to the other, so places that stay are those of the mesh to the bit; triangles that
/// stay keep their order. The price is the quadric error (Garland & Heckbert, "Surface Simplification Using
/// Quadric Error Metrics", 1997), rims held by upright planes; in planes, where it is zero, the length of the
/// edge. Not gone: what would change the kind of the surface (link condition: Dey et al., "Topology
/// Preserving Edge Contraction", 1999), turn a triangle over or fold it onto its neighbour, or leave one
/// without area; vertices of edges of more than two triangles, or whose triangles do not hang together.
/// Vertices in one place must be one. The same for any number of workers. O(n log n). Throws Cancelled.
mesh::TriMesh collapsed(const mesh::TriMesh&, const CollapseOptions&, Progress& = Progress::none());

}  // namespace pristine::repair
