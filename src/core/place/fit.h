// A cloud fitted to another one where both have the same surfaces: two dates, or one scan that sits off.
//
// Method: iterated closest planes (Chen & Medioni 1992) on planes of cubes, from large cubes to small ones,
// reweighted by Tukey's biweight with a scale from the median distance, so that what has changed between the
// two does not pull. Points are taken evenly over the site, not as dense as a scanner saw them.

#pragma once

#include <string>
#include <vector>

#include "core/base/progress.h"
#include "core/cloud/point_cloud.h"
#include "core/elements/element_set.h"
#include "core/geometry/similarity.h"
#include "core/place/pairs.h"

namespace pristine::place {

/// How a fit goes.
struct FitOptions {
    Freedom freedom = Freedom::Rigid;  ///< Shift, Level or Rigid
    double reach = 0.5;                ///< how far apart the two may be at the start, data unit
    /// Of more points even samples are used.
    std::size_t most_points = 6'000'000;
};

/// What a fit found, and how sure it is.
struct Fit {
    Similarity placement;    ///< of the cloud that moves; scale 1
    double rms = 0;          ///< distance from the planes, of what counts, weighted
    double sigma_shift = 0;  ///< standard deviation of the shift at the middle, from the residuals
    double sigma_turn_deg = 0;
    double overlap = 0;  ///< share of the places of the moving cloud that the other has a plane near
    double stable = 0;   ///< share of those that count: the rest has changed, or is noise
    double cube = 0;     ///< side of the smallest cubes, data unit
    int rounds = 0;
    bool settled = false;  ///< the last rounds changed nothing
    /// What the surfaces leave open, in words: "shift along 0.00 0.00 1.00". It was left as it was.
    std::vector<std::string> open;
};

/// Places `moving` on `still`; only eligible points of each count. Deterministic. Throws Error(Usage): the
/// two have no surface in common within the reach, or could only be brought together by moving a place by
/// more than 1.5 times of it, or their units differ; Cancelled. O(n log n).
Fit fit(const cloud::PointCloud& moving, const ElementSet& moving_eligible, const cloud::PointCloud& still,
        const ElementSet& still_eligible, const FitOptions&, Progress& = Progress::none());

}  // namespace pristine::place
