// Growing a selection over its neighbours.

#pragma once

#include "core/base/progress.h"
#include "core/cloud/point_cloud.h"
#include "core/elements/element_set.h"

namespace pristine::select {

/// `set` and every eligible point within `distance` (data unit, > 0) of one of its members.
ElementSet grown(const cloud::PointCloud&, const ElementSet& set, const ElementSet& eligible, double distance,
                 Progress& = Progress::none());

/// `set` without the members within `distance` of an eligible point that is not in it.
ElementSet shrunk(const cloud::PointCloud&, const ElementSet& set, const ElementSet& eligible,
                  double distance, Progress& = Progress::none());

/// What counts as connected.
struct ConnectedOptions {
    double gap = 0.05;       ///< data unit, > 0: a step goes to any eligible point at most this far away
    int colour_within = -1;  ///< >= 0: only to points whose red, green and blue each differ from the step's
                             ///< start by at most this much (0..255); ignored for clouds without colour
};
/// Everything that is reached from the members of `seeds` in such steps, seeds included. O(n) expected; about
/// 24 bytes a point of the eligible ones. Throws Cancelled.
ElementSet connected(const cloud::PointCloud&, const ElementSet& seeds, const ElementSet& eligible,
                     const ConnectedOptions& = {}, Progress& = Progress::none());

}  // namespace pristine::select
