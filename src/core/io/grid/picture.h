// Pictures in files: their pixels, whatever their bands and depth.

#pragma once

#include <array>
#include <filesystem>
#include <memory>
#include <string>
#include <vector>

#include "core/base/mipmap.h"
#include "core/base/progress.h"

namespace pristine::io {

/// A picture, 8-bit RGB, row by row from above.
struct Pixels {
    int width = 0, height = 0;
    std::vector<std::uint32_t> argb;  ///< 0xAARRGGBB row by row; AA 0: nothing there
};
/// A picture of the ground, with its place.
struct PlacedPixels {
    Pixels pixels;
    std::array<double, 6> at{};  ///< world to pixels, as surface::Orthophoto takes it
};

/// A PNG, JPEG, TIFF or BMP file in memory; one of more than 100 million pixels is reduced to that. It is
/// decoded in a process of its own. Throws Error(Format, Memory: more than 268 million pixels).
std::shared_ptr<const Mipmap> decode_picture(const std::string& bytes, const std::string& name);

/// In this process: what pristine-reader does. Errors as of decode_picture() and read_orthophoto().
Pixels decode_picture_here(const std::string& bytes, const std::string& name);
PlacedPixels read_orthophoto_here(const std::filesystem::path&, std::uint64_t most_pixels, Progress&);

}  // namespace pristine::io
