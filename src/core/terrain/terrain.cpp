#include "core/terrain/terrain.h"

#include <algorithm>
#include <cmath>

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
    find_lie_of_land(*grid_, options, progress);
    take_objects_off(*grid_, options, progress);
    fit_planes(*grid_, options, progress);
    find_faces(*grid_, options, progress);
    RoomyVector<Sample>().swap(grid_->samples);
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

}  // namespace pristine::terrain
