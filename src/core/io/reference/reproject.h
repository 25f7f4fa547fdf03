// A cloud, mesh or surface in another reference system.

#pragma once

#include <memory>
#include <string>

#include "core/base/progress.h"
#include "core/cloud/point_cloud.h"
#include "core/elements/element_set.h"

namespace pristine::io {

/// The same elements in the system `target` ("EPSG:n" or WKT), record k from record k. Plan by PROJ; heights
/// change their unit and keep their datum. Columns and attributes come along, stations too. Throws
/// Error(Usage) when the system of the cloud is not known, there is no way, or points have no image in the
/// target; Cancelled. O(n log n).
std::shared_ptr<const cloud::PointCloud> reprojected(const std::shared_ptr<const cloud::PointCloud>&,
                                                     const std::string& target, Progress& = Progress::none());

/// The middle of a cloud in degrees lies in this zone (system.h, zone_for); empty for an empty cloud.
std::string fitting_zone(const cloud::PointCloud&);

}  // namespace pristine::io
