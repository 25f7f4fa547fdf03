// Arcs as chords that keep to them within a sagitta: the largest distance from a chord to its arc.

#pragma once

#include <vector>

#include "core/geometry/vec.h"

namespace pristine {

/// Places after `from` along the arc in plan, up to and with `to`; heights go evenly from one to the other.
/// The radius is that of `from`; a full turn when both ends are the same place. As few chords as the sagitta
/// (> 0, data unit) allows, at least two for every half turn.
std::vector<Vec3> arc_points(Vec3 from, Vec3 centre, Vec3 to, bool clockwise, double sagitta);

/// The same through a place between; the chord to `to` when the three lie in one line in plan.
std::vector<Vec3> arc_points_through(Vec3 from, Vec3 between, Vec3 to, double sagitta);

}  // namespace pristine
