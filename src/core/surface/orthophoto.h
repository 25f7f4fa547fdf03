// A picture of the ground from straight above, to be draped on a surface.

#pragma once

#include <array>
#include <cstdint>
#include <string>
#include <vector>

#include "core/base/mipmap.h"

namespace pristine::surface {

/// A picture of the ground with its place. Never changes.
class Orthophoto {
  public:
    /// World to pixels: column = at[0] + at[1] x + at[2] y, row = at[3] + at[4] x + at[5] y; 0, 0 is the
    /// upper left corner of the picture. Pixels 0xAARRGGBB row by row; AA 0: nothing there. Throws
    /// Error(Usage) for sizes that do not fit.
    Orthophoto(std::string name, int width, int height, const std::array<double, 6>& at,
               std::vector<std::uint32_t> pixels);

    /// The colour at a place, of a spot of about `size` (data unit) across, so that it does not flicker when
    /// it is seen from afar; 0: nothing there.
    std::uint32_t colour(double x, double y, double size) const;

    const std::string& name() const { return name_; }
    int width() const { return picture_.width(); }
    int height() const { return picture_.height(); }

    /// For the project file. unpacked() throws Error(Format).
    std::string packed() const;
    static Orthophoto unpacked(const std::string&);

  private:
    std::string name_;
    std::array<double, 6> at_;
    double per_unit_;  // pixels
    Mipmap picture_;
};

}  // namespace pristine::surface
