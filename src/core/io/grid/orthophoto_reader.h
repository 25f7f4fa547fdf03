// Pictures of the ground (GeoTIFF and what else GDAL reads with a place in the world).

#pragma once

#include <filesystem>
#include <memory>

#include "core/base/progress.h"
#include "core/surface/orthophoto.h"

namespace pristine::io {

/// Red, green and blue (or grey, or a palette), with transparency where the file has it. Pictures of more
/// than `most_pixels` are read at a coarser size, averaged. 16-bit colours lose their lower byte. Throws
/// Error(Io, Format) also when the file does not say where it lies; Cancelled.
std::shared_ptr<const surface::Orthophoto> read_orthophoto(const std::filesystem::path&,
                                                           std::uint64_t most_pixels = 50'000'000,
                                                           Progress& = Progress::none());

}  // namespace pristine::io
