// First values of parameters and first ranges, from the cloud itself: its spacing and its extent.

#pragma once

#include <optional>

#include "core/score/limits.h"
#include "core/score/score.h"

namespace pristine::score {

/// Typical distance of a point to its nearest neighbour, data unit: the median over blocks of the cloud, as
/// found when it was built. 0 for fewer than two points. O(pages).
double spacing_of(const cloud::PointCloud&);

/// First values of parameters.
struct Suggestion {
    Parameters parameters;  ///< those that differ from the usual ones, data unit
    std::string why;        ///< "spacing 0.52 m, so gap 1.5 m"; empty: the usual ones do
};
/// Lengths within which points hang together or are looked for: at least a few spacings.
Suggestion suggested(const Score&, const cloud::PointCloud&);

/// A first range.
struct FirstRange {
    Limits limits;
    std::string why;  ///< empty: nothing to say
};
/// Where the rule of a score begins, given how its values are spread; none: the card decides by the tail.
/// Heights above the ground begin above the scatter of the ground itself, which shows below it.
std::optional<FirstRange> first_range(const Score&, const Profile&, const Column&, const cloud::PointCloud&);

/// Where first_range() says nothing: from where the rule begins (`begins`, data unit; not a number: unknown),
/// else what lies far from the usual, on the side of the longer tail. `least`: that far at least.
Limits far_from_usual(const Profile&, double begins, double least);

}  // namespace pristine::score
