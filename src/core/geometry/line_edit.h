// Lines changed as a surveyor changes them. A closed line does not repeat its first place; lengths in the
// unit of the data.

#pragma once

#include <utility>
#include <vector>

#include "core/geometry/vec.h"

namespace pristine {

/// A line with fewer places.
struct Simplified {
    std::vector<Vec3> points;
    double deviation = 0;  ///< the farthest that a place left out lies from the new line, in space
};
/// Fewer places, no place that was there farther from the line than the tolerance (Douglas & Peucker 1973).
/// The ends stay; of a closed line three places at least. Throws Error(Usage) for a tolerance below 0. O(n^2)
/// at worst.
Simplified simplified(const std::vector<Vec3>& points, bool closed, double tolerance);

/// The line beside it in plan, to the left for a distance above 0 (of a closed line that runs
/// counterclockwise: inside). Heights are those of the places beside. Corners are mitred, those sharper than
/// 30 degrees cut off. Where the line turns within the distance the new one crosses itself; nothing is taken
/// off. Throws Error(Usage) for fewer than two different places. O(n).
std::vector<Vec3> beside(const std::vector<Vec3>& points, bool closed, double distance);

/// An open line in two, both with the place; a closed one becomes an open one that begins and ends there (the
/// second is then empty). Throws Error(Usage) for the end of an open line, or a place that there is not.
std::pair<std::vector<Vec3>, std::vector<Vec3>> split_at(const std::vector<Vec3>& points, bool closed,
                                                         std::size_t place);

/// Two open lines end to end, by the ends that are nearest; a place that both have is kept once. Throws
/// Error(Usage) for an empty line.
std::vector<Vec3> joined_ends(const std::vector<Vec3>& first, const std::vector<Vec3>& second);

}  // namespace pristine
