#include "core/measure/pile_outlines.h"

#include <algorithm>
#include <array>
#include <cmath>
#include <numbers>

#include "core/geometry/line_edit.h"

namespace pristine::measure {
namespace {

constexpr double kCells = 300;         // along the longer side, at most
constexpr double kTrianglesEach = 12;  // of a cell, at least
constexpr int kFoot = 1;               // cells that an outline stands clear of the flank

// Heights by cells, and sets of cells.
struct Grid {
    Vec3 origin;
    double cell = 1;
    int nx = 0, ny = 0;
    std::vector<double> z;  // not a number: no surface

    std::size_t at(int x, int y) const {
        return static_cast<std::size_t>(y) * static_cast<std::size_t>(nx) + static_cast<std::size_t>(x);
    }
    bool inside(int x, int y) const { return x >= 0 && y >= 0 && x < nx && y < ny; }
    double height(int x, int y) const { return inside(x, y) ? z[at(x, y)] : NAN; }
};

using Cells = std::vector<std::uint8_t>;

Grid grid_of(const mesh::TriMesh& m) {
    Grid g;
    Box3 box;
    for (const Vec3& v : m.vertices) box.add(v);
    if (box.empty()) return g;
    const double w = box.hi.x - box.lo.x, h = box.hi.y - box.lo.y;
    g.cell = std::max(
        std::max(w, h) / kCells,
        std::sqrt(w * h * kTrianglesEach / std::max<double>(1, static_cast<double>(m.triangles.size()))));
    if (!(g.cell > 0)) return g;
    g.origin = box.lo;
    g.nx = static_cast<int>(w / g.cell) + 1;
    g.ny = static_cast<int>(h / g.cell) + 1;
    const std::size_t cells = static_cast<std::size_t>(g.nx) * static_cast<std::size_t>(g.ny);
    if (cells == 0 || cells > (std::size_t{1} << 30)) return {};
    std::vector<double> sum(cells), weight(cells);
    for (const auto& t : m.triangles) {
        const Vec3 &a = m.vertices[t[0]], &b = m.vertices[t[1]], &c = m.vertices[t[2]];
        const double area = 0.5 * std::fabs((b.x - a.x) * (c.y - a.y) - (c.x - a.x) * (b.y - a.y));
        // A triangle larger than a cell counts in all cells that its parts have their middles in.
        const int n = std::clamp(static_cast<int>(std::ceil(std::sqrt(area) / (0.5 * g.cell))), 1, 64);
        for (int i = 0; i < n; ++i)
            for (int k = 0; k < n - i; ++k) {
                const double u = (i + 1 / 3.0) / n, v = (k + 1 / 3.0) / n;
                const Vec3 p = a + (b - a) * u + (c - a) * v;
                const int x = static_cast<int>((p.x - g.origin.x) / g.cell),
                          y = static_cast<int>((p.y - g.origin.y) / g.cell);
                if (!g.inside(x, y)) continue;
                sum[g.at(x, y)] += p.z * area / (n * n);
                weight[g.at(x, y)] += area / (n * n);
            }
    }
    g.z.resize(cells);
    for (std::size_t k = 0; k < sum.size(); ++k) g.z[k] = weight[k] > 0 ? sum[k] / weight[k] : NAN;
    return g;
}

Cells steep_cells(const Grid& g, double slope_deg) {
    const double limit = std::tan(slope_deg * std::numbers::pi / 180);
    Cells out(g.z.size(), 0);
    for (int y = 0; y < g.ny; ++y)
        for (int x = 0; x < g.nx; ++x) {
            const double dx = (g.height(x + 1, y) - g.height(x - 1, y)) / (2 * g.cell),
                         dy = (g.height(x, y + 1) - g.height(x, y - 1)) / (2 * g.cell);
            out[g.at(x, y)] = std::hypot(dx, dy) > limit;  // false where one is not a number
        }
    return out;
}

Cells grown(const Grid& g, const Cells& in, int by) {
    Cells out = in;
    for (int round = 0; round < by; ++round) {
        const Cells now = out;
        for (int y = 0; y < g.ny; ++y)
            for (int x = 0; x < g.nx; ++x)
                for (int dy = -1; dy <= 1 && !out[g.at(x, y)]; ++dy)
                    for (int dx = -1; dx <= 1; ++dx)
                        if (g.inside(x + dx, y + dy) && now[g.at(x + dx, y + dy)]) out[g.at(x, y)] = 1;
    }
    return out;
}

// Cells that hang together with `start` and have this value; through corners too, if asked.
std::vector<std::pair<int, int>> connected(const Grid& g, Cells& left, int x, int y, bool corners) {
    std::vector<std::pair<int, int>> out{{x, y}};
    left[g.at(x, y)] = 0;
    for (std::size_t k = 0; k < out.size(); ++k)
        for (int dy = -1; dy <= 1; ++dy)
            for (int dx = -1; dx <= 1; ++dx) {
                const int u = out[k].first + dx, v = out[k].second + dy;
                if ((dx != 0 && dy != 0 && !corners) || !g.inside(u, v) || !left[g.at(u, v)]) continue;
                left[g.at(u, v)] = 0;
                out.emplace_back(u, v);
            }
    return out;
}

// The same cells with everything that they enclose.
Cells filled(const Grid& g, const std::vector<std::pair<int, int>>& cells) {
    Cells own(g.z.size(), 0), open(g.z.size(), 1);
    for (const auto& [x, y] : cells) own[g.at(x, y)] = 1, open[g.at(x, y)] = 0;
    for (int y = 0; y < g.ny; ++y)
        for (int x = 0; x < g.nx; ++x)
            if ((x == 0 || y == 0 || x + 1 == g.nx || y + 1 == g.ny) && open[g.at(x, y)])
                connected(g, open, x, y, false);
    for (std::size_t k = 0; k < own.size(); ++k) own[k] |= open[k];
    return own;
}

struct Rise {
    double top = -INFINITY, mean = 0, foot = 0;
    std::size_t cells = 0;
    bool at_rim = false;  // it runs out of the surface
};

Rise rise_of(const Grid& g, const Cells& own) {
    Rise r;
    double foot = 0;
    std::size_t round = 0;
    for (int y = 0; y < g.ny; ++y)
        for (int x = 0; x < g.nx; ++x) {
            if (!own[g.at(x, y)]) continue;
            const double z = g.height(x, y);
            if (std::isfinite(z)) {
                r.top = std::max(r.top, z);
                r.mean += z;
                ++r.cells;
            }
            for (const auto& [dx, dy] :
                 {std::pair(1, 0), std::pair(-1, 0), std::pair(0, 1), std::pair(0, -1)}) {
                if (g.inside(x + dx, y + dy) && own[g.at(x + dx, y + dy)]) continue;
                const double beside = g.height(x + dx, y + dy);
                r.at_rim |= !std::isfinite(beside);
                if (std::isfinite(beside)) foot += beside, ++round;
            }
        }
    r.mean /= std::max<double>(1, static_cast<double>(r.cells));
    r.foot = round > 0 ? foot / static_cast<double>(round) : NAN;
    return r;
}

// Along the corners of the cells, counter-clockwise, the set on the left.
std::vector<Vec3> outline_of(const Grid& g, const Cells& own) {
    const auto in = [&](int x, int y) { return g.inside(x, y) && own[g.at(x, y)]; };
    int sx = -1, sy = -1;
    for (int y = 0; y < g.ny && sx < 0; ++y)
        for (int x = 0; x < g.nx; ++x)
            if (in(x, y)) {
                sx = x, sy = y;
                break;
            }
    std::vector<Vec3> line;
    if (sx < 0) return line;
    // From the lower left corner of the lowest cell eastwards.
    int x = sx, y = sy, dx = 1, dy = 0;
    const std::size_t most = 8 * own.size() + 8;
    do {
        line.push_back(g.origin + Vec3{x * g.cell, y * g.cell, 0});
        x += dx, y += dy;
        // The cells ahead, to the left and to the right of the way.
        const int lx = x + (dx - dy - 1) / 2, ly = y + (dx + dy - 1) / 2;
        const int rx = x + (dx + dy - 1) / 2, ry = y + (dy - dx - 1) / 2;
        if (in(rx, ry)) {
            const int t = dx;
            dx = dy, dy = -t;  // right
        } else if (!in(lx, ly)) {
            const int t = dx;
            dx = -dy, dy = t;  // left
        }
    } while ((x != sx || y != sy) && line.size() < most);
    return line;
}

}  // namespace

std::vector<std::vector<Vec3>> pile_outlines(const mesh::TriMesh& m, const PileSearch& search,
                                             Progress& progress) {
    const Grid g = grid_of(m);
    progress.check();
    if (g.nx < 4 || g.ny < 4) return {};
    const double least = search.least_height > 0 ? search.least_height : 0.01 * std::max(g.nx, g.ny) * g.cell;
    Cells left = steep_cells(g, search.slope_deg);
    std::vector<std::pair<std::size_t, std::vector<Vec3>>> found;
    for (int y = 0; y < g.ny; ++y)
        for (int x = 0; x < g.nx; ++x) {
            if (!left[g.at(x, y)]) continue;
            progress.check();
            const auto flank = connected(g, left, x, y, true);
            if (flank.size() < 4) continue;
            const Cells own = grown(g, filled(g, flank), kFoot);
            const Rise r = rise_of(g, own);
            if (r.at_rim || !(r.top - r.foot >= least) || r.mean < r.foot + 0.15 * (r.top - r.foot)) continue;
            std::vector<Vec3> line = outline_of(g, own);
            for (Vec3& p : line) p.z = r.foot;
            line = simplified(line, true, 0.8 * g.cell).points;
            if (line.size() >= 3) found.emplace_back(r.cells, std::move(line));
        }
    std::stable_sort(found.begin(), found.end(),
                     [](const auto& a, const auto& b) { return a.first > b.first; });
    std::vector<std::vector<Vec3>> out;
    for (auto& one : found) out.push_back(std::move(one.second));
    return out;
}

}  // namespace pristine::measure
