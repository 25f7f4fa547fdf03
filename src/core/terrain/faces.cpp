// Upright faces whose upper edge was not seen: a scanner below a terrace sees the face and nothing behind it.
//
// A wall of a building looks the same, but there is ground behind it no higher than in front, within the
// largest object's size, or its roof. Upright cells that lie in a line make pieces; pieces go on as one where
// nobody saw what lies between them, as a face hides its own next bend. They are judged as a whole, by what
// lies behind their cells and by their length.

#include <algorithm>
#include <cmath>
#include <utility>

#include "core/base/disjoint_sets.h"
#include "core/terrain/grid.h"

namespace pristine::terrain {
namespace {

constexpr double kFoot = 0.25, kTall = 0.6;  // metres above the ground where a face begins; least height
constexpr double kGap = 0.6;                 // metres without a point end it
constexpr double kFirstGap = 1.3;            // a face leans: its foot may lie in the next cell
constexpr double kOverlap = 0.3;             // metres by which its part in the next cell may begin lower
constexpr double kThick = 0.16;              // metres, spread across it
constexpr double kSlim = 2.1;                // so many times more spread along it
constexpr double kUnseenGap = 2.5;           // metres between pieces of one face
constexpr double kTurned = 0.35;             // sine of the angle by which the next piece may lie off
constexpr double kSeenShare = 0.2;           // of the cells between them that may be seen
constexpr double kRoof = 0.3, kRoofDepth = 2, kRoofShare = 0.4;  // metres high; metres looked at behind
constexpr double kLong = 0.9;       // of the largest object: longer, unless ground lies behind
constexpr double kMiddling = 0.25;  // of it: if next to nothing speaks against it
constexpr double kAgainst = 0.1;    // as much against as for it is next to nothing
constexpr double kStraight = 0.6;   // as wide as long: two walls at a corner are wider
constexpr double kAtOnce = 1.3;     // rise over run
constexpr double kShort = 2;        // metres; what is shorter proves nothing

struct Upright {
    float top = 0;  // above the plane of the cell; 0: nothing upright
    double n = 0, x = 0, y = 0, xx = 0, xy = 0, yy = 0;
};

// `from`: height above the plane up to which it is known to go on from the next cell.
Upright upright_in(const Grid& g, std::size_t c, float from) {
    Upright u;
    const Cell& cell = g.cells[c];
    const auto foot = static_cast<float>(kFoot * g.metre), gap = static_cast<float>(kGap * g.metre),
               first_gap = static_cast<float>(kFirstGap * g.metre);
    float last = from;
    for (std::size_t i = g.first[c]; i < g.first[c + 1]; ++i) {
        const Sample& s = g.samples[i];
        const float over = s.z - (cell.plane.a + cell.plane.b * s.x + cell.plane.c * s.y);
        if (over >= foot) {
            if (over - last > (u.n == 0 ? first_gap : gap)) break;
            const auto x = static_cast<double>(s.x), y = static_cast<double>(s.y);
            u.n += 1;
            u.x += x, u.y += y;
            u.xx += x * x, u.xy += x * y, u.yy += y * y;
            u.top = over;
        }
        last = std::max(last, over);
    }
    return u;
}

std::vector<Upright> find_uprights(const Grid& g, Progress& progress) {
    std::vector<Upright> own(g.cells.size());
    for_cells(g, progress, [&](int, int, std::size_t c) {
        if (g.cells[c].state != Cell::State::Empty) own[c] = upright_in(g, c, 0);
    });
    // The upper part of a face that leans, or is wavy, hangs over nothing in its own cell.
    std::vector<Upright> all = own;
    for_cells(g, progress, [&](int x, int y, std::size_t c) {
        if (g.cells[c].state == Cell::State::Empty || g.first[c] == g.first[c + 1]) return;
        float from = 0;
        for (int v = y - 1; v <= y + 1; ++v)
            for (int u = x - 1; u <= x + 1; ++u) {
                if (!g.holds(u, v) || own[g.at(u, v)].top <= 0) continue;
                const std::size_t o = g.at(u, v);
                if (o != c) from = std::max(from, own[o].top + g.cells[o].plane.a - g.cells[c].plane.a);
            }
        if (from <= own[c].top) return;
        const Upright more = upright_in(g, c, from - static_cast<float>(kOverlap * g.metre));
        if (more.top > own[c].top) all[c] = more;
    });
    return all;
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
    const double least = (a + c) / 2 - std::sqrt((a - c) * (a - c) / 4 + b * b), most = a + c - least;
    const double angle = 0.5 * std::atan2(2 * b, a - c);  // of the line
    const bool thin = least < kThick * g.metre * kThick * g.metre && most > kSlim * kSlim * least;
    return {thin, -std::sin(angle), std::cos(angle)};
}

enum class Behind { Nothing, Higher, NoHigher };

// What was seen on one side of an upright cell.
struct Side {
    int steps = 0;      // to the first ground; 0: none
    float over = 0;     // height against the plane of the cell; the middle of the first three with ground
    bool roof = false;  // something covers much of what lies next to it
};
Side look(const Grid& g, int cx, int cy, double to_x, double to_y, int most) {
    const Cell& cell = g.cells[g.at(cx, cy)];
    Side side;
    std::vector<float> heights;
    int looked_at = 0, covered = 0;
    for (int k = 2; k <= most && heights.size() < 3; ++k) {
        const int x = cx + static_cast<int>(std::lround(k * to_x)),
                  y = cy + static_cast<int>(std::lround(k * to_y));
        if (!g.holds(x, y)) break;
        const Cell& o = g.cells[g.at(x, y)];
        if (k * g.side < kRoofDepth * g.metre + g.side) {
            ++looked_at;
            covered += o.taken_off && o.low - o.plane.a > static_cast<float>(kRoof * g.metre);
        }
        if (o.state != Cell::State::Ground) continue;
        if (heights.empty()) side.steps = k;
        heights.push_back(o.plane.a - cell.plane.a);
    }
    std::sort(heights.begin(), heights.end());
    if (!heights.empty()) side.over = heights[heights.size() / 2];
    side.roof = covered > 0 && covered >= kRoofShare * looked_at;
    return side;
}

// What lies behind an upright cell: on the side where the ground is not right at its foot.
Behind behind(const Grid& g, int cx, int cy, const Line& line, float top, double reach) {
    const int most = static_cast<int>(reach / g.side);
    const Side one = look(g, cx, cy, line.across_x, line.across_y, most),
               other = look(g, cx, cy, -line.across_x, -line.across_y, most);
    const auto steps = [](const Side& s) { return s.steps ? s.steps : 1 << 20; };
    const auto& [near, far] = steps(other) < steps(one) ? std::pair(other, one) : std::pair(one, other);
    if (far.roof) return Behind::NoHigher;
    if (far.steps == 0) return Behind::Nothing;
    const Side& higher = near.over > far.over ? near : far;
    if (higher.over <= 0.6f * top) return Behind::NoHigher;
    // A hillside rises behind everything that stands on it, but not at once.
    return static_cast<double>(higher.over) > kAtOnce * higher.steps * g.side ? Behind::Higher
                                                                              : Behind::Nothing;
}

struct Piece {
    std::vector<std::pair<int, int>> cells;
    double nothing = 0, higher = 0, no_higher = 0;  // cells with that behind them
    bool may_be_face() const { return cells.size() >= 3 && no_higher < nothing + higher; }
    void add(const Piece& o) {
        cells.insert(cells.end(), o.cells.begin(), o.cells.end());
        nothing += o.nothing, higher += o.higher, no_higher += o.no_higher;
    }
};

struct Faces {
    Grid& g;
    double reach;  // side of the largest object, data unit
    std::vector<Upright> uprights;
    std::vector<Line> lines{};
    std::vector<Piece> pieces{};
    std::vector<std::int32_t> piece_of{};  // of each cell; -1: none

