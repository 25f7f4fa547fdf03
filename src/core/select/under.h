// What lies under a pixel, one thing behind the other.

#pragma once

#include <vector>

#include "core/base/progress.h"
#include "core/cloud/point_cloud.h"
#include "core/elements/element_set.h"
#include "core/geometry/view_frame.h"

namespace pristine::select {

/// Elements under a pixel that follow each other without a gap in depth.
struct Layer {
    std::uint64_t element = 0;  ///< the one nearest to the eye
    std::uint64_t count = 0;
    double depth = 0;  ///< of that one, data unit
    Vec3 place;
};

/// The eligible elements within `radius` pixels of a place in a view, in layers from near to far: a gap is
/// more than six times the spacing of the points there. Nothing is hidden by what lies in front.
/// O(points in blocks that the pixel's surroundings touch). Throws Cancelled.
std::vector<Layer> layers_under(const cloud::PointCloud&, const ElementSet& eligible, const ViewFrame&,
                                PixelPoint, double radius = 3, Progress& = Progress::none());

}  // namespace pristine::select
