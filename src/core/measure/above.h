// What of a surface lies above and below a level or a plane, with what is known of its heights.

#pragma once

#include "core/measure/difference.h"
#include "core/measure/figures.h"

namespace pristine::measure {

/// The base as the earlier surface, exact: fill is what lies above it, cut what lies below. The same volumes
/// as volumes() to rounding. Where no noise is stated it is estimated (noise.h); a common shift and thinning
/// count as in difference(). O(n log n). Throws Cancelled.
Difference above(const mesh::TriMesh&, const Base&, HeightSigma, Progress& = Progress::none());

}  // namespace pristine::measure
