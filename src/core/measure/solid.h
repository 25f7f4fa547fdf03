// Area and enclosed volume of a scan mesh.

#pragma once

#include <cstdint>

#include "core/base/progress.h"
#include "core/mesh/tri_mesh.h"

namespace pristine::measure {

/// Volume and area of a mesh as a solid.
struct SolidFigures {
    double area = 0;      ///< square data units
    bool closed = false;  ///< every edge has two triangles that face the same way: there is a volume
    double volume = 0;    ///< cubic data units, counted positive; 0 when it is not closed
    bool inwards = false;
    std::uint64_t boundary_edges = 0, non_manifold_edges = 0, inconsistent_edges = 0;
    std::uint64_t crossings = 0;  ///< pairs of triangles: the volume counts some places twice
};

/// Corners in the same place have to be one vertex (mesh/weld.h). O(n log n). Throws Cancelled.
SolidFigures solid(const mesh::TriMesh&, Progress& = Progress::none());

}  // namespace pristine::measure
