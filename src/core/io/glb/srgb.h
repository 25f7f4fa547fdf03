// Colours as light, which glTF counts in, and as bytes of a screen (IEC 61966-2-1).

#pragma once

#include <algorithm>
#include <cmath>
#include <cstdint>

namespace pristine::io {

/// 0..1 of light as a byte; what is beyond is cut off.
inline std::uint32_t srgb_byte(double light) {
    const double v = std::clamp(std::isfinite(light) ? light : 0.0, 0.0, 1.0);
    const double s = v <= 0.0031308 ? 12.92 * v : 1.055 * std::pow(v, 1 / 2.4) - 0.055;
    return static_cast<std::uint32_t>(std::lround(255 * s));
}
inline double light_of(std::uint32_t byte) {
    const double s = (byte & 255u) / 255.0;
    return s <= 0.04045 ? s / 12.92 : std::pow((s + 0.055) / 1.055, 2.4);
}

}  // namespace pristine::io
