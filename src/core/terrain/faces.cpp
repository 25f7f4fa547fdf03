// Upright faces whose upper edge was not seen: a scanner below a terrace sees the face and nothing behind it.
//
// A wall of a building looks the same, but there is ground behind it no higher than in front, within the
// largest object's size. Chains of upright cells are judged as a whole: by what lies behind their cells, and
// where nothing was seen there, by being longer than the largest object.

#include <algorithm>
#include <cmath>
#include <numbers>

#include "core/base/parallel.h"
#include "core/terrain/grid.h"

namespace pristine::terrain {
namespace {

constexpr double kFoot = 0.25, kTall = 0.6;  // metres above the ground where a face begins; least height
constexpr double kGap = 0.6;                 // metres without a point end it
constexpr double kFirstGap = 1.3;            // a face leans: its foot may lie in the next cell
constexpr double kThick = 0.16;              // metres, spread across it
constexpr double kLong = 0.9;                // of the largest object: longer, unless ground lies behind
constexpr double kAtOnce = 1.3;              // rise over run
constexpr double kShort = 2;                 // metres; what is shorter proves nothing

struct Upright {
    float top = 0;  // above the plane of the cell; 0: nothing upright
    double n = 0, x = 0, y = 0, xx = 0, xy = 0, yy = 0;
};

Upright upright_in(const Grid& g, std::size_t c) {
    Upright u;
    const Cell& cell = g.cells[c];
    const auto foot = static_cast<float>(kFoot * g.metre), gap = static_cast<float>(kGap * g.metre),
               first_gap = static_cast<float>(kFirstGap * g.metre);
    float last = 0;
    for (std::size_t i = g.first[c]; i < g.first[c + 1]; ++i) {
        const Sample& s = g.samples[i];
        const float over = s.z - (cell.plane.a + cell.plane.b * s.x + cell.plane.c * s.y);
        if (over < foot) {
            last = std::max(last, over);
            continue;
        }
        if (over - last > (u.n == 0 ? first_gap : gap)) break;
        last = over;
        const auto x = static_cast<double>(s.x), y = static_cast<double>(s.y);
        u.n += 1;
        u.x += x, u.y += y;
        u.xx += x * x, u.xy += x * y, u.yy += y * y;
        u.top = over;
    }
    return u;
}

// The line that the upright points round a cell make in plan.
struct Line {
    bool thin = false;
    double across_x = 0, across_y = 0;  // unit length
};
Line line_at(const Grid& g, const std::vector<Upright>& all, int cx, int cy) {
    double n = 0, x = 0, y = 0, xx = 0, xy = 0, yy = 0;
    for (int v = cy - 1; v <= cy + 1; ++v)
        for (int u = cx - 1; u <= cx + 1; ++u) {
            if (!g.holds(u, v)) continue;
            const Upright& o = all[g.at(u, v)];
            const double dx = (u - cx) * g.side, dy = (v - cy) * g.side;
            n += o.n;
            x += o.x + o.n * dx, y += o.y + o.n * dy;
            xx += o.xx + 2 * dx * o.x + o.n * dx * dx;
            xy += o.xy + dx * o.y + dy * o.x + o.n * dx * dy;
            yy += o.yy + 2 * dy * o.y + o.n * dy * dy;
        }
    if (n < 4) return {};
    const double mx = x / n, my = y / n, a = xx / n - mx * mx, b = xy / n - mx * my, c = yy / n - my * my;
    const double least = (a + c) / 2 - std::sqrt((a - c) * (a - c) / 4 + b * b);
    const double angle = 0.5 * std::atan2(2 * b, a - c);  // of the line
    return {least < kThick * g.metre * kThick * g.metre, -std::sin(angle), std::cos(angle)};
}

enum class Behind { Nothing, Higher, NoHigher };

// What lies behind an upright cell: on the side where the ground is not right at its foot.
Behind behind(const Grid& g, int cx, int cy, const Line& line, float top, double reach) {
    const Cell& cell = g.cells[g.at(cx, cy)];
    struct Found {
        int steps = 0;
        float over = 0;  // against the plane of the cell; the middle of the first three cells with ground
    } side[2];
    const int most = static_cast<int>(reach / g.side);
    for (const int s : {0, 1}) {
        std::vector<float> heights;
        for (int k = 2; k <= most && heights.size() < 3; ++k) {
            const double way = (s == 0 ? 1 : -1) * k;
            const int x = cx + static_cast<int>(std::lround(way * line.across_x)),
                      y = cy + static_cast<int>(std::lround(way * line.across_y));
            if (!g.holds(x, y)) break;
            const Cell& o = g.cells[g.at(x, y)];
            if (o.state != Cell::State::Ground) continue;
            if (heights.empty()) side[s].steps = k;
            heights.push_back(o.plane.a - cell.plane.a);
        }
        std::sort(heights.begin(), heights.end());
        if (!heights.empty()) side[s].over = heights[heights.size() / 2];
    }
    const auto [near, far] = std::minmax(side[0], side[1], [](const Found& a, const Found& b) {
        return (a.steps ? a.steps : 1 << 20) < (b.steps ? b.steps : 1 << 20);
    });
    if (far.steps == 0) return Behind::Nothing;
    const Found& higher = near.over > far.over ? near : far;
    if (higher.over <= 0.6f * top) return Behind::NoHigher;
    // A hillside rises behind everything that stands on it, but not at once.
    return static_cast<double>(higher.over) > kAtOnce * higher.steps * g.side ? Behind::Higher
                                                                              : Behind::Nothing;
}

// Of the rectangle, however turned, that holds a chain most closely: two walls of a building make a corner,
// whose ends are farther apart than the building is long. Cells.
double longer_side(const std::vector<std::pair<int, int>>& chain) {
    constexpr int kTurns = 18;
    double least = INFINITY, longer = 0;
    for (int k = 0; k < kTurns; ++k) {
        const double angle = k * std::numbers::pi / (2 * kTurns), c = std::cos(angle), s = std::sin(angle);
        double lo_u = INFINITY, hi_u = -INFINITY, lo_v = INFINITY, hi_v = -INFINITY;
        for (const auto& [x, y] : chain) {
            const double u = c * x + s * y, v = c * y - s * x;
            lo_u = std::min(lo_u, u), hi_u = std::max(hi_u, u);
            lo_v = std::min(lo_v, v), hi_v = std::max(hi_v, v);
        }
        const double a = hi_u - lo_u, b = hi_v - lo_v, area = (a + 1) * (b + 1);
        if (area < least) {
            least = area;
            longer = std::max(a, b);
        }
    }
    return longer;
}

}  // namespace

void find_faces(Grid& g, const Options& options, Progress& progress) {
    std::vector<Upright> uprights(g.cells.size());
    parallel::for_ranges(g.cells.size(), 4096, [&](std::size_t from, std::size_t to) {
        progress.check();
        for (std::size_t c = from; c < to; ++c)
            if (g.cells[c].state != Cell::State::Empty) uprights[c] = upright_in(g, c);
    });
    const auto tall = static_cast<float>(kTall * g.metre);
    std::vector<std::size_t> chain_of(g.cells.size(), 0);  // 0: of none
    std::size_t chains = 0;
    const double reach = options.largest_object * g.metre;
    std::vector<Line> lines(g.cells.size());
    parallel::for_ranges(static_cast<std::size_t>(g.ny), 16, [&](std::size_t from, std::size_t to) {
        progress.check();
        for (int y = static_cast<int>(from); y < static_cast<int>(to); ++y)
            for (int x = 0; x < g.nx; ++x)
                if (uprights[g.at(x, y)].top >= tall) lines[g.at(x, y)] = line_at(g, uprights, x, y);
    });
    std::vector<std::pair<int, int>> chain;
    for (int y = 0; y < g.ny; ++y)
        for (int x = 0; x < g.nx; ++x) {
            const auto belongs = [&](int u, int v) {
                return g.holds(u, v) && chain_of[g.at(u, v)] == 0 && lines[g.at(u, v)].thin;
            };
            if (!belongs(x, y)) continue;
            chain.assign(1, {x, y});
            chain_of[g.at(x, y)] = ++chains;
            double votes[3] = {};
            for (std::size_t k = 0; k < chain.size(); ++k) {
                const auto [cx, cy] = chain[k];
                const std::size_t c = g.at(cx, cy);
                votes[static_cast<int>(behind(g, cx, cy, lines[c], uprights[c].top, reach))] += 1;
                for (int v = cy - 2; v <= cy + 2; ++v)
                    for (int u = cx - 2; u <= cx + 2; ++u)
                        if (belongs(u, v)) {
                            chain_of[g.at(u, v)] = chains;
                            chain.push_back({u, v});
                        }
            }
            const double length = longer_side(chain) * g.side;
            const double nothing = votes[0], higher = votes[1], no_higher = votes[2];
            const bool face = length > kLong * reach
                                  ? no_higher < nothing + higher
                                  : length > kShort * g.metre && higher > nothing + no_higher;
            if (!face) continue;
            for (const auto& [u, v] : chain) g.cells[g.at(u, v)].face = uprights[g.at(u, v)].top;
        }
}

}  // namespace pristine::terrain
