// Scans that keep their grid of rows and columns: what a beam met against what its neighbours in the grid
// met.

#include <algorithm>
#include <array>
#include <cmath>

#include "core/base/memory.h"
#include "core/base/spill_vector.h"
#include "core/cloud/column.h"
#include "core/score/score.h"

namespace pristine::score {
namespace {

constexpr std::uint32_t kEmpty = UINT32_MAX;

// Elements by scan, row and column.
class ScanGrids {
  public:
    ScanGrids(const Input& in, Progress& progress) : in_(in) {
        const auto& layout = in.cloud.records()->layout();
        const auto row = cloud::fetch_column(in.cloud, "row", progress);
        const auto column = cloud::fetch_column(in.cloud, "column", progress);
        const auto scan = layout.find("scan") ? cloud::fetch_column(in.cloud, "scan", progress) : nullptr;
        const auto whole = [](const auto& c, std::size_t p, std::size_t i) {
            const double v = c ? c->base + static_cast<double>(c->values.page(p)[i]) : 0;
            return v >= 0 ? static_cast<std::uint32_t>(v) : 0u;
        };
        const auto each = [&](auto&& visit) {
            for (std::size_t p = 0; p < in.cloud.page_count(); ++p) {
                progress.check();
                in.eligible.for_each_in_page(p, [&](std::size_t i) {
                    visit(whole(scan, p, i), whole(row, p, i), whole(column, p, i),
                          static_cast<std::uint32_t>(p * kPageSize + i));
                });
            }
        };
        each([&](std::uint32_t s, std::uint32_t r, std::uint32_t c, std::uint32_t) {
            if (s >= grids_.size()) grids_.resize(s + 1);
            grids_[s].rows = std::max(grids_[s].rows, r + 1);
            grids_[s].columns = std::max(grids_[s].columns, c + 1);
        });
        std::uint64_t cells = 0;
        for (const Grid& g : grids_) cells += std::uint64_t{g.rows} * g.columns;
        if (!fits_memory(4 * cells + 12 * in.cloud.size()))
            throw Error(ErrorCode::Unsupported,
                        "The grids of the scans take " + bytes_text(4 * cells) + ", more memory than is left",
                        {}, "Hide what does not matter, or allow more memory.");
        for (Grid& g : grids_) g.element.assign(std::size_t{g.rows} * g.columns, kEmpty);
        where_.assign(in.cloud.size(), {});
        each([&](std::uint32_t s, std::uint32_t r, std::uint32_t c, std::uint32_t e) {
            grids_[s].element[std::size_t{r} * grids_[s].columns + c] = e;
            where_[e] = {r, c, static_cast<std::uint16_t>(s)};
        });
    }
    // The element so many rows and columns away; kEmpty: there is none. Scans go all round: columns close up
    // only where the grid does, which it need not, so they do not here.
    std::uint32_t beside(std::uint64_t element, int rows, int columns) const {
        const Place& w = where_[element];
        const Grid& g = grids_[w.scan];
        const std::int64_t r = std::int64_t{w.row} + rows, c = std::int64_t{w.column} + columns;
        if (r < 0 || c < 0 || r >= g.rows || c >= g.columns) return kEmpty;
        return g.element[static_cast<std::size_t>(r) * g.columns + static_cast<std::size_t>(c)];
    }
    Vec3 at(std::uint32_t element) const { return in_.cloud.position(element); }
    double range(std::uint64_t element) const {
        const auto& stations = in_.cloud.stations();
        const std::size_t s = std::min<std::size_t>(where_[element].scan, stations.size() - 1);
        return norm(in_.cloud.position(element) - stations[s].position);
    }

