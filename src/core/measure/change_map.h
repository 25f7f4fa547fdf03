// The change between two surfaces as a surface of its own, by the exact overlay of difference.h.

#pragma once

#include <vector>

#include "core/base/progress.h"
#include "core/mesh/tri_mesh.h"

namespace pristine::measure {

/// Change of height at the corners of the common polygons, as a mesh whose z is the change: the map.
mesh::TriMesh difference_map(const mesh::TriMesh& before, const mesh::TriMesh& after,
                             Progress& = Progress::none());

/// The later surface cut along the earlier one's triangles, with the mean change of each piece.
struct ChangeMap {
    mesh::TriMesh mesh;
    std::vector<double> change;  ///< of each triangle
};
ChangeMap change_map(const mesh::TriMesh& before, const mesh::TriMesh& after, Progress& = Progress::none());

}  // namespace pristine::measure
