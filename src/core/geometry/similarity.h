// Turned, scaled and shifted: the seven parameters of a placement.

#pragma once

#include <array>

#include "core/geometry/features.h"

namespace pristine {

/// p goes to scale * rotation * p + shift.
struct Similarity {
    double scale = 1;
    RigidMove move{};  ///< its shift is the whole shift

    Vec3 operator()(const Vec3& p) const { return move.turned(p) * scale + move.shift; }
    /// First `first`, then this.
    Similarity after(const Similarity& first) const;
    Similarity inverse() const;
    std::array<double, 16> matrix() const;  ///< by rows
    double turn_deg() const;                ///< about whatever axis, 0 to 180
    /// Throws Error(Usage) for what shears, mirrors, has two scales, or whose last row is not 0 0 0 1.
    static Similarity of_matrix(const std::array<double, 16>& rows);
    /// Turns and scales about a place, then shifts. The turn is right-handed about a direction, degrees.
    static Similarity about(const Vec3& place, const Vec3& direction, double degrees, double scale,
                            const Vec3& shift);
};

}  // namespace pristine
