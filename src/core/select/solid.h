// Selecting with shapes in space: half-spaces (planes, boxes, strips), balls, upright cylinders.
//
// Pages, then blocks, are taken or left by their bounds; only those that the surface of the shape crosses are
// looked into. Law: the result equals testing every point's world position, in double precision.

#pragma once

#include <array>
#include <optional>
#include <vector>

#include "core/base/progress.h"
#include "core/cloud/point_cloud.h"
#include "core/elements/element_set.h"
#include "core/geometry/plane_fit.h"

namespace pristine::select {

/// The points p with dot(normal, p) <= offset. The normal need not have length 1.
struct HalfSpace {
    Vec3 normal;
    double offset = 0;
};

/// A box of these half sides round a centre. Its x axis points along `yaw_deg` (counter-clockwise from east)
/// and rises by `pitch_deg`; then it is rolled about that axis, counter-clockwise as seen against it.
struct Box {
    Vec3 centre, half;
    double yaw_deg = 0, pitch_deg = 0, roll_deg = 0;
};
std::vector<HalfSpace> half_spaces(const Box&);
/// Its three axes, unit length, right-handed.
std::array<Vec3, 3> axes(const Box&);
/// Turned about one of its own axes (0, 1, 2), counter-clockwise as seen against it; centre and size stay.
Box turned(const Box&, int axis, double degrees);
/// Turned by the smallest angle so that one pair of its faces is parallel to the plane, with the face on the
/// side of the plane moved onto it; the face opposite stays where it is. A plane that leans by less than 6
/// degrees counts as upright, one that is inclined by less than 6 degrees as level, so that a box that stands
/// upright stays so.
Box against(const Box&, const FittedPlane&);

/// The upright strip of plan along the line a-b: between its ends, half of `width` to either side, any
/// height. Throws Error(Usage) when a and b have the same place in plan.
Box strip(Vec3 a, Vec3 b, double width, double lowest, double highest);

/// A plane through three points, the normal upward (or, when upright, as the right hand has it). Throws
/// Error(Usage) when they lie on a line.
HalfSpace plane_through(Vec3 a, Vec3 b, Vec3 c);

/// The plane through the members of a set, outliers aside; from an even sample of at most 50,000 of them.
/// None for sets that span no plane. See geometry/plane_fit.h.
std::optional<FittedPlane> fitted_plane(const cloud::PointCloud&, const ElementSet&);

/// What lies in all of the half-spaces; with none, everything. Borders belong. Throws Cancelled.
ElementSet inside(const cloud::PointCloud&, const std::vector<HalfSpace>&, const ElementSet& eligible,
                  Progress& = Progress::none());
/// What lies within `radius` of the centre, border included. A negative radius selects nothing.
ElementSet in_ball(const cloud::PointCloud&, Vec3 centre, double radius, const ElementSet& eligible,
                   Progress& = Progress::none());
/// What lies within `radius` of the upright axis through (x, y), from height `lowest` to `highest`.
ElementSet in_cylinder(const cloud::PointCloud&, double x, double y, double radius, double lowest,
                       double highest, const ElementSet& eligible, Progress& = Progress::none());

}  // namespace pristine::select
