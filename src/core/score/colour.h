// Colours as people see them.

#pragma once

#include <cstdint>

namespace pristine::score {

/// CIELAB with the white of sRGB (D65).
struct Lab {
    double l = 0, a = 0, b = 0;
};
/// Of an sRGB colour 0x00RRGGBB.
Lab lab_of(std::uint32_t rgb);
/// The difference of two colours; 1 is just seen side by side.
double ciede2000(const Lab&, const Lab&);

}  // namespace pristine::score
