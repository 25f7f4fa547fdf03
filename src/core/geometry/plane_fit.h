// The plane through points of which some do not lie on it.

#pragma once

#include <optional>
#include <span>

#include "core/geometry/vec.h"

namespace pristine {

/// A plane through points, and how well they lie on it.
struct FittedPlane {
    Vec3 point;   ///< the middle of the points that lie on it
    Vec3 normal;  ///< unit length, upward; of an upright plane towards east, or north
    double rms;   ///< of the distances of the points that count, same unit as they
};

/// Total least squares, reweighted by Tukey's biweight (Beaton & Tukey 1974) with a scale from the median
/// distance, until it stands still. None for fewer than three points or points on one line. O(n) a round, at
/// most 30 rounds.
std::optional<FittedPlane> fit_plane(std::span<const Vec3> points);

}  // namespace pristine
