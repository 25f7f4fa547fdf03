// A cloud without a place of its own, as photogrammetry makes it: brought to level, and to size.

#pragma once

#include <string>
#include <vector>

#include "core/geometry/similarity.h"

namespace pristine::place {

/// The smallest turn about a place that brings a direction upright. Of both senses of the direction the one
/// that points upwards counts. Throws Error(Usage) for a direction of no length.
Similarity levelled(const Vec3& direction, const Vec3& about);
/// How far a direction is from upright, degrees, 0 to 90.
double tilt_deg(const Vec3& direction);

/// A distance between two places, and what it should be.
struct KnownDistance {
    std::string name;
    Vec3 a, b;  ///< data unit
    double should = 0;
    bool used = true;
};
/// A scale, and how well the distances agree with it.
struct Scaled {
    double scale = 1;
    std::vector<double> off;  ///< scaled minus should, one for each distance
    /// Standard deviation of a distance, from what is left over; not a number when only one counted.
    double sigma = 0;
};
/// Least squares over the distances that are used: the sum of (scale * distance - should)^2 is smallest.
/// Throws Error(Usage) without one, for two places that are the same, and for a distance that should be 0 or
/// less.
Scaled scaled_by(const std::vector<KnownDistance>&);

}  // namespace pristine::place