  private:
    struct Grid {
        std::uint32_t rows = 0, columns = 0;
        SpillVector<std::uint32_t> element;
    };
    struct Place {
        std::uint32_t row = 0, column = 0;
        std::uint16_t scan = 0;
    };
    const Input& in_;
    std::vector<Grid> grids_;
    SpillVector<Place> where_;
};

// How much the range jumps on both sides of a point at once, against what it does one cell farther on: along
// a slanting surface it changes evenly, across the rim of a thing it jumps from and to surfaces that do not.
double jump(const ScanGrids& g, std::uint64_t e) {
    double most = NAN;
    const double here = g.range(e);
    for (const auto& [dr, dc] : {std::pair{0, 1}, std::pair{1, 0}}) {
        std::array<double, 2> inner{}, outer{};
        double along = 0;
        bool all = true;
        for (const int side : {0, 1}) {
            const int way = side == 0 ? -1 : 1;
            const std::uint32_t one = g.beside(e, way * dr, way * dc),
                                two = g.beside(e, 2 * way * dr, 2 * way * dc);
            if (!(all = all && one != kEmpty && two != kEmpty)) break;
            inner[static_cast<std::size_t>(side)] = (g.range(one) - here) * way;
            outer[static_cast<std::size_t>(side)] = std::fabs(g.range(two) - g.range(one));
            // Across the beam, whatever the ranges are.
            const double chord = norm(g.at(one) - g.at(two)), slant = outer[static_cast<std::size_t>(side)];
            along += 0.5 * std::sqrt(std::max(0.0, chord * chord - slant * slant));
        }
        if (!all) continue;
        // Between two surfaces: nearer on one side, farther on the other.
        const double both = inner[0] * inner[1] > 0 ? std::min(std::fabs(inner[0]), std::fabs(inner[1])) : 0;
        const double usual = std::max({outer[0], outer[1], along, 1e-9});
        most = std::isnan(most) ? both / usual : std::max(most, both / usual);
    }
    return most;
}

// Edges of the triangles that cells of the grid make at a point: the longest against the shortest, or the
// longest.
struct Edges {
    double shortest = INFINITY, longest = 0;
};
Edges widest_cell(const ScanGrids& g, std::uint64_t e, bool ratio) {
    Edges worst;
    const Vec3 here = g.at(static_cast<std::uint32_t>(e));
    for (const int dr : {-1, 1})
        for (const int dc : {-1, 1}) {
            const std::uint32_t a = g.beside(e, dr, 0), b = g.beside(e, 0, dc);
            if (a == kEmpty || b == kEmpty) continue;
            const double x = norm(g.at(a) - here), y = norm(g.at(b) - here), z = norm(g.at(a) - g.at(b));
            const Edges cell{std::min({x, y, z}), std::max({x, y, z})};
            const bool more = ratio ? cell.longest * worst.shortest > worst.longest * cell.shortest
                                    : cell.longest > worst.longest;
            if (worst.longest == 0 || more) worst = cell;
        }
    return worst;
}

std::string no_rows(const Input& in) {
    const cloud::PointCloud& c = in.cloud;
    const auto& layout = c.records()->layout();
    if (!layout.find("row") || !layout.find("column")) return "The cloud does not keep the grid of its scans";
    if (c.stations().empty()) return "The cloud does not say where its stations stood";
    return {};
}

template <class Value>
std::function<Column(const Input&, const Parameters&, Progress&)> by_grid(Value value) {
    return [value](const Input& in, const Parameters&, Progress& progress) {
        const ScanGrids grids(in, progress);
        Column c;
        c.values = for_members(in, progress, [&](std::size_t p, std::vector<float>& values) {
            in.eligible.for_each_in_page(
                p, [&](std::size_t i) { values[i] = static_cast<float>(value(grids, p * kPageSize + i)); });
        });
        return c;
    };
}

}  // namespace

void add_gridded(std::vector<Score>& s) {
    s.push_back({"mixed",
                 "Mixed pixels",
                 "times",
                 "the beam hit two surfaces at once and measured neither (above 3)",
                 "in line with its neighbours in the scan's grid",
                 "Thin things that are one beam wide.",
                 {},
                 no_rows,
                 by_grid([](const ScanGrids& g, std::uint64_t e) { return jump(g, e); })});
    s.push_back({"stretch",
                 "Stretched cells",
                 "times",
                 "the cells of the scan's grid at it are drawn out: slanting hits, jumps behind rims",
                 "cells are as wide as they are long (about 1.4)",
                 "Near the poles of a scan all cells are narrow.",
                 {},
                 no_rows,
                 by_grid([](const ScanGrids& g, std::uint64_t e) {
                     const Edges c = widest_cell(g, e, true);
                     return c.longest > 0 ? c.longest / std::max(c.shortest, 1e-9) : NAN;
                 })});
    s.push_back({"cell",
                 "Longest edge in the grid",
                 "length",
                 "its neighbours in the scan's grid are far away: a jump, or thinly measured",
                 "its neighbours are near",
                 "It grows with range on clean surfaces too.",
                 {},
                 no_rows,
                 by_grid([](const ScanGrids& g, std::uint64_t e) {
                     const Edges c = widest_cell(g, e, false);
                     return c.longest > 0 ? c.longest : NAN;
                 }),
                 true});
}

}  // namespace pristine::score
