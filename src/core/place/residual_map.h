// How far a cloud lies from the one that it was fitted to, place by place.

#pragma once

#include <memory>

#include "core/place/fit.h"

namespace pristine::place {

/// Name of the column that holds the distances.
inline constexpr const char* kResidualColumn = "residual";

/// A place for each cube of half the side of those that the fit ended with, where the moving cloud lies after
/// it, with its distance from the nearest plane of the other as column "residual", data unit: above zero on
/// the upper side of the plane (of an upright one on the east side), and as column "stable" 1 where it is
/// near enough to have counted, 0 where the two differ. Places without a plane near, where the clouds do not
/// overlap, are not in it. Unit and reference are those of the still cloud. Throws Error(Empty) without any
/// place, Cancelled. O(n log n).
std::shared_ptr<const cloud::PointCloud> residual_map(const cloud::PointCloud& moving,
                                                      const ElementSet& moving_eligible,
                                                      const cloud::PointCloud& still,
                                                      const ElementSet& still_eligible, const Fit&,
                                                      const FitOptions&, Progress& = Progress::none());

}  // namespace pristine::place