    void find_lines(Progress& progress) {
        lines.resize(g.cells.size());
        const auto tall = static_cast<float>(kTall * g.metre);
        for_cells(g, progress, [&](int x, int y, std::size_t c) {
            if (uprights[c].top >= tall) lines[c] = line_at(g, uprights, x, y);
        });
    }

    Piece piece_from(int x, int y) {
        Piece p;
        const auto take = [&](int u, int v) {
            if (!g.holds(u, v) || piece_of[g.at(u, v)] >= 0 || !lines[g.at(u, v)].thin) return;
            piece_of[g.at(u, v)] = static_cast<std::int32_t>(pieces.size());
            p.cells.push_back({u, v});
        };
        take(x, y);
        for (std::size_t k = 0; k < p.cells.size(); ++k) {
            const auto [cx, cy] = p.cells[k];
            const std::size_t c = g.at(cx, cy);
            switch (behind(g, cx, cy, lines[c], uprights[c].top, reach)) {
                case Behind::Nothing:
                    p.nothing += 1;
                    break;
                case Behind::Higher:
                    p.higher += 1;
                    break;
                case Behind::NoHigher:
                    p.no_higher += 1;
                    break;
            }
            for (int v = cy - 2; v <= cy + 2; ++v)
                for (int u = cx - 2; u <= cx + 2; ++u) take(u, v);
        }
        return p;
    }

