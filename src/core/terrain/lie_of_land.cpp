// The lie of the land: what the site does on the scale of its largest object.

#include <algorithm>
#include <cmath>

#include "core/base/parallel.h"
#include "core/geometry/plane_under.h"
#include "core/terrain/grid.h"

namespace pristine::terrain {
namespace {

constexpr int kPlacesAcross = 40;      // of a window, at most
constexpr double kSteepestLie = 1.75;  // rise over run; more comes from too few places
constexpr double kFewPlaces = 12;

struct Node {
    bool known = false;
    HeightPlane plane;  // x, y from the node
};

}  // namespace

void find_lie_of_land(Grid& g, const Options& options, Progress& progress) {
    const double step = options.largest_object * g.metre;
    const int nx = static_cast<int>(g.nx * g.side / step) + 2,
              ny = static_cast<int>(g.ny * g.side / step) + 2;
    const int reach = std::max(1, static_cast<int>(step / g.side)),
              stride = std::max(1, 2 * reach / kPlacesAcross);
    std::vector<Node> nodes(static_cast<std::size_t>(nx) * static_cast<std::size_t>(ny));
    parallel::for_each(nodes.size(), [&](std::size_t k) {
        progress.check();
        const double x = static_cast<double>(k % static_cast<std::size_t>(nx)) * step,
                     y = static_cast<double>(k / static_cast<std::size_t>(nx)) * step;
        const int cx = static_cast<int>(x / g.side), cy = static_cast<int>(y / g.side);
        std::vector<Vec3> places;
        for (int v = std::max(0, cy - reach); v <= std::min(g.ny - 1, cy + reach); v += stride)
            for (int u = std::max(0, cx - reach); u <= std::min(g.nx - 1, cx + reach); u += stride)
                if (const Cell& c = g.cells[g.at(u, v)]; c.state == Cell::State::Ground)
                    places.push_back(
                        {(u + 0.5) * g.side - x, (v + 0.5) * g.side - y, static_cast<double>(c.low)});
        if (static_cast<double>(places.size()) < kFewPlaces) return;
        const auto plane = plane_under(places, 0.08 * step, 8);
        if (!plane || std::hypot(plane->b, plane->c) > kSteepestLie) return;
        nodes[k] = {true, *plane};
    });
    for_cells(g, progress, [&](int cx, int cy, std::size_t k) {
        Cell& c = g.cells[k];
        if (c.state != Cell::State::Ground) return;
        const double x = (cx + 0.5) * g.side, y = (cy + 0.5) * g.side;
        const int ix = static_cast<int>(x / step), iy = static_cast<int>(y / step);
        double sum = 0, weight = 0;
        for (int q = 0; q < 4; ++q) {
            const int jx = ix + (q & 1), jy = iy + (q >> 1);
            const Node& node = nodes[static_cast<std::size_t>(jy) * static_cast<std::size_t>(nx) +
                                     static_cast<std::size_t>(jx)];
            if (!node.known) continue;
            const double w = (1 - std::fabs(x / step - jx)) * (1 - std::fabs(y / step - jy)) + 1e-9;
            sum += w * node.plane.at(x - jx * step, y - jy * step);
            weight += w;
        }
        c.lie = c.low - static_cast<float>(weight > 0 ? sum / weight : 0);
    });
}

}  // namespace pristine::terrain
