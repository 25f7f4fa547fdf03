// What lies inside a lining, as a set, and as a map of the unrolled lining.

#pragma once

#include <vector>

#include "core/tunnel/lining.h"

namespace pristine::tunnel {

/// What lies inside a lining.
struct Inside {
    ElementSet points;           ///< deeper inside than the tolerance
    std::vector<float> deepest;  ///< of each cell of the lining, data unit; not-a-number where nothing lies
};
/// O(n). Throws Cancelled.
Inside inside(const cloud::PointCloud&, const ElementSet& eligible, const Lining&, double tolerance,
              Progress& = Progress::none());

}  // namespace pristine::tunnel