    void find_pieces(Progress& progress) {
        piece_of.assign(g.cells.size(), -1);
        for (int y = 0; y < g.ny; ++y) {
            progress.check();
            for (int x = 0; x < g.nx; ++x)
                if (Piece p = piece_from(x, y); !p.cells.empty()) pieces.push_back(std::move(p));
        }
    }

    // Whether one cell of a face may lead on to another: along both, and hardly anything seen between.
    bool lead_on(int ax, int ay, int bx, int by) const {
        const Line &a = lines[g.at(ax, ay)], &b = lines[g.at(bx, by)];
        const double dx = bx - ax, dy = by - ay, off = kTurned * std::hypot(dx, dy);
        if (std::fabs(a.across_x * dx + a.across_y * dy) > off) return false;
        if (std::fabs(b.across_x * dx + b.across_y * dy) > off) return false;
        const int n = std::max(std::abs(bx - ax), std::abs(by - ay));
        int seen = 0;
        for (int k = 1; k < n; ++k) {
            const int x = ax + static_cast<int>(std::lround(dx * k / n)),
                      y = ay + static_cast<int>(std::lround(dy * k / n));
            seen += g.cells[g.at(x, y)].state == Cell::State::Ground;
        }
        return seen <= kSeenShare * n;
    }

    void join_pieces(Progress& progress) {
        DisjointSets joined(pieces.size());
        const int far = static_cast<int>(kUnseenGap * g.metre / g.side);
        for (std::size_t k = 0; k < pieces.size(); ++k) {
            progress.check();
            if (!pieces[k].may_be_face()) continue;
            const auto own = static_cast<std::int32_t>(k);
            for (const auto& [x, y] : pieces[k].cells)
                for (int v = y - far; v <= y + far; ++v)
                    for (int u = x - far; u <= x + far; ++u) {
                        if (!g.holds(u, v) || std::hypot(u - x, v - y) > far) continue;
                        const std::int32_t o = piece_of[g.at(u, v)];
                        if (o < 0 || o == own || !pieces[static_cast<std::size_t>(o)].may_be_face()) continue;
                        if (joined.find(o) != joined.find(own) && lead_on(x, y, u, v)) joined.join(o, own);
                    }
        }
        std::vector<Piece> whole(pieces.size());
        for (std::size_t k = 0; k < pieces.size(); ++k)
            whole[static_cast<std::size_t>(joined.find(static_cast<std::int32_t>(k)))].add(pieces[k]);
        std::erase_if(whole, [](const Piece& p) { return p.cells.empty(); });
        pieces = std::move(whole);
    }

    bool is_face(const Piece& p) const {
        const Rectangle box = rectangle_round(p.cells);
        const double length = box.longer * g.side, rest = p.nothing + p.higher;
        if (length > kLong * reach) return p.no_higher < rest;
        if (length <= kShort * g.metre) return false;
        if (p.higher > p.nothing + p.no_higher) return true;
        return length > kMiddling * reach && box.shorter < kStraight * box.longer &&
               p.no_higher < kAgainst * rest;
    }
};

}  // namespace

void find_faces(Grid& g, const Options& options, Progress& progress) {
    Faces faces{g, options.largest_object * g.metre, find_uprights(g, progress)};
    faces.find_lines(progress);
    faces.find_pieces(progress);
    faces.join_pieces(progress);
    for (const Piece& p : faces.pieces)
        if (faces.is_face(p))
            for (const auto& [x, y] : p.cells) g.cells[g.at(x, y)].face = faces.uprights[g.at(x, y)].top;
}

}  // namespace pristine::terrain
