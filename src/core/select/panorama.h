// The view of a scanner: all round from its station, in equal steps of azimuth and elevation.
//
// Azimuth counts clockwise from north (+y), elevation upwards from the horizon, both in degrees. A picture is
// equirectangular: x grows with azimuth, y downwards.

#pragma once

#include <cstdint>
#include <limits>
#include <span>
#include <vector>

#include "core/base/progress.h"
#include "core/cloud/point_cloud.h"
#include "core/elements/element_set.h"
#include "core/geometry/polygon.h"

namespace pristine::select {

/// How directions from a station become pixels.
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

/// A cloud in a panorama, and what is drawn of it.
struct PanoramaSource {
    const cloud::PointCloud* cloud;
    const ElementSet* eligible;
};

/// A frame all round that holds the elevations of most of the eligible points (1 % and 99 %, and a margin).
/// O(n) over the sets; 50,000 points of each are looked at.
PanoramaFrame panorama_for(std::span<const PanoramaSource>, Vec3 station, int width);

/// What is seen at each pixel, row by row; range is infinity where there is nothing.
struct RangePicture {
    std::vector<float> range;            ///< data unit
    std::vector<std::uint32_t> element;  ///< of its cloud; valid where range is finite
    std::vector<std::uint16_t> source;   ///< which of the sources; likewise
};
/// Every eligible point drawn one pixel large, the nearest wins; of equals that of the first source, then the
/// first element. O(n). Throws Cancelled; Error(Unsupported) for a cloud of more than 2^32 points or more
/// than 65,535 sources.
RangePicture draw_panorama(std::span<const PanoramaSource>, const PanoramaFrame&,
                           Progress& = Progress::none());
/// The same picture as draw_panorama would make, from the one of before: `before` holds what was eligible of
/// each source then. Looks only into blocks of points that changed or stand before a pixel that lost its
/// point. Throws as draw_panorama.
void redraw_panorama(RangePicture&, std::span<const PanoramaSource>,
                     std::span<const ElementSet* const> before, const PanoramaFrame&,
                     Progress& = Progress::none());

/// The eligible points whose pixel lies in the polygon. With `seen`, only those at most 2 % of the range (and
/// twice the spacing of their block) behind what is seen there. Looks only into blocks that stand before it.
ElementSet panorama_fence(const cloud::PointCloud&, const PanoramaFrame&, const Polygon& corners,
                          const ElementSet& eligible, const RangePicture* seen = nullptr,
                          Progress& = Progress::none());

}  // namespace pristine::select
