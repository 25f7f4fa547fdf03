// The trend surface: what the site does on the scale of its largest object.

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

void find_trend_surface(Grid& g, const Options& options, Progress& progress) {
    // Nodes at multiples of the step in the world.
    const double step = options.largest_object * g.metre, x0 = static_cast<double>(g.ix0) * g.side,
                 y0 = static_cast<double>(g.iy0) * g.side, first_x = std::floor(x0 / step),
                 first_y = std::floor(y0 / step);
    const int nx = static_cast<int>(std::floor((x0 + g.nx * g.side) / step) - first_x) + 2,
              ny = static_cast<int>(std::floor((y0 + g.ny * g.side) / step) - first_y) + 2;
    const int reach = std::max(1, static_cast<int>(step / g.side)),
              stride = std::max(1, 2 * reach / kPlacesAcross);
    std::vector<Node> nodes(static_cast<std::size_t>(nx) * static_cast<std::size_t>(ny));
    parallel::for_each(nodes.size(), [&](std::size_t k) {
        progress.check();
        const double x = (first_x + static_cast<double>(k % static_cast<std::size_t>(nx))) * step - x0,
                     y = (first_y + static_cast<double>(k / static_cast<std::size_t>(nx))) * step - y0;
        const int cx = static_cast<int>(std::floor(x / g.side)),
                  cy = static_cast<int>(std::floor(y / g.side));
        std::vector<Vec3> places;
        for (int v = cy - reach; v <= cy + reach; v += stride)
            for (int u = cx - reach; u <= cx + reach; u += stride) {
                if (!g.holds(u, v)) continue;
                if (const Cell& c = g.cells[g.at(u, v)]; c.state == Cell::State::Ground)
                    places.push_back(
                        {(u + 0.5) * g.side - x, (v + 0.5) * g.side - y, static_cast<double>(c.low)});
            }
        if (static_cast<double>(places.size()) < kFewPlaces) return;
        const auto plane = plane_under(places, 0.08 * step, 8);
        if (!plane || std::hypot(plane->b, plane->c) > kSteepestLie) return;
        nodes[k] = {true, *plane};
    });
    for_cells(g, progress, [&](int cx, int cy, std::size_t k) {
        Cell& c = g.cells[k];
        if (c.state != Cell::State::Ground) return;
        const double x = (static_cast<double>(g.ix0 + cx) + 0.5) * g.side / step - first_x,
                     y = (static_cast<double>(g.iy0 + cy) + 0.5) * g.side / step - first_y;
        const int ix = static_cast<int>(x), iy = static_cast<int>(y);
        double sum = 0, weight = 0;
        for (int q = 0; q < 4; ++q) {
            const int jx = ix + (q & 1), jy = iy + (q >> 1);
            const Node& node = nodes[static_cast<std::size_t>(jy) * static_cast<std::size_t>(nx) +
                                     static_cast<std::size_t>(jx)];
            if (!node.known) continue;
            const double w = (1 - std::fabs(x - jx)) * (1 - std::fabs(y - jy)) + 1e-9;
            sum += w * node.plane.at((x - jx) * step, (y - jy) * step);
            weight += w;
        }
        c.lie = c.low - static_cast<float>(weight > 0 ? sum / weight : 0);
    });
}

}  // namespace pristine::terrain
