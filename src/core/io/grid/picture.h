// Pictures in files: their pixels, whatever their bands and depth.

#pragma once

#include <memory>
#include <string>
#include <vector>

#include "core/base/mipmap.h"
#include "core/base/progress.h"

class GDALDataset;

namespace pristine::io {

/// 0xAARRGGBB, averaged to the size wanted. Throws Error(Format), Cancelled.
std::vector<std::uint32_t> picture_pixels(GDALDataset&, int width, int height, Progress&,
                                          const std::string& place);

/// A PNG, JPEG, TIFF or BMP file in memory; larger ones than 100 million pixels are reduced to that. Throws
/// Error(Format).
std::shared_ptr<const Mipmap> decode_picture(const std::string& bytes, const std::string& name);

}  // namespace pristine::io
