// The view of a scanner: all round from its station, in equal steps of azimuth and elevation.
//
// Azimuth counts clockwise from north (+y), elevation upwards from the horizon, both in degrees. A picture is
// equirectangular: x grows with azimuth, y downwards.

#pragma once

#include <limits>
#include <vector>

#include "core/base/progress.h"
#include "core/cloud/point_cloud.h"
#include "core/elements/element_set.h"
#include "core/geometry/polygon.h"

namespace pristine::select {

struct PanoramaFrame {
    Vec3 station;
    double pixels_per_deg = 4;
    double left_deg = 0;  ///< azimuth of the left edge
    double top_deg = 90;  ///< elevation of the upper edge
    int width = 1440, height = 720;

    /// Pixel of a point; its range comes back too. A point at the station has range 0 and no meaningful
    /// pixel.
    PixelPoint project(Vec3, double& range) const;
};

/// A frame all round that holds the elevations of most of the eligible points (1 % and 99 %, and a margin).
PanoramaFrame panorama_for(const cloud::PointCloud&, const ElementSet& eligible, Vec3 station, int width);

/// Range of what is seen at each pixel, row by row; infinity where there is nothing.
struct RangePicture {
    std::vector<float> range;
    std::vector<std::uint64_t> element;  ///< valid where range is finite
};
/// Every eligible point drawn one pixel large, the nearest wins. O(n). Throws Cancelled.
RangePicture draw_panorama(const cloud::PointCloud&, const ElementSet& eligible, const PanoramaFrame&,
                           Progress& = Progress::none());

/// The eligible points whose pixel lies in the polygon. With `seen`, only those at most 2 % of the range (and
/// twice the spacing of their block) behind what is seen there.
ElementSet panorama_fence(const cloud::PointCloud&, const PanoramaFrame&, const Polygon& corners,
                          const ElementSet& eligible, const RangePicture* seen = nullptr,
                          Progress& = Progress::none());

}  // namespace pristine::select
