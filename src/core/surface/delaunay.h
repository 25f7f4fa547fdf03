// The Delaunay triangulation of points in plan.
//
// Method: divide and conquer (Guibas & Stolfi 1985) with cuts in alternating directions (Dwyer 1987): points
// in Morton order, halves cut at the highest bit in which their places differ, so that cuts alternate and the
// order of the points alone decides. Exact predicates. The two halves at the top run in parallel.

#pragma once

#include <span>

#include "core/base/progress.h"
#include "core/surface/triangulation.h"

namespace pristine::surface {

/// A triangulation and what became of equal points.
struct Delaunay {
    Triangulation mesh;                 ///< its points in an order of their own
    std::vector<std::uint32_t> source;  ///< of each of its points: the input point, the first of equal ones
    std::vector<std::uint32_t> vertex;  ///< of each input point: its point in the mesh
};

/// Points in the same place become one. The triangles depend on the places only, not on the order of the
/// input, not on the number of workers. None for fewer than three points or points on one line. O(n log n).
/// Throws Error(Usage) for a coordinate that is no number, Cancelled.
Delaunay delaunay(std::span<const Plan>, Progress& = Progress::none());

}  // namespace pristine::surface
