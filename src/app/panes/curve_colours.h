// Colours of curves in drawings of several surfaces.

#pragma once

#include <QColor>
#include <array>

namespace pristine::app {

/// Told apart by those who see red and green alike, too.
inline QColor curve_colour(std::size_t k) {
    static constexpr std::array<QRgb, 6> kCurves{0x1F5FA8, 0xC7601A, 0x1B8A7A, 0x8E3B8C, 0x6B7076, 0xA88A1F};
    return QColor::fromRgb(kCurves[k % kCurves.size()]);
}

}  // namespace pristine::app
