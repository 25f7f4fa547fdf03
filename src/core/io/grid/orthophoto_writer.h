// A picture of the ground written tile by tile: GeoTIFF with its world file.

#pragma once

#include <filesystem>
#include <memory>
#include <vector>

#include "core/cloud/point_cloud.h"

namespace pristine::io {

/// Square pixels, rows from north to south.
struct OrthophotoShape {
    int columns = 0, rows = 0;
    double west = 0, north = 0;  ///< outer corner of the first pixel, data unit
    double cell = 1;             ///< side of a pixel
};

/// Appears whole when it is finished, or not at all.
class OrthophotoWriter {
  public:
    /// Throws Error(Io, Conflict, Unsupported).
    OrthophotoWriter(const std::filesystem::path&, bool replace, const OrthophotoShape&,
                     const cloud::Reference&);
    ~OrthophotoWriter();
    OrthophotoWriter(const OrthophotoWriter&) = delete;
    OrthophotoWriter& operator=(const OrthophotoWriter&) = delete;
    /// Pixels 0xAARRGGBB of a rectangle. Throws Error(Io).
    void put(int left, int top, int width, int height, const std::vector<std::uint32_t>& argb);
    void finish();

  private:
    struct Own;
    std::unique_ptr<Own> own_;
};

}  // namespace pristine::io
