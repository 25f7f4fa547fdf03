// Pictures of the ground from above as GeoTIFF: drawn in tiles, with place and system.

#pragma once

#include <filesystem>

#include "core/report/compose.h"

namespace pristine::report {

struct GroundPicture {
    std::vector<std::uint64_t> items;  ///< empty: all that are shown
    double cell = 0;                   ///< side of a pixel, data unit; 0: so that the longer side has 4,000
};
/// Size in pixels.
struct GroundPictureSize {
    double cell = 0;
    int columns = 0, rows = 0;
};

/// Four bands, the fourth is what is there; tiled and compressed, with a world file (.tfw) and, where a
/// system is stated, that. Whole or not at all. Throws Error(Usage: more than 400 million pixels; Empty; Io;
/// Conflict), Cancelled.
GroundPictureSize write_ground_picture(const Material&, const GroundPicture&, const std::filesystem::path&,
                                       bool replace, Progress& = Progress::none());

}  // namespace pristine::report
