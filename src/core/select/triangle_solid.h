// Shapes in space on triangles as wholes: what they touch, what they hold wholly. All of these shapes are
// convex, so a triangle is held wholly when its corners are.

#pragma once

#include "core/select/reach.h"
#include "core/select/solid.h"

namespace pristine::select {

/// As the functions of solid.h; Reach::Middle, and clouds whose elements are points, go there. Throws
/// Cancelled. O(triangles in pages that the shape's surface crosses).
ElementSet inside(const cloud::PointCloud&, const std::vector<HalfSpace>&, const ElementSet& eligible, Reach,
                  Progress& = Progress::none());
ElementSet in_ball(const cloud::PointCloud&, Vec3 centre, double radius, const ElementSet& eligible, Reach,
                   Progress& = Progress::none());
ElementSet in_cylinder(const cloud::PointCloud&, double x, double y, double radius, double lowest,
                       double highest, const ElementSet& eligible, Reach, Progress& = Progress::none());

}  // namespace pristine::select
