#include "core/select/summary.h"

#include <algorithm>
#include <cmath>

#include "core/base/parallel.h"

namespace pristine::select {
namespace {

constexpr std::size_t kSampledPerBlock = kBlockSize / 16;
constexpr std::size_t kBins = 24;
constexpr int kMostCells = 1024;  // along a side
constexpr double kSamplesPerCell = 30;
constexpr int kReach = 2;  // cells

}  // namespace

LocalFloor::LocalFloor(const cloud::PointCloud& cloud, const ElementSet& eligible, Progress& progress) {
    const Box3 box = cloud.robust_bounds();
    if (box.empty()) return;
    const double side = std::max({box.hi.x - box.lo.x, box.hi.y - box.lo.y, 1e-6});
    // Cells that hold some thirty samples: wide enough to reach past the feet that stand on the floor.
    const double area = std::max((box.hi.x - box.lo.x) * (box.hi.y - box.lo.y), side * side * 1e-6);
    const double samples = std::max(1.0, static_cast<double>(cloud.size()) / 16);
    cell_ = std::max(side / kMostCells, std::sqrt(area * kSamplesPerCell / samples));
    x0_ = box.lo.x;
    y0_ = box.lo.y;
    z0_ = box.lo.z;
    nx_ = static_cast<int>((box.hi.x - box.lo.x) / cell_) + 1;
    ny_ = static_cast<int>((box.hi.y - box.lo.y) / cell_) + 1;
    std::vector<std::vector<float>> heights(static_cast<std::size_t>(nx_) * static_cast<std::size_t>(ny_));
    for (std::size_t p = 0; p < cloud.page_count(); ++p) {
        progress.check();
        if (eligible.kind(p) == ElementSet::Kind::None) continue;
        const cloud::PositionPage& points = cloud.positions(p);
        const PageBits* some = eligible.bits(p);
        for (std::size_t b = 0; b < points.size(); b += kBlockSize)
            for (std::size_t i = b; i < std::min(b + kSampledPerBlock, points.size()); ++i) {
                if (some && !some->test(i)) continue;
                const Vec3 w = cloud.grid().world(points.x[i], points.y[i], points.z[i]);
                const int cx = static_cast<int>((w.x - x0_) / cell_),
                          cy = static_cast<int>((w.y - y0_) / cell_);
                if (w.x < x0_ || w.y < y0_ || cx >= nx_ || cy >= ny_) continue;
                heights[static_cast<std::size_t>(cy) * static_cast<std::size_t>(nx_) +
                        static_cast<std::size_t>(cx)]
                    .push_back(static_cast<float>(w.z - z0_));
            }
    }
    low_.assign(heights.size(), NAN);
    for (std::size_t c = 0; c < heights.size(); ++c) {
        auto& h = heights[c];
        if (static_cast<double>(h.size()) < kSamplesPerCell / 4)
            continue;  // a few strays where nothing else is are no floor
        std::nth_element(h.begin(), h.begin() + 1, h.end());
        low_[c] = h[1];  // the second lowest: one stray below the floor does not count
    }
}

std::optional<double> LocalFloor::height(double x, double y) const {
    if (low_.empty() || !std::isfinite(x) || !std::isfinite(y)) return {};
    const double fx = (x - x0_) / cell_, fy = (y - y0_) / cell_;
    if (fx < -1 || fy < -1 || fx > nx_ || fy > ny_) return {};
    const int cx = static_cast<int>(std::floor(fx)), cy = static_cast<int>(std::floor(fy));
    // The lowest of 5 x 5 cells: next to a wall, a person or a machine the cells themselves may hold shadow
    // and sides only.
    float lowest = INFINITY;
    for (int j = std::max(0, cy - kReach); j <= std::min(ny_ - 1, cy + kReach); ++j)
        for (int i = std::max(0, cx - kReach); i <= std::min(nx_ - 1, cx + kReach); ++i) {
            const float h = low_[static_cast<std::size_t>(j) * static_cast<std::size_t>(nx_) +
                                 static_cast<std::size_t>(i)];
            if (h < lowest) lowest = h;  // false for the NaN of an empty cell
        }
    if (!std::isfinite(lowest)) return {};
    return z0_ + static_cast<double>(lowest);
}

Summary summarise(const cloud::PointCloud& cloud, const ElementSet& selection, const ElementSet& eligible,
                  const LocalFloor* floor, Progress& progress) {
    struct Part {
        double lowest = INFINITY, highest = -INFINITY, above = INFINITY, above_most = -INFINITY;
        std::vector<float> heights;  // above the floor
        Box3 box;
    };
    const auto parts = parallel::map<Part>(cloud.page_count(), [&](std::size_t p) {
        Part part;
        if (selection.kind(p) == ElementSet::Kind::None) return part;
        progress.check();
        const cloud::PositionPage& points = cloud.positions(p);
        const bool all = selection.kind(p) == ElementSet::Kind::All;
        if (all) part.box = cloud::world_box(cloud.info(p).bounds, cloud.grid());
        if (all) {
            part.lowest = part.box.lo.z;
            part.highest = part.box.hi.z;
        }
        // A whole page is sampled for the floor: each block's prefix is even.
        const auto look = [&](std::size_t i) {
            const Vec3 w = cloud.grid().world(points.x[i], points.y[i], points.z[i]);
            if (!all) part.box.add(w);
            part.lowest = std::min(part.lowest, w.z);
            part.highest = std::max(part.highest, w.z);
            if (!floor) return;
            // What lies more than a cell below the floor has another floor, or none: a stray inside a wall, a
            // pit.
            if (const auto h = floor->height(w.x, w.y); h && w.z - *h > -floor->cell_size()) {
                part.above = std::min(part.above, w.z - *h);
                part.above_most = std::max(part.above_most, w.z - *h);
                part.heights.push_back(static_cast<float>(w.z - *h));
            }
        };
        if (!all)
            selection.for_each_in_page(p, look);
        else if (floor)
            for (std::size_t b = 0; b < points.size(); b += kBlockSize)
                for (std::size_t i = b; i < std::min(b + kSampledPerBlock, points.size()); ++i) look(i);
        return part;
    });
    Summary s;
    s.count = selection.count();
    s.of = eligible.count();
    double lowest = INFINITY, highest = -INFINITY, above = INFINITY, above_most = -INFINITY;
    for (const Part& part : parts) {
        lowest = std::min(lowest, part.lowest);
        highest = std::max(highest, part.highest);
        above = std::min(above, part.above);
        above_most = std::max(above_most, part.above_most);
        s.box.add(part.box);
    }
    if (std::isfinite(above_most)) {
        s.histogram_top = std::max(above_most, 1e-6);
        s.above_floor.assign(kBins, 0);
        for (const Part& part : parts)
            for (const float h : part.heights)
                ++s.above_floor[static_cast<std::size_t>(
                    std::clamp(static_cast<double>(h) / s.histogram_top * kBins, 0.0, kBins - 1.0))];
    }
    if (s.count > 0) {
        s.lowest = lowest;
        s.highest = highest;
        if (std::isfinite(above)) s.lowest_above_floor = above;
    }
    return s;
}

}  // namespace pristine::select
