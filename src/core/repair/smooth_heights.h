// A part of a surface made smooth: heights are moved, places in plan stay.

#pragma once

#include <vector>

#include "core/base/progress.h"
#include "core/mesh/tri_mesh.h"

namespace pristine::repair {

/// Heights that were evened out.
struct SmoothHeights {
    std::vector<double> heights;  ///< of each vertex
    std::size_t moved = 0;        ///< vertices whose height changed
    double largest = 0;           ///< change; data unit
};

/// Brings each vertex that `may` move to the quadric through the heights of its two rings (least squares with
/// weights that fall off with distance), `rounds` times, and never farther than `most` from where it was. The
/// others stay to the bit. Laws (tested): a quadric stays what it is; no height changes by more than `most`;
/// noise gets less. Throws Error(Usage) for a `most` that is not above 0, Cancelled. O(n * rounds), parallel,
/// the same for any number of workers.
SmoothHeights smoothed_heights(const mesh::TriMesh&, const std::vector<char>& may, double most,
                               int rounds = 3, Progress& = Progress::none());

}  // namespace pristine::repair
