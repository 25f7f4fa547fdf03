// Fewer triangles, by closing up the edges that matter least (meshoptimizer: quadric error, Garland &
// Heckbert 1997).

#pragma once

#include "core/base/progress.h"
#include "core/mesh/tri_mesh.h"
#include "core/repair/deviation.h"

namespace pristine::repair {

struct ReduceOptions {
    std::size_t triangles = 0;  ///< wanted
    bool lock_rim = true;       ///< rims stay to the bit
    std::vector<char> only{};   ///< of each triangle, whether it may go; empty: all
};

inline constexpr std::size_t kMostMended = 100'000;

struct Reduced {
    mesh::TriMesh mesh;
    Deviation deviation;  ///< of the result from the original
};

/// About as few as wanted, or as few as can be had without tearing the surface; vertices that stay keep their
/// places to the bit. Kinds of fault that the mesh did not have (triangles without area, doubled or crossing
/// ones, edges of more than two) are repaired afterwards where that can be done, of meshes of up to
/// kMostMended triangles: of larger ones it takes too long, and a check shows them. So there may be a few
/// triangles more or less. Throws Error(Usage) for no triangles; Cancelled.
Reduced reduce(const mesh::TriMesh&, const ReduceOptions&, Progress& = Progress::none());

}  // namespace pristine::repair
