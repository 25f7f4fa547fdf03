// A placement from pairs of places: where they are, and where they should be.
//
// Least squares in closed form: Umeyama, "Least-squares estimation of transformation parameters between two
// point patterns", IEEE PAMI 13 (1991); about the vertical by the angle whose tangent is the quotient of the
// sums of cross and dot products in plan.

#pragma once

#include <string>
#include <vector>

#include "core/geometry/similarity.h"

namespace pristine::place {

/// What a placement may do.
enum class Freedom {
    Shift,       ///< three parameters
    Level,       ///< four: shift, and a turn about the vertical
    Rigid,       ///< six: shift and turn
    Similarity,  ///< seven: shift, turn and scale
};

/// Where a place is, and where it should be.
struct Pair {
    std::string name;
    Vec3 is, should;  ///< data unit
    bool used = true;
};

/// What is left of a pair after the placement.
struct Residual {
    double size = 0;       ///< distance between where it comes and where it should
    Vec3 off;              ///< comes minus should
    bool used = true;      ///< it counted
    bool outlier = false;  ///< it counted, or would count, for more than the others bear
};

/// A placement and how well the pairs agree with it.
struct Placed {
    Similarity placement;
    std::vector<Residual> residuals;  ///< one for each pair
    double rms = 0, worst = 0;        ///< of those that counted
    /// Standard deviation of a coordinate from the residuals; not a number when nothing is left over to tell.
    double sigma = 0;
};

/// From the pairs that are used. A pair is marked as an outlier when, placed by the others, it is off by more
/// than three times what is usual for them; nothing is left out by itself. Throws Error(Usage): too few pairs
/// (1, 2, 3 and 3), all in one place or, where a turn needs more, on one line. O(pairs * pairs).
Placed by_pairs(const std::vector<Pair>&, Freedom);

}  // namespace pristine::place
