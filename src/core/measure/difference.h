// Cut and fill between two surfaces by the exact overlay of their triangles: each pair that overlaps in plan
// is cut to its common polygon, on which the difference of heights is linear.

#pragma once

#include "core/base/progress.h"
#include "core/mesh/tri_mesh.h"

namespace pristine::measure {

/// How well the heights of a surface are known, in its unit.
struct HeightSigma {
    double noise = 0;       ///< of each vertex by itself, one standard deviation
    double systematic = 0;  ///< of all heights together: datum and placement; one standard deviation
    double thinning = 0;    ///< largest error of height of points that were left out
    bool any() const { return noise > 0 || systematic > 0 || thinning > 0; }
};

/// How two surfaces are compared.
struct DifferenceOptions {
    double band = 0;  ///< what changed by no more than this, up or down, counts as unchanged
    HeightSigma before, after;
};

/// Later minus earlier: fill is material added. Data units, squared and cubed.
struct Difference {
    double cut = 0, fill = 0;  ///< volumes, both positive
    double cut_area = 0, fill_area = 0, unchanged_area = 0;
    double overlap_area = 0;         ///< covered by both
    double uncovered_area = 0;       ///< covered by one only
    double least = 0, greatest = 0;  ///< change where both are; 0 without overlap
    /// By how much noise makes cut and fill too large on average: where there is about no change, or one
    /// about as large as the band, it counts on one side only. On unchanged ground without a band it is more.
    double excess_cut = 0, excess_fill = 0;
    /// One standard deviation each, propagated to first order from noise of each vertex, a common shift of
    /// each surface, an error in each triangle that is uniform up to that of thinning, and a common one of
    /// thinning where the ground bends one way; of cut and fill with what noise makes too much.
    double sigma_cut = 0, sigma_fill = 0, sigma_net = 0;
    double net() const { return fill - cut; }
};

/// Triangles counter-clockwise in plan. O(n + overlapping pairs), parallel, the volumes the same for any
/// number of workers, their deviations but for rounding. Throws Cancelled.
Difference difference(const mesh::TriMesh& before, const mesh::TriMesh& after, const DifferenceOptions& = {},
                      Progress& = Progress::none());

/// A band that noise and a common shift pass on three places of a thousand of unchanged ground: three
/// standard deviations of the change of a vertex. 0 where nothing is known of both.
double proposed_band(const HeightSigma& before, const HeightSigma& after);

}  // namespace pristine::measure
