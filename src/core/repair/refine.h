// More triangles where there are too few.

#pragma once

#include <vector>

#include "core/base/progress.h"
#include "core/mesh/tri_mesh.h"

namespace pristine::repair {

/// Cuts the longest edge of each chosen triangle that is longer than `edge` (data unit) in its middle, and
/// with it every triangle at that edge, longest first, until none is left (longest-edge bisection, Rivara
/// 1984); the shape stays, and neighbours stay joined. Throws Error(Usage) for an edge that is not positive,
/// or so short that more than 20 million triangles would come of it; Cancelled. O(made log made).
mesh::TriMesh refine(const mesh::TriMesh&, const std::vector<char>& chosen, double edge,
                     Progress& = Progress::none());

}  // namespace pristine::repair
