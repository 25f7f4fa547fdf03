// Outlines of stockpiles proposed from the surface of a yard.

#pragma once

#include <vector>

#include "core/base/progress.h"
#include "core/mesh/tri_mesh.h"

namespace pristine::measure {

struct PileSearch {
    double least_height = 0;  ///< of the top above the foot, data unit; 0: a hundredth of the yard's extent
    double slope_deg = 12;    ///< flanks are steeper than this
};

/// Closed lines round what rises from the surface with steep flanks, the largest first; each place on the
/// surface. Heights are looked at by cells, of a 300th of the extent or of a dozen triangles, so that noise
/// makes no flank. Piles whose feet touch are one. Pits, and slopes that run to the rim of the surface, are
/// none. O(triangles + cells). Throws Cancelled.
std::vector<std::vector<Vec3>> pile_outlines(const mesh::TriMesh&, const PileSearch& = {},
                                             Progress& = Progress::none());

}  // namespace pristine::measure
