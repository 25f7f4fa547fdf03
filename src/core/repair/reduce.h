// Fewer triangles, by closing up the edges that matter least (collapse.h), and what it costs.

#pragma once

#include "core/base/progress.h"
#include "core/mesh/tri_mesh.h"
#include "core/repair/deviation.h"

namespace pristine::repair {

/// How far a mesh is reduced.
struct ReduceOptions {
    std::size_t triangles = 0;  ///< wanted
    bool lock_rim = true;       ///< rims stay to the bit
    std::vector<char> only{};   ///< of each triangle, whether it may go; empty: all
};

inline constexpr std::size_t kMostMended = 100'000;

/// A reduced mesh, and what it cost.
struct Reduced {
    mesh::TriMesh mesh;
    Deviation deviation;  ///< of the result from the original
};

/// As few as wanted, or as few as can be had without tearing or folding the surface; vertices that stay keep
/// their places to the bit. Sheets that lie near each other may still cross: of meshes of up to kMostMended
/// triangles that is repaired where it can be, so there may be a few triangles more or less; of larger ones a
/// check shows it. Throws Error(Usage) for no triangles; Cancelled.
Reduced reduce(const mesh::TriMesh&, const ReduceOptions&, Progress& = Progress::none());

}  // namespace pristine::repair
