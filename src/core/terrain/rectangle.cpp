#include <algorithm>
#include <cmath>
#include <numbers>

#include "core/terrain/grid.h"

namespace pristine::terrain {

Rectangle rectangle_round(const std::vector<std::pair<int, int>>& cells) {
    constexpr int kTurns = 18;
    Rectangle best{INFINITY, INFINITY};
    for (int k = 0; k < kTurns; ++k) {
        const double angle = k * std::numbers::pi / (2 * kTurns), c = std::cos(angle), s = std::sin(angle);
        double lo_u = INFINITY, hi_u = -INFINITY, lo_v = INFINITY, hi_v = -INFINITY;
        for (const auto& [x, y] : cells) {
            const double u = c * x + s * y, v = c * y - s * x;
            lo_u = std::min(lo_u, u), hi_u = std::max(hi_u, u);
            lo_v = std::min(lo_v, v), hi_v = std::max(hi_v, v);
        }
        // Not the least area: round two walls at a right angle, the rectangle along their diagonal has the
        // same.
        const double a = hi_u - lo_u, b = hi_v - lo_v;
        if (a + b < best.longer + best.shorter) best = {std::max(a, b), std::min(a, b)};
    }
    return best;
}

}  // namespace pristine::terrain
