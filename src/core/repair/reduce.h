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

struct Reduced {
    mesh::TriMesh mesh;
    Deviation deviation;  ///< of the result from the original
};

/// As few as wanted or as few as can be had without tearing or pinching the surface; vertices that stay keep
/// their places to the bit. Throws Error(Usage) for no triangles; Cancelled.
Reduced reduce(const mesh::TriMesh&, const ReduceOptions&, Progress& = Progress::none());

}  // namespace pristine::repair
