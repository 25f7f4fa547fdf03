// What someone stands on who walks through a cloud or over a mesh.

#pragma once

#include <optional>

#include "core/cloud/point_cloud.h"
#include "core/elements/element_set.h"

namespace pristine::measure {

/// Heights in which a floor is looked for, straight below a place; data unit.
struct FloorReach {
    double least_below = 0;  ///< as high as a step can be climbed
    double most_below = 0;   ///< as deep as one can step down
    double radius = 0;       ///< of the column in which points count
};

/// Height of the floor under `eye`, within the reach. Of triangles: of the highest one that the column's axis
/// meets. Of points: the highest level that holds at least three points and a fifteenth of those in the
/// column, within a tenth of the radius; single strays are none. None where there is no such level.
/// O(blocks + points near), of triangles O(triangles).
std::optional<double> floor_below(const cloud::PointCloud&, const ElementSet& shown, const Vec3& eye,
                                  const FloorReach&);

}  // namespace pristine::measure
