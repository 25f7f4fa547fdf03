// Where a rule is in the world: its limits as lines, and its farthest values.

#pragma once

#include <vector>

#include "core/cloud/point_cloud.h"
#include "core/recipe/recipe.h"
#include "core/score/score.h"

namespace pristine::score {

/// The limits of a step that have a place, as lines in world coordinates: rings round stations, a square of a
/// plane moved along its normal, the outline of a level. Empty for the others.
std::vector<std::vector<Vec3>> limit_lines(const Step&, const cloud::PointCloud&);

/// Places of the members whose values are farthest from `usual`, the farthest first, at least `apart` (data
/// unit) from each other; at most 64, and at least one if there is a member. O(n).
std::vector<Vec3> extremes(const Column&, const ElementSet& members, double usual, const cloud::PointCloud&,
                           double apart);

}  // namespace pristine::score
