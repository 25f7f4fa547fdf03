// Brushes on a mesh: corners move, and nothing else.

#pragma once

#include <vector>

#include "core/base/progress.h"
#include "core/mesh/tri_mesh.h"

namespace pristine::repair {

/// What a brush does to the corners under it.
enum class BrushKind : std::uint8_t {
    Relax,   ///< evens out, and keeps the volume nearly (Taubin 1995: a step back for each step)
    Flatten  ///< towards the plane that fits best under the brush
};

/// A stroke of a brush over a mesh.
struct BrushStroke {
    BrushKind kind = BrushKind::Relax;
    double radius = 0;           ///< data unit, > 0
    double strength = 0.5;       ///< 0 to 1
    std::vector<Vec3> places{};  ///< where the brush was, one after the other
};

/// The mesh after a stroke. What lies farther from all places than the radius stays to the bit; so do corners
/// on rims, unless `rims` is true, and corners of triangles that `may` (one for each triangle; empty: all)
/// forbids. The brush pulls most in its middle. Throws Error(Usage) for a radius or strength out of range;
/// Cancelled. O(what lies under the brush) after O(n) to begin with.
mesh::TriMesh brushed(const mesh::TriMesh&, const BrushStroke&, const std::vector<char>& may = {},
                      bool rims = false, Progress& = Progress::none());

}  // namespace pristine::repair
