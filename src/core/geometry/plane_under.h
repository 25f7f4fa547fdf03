// The plane that most places lie on or above: the ground under bushes, machines and roofs.

#pragma once

#include <optional>
#include <span>

#include "core/geometry/vec.h"

namespace pristine {

/// z = a + b x + c y.
struct HeightPlane {
    double a = 0, b = 0, c = 0;
    double at(double x, double y) const { return a + b * x + c * y; }
};

/// Least squares, reweighted so that places above count for less than those below; distances are judged
/// against `scale`. None for places that make no plane. O(n) a round.
std::optional<HeightPlane> plane_under(std::span<const Vec3> places, double scale, int rounds = 5);

}  // namespace pristine
