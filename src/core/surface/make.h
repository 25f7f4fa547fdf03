// A terrain surface from points in one call: what the window and the command line both do.

#pragma once

#include "core/cloud/point_cloud.h"
#include "core/elements/element_set.h"
#include "core/surface/definition.h"

namespace pristine::surface {

/// The places of some points, world, page by page.
std::vector<Vec3> places_of(const cloud::PointCloud&, const ElementSet&);

/// A surface as window and command line get it.
struct Made {
    Definition definition;    ///< as it was built: with the points that were left after thinning
    std::uint64_t given = 0;  ///< points before thinning
    Built built;
};
/// Thins the points of the definition to those that are enough within `thin` in height (thin.h; data unit, 0:
/// all are used), then builds. Throws Error(Usage) as build(), Error(Empty) when no triangle is left,
/// Cancelled.
Made make(Definition, double thin, Progress& = Progress::none());

}  // namespace pristine::surface
