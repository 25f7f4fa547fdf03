#include "core/terrain/terrain.h"

#include <algorithm>
#include <cmath>
#include <map>

#include "core/terrain/grid.h"

namespace pristine::terrain {
namespace {

constexpr double kMeet = 0.8;  // cells within which ground of another height makes a face with this

}  // namespace

Terrain::Terrain(const cloud::PointCloud& cloud, const ElementSet& eligible, const Options& options,
                 Progress& progress)
    : grid_(std::make_unique<Grid>()) {
    gather(*grid_, cloud, eligible, options, progress);
    if (grid_->cells.empty()) return;
    find_trend_surface(*grid_, options, progress);
    take_objects_off(*grid_, options, progress);
    fit_planes(*grid_, options, progress);
    find_faces(*grid_, options, progress);
    SpillVector<Sample>().swap(grid_->samples);
}

Terrain::~Terrain() = default;

double Terrain::cell() const {
    return grid_->side;
}

std::optional<double> Terrain::above(const Vec3& world) const {
    const Grid& g = *grid_;
    const double u = world.x / g.side - static_cast<double>(g.ix0),
                 v = world.y / g.side - static_cast<double>(g.iy0);
    const double x_cell = std::floor(world.x / g.side) - static_cast<double>(g.ix0),
                 y_cell = std::floor(world.y / g.side) - static_cast<double>(g.iy0);
    if (!(x_cell >= 0 && y_cell >= 0 && x_cell < g.nx && y_cell < g.ny)) return std::nullopt;
    const int cx = static_cast<int>(x_cell), cy = static_cast<int>(y_cell);
    const auto known = [](const Cell& c) {
        return c.state == Cell::State::Ground || c.state == Cell::State::Filled;
    };
    const Cell& cell = g.cells[g.at(cx, cy)];
    if (!known(cell)) return std::nullopt;
    const double z = world.z - g.z0;
    // Height of the plane of a cell at the place of it that is nearest to the point.
    const auto height = [&](int x, int y) {
        const Plane& p = g.cells[g.at(x, y)].plane;
        const double dx = std::clamp(u - x - 0.5, -0.5, 0.5) * g.side,
                     dy = std::clamp(v - y - 0.5, -0.5, 0.5) * g.side;
        return static_cast<double>(p.a) + static_cast<double>(p.b) * dx + static_cast<double>(p.c) * dy;
    };
    double lo = height(cx, cy), hi = lo;
    if (cell.broken)
        for (int y = cy - 1; y <= cy + 1; ++y)
            for (int x = cx - 1; x <= cx + 1; ++x) {
                if (std::max(std::fabs(u - x - 0.5), std::fabs(v - y - 0.5)) > 0.5 + kMeet) continue;
                if (!g.holds(x, y) || !known(g.cells[g.at(x, y)])) continue;
                lo = std::min(lo, height(x, y));
                hi = std::max(hi, height(x, y));
            }
    hi = std::max(hi, height(cx, cy) + static_cast<double>(cell.face));
    return z > hi ? z - hi : z < lo ? z - lo : 0;
}

namespace {

// Of an even sample of the points, which stand on the ground by more than a storey.
std::vector<char> things(const cloud::PointCloud& cloud, const ElementSet& eligible, const Options& options,
                         const std::vector<Vec3>& sample, Progress& progress) {
    constexpr double kStands = 2;  // metres
    const Terrain ground(cloud, eligible, options, progress);
    std::vector<char> out;
    for (const Vec3& p : sample) {
        const auto h = ground.above(p);
        out.push_back(h && *h * options.metres_per_unit > kStands);
    }
    return out;
}

// The middle of the square of plan that holds most of some places.
Vec3 densest(const std::vector<Vec3>& places, double side) {
    std::map<std::pair<std::int64_t, std::int64_t>, std::pair<std::size_t, Vec3>> squares;
    Vec3 best;
    std::size_t most = 0;
    for (const Vec3& p : places) {
        auto& [n, sum] = squares[{static_cast<std::int64_t>(std::floor(p.x / side)),
                                  static_cast<std::int64_t>(std::floor(p.y / side))}];
        ++n;
        sum = sum + p;
        if (n > most) {
            most = n;
            best = sum * (1 / static_cast<double>(n));
        }
    }
    return best;
}

std::vector<Vec3> even_sample(const cloud::PointCloud& cloud, const ElementSet& eligible, std::size_t most) {
    const std::uint64_t stride = eligible.count() / most + 1;
    std::vector<Vec3> out;
    std::uint64_t n = 0;
    for (std::size_t p = 0; p < cloud.page_count(); ++p) {
        const cloud::PositionPage page = cloud.positions(p);
        eligible.for_each_in_page(p, [&](std::size_t i) {
            if (n++ % stride == 0) out.push_back(cloud.grid().world(page.x[i], page.y[i], page.z[i]));
        });
    }
    return out;
}

}  // namespace

LargestObject largest_object(const cloud::PointCloud& cloud, const ElementSet& eligible, const Options& given,
                             Progress& progress) {
    constexpr double kFirst = 25, kLast = 200, kShare = 0.004;  // metres; of the points
    constexpr std::size_t kSample = 100'000;
    Options options = given;
    options.most_points = 1'000'000;
    const std::vector<Vec3> sample = even_sample(cloud, eligible, kSample);
    Box3 box;
    for (const Vec3& p : sample) box.add(p);
    LargestObject found;
    if (sample.empty()) return found;
    // What is larger than a part of the site is the site.
    const double extent = std::min(box.hi.x - box.lo.x, box.hi.y - box.lo.y) * options.metres_per_unit;
    options.largest_object = kFirst;
    std::vector<char> now = things(cloud, eligible, options, sample, progress);
    for (double side = 2 * kFirst; side <= std::min(kLast, 0.5 * extent); side *= 2) {
        options.largest_object = side;
        std::vector<char> next = things(cloud, eligible, options, sample, progress);
        std::vector<Vec3> turned;
        for (std::size_t i = 0; i < sample.size(); ++i)
            if (next[i] && !now[i]) turned.push_back(sample[i]);
        const double share = static_cast<double>(turned.size()) / static_cast<double>(sample.size());
        // A hall of 90 m stays ground with 50 m as with 25; only 100 m finds it.
        if (share >= kShare)
            found = {side, side / 2, share, densest(turned, kFirst / options.metres_per_unit)};
        now = std::move(next);
    }
    return found;
}

}  // namespace pristine::terrain
