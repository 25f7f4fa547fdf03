// Fewer points for the same surface.

#pragma once

#include <vector>

#include "core/base/progress.h"
#include "core/geometry/vec.h"

namespace pristine::surface {

/// Numbers of points that are enough for a surface from which none of the others is farther away in height
/// than the tolerance. Method: points are added in rounds, from each triangle that has one farther off the
/// farthest (after Garland & Heckbert 1995, many at a time). Of points in one place only the first counts.
/// O(n log n) typically. Throws Error(Usage), Cancelled.
std::vector<std::uint32_t> thinned(const std::vector<Vec3>&, double tolerance, Progress& = Progress::none());

}  // namespace pristine::surface
