// What is wrong with a mesh: each category counted, listed, with places to go to.

#pragma once

#include <array>
#include <string>
#include <vector>

#include "core/base/progress.h"
#include "core/mesh/tri_mesh.h"

namespace pristine::repair {

/// What can be wrong with a mesh.
enum class Fault : std::uint8_t {
    NonManifoldEdge,    ///< an edge of more than two triangles
    NonManifoldVertex,  ///< a corner at which the triangles form more than one fan
    InconsistentEdge,   ///< two triangles that face opposite ways
    SelfIntersection,   ///< two triangles that pass through each other
    Degenerate,         ///< a triangle without area, or a million times longer than high
    TinyEdge,           ///< an edge shorter than a length
    Spike,              ///< a corner that stands out like a needle
    DuplicateFace,      ///< a triangle with the same three corners as another before it
    SmallPiece,         ///< a connected piece of few triangles
    Hole,               ///< a rim that is not the edge of an open scan
    InnerShell          ///< a piece that lies inside another: it cannot be seen from outside
};
inline constexpr std::size_t kFaults = 11;
/// "non_manifold_edges", …: fixed names for files and the command line, in the order of the enum.
const char* id_of(Fault);
/// Throws Error(Usage) with a list of what there is.
Fault fault_of(const std::string& id);

/// One fault and where it is.
struct Finding {
    Fault fault;
    Vec3 where;                            ///< a place to fly to
    std::vector<std::uint32_t> triangles;  ///< that it is about; of a hole, those along its rim
    std::vector<std::uint32_t> vertices;   ///< of an edge two, of a corner one, of a hole its rim in order
};

/// What is looked for.
struct CheckOptions {
    double tiny_edge = 0;           ///< data unit; 0: a hundredth of the median edge
    double spike_deg = 80;          ///< the angles at a corner sum up to less than this
    std::uint64_t small_piece = 0;  ///< fewer triangles than this; 0: a fiftieth of the largest piece
    bool crossings = true;          ///< false: they are not looked for
};

/// All faults of a mesh.
struct Check {
    std::array<std::vector<Finding>, kFaults> findings;
    std::uint64_t components = 0;  ///< pieces joined across edges
    /// Handles of all pieces together, rims counted as if they were filled; -1 where an edge has more than
    /// two triangles.
    std::int64_t genus = 0;
    /// Edges of open scans (outer_boundaries.h), like holes in their form: they are no fault, and no repair
    /// closes them unless it is asked to.
    std::vector<Finding> outer;
    bool closed = false;   ///< every edge has two triangles that run through it in opposite directions
    double tiny_edge = 0;  ///< as used
    std::uint64_t small_piece = 0;

    const std::vector<Finding>& of(Fault f) const { return findings[static_cast<std::size_t>(f)]; }
    std::uint64_t count(Fault f) const { return of(f).size(); }
    /// Without crossings, open or doubled edges, degenerate triangles: fit for a volume.
    bool sound() const;
};

/// Deterministic. O(n log n); crossings in parallel. Throws Cancelled.
Check check(const mesh::TriMesh&, const CheckOptions& = {}, Progress& = Progress::none());

}  // namespace pristine::repair
