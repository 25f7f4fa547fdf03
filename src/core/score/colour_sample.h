// The colour of some points, and how much they differ from it.

#pragma once

#include <cstdint>
#include <optional>

#include "core/cloud/point_cloud.h"
#include "core/elements/element_set.h"

namespace pristine::score {

/// A colour, and how much points differ from it.
struct ColourSample {
    std::uint32_t rgb = 0;  ///< mean of each channel, 0x00RRGGBB
    double spread = 0;      ///< 95 of 100 points differ from it by less (CIEDE2000)
    std::uint64_t count = 0;
};
/// Of an even sample of at most 20,000 members. None for a cloud without colours and for an empty set.
/// O(set).
std::optional<ColourSample> sample_colours(const cloud::PointCloud&, const ElementSet&);
/// Of the points round a place: within three spacings of it, and not altogether different from the nearest
/// (10 by CIEDE2000), so that a place beside an edge speaks of one side. None where there are no points.
std::optional<ColourSample> colour_at(const cloud::PointCloud&, const ElementSet& shown, const Vec3& place);

}  // namespace pristine::score
