#include "core/geometry/chainage.h"

#include <algorithm>
#include <cmath>

namespace pristine {

std::optional<Chainage> chainage_of(std::span<const Vec3> line, Vec3 p) {
    std::optional<Chainage> best;
    double before = 0;
    for (std::size_t k = 1; k < line.size(); ++k) {
        const double dx = line[k].x - line[k - 1].x, dy = line[k].y - line[k - 1].y;
        const double length = std::hypot(dx, dy);
        const double px = p.x - line[k - 1].x, py = p.y - line[k - 1].y;
        const double t = length > 0 ? std::clamp((px * dx + py * dy) / (length * length), 0.0, 1.0) : 0;
        const double off = std::hypot(px - t * dx, py - t * dy);
        if (!best || off < best->off) best = Chainage{before + t * length, off};
        before += length;
    }
    return best;
}

}  // namespace pristine
