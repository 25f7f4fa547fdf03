// What lies below a place: the surface of a mesh, or the ground under points.

#pragma once

#include <optional>

#include "core/base/progress.h"
#include "core/cloud/point_cloud.h"
#include "core/elements/element_set.h"

namespace pristine::measure {

/// Height of the highest shown triangle that is not above the place, straight below it; where all are above,
/// of the lowest. None where no triangle lies over or under the place. The cloud has triangles. O(triangles).
std::optional<double> surface_below(const cloud::PointCloud&, const ElementSet& shown, Vec3 place);

/// Height of the ground under a place: the plane that most of the lowest points round it lie on or above
/// (plane_under), one point from each of up to 80 cells of a circle in plan; none that lies above the place
/// counts. The circle has 2 m, and is doubled up to 8 m until 20 cells hold a point; `metre`: so many data
/// units. None where that is not enough, or where the ground is steeper than 60 degrees. O(blocks + points
/// near).
std::optional<double> ground_below(const cloud::PointCloud&, const ElementSet& shown, Vec3 place,
                                   double metre);

}  // namespace pristine::measure
