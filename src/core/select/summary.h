// What can be said of a selection at a glance: how many, what share, from what height to what height.

#pragma once

#include <optional>

#include "core/base/progress.h"
#include "core/cloud/point_cloud.h"
#include "core/elements/element_set.h"
#include "core/terrain/floors.h"

namespace pristine::select {

/// What can be said of a set at a glance.
struct Summary {
    std::uint64_t count = 0;
    std::uint64_t of = 0;                   ///< eligible elements of the item
    std::optional<double> lowest, highest;  ///< heights, data unit; none for an empty selection
    /// Above the ground nearest below each point; points with no ground below do not count.
    std::optional<double> lowest_above_ground;
    /// How many lie how high above the ground: equal bins from 0 to histogram_top; what lies outside is in
    /// the end bins.
    std::vector<std::uint64_t> above_ground;
    double histogram_top = 0;  ///< data unit
    Box3 box;                  ///< world box, from page bounds: may be a little large
};

/// Without a ground model nothing is said about heights above it. Pages that are selected whole are sampled
/// for that. O(points of pages that are selected in part).
Summary summarise(const cloud::PointCloud&, const ElementSet& selection, const ElementSet& eligible,
                  const terrain::GroundModel* ground = nullptr, Progress& = Progress::none());

/// What two items hold together: counts, heights and box; above the ground nothing is said.
Summary together(const Summary&, const Summary&);

}  // namespace pristine::select
