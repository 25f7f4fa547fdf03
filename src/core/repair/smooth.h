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

/// A mesh of which corners were moved.
struct Moved {
    mesh::TriMesh mesh;
    std::size_t corners = 0;  ///< that moved
    double farthest = 0;      ///< data unit
};
/// Evens out the triangles that are `chosen` (one for each; empty: all), `rounds` times in the manner of
/// BrushKind::Relax with full strength. Only corners move that all their triangles are chosen of, and that
/// lie on no rim: everything else stays to the bit. Throws Error(Usage) for a strength that is not above 0
/// and at most 1; Cancelled. O(n * rounds).
Moved smoothed(const mesh::TriMesh&, const std::vector<char>& chosen, int rounds = 10, double strength = 1,
               Progress& = Progress::none());
/// Brings the same corners onto the plane that most corners of the chosen triangles lie on (plane_fit.h), all
/// the way. Throws Error(Usage) when they make no plane; Cancelled. O(n).
Moved flattened(const mesh::TriMesh&, const std::vector<char>& chosen, Progress& = Progress::none());

}  // namespace pristine::repair
