// Points into cells, and the height of each cell.

#include <algorithm>
#include <cmath>
#include <numeric>

#include "core/base/parallel.h"
#include "core/terrain/grid.h"

namespace pristine::terrain {
namespace {

constexpr int kMostCells = 16'000'000;
constexpr double kPointsInCell = 5, kPointsWhereUneven = 2.5;  // wanted
constexpr double kUneven = 5;                                  // the densest tenth against the middle
constexpr double kSmallest = 0.2, kLargest = 2;                // cells, metres
constexpr double kLevel = 256;                                 // metres: z0 is a multiple
constexpr double kClump = 0.3;                                 // metres without a point end a clump

using Samples = std::vector<Sample>;

Samples sample_of_page(const Grid& g, const cloud::PointCloud& cloud, const ElementSet& eligible,
                       std::size_t p, std::size_t per_block) {
    Samples out;
    if (eligible.kind(p) == ElementSet::Kind::None) return out;
    const PageBits* some = eligible.bits(p);
    for (std::size_t b = 0, n = page_length(cloud.size(), p); b * kBlockSize < n; ++b) {
        const auto points = cloud.block_positions(p, b, std::min(per_block, n - b * kBlockSize));
        for (std::size_t i = 0; i < points.size(); ++i) {
            if (some && !some->test(b * kBlockSize + i)) continue;
            const Vec3 w = cloud.grid().world(points.x[i], points.y[i], points.z[i]);
            const double u = std::floor(w.x / g.side), v = std::floor(w.y / g.side);
            const double cx = u - static_cast<double>(g.ix0), cy = v - static_cast<double>(g.iy0);
            if (!(cx >= 0 && cy >= 0 && cx < g.nx && cy < g.ny)) continue;
            out.push_back({static_cast<std::uint32_t>(g.at(static_cast<int>(cx), static_cast<int>(cy))),
                           static_cast<float>(w.x - (u + 0.5) * g.side),
                           static_cast<float>(w.y - (v + 0.5) * g.side), static_cast<float>(w.z - g.z0)});
        }
    }
    return out;
}

// The extent without far strays, and a little beyond it where points get few.
void set_extent(Grid& g, const cloud::PointCloud& cloud) {
    Box3 box = cloud.robust_bounds();
    const Box3 whole = cloud.bounds();
    for (int a = 0; a < 2; ++a) {
        const double more = 0.25 * (box.hi[a] - box.lo[a]) + 3 * g.metre;
        box.lo[a] = std::max(whole.lo[a], box.lo[a] - more);
        box.hi[a] = std::min(whole.hi[a], box.hi[a] + more);
    }
    while ((box.hi.x - box.lo.x) / g.side * ((box.hi.y - box.lo.y) / g.side) > kMostCells) g.side *= 1.25;
    const auto number = [&](double v) { return static_cast<std::int64_t>(std::floor(v / g.side)); };
    g.ix0 = number(box.lo.x) - 2;
    g.iy0 = number(box.lo.y) - 2;
    g.z0 = std::floor(box.lo.z / (kLevel * g.metre)) * kLevel * g.metre;
    g.nx = static_cast<int>(number(box.hi.x) - g.ix0) + 3;
    g.ny = static_cast<int>(number(box.hi.y) - g.iy0) + 3;
}

// Cells hold enough points where points are of middling density; a few thousand points tell.
double side_for_density(const cloud::PointCloud& cloud, const ElementSet& eligible, double metre) {
    Grid coarse;
    coarse.metre = metre;
    coarse.side = metre;
    set_extent(coarse, cloud);
    const double share = std::min(1.0, 4e6 / static_cast<double>(std::max<std::uint64_t>(1, cloud.size())));
    const auto per_block = static_cast<std::size_t>(std::ceil(share * static_cast<double>(kBlockSize)));
    const auto parts = parallel::map<Samples>(cloud.page_count(), [&](std::size_t p) {
        return sample_of_page(coarse, cloud, eligible, p, per_block);
    });
    std::vector<std::uint32_t> count(static_cast<std::size_t>(coarse.nx) *
                                     static_cast<std::size_t>(coarse.ny));
    for (const Samples& part : parts)
        for (const Sample& s : part) ++count[s.cell];
    std::erase(count, 0u);
    if (count.empty()) return metre;
    const auto middle = count.begin() + static_cast<std::ptrdiff_t>(count.size() / 2);
    std::nth_element(count.begin(), middle, count.end());
    const double typical = *middle;
    const auto dense = count.begin() + static_cast<std::ptrdiff_t>(count.size() * 9 / 10);
    std::nth_element(count.begin(), dense, count.end());
    // Round a tripod points are dense, and things near it large in points: finer cells, though far ones stay
    // empty.
    const double wanted = *dense > kUneven * typical ? kPointsWhereUneven : kPointsInCell;
    const double density = typical / share / (coarse.side * coarse.side);
    return std::clamp(std::sqrt(wanted / density), kSmallest * metre, kLargest * metre);
}

void sort_into_cells(Grid& g, std::vector<Samples>& parts, Progress& progress) {
    const std::size_t n = static_cast<std::size_t>(g.nx) * static_cast<std::size_t>(g.ny);
    g.first.assign(n + 1, 0);
    for (const Samples& part : parts)
        for (const Sample& s : part) ++g.first[s.cell + 1];
    std::partial_sum(g.first.begin(), g.first.end(), g.first.begin());
    g.samples.resize(g.first.back());
    std::vector<std::size_t> next(g.first.begin(), g.first.end() - 1);
    for (Samples& part : parts) {
        for (const Sample& s : part) g.samples[next[s.cell]++] = s;
        Samples().swap(part);
    }
    parallel::for_ranges(n, 1024, [&](std::size_t from, std::size_t to) {
        progress.check();
        for (std::size_t c = from; c < to; ++c)
            std::sort(g.samples.begin() + static_cast<std::ptrdiff_t>(g.first[c]),
                      g.samples.begin() + static_cast<std::ptrdiff_t>(g.first[c + 1]),
                      [](const Sample& a, const Sample& b) {
                          return a.z != b.z ? a.z < b.z : a.x != b.x ? a.x < b.x : a.y < b.y;
                      });
    });
}

// Feet of the lowest clumps of a cell, at most three.
struct Clumps {
    std::uint8_t n = 0;
    float foot[3] = {};
};

Clumps clumps_of(const Grid& g, std::size_t c, float gap) {
    Clumps out;
    float last = -INFINITY;
    for (std::size_t i = g.first[c]; i < g.first[c + 1] && out.n < 3; ++i) {
        if (g.samples[i].z - last > gap) out.foot[out.n++] = g.samples[i].z;
        last = g.samples[i].z;
    }
    return out;
}

// Noise below the ground is borne out by few cells round it; ground seen through leaves by some.
bool borne_out(const Grid& g, const std::vector<Clumps>& clumps, int cx, int cy, float foot, float gap) {
    int backed = 0, looked_at = 0;
    for (int y = cy - 2; y <= cy + 2; ++y)
        for (int x = cx - 2; x <= cx + 2; ++x) {
            if (!g.holds(x, y) || (x == cx && y == cy)) continue;
            const Clumps& o = clumps[g.at(x, y)];
            if (o.n == 0) continue;
            ++looked_at;
            const float reach = gap + 1.3f * static_cast<float>(g.side * std::hypot(x - cx, y - cy));
            for (int k = 0; k < o.n; ++k)
                if (std::fabs(o.foot[k] - foot) <= reach) {
                    ++backed;
                    break;
                }
        }
    return backed >= std::min(4, std::max(1, looked_at / 2));
}

}  // namespace

double cell_for(const cloud::PointCloud& cloud, const ElementSet& eligible, double metres_per_unit) {
    if (cloud.robust_bounds().empty()) return kSmallest;
    return side_for_density(cloud, eligible, 1 / metres_per_unit) * metres_per_unit;
}

void gather(Grid& g, const cloud::PointCloud& cloud, const ElementSet& eligible, const Options& options,
            Progress& progress) {
    g.metre = 1 / options.metres_per_unit;
    if (cloud.robust_bounds().empty()) return;
    g.side = options.cell > 0 ? options.cell * g.metre : side_for_density(cloud, eligible, g.metre);
    set_extent(g, cloud);
    const double share = std::min(1.0, static_cast<double>(options.most_points) /
                                           static_cast<double>(std::max<std::uint64_t>(1, cloud.size())));
    const auto per_block = static_cast<std::size_t>(std::ceil(share * static_cast<double>(kBlockSize)));
    auto parts = parallel::map<Samples>(cloud.page_count(), [&](std::size_t p) {
        progress.check();
        return sample_of_page(g, cloud, eligible, p, per_block);
    });
    sort_into_cells(g, parts, progress);
    g.cells.resize(g.first.size() - 1);
    const auto gap = static_cast<float>(kClump * g.metre);
    std::vector<Clumps> clumps(g.cells.size());
    parallel::for_ranges(g.cells.size(), 1024, [&](std::size_t from, std::size_t to) {
        for (std::size_t c = from; c < to; ++c) clumps[c] = clumps_of(g, c, gap);
    });
    for_cells(g, progress, [&](int cx, int cy, std::size_t c) {
        for (int k = 0; k < clumps[c].n; ++k) {
            if (!borne_out(g, clumps, cx, cy, clumps[c].foot[k], gap)) continue;
            // Not yet told from objects.
            g.cells[c].state = Cell::State::Ground;
            g.cells[c].low = clumps[c].foot[k];
            break;
        }
    });
}

}  // namespace pristine::terrain
