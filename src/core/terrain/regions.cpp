// Regions of cells that meet, and those that stand above what surrounds them.

#include <algorithm>
#include <cmath>
#include <map>
#include <numbers>
#include <numeric>

#include "core/base/disjoint_sets.h"
#include "core/base/parallel.h"
#include "core/terrain/grid.h"

namespace pristine::terrain {
namespace {

constexpr double kMargin = 0.06;         // metres that neighbours may differ on any ground
constexpr double kRimShare = 0.67;       // of its rim an object stands above what surrounds it
constexpr double kSteeper = 0.5;         // rise over run, than the trend surface
constexpr double kFarSlope = 0.2;        // rise over run that still counts as level across a gap
constexpr double kInnerShare = 0.8;      // of its neighbours meet a cell inside a region
constexpr double kUnseenShare = 0.3;     // of a way on which nothing was seen, in the rim of a region
constexpr double kStrip = 0.9;           // of the largest object: longer regions are strips of ground that
constexpr double kStripUnseen = 3;       // run on unseen, so much more likely than pieces of a thing
constexpr double kCoreShare = 0.7;       // of its neighbours are such cells too
constexpr int kGapCells = 4;             // that a region runs on across
constexpr std::uint32_t kFragment = 12;  // cells; larger regions are judged by themselves
constexpr double kStorey = 1.5;          // metres by which neighbouring fragments of one thing may differ
constexpr double kRimOver = 0.1;   // metres that ground beside an object may stand above its surroundings
constexpr double kRimReach = 1.2;  // metres; what differs by more is another level
constexpr int kRimRounds = 3;
constexpr int kAttachRounds = 6;
constexpr double kAttachSlope = 0.4;  // of the steepest ground, against the inner cell that leads to it
constexpr int kMostRounds = 30;
constexpr int kPitCells = 3;  // sunk on all sides and no larger: noise below the ground
constexpr int kAcross = 4;    // times the largest object that is looked across a gap
constexpr double kHangs = 2,
                 kHangSlope = 0.7;   // metres, and rise over run, above what lies across: in the air
constexpr double kHangShare = 0.75;  // of the ways
constexpr int kWays[8][2] = {{1, 0}, {1, 1}, {0, 1}, {-1, 1}, {-1, 0}, {-1, -1}, {0, -1}, {1, -1}};

bool alive(const Cell& c) {
    return c.state == Cell::State::Ground;
}

// The next cell with a height from (x, y) this way, at most `most` steps; its distance in steps, 0: none.
int next_alive(const Grid& g, int x, int y, const int (&way)[2], int most, std::int32_t not_of,
               std::size_t& found) {
    for (int k = 1; k <= most; ++k) {
        const int u = x + k * way[0], v = y + k * way[1];
        if (!g.holds(u, v)) return 0;
        const Cell& c = g.cells[found = g.at(u, v)];
        if (alive(c)) return not_of >= 0 && c.region == not_of ? 0 : k;
    }
    return 0;
}

// Whether two heights meet on ground.
struct Step {
    double slope, margin, side;
    bool meets(const Cell& a, const Cell& b, double run) const {
        const double off = static_cast<double>(a.lie - b.lie), rise = static_cast<double>(a.low - b.low);
        if (std::fabs(off) > margin + slope * run) return false;
        // Nor much steeper than the land there: its lie is a guess near a face.
        return std::fabs(rise) <= margin + std::max(slope * run, std::fabs(rise - off) + kSteeper * run);
    }
    // Over a gap no steeper than one cell's rise.
    double short_run(const int (&way)[2], int steps) const {
        return std::min(side * steps * std::hypot(way[0], way[1]), 1.5 * side);
    }
};

// What the nearest cells round one, and those a little farther, say of it.
struct Met {
    int found = 0, met = 0;
    bool share(double of) const { return found >= 3 && met >= of * found; }
};

Met met_round(const Grid& g, const Step& step, int x, int y) {
    const std::size_t c = g.at(x, y);
    Met m;
    for (const auto& way : kWays) {
        std::size_t o = 0;
        if (const int steps = next_alive(g, x, y, way, kGapCells, -1, o); steps > 0) {
            ++m.found;
            m.met += step.meets(g.cells[c], g.cells[o], step.short_run(way, steps));
        }
        const int u = x + 2 * way[0], v = y + 2 * way[1];
        if (!g.holds(u, v) || !alive(g.cells[g.at(u, v)])) continue;
        ++m.found;
        m.met += step.meets(g.cells[c], g.cells[g.at(u, v)], 2 * g.side * std::hypot(way[0], way[1]));
    }
    return m;
}

// Inner cells that meet inner cells most ways: a ramp one or two cells wide, as where pictures have rounded
// the corner of a vehicle, holds none.
Met inner_round(const Grid& g, const Step& step, const std::vector<char>& inner, int x, int y) {
    const std::size_t c = g.at(x, y);
    Met m;
    for (const auto& way : kWays) {
        std::size_t o = 0;
        const int steps = next_alive(g, x, y, way, kGapCells, -1, o);
        if (steps == 0) continue;
        ++m.found;
        m.met += inner[o] && step.meets(g.cells[c], g.cells[o], step.short_run(way, steps));
    }
    return m;
}

// Cells most of whose surroundings meet them, as do those of most of their neighbours. Only these carry a
// region on: cells at the foot of a thing whose lowest point happens to lie half way up, and edges that
// pictures have smeared, must not lead from the ground onto its roof.
std::vector<char> inner_cells(const Grid& g, const Step& step, Progress& progress) {
    std::vector<char> inner(g.cells.size(), 0), core(g.cells.size(), 0);
    const auto mark = [&](std::vector<char>& marks, const auto& holds) {
        for_cells(g, progress, [&](int x, int y, std::size_t c) {
            if (alive(g.cells[c])) marks[c] = holds(x, y);
        });
    };
    mark(inner, [&](int x, int y) { return met_round(g, step, x, y).share(kInnerShare); });
    mark(core, [&](int x, int y) {
        return inner[g.at(x, y)] && inner_round(g, step, inner, x, y).share(kCoreShare);
    });
    return core;
}

// Cells that are not inside a region follow the one whose height is nearest, from the regions outwards, as
// far as they lie within a gentle slope of the inner cell that they are led on from: no climbing step by
// step, nor up the side of a bush.
void attach(Grid& g, Step step, Progress& progress) {
    step.slope *= kAttachSlope;
    std::vector<std::uint32_t> anchor(g.cells.size());
    std::iota(anchor.begin(), anchor.end(), 0u);
    const auto width = static_cast<std::uint32_t>(g.nx);
    for (int round = 0; round < kAttachRounds; ++round) {
        std::vector<std::pair<std::size_t, std::size_t>> fresh;  // cell, where it was led from
        progress.check();
        for (int y = 0; y < g.ny; ++y)
            for (int x = 0; x < g.nx; ++x) {
                const std::size_t c = g.at(x, y);
                if (!alive(g.cells[c]) || g.cells[c].region >= 0) continue;
                std::size_t best = c;
                float nearest = INFINITY;
                for (const auto& way : kWays) {
                    std::size_t o = 0;
                    const int steps = next_alive(g, x, y, way, kGapCells, -1, o);
                    if (steps == 0 || g.cells[o].region < 0) continue;
                    const Cell& from = g.cells[anchor[o]];
                    const float off = std::fabs(from.lie - g.cells[c].lie);
                    const double run = g.side * std::hypot(static_cast<int>(anchor[o] % width) - x,
                                                           static_cast<int>(anchor[o] / width) - y);
                    if (off >= nearest || !step.meets(g.cells[c], from, run)) continue;
                    nearest = off;
                    best = o;
                }
                if (best != c) fresh.push_back({c, best});
            }
        for (const auto& [c, from] : fresh) {
            g.cells[c].region = g.cells[from].region;
            anchor[c] = anchor[from];
        }
        if (fresh.empty()) break;
    }
    for (std::size_t c = 0; c < g.cells.size(); ++c)
        if (alive(g.cells[c]) && g.cells[c].region < 0) g.cells[c].region = static_cast<std::int32_t>(c);
}

// Crowns and heaps of things are so rough that each cell is a region of its own: neighbours of one storey are
// judged together.
void join_fragments(Grid& g) {
    std::vector<std::uint32_t> size(g.cells.size(), 0);
    for (const Cell& c : g.cells)
        if (alive(c)) ++size[static_cast<std::size_t>(c.region)];
    const auto storey = static_cast<float>(kStorey * g.metre);
    const auto fragment = [&](const Cell& c) {
        return alive(c) && size[static_cast<std::size_t>(c.region)] <= kFragment;
    };
    DisjointSets joined(g.cells.size());
    for (int y = 0; y < g.ny; ++y)
        for (int x = 0; x < g.nx; ++x) {
            const Cell& c = g.cells[g.at(x, y)];
            if (!fragment(c)) continue;
            for (int w = 0; w < 4; ++w) {
                std::size_t o = 0;
                if (next_alive(g, x, y, kWays[w], 2, -1, o) == 0 || !fragment(g.cells[o])) continue;
                if (std::fabs(g.cells[o].lie - c.lie) <= storey) joined.join(c.region, g.cells[o].region);
            }
        }
    for (Cell& c : g.cells)
        if (fragment(c)) c.region = joined.find(c.region);
}

void join_regions(Grid& g, const Options& options, Progress& progress) {
    const Step step{std::tan(options.steepest * std::numbers::pi / 180), kMargin * g.metre, g.side};
    const std::vector<char> inner = inner_cells(g, step, progress);
    DisjointSets joined(g.cells.size());
    for (int y = 0; y < g.ny; ++y) {
        progress.check();
        for (int x = 0; x < g.nx; ++x) {
            const std::size_t c = g.at(x, y);
            if (!inner[c]) continue;
            for (int w = 0; w < 4; ++w) {
                std::size_t o = 0;
                const int steps = next_alive(g, x, y, kWays[w], kGapCells, -1, o);
                if (steps > 0 && inner[o] &&
                    step.meets(g.cells[c], g.cells[o], step.short_run(kWays[w], steps)))
                    joined.join(static_cast<std::int32_t>(c), static_cast<std::int32_t>(o));
            }
        }
    }
    for (std::size_t c = 0; c < g.cells.size(); ++c)
        if (inner[c]) g.cells[c].region = joined.find(static_cast<std::int32_t>(c));
    attach(g, step, progress);
}

// Whether nothing was measured from a cell on this way as far as an object may reach, or to the end of the
// site.
bool unseen(const Grid& g, int x, int y, const int (&way)[2], int most) {
    for (int k = 1; k <= most && g.holds(x + k * way[0], y + k * way[1]); ++k)
        if (g.cells[g.at(x + k * way[0], y + k * way[1])].state != Cell::State::Empty) return false;
    return true;
}

struct Rim {
    double up = 0, down = 0, level = 0;  // weights of what lies round it
    double edge = 0;                     // of ways on which the site ends, or nobody saw on
    double depth = 0;                    // weighted sum of how far it is sunk
    double found = 0, hangs = 0;  // ways to something, across whatever gap; on which that lies far below
    std::uint32_t cells = 0;
};

// What is small and has nothing but gaps round it is judged by what lies across them: higher above that than
// any ground could rise on the way, it hangs in the air (a bird).
void hang(const Grid& g, const Cell& c, int x, int y, const int (&way)[2], int most, Rim& r) {
    std::size_t o = 0;
    const int steps = next_alive(g, x, y, way, most, c.region, o);
    if (steps == 0) return;
    const double run = g.side * steps * std::hypot(way[0], way[1]),
                 over = static_cast<double>(c.low - g.cells[o].low);
    r.found += 1;
    r.hangs += over > kHangs * g.metre + kHangSlope * run;
}

std::vector<Rim> rims_of(const Grid& g, const Options& options, const std::vector<std::uint32_t>& size) {
    const int most = std::max(2, static_cast<int>(options.largest_object * g.metre / g.side));
    const double limit = options.largest_object * g.metre * options.largest_object * g.metre;
    std::vector<Rim> rims(g.cells.size());
    for (int y = 0; y < g.ny; ++y)
        for (int x = 0; x < g.nx; ++x) {
            const Cell& c = g.cells[g.at(x, y)];
            if (!alive(c) || size[static_cast<std::size_t>(c.region)] * g.side * g.side > limit) continue;
            Rim& r = rims[static_cast<std::size_t>(c.region)];
            r.cells++;
            const bool small = size[static_cast<std::size_t>(c.region)] <= kFragment;
            for (const auto& way : kWays) {
                std::size_t o = 0;
                const int steps = next_alive(g, x, y, way, most, c.region, o);
                if (small) hang(g, c, x, y, way, kAcross * most, r);
                if (steps == 0) {
                    // Nobody knows what the highest terrace of a site is joined to, nor one of which only the
                    // edge was seen.
                    if (unseen(g, x, y, way, most)) r.edge += kUnseenShare;
                    continue;
                }
                const double run = g.side * steps * std::hypot(way[0], way[1]);
                const double over = static_cast<double>(c.lie - g.cells[o].lie);
                const double level = kMargin * g.metre + kFarSlope * run, w = 1.0 / steps;
                (over > level ? r.up : over < -level ? r.down : r.level) += w;
                r.depth -= w * over;
            }
        }
    return rims;
}

bool is_object(const Rim& r, double metre) {
    if (r.cells <= kFragment && r.found >= 3 && r.hangs >= kHangShare * r.found) return true;
    const double all = r.up + r.down + r.level;
    if (all == 0) return false;
    if (r.up >= kRimShare * (all + r.edge)) return true;
    return r.cells <= kPitCells && r.down >= 0.9 * all && r.depth >= metre * all;
}

// A strip along the edge of a terrace, of which nobody saw the rest, is longer than any object; a wall that
// stands free is seen from both sides.
void spare_strips(const Grid& g, const Options& options, std::vector<Rim>& rims) {
    const double least = kStrip * options.largest_object * g.metre / g.side;
    std::map<std::int32_t, std::vector<std::pair<int, int>>> strips;
    for (int y = 0; y < g.ny; ++y)
        for (int x = 0; x < g.nx; ++x) {
            const Cell& c = g.cells[g.at(x, y)];
            if (!alive(c)) continue;
            const Rim& r = rims[static_cast<std::size_t>(c.region)];
            if (r.edge > 0 && r.cells > least / 2 && is_object(r, g.metre))
                strips[c.region].push_back({x, y});
        }
    for (const auto& [region, cells] : strips)
        if (rectangle_round(cells).longer > least)
            rims[static_cast<std::size_t>(region)].edge *= kStripUnseen;
}

// Until nothing stands out any more.
void peel(Grid& g, const Options& options, Progress& progress) {
    for (int round = 0; round < kMostRounds; ++round) {
        progress.check();
        std::vector<std::uint32_t> size(g.cells.size(), 0);
        for (const Cell& c : g.cells)
            if (alive(c)) ++size[static_cast<std::size_t>(c.region)];
        std::vector<Rim> rims = rims_of(g, options, size);
        spare_strips(g, options, rims);
        bool any = false;
        for (Cell& c : g.cells)
            if (alive(c) && is_object(rims[static_cast<std::size_t>(c.region)], g.metre)) {
                c.state = Cell::State::Object;
                any = true;
            }
        if (!any) return;
    }
}

// Cells beside an object hold its foot, a smeared edge, the lowest leaves. Such a cell is ground only if it
// lies no higher than the ground round it that touches no object.
void take_rims_off(Grid& g) {
    std::vector<char> beside(g.cells.size(), 0);
    for (int y = 0; y < g.ny; ++y)
        for (int x = 0; x < g.nx; ++x)
            if (g.cells[g.at(x, y)].state == Cell::State::Object)
                for (const auto& way : kWays)
                    if (g.holds(x + way[0], y + way[1])) beside[g.at(x + way[0], y + way[1])] = 1;
    const double allowed = kRimOver * g.metre;
    std::vector<std::size_t> off;
    for (int y = 0; y < g.ny; ++y)
        for (int x = 0; x < g.nx; ++x) {
            const std::size_t c = g.at(x, y);
            if (!beside[c] || !alive(g.cells[c])) continue;
            double sum = 0, weight = 0;
            for (int v = -3; v <= 3; ++v)
                for (int u = -3; u <= 3; ++u) {
                    if (!g.holds(x + u, y + v)) continue;
                    const std::size_t o = g.at(x + u, y + v);
                    // Only ground of the same height: a face is not the rim of an object.
                    if (!alive(g.cells[o]) || beside[o] ||
                        std::fabs(g.cells[o].lie - g.cells[c].lie) > static_cast<float>(kRimReach * g.metre))
                        continue;
                    const double w = 1.0 / (u * u + v * v);
                    sum += w * static_cast<double>(g.cells[o].lie);
                    weight += w;
                }
            if (weight > 0 && static_cast<double>(g.cells[c].lie) > sum / weight + allowed) off.push_back(c);
        }
    for (const std::size_t c : off) g.cells[c].state = Cell::State::Object;
}

}  // namespace

void take_objects_off(Grid& g, const Options& options, Progress& progress) {
    join_regions(g, options, progress);
    peel(g, options, progress);
    join_fragments(g);
    peel(g, options, progress);
    for (int round = 0; round < kRimRounds; ++round) take_rims_off(g);
    for (Cell& c : g.cells) c.taken_off = c.state == Cell::State::Object;
}

}  // namespace pristine::terrain
