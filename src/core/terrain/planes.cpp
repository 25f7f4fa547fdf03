// The ground in each cell as a plane, where it breaks, and what it does under objects.

#include <algorithm>
#include <cmath>
#include <optional>

#include "core/terrain/grid.h"

namespace pristine::terrain {
namespace {

constexpr double kBelow = 0.12, kAbove = 0.18;  // metres from the first plane that points still count
constexpr double kBreak = 0.12;                 // metres by which planes of neighbours may part
constexpr double kEnough = 12;                  // points of a cell make a plane by themselves
constexpr float kTilt = 0.5f;                   // rise over run against its surroundings
constexpr double kSteepestPlane = 6;            // rise over run

// Sums for a plane by least squares.
struct Moments {
    double n = 0, x = 0, y = 0, z = 0, xx = 0, xy = 0, yy = 0, xz = 0, yz = 0;
    void add(double px, double py, double pz) {
        n += 1;
        x += px;
        y += py;
        z += pz;
        xx += px * px;
        xy += px * py;
        yy += py * py;
        xz += px * pz;
        yz += py * pz;
    }
    // With its origin moved by (dx, dy).
    void add(const Moments& m, double dx, double dy) {
        n += m.n;
        x += m.x + m.n * dx;
        y += m.y + m.n * dy;
        z += m.z;
        xx += m.xx + 2 * dx * m.x + m.n * dx * dx;
        xy += m.xy + dx * m.y + dy * m.x + m.n * dx * dy;
        yy += m.yy + 2 * dy * m.y + m.n * dy * dy;
        xz += m.xz + dx * m.z;
        yz += m.yz + dy * m.z;
    }
    std::optional<Plane> plane(double side) const {
        if (n < 4) return std::nullopt;
        const double mx = x / n, my = y / n, mz = z / n;
        const double sxx = xx / n - mx * mx, sxy = xy / n - mx * my, syy = yy / n - my * my;
        const double szx = xz / n - mx * mz, szy = yz / n - my * mz, det = sxx * syy - sxy * sxy;
        if (!(det > 1e-3 * side * side * side * side)) return std::nullopt;
        const double b = (szx * syy - szy * sxy) / det, c = (szy * sxx - szx * sxy) / det;
        if (std::hypot(b, c) > kSteepestPlane) return std::nullopt;
        return Plane{static_cast<float>(mz - b * mx - c * my), static_cast<float>(b), static_cast<float>(c)};
    }
};

bool ground(const Cell& c) {
    return c.state == Cell::State::Ground;
}

// Sums over the cells of the same region in a square of cells.
Moments round_cell(const Grid& g, const std::vector<Moments>& own, int x, int y, int reach) {
    Moments sum;
    for (int v = y - reach; v <= y + reach; ++v)
        for (int u = x - reach; u <= x + reach; ++u)
            if (g.holds(u, v) && ground(g.cells[g.at(u, v)]) &&
                g.cells[g.at(u, v)].region == g.cells[g.at(x, y)].region)
                sum.add(own[g.at(u, v)], (u - x) * g.side, (v - y) * g.side);
    return sum;
}

// First through the lowest points, then through all that lie near that.
void fit_ground(Grid& g, Progress& progress) {
    std::vector<Moments> own(g.cells.size());
    for_cells(g, progress, [&](int, int, std::size_t c) {
        if (!ground(g.cells[c])) return;
        for (std::size_t i = g.first[c]; i < g.first[c + 1]; ++i)
            if (g.samples[i].z >= g.cells[c].low) {
                own[c].add(g.samples[i].x, g.samples[i].y, g.samples[i].z);
                break;
            }
    });
    std::vector<Plane> first(g.cells.size());
    for_cells(g, progress, [&](int x, int y, std::size_t c) {
        if (!ground(g.cells[c])) return;
        auto plane = round_cell(g, own, x, y, 1).plane(g.side);
        if (!plane) plane = round_cell(g, own, x, y, 2).plane(g.side);
        first[c] = plane.value_or(Plane{g.cells[c].low, 0, 0});
    });
    const auto below = static_cast<float>(kBelow * g.metre), above = static_cast<float>(kAbove * g.metre);
    for_cells(g, progress, [&](int, int, std::size_t c) {
        own[c] = {};
        if (!ground(g.cells[c])) return;
        const Plane& p = first[c];
        for (std::size_t i = g.first[c]; i < g.first[c + 1]; ++i) {
            const Sample& s = g.samples[i];
            const float over = s.z - (p.a + p.b * s.x + p.c * s.y);
            if (over >= -below && over <= above) own[c].add(s.x, s.y, s.z);
        }
    });
    for_cells(g, progress, [&](int x, int y, std::size_t c) {
        if (!ground(g.cells[c])) return;
        // Where points are dense, the ground is followed more closely.
        auto plane = own[c].n >= kEnough ? own[c].plane(g.side) : std::nullopt;
        // In a cell with the foot of a face, its points tilt the plane.
        if (plane && std::hypot(plane->b - first[c].b, plane->c - first[c].c) > kTilt) plane.reset();
        if (!plane) plane = round_cell(g, own, x, y, 1).plane(g.side);
        g.cells[c].plane = plane.value_or(first[c]);
    });
}

void find_breaks(Grid& g, Progress& progress) {
    const auto limit = static_cast<float>(kBreak * g.metre);
    for_cells(g, progress, [&](int x, int y, std::size_t c) {
        Cell& cell = g.cells[c];
        if (!ground(cell)) return;
        for (int v = y - 1; v <= y + 1; ++v)
            for (int u = x - 1; u <= x + 1; ++u) {
                if (!g.holds(u, v) || !ground(g.cells[g.at(u, v)])) continue;
                const Plane& o = g.cells[g.at(u, v)].plane;
                const auto dx = static_cast<float>((u - x) * g.side / 2),
                           dy = static_cast<float>((v - y) * g.side / 2);
                const float mine = cell.plane.a + cell.plane.b * dx + cell.plane.c * dy,
                            other = o.a - o.b * dx - o.c * dy;
                if (std::fabs(mine - other) > limit) cell.broken = true;
            }
    });
}

// Ring by ring from the rims inwards.
void fill(Grid& g, const Options& options, Progress& progress) {
    const int rings = static_cast<int>(options.largest_object * g.metre / g.side * 0.6) + 2;
    const auto limit = static_cast<float>(2 * kBreak * g.metre + g.side);
    std::vector<std::pair<int, int>> front;
    for (int y = 0; y < g.ny; ++y)
        for (int x = 0; x < g.nx; ++x)
            if (ground(g.cells[g.at(x, y)])) front.push_back({x, y});
    std::vector<char> queued(g.cells.size(), 0);
    for (int ring = 0; ring < rings && !front.empty(); ++ring) {
        progress.check();
        std::vector<std::pair<int, int>> next;
        for (const auto& [x, y] : front)
            for (int v = y - 1; v <= y + 1; ++v)
                for (int u = x - 1; u <= x + 1; ++u) {
                    if (!g.holds(u, v)) continue;
                    const std::size_t c = g.at(u, v);
                    const auto state = g.cells[c].state;
                    if (queued[c] || ground(g.cells[c]) || state == Cell::State::Filled) continue;
                    queued[c] = 1;
                    next.push_back({u, v});
                }
        std::vector<std::pair<std::size_t, Cell>> fresh;
        for (const auto& [x, y] : next) {
            Cell cell = g.cells[g.at(x, y)];
            float lo = INFINITY, hi = -INFINITY, n = 0;
            Plane sum;
            for (int v = y - 1; v <= y + 1; ++v)
                for (int u = x - 1; u <= x + 1; ++u) {
                    if (!g.holds(u, v)) continue;
                    const Cell& o = g.cells[g.at(u, v)];
                    if (!ground(o) && o.state != Cell::State::Filled) continue;
                    const float h = o.plane.a + o.plane.b * static_cast<float>((x - u) * g.side) +
                                    o.plane.c * static_cast<float>((y - v) * g.side);
                    lo = std::min(lo, h);
                    hi = std::max(hi, h);
                    sum = {sum.a + h, sum.b + o.plane.b, sum.c + o.plane.c};
                    n += 1;
                }
            cell.plane = {sum.a / n, sum.b / n, sum.c / n};
            cell.broken = hi - lo > limit;
            cell.state = Cell::State::Filled;
            fresh.push_back({g.at(x, y), cell});
        }
        for (const auto& [c, cell] : fresh) g.cells[c] = cell;
        front = std::move(next);
    }
}

}  // namespace

void fit_planes(Grid& g, const Options& options, Progress& progress) {
    fit_ground(g, progress);
    find_breaks(g, progress);
    fill(g, options, progress);
}

}  // namespace pristine::terrain
