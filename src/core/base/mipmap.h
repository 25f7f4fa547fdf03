// A picture with smaller versions of itself, so that it does not flicker when it is seen from afar.

#pragma once

#include <cstddef>
#include <cstdint>
#include <vector>

namespace pristine {

/// A picture in its own size and in halves of it, for surfaces that it is seen on from afar. Never changes.
class Mipmap {
  public:
    /// Pixels 0xAARRGGBB row by row; AA 0: nothing there. Throws Error(Usage) for sizes that do not fit.
    Mipmap(int width, int height, std::vector<std::uint32_t> pixels);

    int width() const { return levels_[0].width; }
    int height() const { return levels_[0].height; }
    /// The pixels as given.
    const std::vector<std::uint32_t>& pixels() const { return levels_[0].pixels; }
    /// The colour of a spot about `spot` pixels across; 0, 0 is the upper left corner of the picture. 0
    /// outside of it.
    std::uint32_t colour(double column, double row, double spot) const;

  private:
    struct Level {
        int width, height;
        std::vector<std::uint32_t> pixels;
    };
    std::vector<Level> levels_;  // each half the size of the one before
};

}  // namespace pristine
