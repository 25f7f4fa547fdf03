// The culvert beside the chamber of Ashmere Lock: a scan of it, and the line that runs through it.

#pragma once

#include <filesystem>

#include "core/base/progress.h"

namespace pristine::demo {

/// Writes culvert.las and culvert-line.geojson into an existing folder. `points`: about so many. Throws
/// Error, Cancelled.
void write_culvert(const std::filesystem::path& folder, std::uint64_t points, std::uint64_t seed,
                   bool replace, Progress& = Progress::none());

}  // namespace pristine::demo
