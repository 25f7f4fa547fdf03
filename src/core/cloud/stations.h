// Which points were seen from which station.

#pragma once

#include "core/base/progress.h"
#include "core/cloud/point_cloud.h"
#include "core/elements/element_set.h"

namespace pristine::cloud {

/// Whether it can be said which points are of which station: there is one, or the records have a column
/// "scan".
bool knows_stations(const PointCloud&);
/// The eligible points that the station of this number saw; all of them where there is one. Empty for a
/// number that there is not. Throws Error(Usage) when knows_stations() does not hold, Cancelled. O(n).
ElementSet of_station(const PointCloud&, const ElementSet& eligible, std::size_t station,
                      Progress& = Progress::none());

}  // namespace pristine::cloud
