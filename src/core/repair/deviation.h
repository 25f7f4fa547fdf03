// How far one mesh lies from another.

#pragma once

#include <vector>

#include "core/base/progress.h"
#include "core/mesh/tri_mesh.h"

namespace pristine::repair {

/// How far one mesh lies from another.
struct Deviation {
    double mean = 0, p95 = 0, max = 0;  ///< data unit
};

/// Distances from places of `mesh` (its vertices, and the middles of its edges and triangles) to the nearest
/// place of `to`, each place with the area that it stands for. 0 for an empty mesh. O(n log n), parallel.
/// Throws Cancelled.
Deviation deviation(const mesh::TriMesh& mesh, const mesh::TriMesh& to, Progress& = Progress::none());

/// Of those triangles of `after` alone whose corners are not those of one of `before`: how far what a repair
/// made lies from what was there.
Deviation deviation_of_made(const mesh::TriMesh& before, const mesh::TriMesh& after,
                            Progress& = Progress::none());

/// The distance of each triangle's middle to the nearest place of `to`.
std::vector<double> distances(const mesh::TriMesh& mesh, const mesh::TriMesh& to,
                              Progress& = Progress::none());

}  // namespace pristine::repair
