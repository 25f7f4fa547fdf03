// Lines that the triangles must follow: segments forced into a Delaunay triangulation, which stays as
// Delaunay as they allow (constrained Delaunay, Lee & Lin 1986; edges turned away one by one as by Sloan
// 1993). Exact predicates; a segment that passes through points exactly is cut there.

#pragma once

#include <array>
#include <span>
#include <vector>

#include "core/base/progress.h"
#include "core/surface/triangulation.h"

namespace pristine::surface {

/// Where two segments cross between their ends: a new point of the triangulation. Its place is rounded, so
/// each of the two bends there by less than a rounding.
struct Crossing {
    std::uint32_t vertex = kNone;
    std::uint32_t earlier = 0, later = 0;  ///< places in the list of segments
};

/// What following the segments did.
struct ConstrainResult {
    std::vector<Crossing> crossings;
    std::uint64_t edges = 0;  ///< of triangles, that follow segments
};

/// Both ends of each segment are points of the mesh; a segment of no length is passed over. The result
/// depends on the order of segments only where they cross. O(turned edges). Throws Cancelled.
ConstrainResult constrain(Triangulation&, std::span<const std::array<std::uint32_t, 2>> segments,
                          Progress& = Progress::none());

}  // namespace pristine::surface
