// A lining held against the profile that was designed: what was broken out beyond it, and what stands inside.

#pragma once

#include "core/tunnel/lining.h"

namespace pristine::tunnel {

/// A closed profile, the same all along: offset to the right of who walks along the line, and height above
/// it; data unit.
struct DesignProfile {
    std::vector<std::array<double, 2>> corners;  ///< in any direction; the first is not repeated
};

/// A stretch of chainage. Data units, squared and cubed.
struct BreakInterval {
    double from = 0, to = 0;
    double over = 0, under = 0;            ///< volumes beyond and inside the design, both positive
    double most_over = 0, most_under = 0;  ///< distances along the radius, both positive
    double measured = 1;                   ///< share of the lining that is not closed over an opening
};

/// By chainage. Areas of each section are exact for the polygons of lining and design; between sections they
/// change evenly. Openings count as closed over. Throws Error(Usage) when the profile has fewer than three
/// corners or does not go once round the line as seen from it. O(rows * (columns + corners)).
std::vector<BreakInterval> against_design(const Lining&, const DesignProfile&, double interval);

}  // namespace pristine::tunnel
