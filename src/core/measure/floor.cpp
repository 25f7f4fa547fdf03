#include "core/measure/floor.h"

#include <algorithm>
#include <vector>

#include "core/measure/height_above.h"

namespace pristine::measure {
namespace {

constexpr double kThickness = 0.1;                  // of a level, radii
constexpr std::size_t kLeastOfLevel = 3, kOf = 15;  // points of a level, and their share

struct Column {
    Vec3 axis;
    double lo, hi, radius;

    bool may_hold(const Box3& b) const {
        const double dx = std::max({b.lo.x - axis.x, axis.x - b.hi.x, 0.0});
        const double dy = std::max({b.lo.y - axis.y, axis.y - b.hi.y, 0.0});
        return b.lo.z <= hi && b.hi.z >= lo && dx * dx + dy * dy <= radius * radius;
    }
    bool holds(const Vec3& p) const {
        const double dx = p.x - axis.x, dy = p.y - axis.y;
        return p.z >= lo && p.z <= hi && dx * dx + dy * dy <= radius * radius;
    }
};

std::vector<double> heights_in(const cloud::PointCloud& c, const ElementSet& shown, const Column& column) {
    std::vector<double> out;
    for (std::size_t p = 0; p < c.page_count(); ++p) {
        if (shown.kind(p) == ElementSet::Kind::None || !column.may_hold(c.page_box(p))) continue;
        const cloud::PageInfo& info = c.info(p);
        const std::size_t length = page_length(c.size(), p);
        for (std::size_t b = 0; b * kBlockSize < length; ++b) {
            if (!column.may_hold(world_box(info.blocks[b], c.grid()))) continue;
            const std::size_t first = b * kBlockSize, n = std::min(kBlockSize, length - first);
            const cloud::PositionPage at = c.block_positions(p, b, n);
            for (std::size_t i = 0; i < n; ++i) {
                const Vec3 w = c.grid().world(at.x[i], at.y[i], at.z[i]);
                if (column.holds(w) && shown.contains(std::uint64_t{p} * kPageSize + first + i))
                    out.push_back(w.z);
            }
        }
    }
    return out;
}

}  // namespace

std::optional<double> floor_below(const cloud::PointCloud& c, const ElementSet& shown, const Vec3& eye,
                                  const FloorReach& reach) {
    const Column column{eye, eye.z - reach.most_below, eye.z - reach.least_below, reach.radius};
    if (c.triangles()) {
        const auto z = surface_below(c, shown, {eye.x, eye.y, column.hi});
        return z && *z >= column.lo && *z <= column.hi ? z : std::nullopt;
    }
    std::vector<double> z = heights_in(c, shown, column);
    std::sort(z.begin(), z.end(), std::greater<>());
    const std::size_t least = std::max(kLeastOfLevel, z.size() / kOf);
    for (std::size_t k = 0; k + least <= z.size(); ++k) {
        if (z[k] - z[k + least - 1] > kThickness * reach.radius) continue;
        // The middle of what lies within the thickness from here.
        std::size_t end = k + least;
        while (end < z.size() && z[k] - z[end] <= kThickness * reach.radius) ++end;
        return z[k + (end - k) / 2];
    }
    return std::nullopt;
}

}  // namespace pristine::measure
