// A cloud with other colours: the same points, the same records behind them.

#pragma once

#include <memory>
#include <vector>

#include "core/base/progress.h"
#include "core/cloud/point_cloud.h"

namespace pristine::io {

/// The same elements with these colours, 0xRRGGBB by element; record k is record k, its columns red, green
/// and blue are the new ones (8 bits), all others stay. Throws Error(Usage) for triangles and for a number of
/// colours that is not that of the points, Error, Cancelled. O(n log n).
std::shared_ptr<const cloud::PointCloud> coloured(const std::shared_ptr<const cloud::PointCloud>&,
                                                  const std::vector<std::uint32_t>& rgb,
                                                  Progress& = Progress::none());

}  // namespace pristine::io
