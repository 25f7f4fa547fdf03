#include "core/measure/contours.h"

#include <algorithm>
#include <cmath>

#include "core/base/error.h"
#include "core/base/parallel.h"
#include "core/surface/box_grid.h"
#include "core/topology/adjacency.h"

namespace pristine::measure {
namespace {

constexpr double kMostLevels = 1e6;

class Tracer {
  public:
    Tracer(const mesh::TriMesh& m, const topology::Adjacency& a, double level)
        : m_(m), a_(a), level_(level) {}

    // `crossed`: triangles with corners on both sides.
    std::vector<Contour> run(const std::vector<std::uint32_t>& crossed) {
        std::vector<Contour> lines;
        const auto index = [&](std::uint32_t t) {
            return static_cast<std::size_t>(std::lower_bound(crossed.begin(), crossed.end(), t) -
                                            crossed.begin());
        };
        std::vector<char> done(crossed.size(), 0);
        // Open lines first, from the rim where they come in.
        for (const bool open : {true, false})
            for (const std::uint32_t first : crossed) {
                if (done[index(first)]) continue;
                if (open && a_.across[first][entry(first)] != topology::kNone) continue;
                Contour c{level_, !open, {point(first, entry(first))}};
                for (std::uint32_t t = first; t != topology::kNone && !done[index(t)];
                     t = a_.across[t][exit(t)]) {
                    done[index(t)] = 1;
                    c.points.push_back(point(t, exit(t)));
                }
                if (c.closed) c.points.pop_back();
                // Where a line passes through a corner it meets the same place in each triangle there.
                c.points.erase(std::unique(c.points.begin(), c.points.end()), c.points.end());
                if (c.closed && c.points.size() > 1 && c.points.front() == c.points.back())
                    c.points.pop_back();
                if (c.points.size() > 1) lines.push_back(std::move(c));
            }
        return lines;
    }

  private:
    bool above(std::uint32_t t, std::size_t k) const {
        return m_.vertices[m_.triangles[t][k % 3]].z >= level_;
    }
    // The edge over which a line with the higher ground to its right comes in: it rises counter-clockwise.
    std::size_t entry(std::uint32_t t) const {
        std::size_t k = 0;
        while (above(t, k + 1) || !above(t, k + 2)) ++k;
        return k % 3;
    }
    std::size_t exit(std::uint32_t t) const {
        std::size_t k = 0;
        while (!above(t, k + 1) || above(t, k + 2)) ++k;
        return k % 3;
    }
    Vec3 point(std::uint32_t t, std::size_t k) const {
        std::uint32_t u = m_.triangles[t][(k + 1) % 3], v = m_.triangles[t][(k + 2) % 3];
        if (u > v) std::swap(u, v);  // the same from both sides
        const Vec3 &a = m_.vertices[u], &b = m_.vertices[v];
        const double f = (level_ - a.z) / (b.z - a.z);
        return {a.x + f * (b.x - a.x), a.y + f * (b.y - a.y), level_};
    }

    const mesh::TriMesh& m_;
    const topology::Adjacency& a_;
    double level_;
};

}  // namespace

std::vector<Contour> contours(const mesh::TriMesh& m, double interval, Progress& progress) {
    if (!(interval > 0)) throw Error(ErrorCode::Usage, "The interval of contours must be more than 0");
    if (m.triangles.empty()) return {};
    double lo = INFINITY, hi = -INFINITY;
    for (const Vec3& v : m.vertices) lo = std::min(lo, v.z), hi = std::max(hi, v.z);
    const double first = std::ceil(lo / interval), last = std::floor(hi / interval);
    if (last - first > kMostLevels)
        throw Error(ErrorCode::Usage, "The interval would make more than a million contours", {},
                    "Take a larger one.");
    if (last < first) return {};
    const auto levels = static_cast<std::size_t>(last - first) + 1;
    // Triangles by the levels that they cross.
    std::vector<std::vector<std::uint32_t>> crossed(levels);
    for (std::uint32_t t = 0; t < m.triangles.size(); ++t) {
        const auto& c = m.triangles[t];
        const double a = m.vertices[c[0]].z, b = m.vertices[c[1]].z, d = m.vertices[c[2]].z;
        const double low = std::min({a, b, d}), high = std::max({a, b, d});
        auto l = static_cast<std::int64_t>(std::max(0.0, std::floor(low / interval) - first));
        for (; l < static_cast<std::int64_t>(levels); ++l) {
            const double z = (first + static_cast<double>(l)) * interval;
            if (z > high) break;
            if (low < z) crossed[static_cast<std::size_t>(l)].push_back(t);
        }
    }
    const topology::Adjacency a = topology::adjacency(m.triangles);
    const auto lines = parallel::map<std::vector<Contour>>(levels, [&](std::size_t l) {
        progress.check();
        return Tracer(m, a, (first + static_cast<double>(l)) * interval).run(crossed[l]);
    });
    std::vector<Contour> all;
    for (const auto& of_level : lines) all.insert(all.end(), of_level.begin(), of_level.end());
    return all;
}

namespace {

std::vector<surface::PlanBox> boxes_of(const mesh::TriMesh& m) {
    std::vector<surface::PlanBox> boxes(m.triangles.size());
    for (std::size_t t = 0; t < boxes.size(); ++t)
        for (const std::uint32_t v : m.triangles[t]) boxes[t].add(m.vertices[v].x, m.vertices[v].y);
    return boxes;
}

}  // namespace

struct Profiles::Index {
    explicit Index(const mesh::TriMesh& m) : boxes(boxes_of(m)), grid(boxes) {}
    std::vector<surface::PlanBox> boxes;  // the grid looks into them
    surface::BoxGrid grid;
};

Profiles::Profiles(const mesh::TriMesh& m)
    : mesh_(&m), index_(std::make_unique<Index>(m)) {}
Profiles::Profiles(Profiles&&) noexcept = default;
Profiles::~Profiles() = default;

std::vector<std::vector<ProfilePoint>> profile(const mesh::TriMesh& m, const std::vector<Vec3>& line) {
    return Profiles(m).along(line);
}

std::vector<std::vector<ProfilePoint>> Profiles::along(const std::vector<Vec3>& line) const {
    const mesh::TriMesh& m = *mesh_;
    const surface::BoxGrid& grid = index_->grid;
    struct Piece {
        double from, to, z_from, z_to;
    };
    std::vector<Piece> pieces;
    double chainage = 0;
    std::vector<double> starts;
    for (std::size_t i = 0; i + 1 < line.size(); ++i) {
        const Vec3 &p = line[i], &q = line[i + 1];
        const double dx = q.x - p.x, dy = q.y - p.y, length = std::hypot(dx, dy);
        starts.push_back(chainage);
        if (length == 0) continue;
        surface::PlanBox box;
        box.add(p.x, p.y);
        box.add(q.x, q.y);
        grid.meeting(box, [&](std::uint32_t t) {
            // The stretch of the line inside the triangle (Cyrus & Beck 1978).
            const auto& c = m.triangles[t];
            double from = 0, to = 1;
            for (std::size_t k = 0; k < 3; ++k) {
                const Vec3 &a = m.vertices[c[k]], &b = m.vertices[c[(k + 1) % 3]];
                const double ex = b.x - a.x, ey = b.y - a.y;
                const double at = ex * (p.y - a.y) - ey * (p.x - a.x), by = ex * dy - ey * dx;
                if (by == 0) {
                    if (at < 0) return;
                } else if (by > 0) {
                    from = std::max(from, -at / by);
                } else {
                    to = std::min(to, -at / by);
                }
            }
            if (!(from < to)) return;
            const Vec3 &a = m.vertices[c[0]], &b = m.vertices[c[1]], &d = m.vertices[c[2]];
            const double w = (b.x - a.x) * (d.y - a.y) - (b.y - a.y) * (d.x - a.x);
            const auto height = [&](double f) {
                const double x = p.x + f * dx - a.x, y = p.y + f * dy - a.y;
                return a.z + (x * (d.y - a.y) - y * (d.x - a.x)) / w * (b.z - a.z) +
                       ((b.x - a.x) * y - (b.y - a.y) * x) / w * (d.z - a.z);
            };
            pieces.push_back({chainage + from * length, chainage + to * length, height(from), height(to)});
        });
        chainage += length;
    }
    starts.push_back(chainage);
    std::sort(pieces.begin(), pieces.end(), [](const Piece& a, const Piece& b) { return a.from < b.from; });
    const auto place = [&](double s, double z) {
        auto i = static_cast<std::size_t>(std::upper_bound(starts.begin(), starts.end(), s) - starts.begin());
        i = std::clamp<std::size_t>(i, 1, line.size() - 1) - 1;
        const double length = starts[i + 1] - starts[i], f = length > 0 ? (s - starts[i]) / length : 0;
        return ProfilePoint{
            s, {line[i].x + f * (line[i + 1].x - line[i].x), line[i].y + f * (line[i + 1].y - line[i].y), z}};
    };
    const double slack = 1e-9 * std::max(1.0, chainage);
    std::vector<std::vector<ProfilePoint>> out;
    double reached = -INFINITY;
    for (const Piece& s : pieces) {
        if (s.to <= reached + slack) continue;  // along an edge: both its triangles say the same
        if (out.empty() || s.from > reached + slack) out.push_back({place(s.from, s.z_from)});
        out.back().push_back(place(s.to, s.z_to));
        reached = s.to;
    }
    return out;
}

std::vector<std::vector<Vec3>> slope_arrows(const mesh::TriMesh& m, std::size_t count) {
    Box3 box;
    for (const Vec3& v : m.vertices) box.add(v);
    std::vector<std::vector<Vec3>> arrows;
    if (box.empty() || count == 0) return arrows;
    const double w = box.hi.x - box.lo.x, h = box.hi.y - box.lo.y;
    const double cell = std::max(std::sqrt(w * h / static_cast<double>(count)), 1e-9);
    const auto columns = static_cast<std::size_t>(w / cell) + 1,
               rows = static_cast<std::size_t>(h / cell) + 1;
    // In each cell the triangle whose middle is nearest to that of the cell.
    std::vector<std::pair<double, std::size_t>> nearest(columns * rows, {INFINITY, 0});
    const auto middle_of = [&](std::size_t t) {
        const auto& c = m.triangles[t];
        return (m.vertices[c[0]] + m.vertices[c[1]] + m.vertices[c[2]]) * (1 / 3.0);
    };
    for (std::size_t t = 0; t < m.triangles.size(); ++t) {
        const Vec3 p = middle_of(t);
        const auto column = static_cast<std::size_t>((p.x - box.lo.x) / cell),
                   row = static_cast<std::size_t>((p.y - box.lo.y) / cell);
        const double off = std::hypot(p.x - box.lo.x - (static_cast<double>(column) + 0.5) * cell,
                                      p.y - box.lo.y - (static_cast<double>(row) + 0.5) * cell);
        auto& known = nearest[std::min(row, rows - 1) * columns + std::min(column, columns - 1)];
        if (off < known.first) known = {off, t};
    }
    for (const auto& [off, t] : nearest) {
        if (off == INFINITY) continue;
        const auto& c = m.triangles[t];
        const Vec3 n =
            normalized(cross(m.vertices[c[1]] - m.vertices[c[0]], m.vertices[c[2]] - m.vertices[c[0]]));
        const double flat = std::hypot(n.x, n.y);
        if (!(n.z > 0) || flat < 1e-3) continue;
        // Half as long at a slope of a quarter, and nearly whole from one to one on.
        const double slope = flat / n.z, length = 0.9 * cell * slope / (slope + 0.25);
        const Vec3 down = Vec3{n.x, n.y, -flat * flat / n.z} * (1 / flat), aside{-n.y / flat, n.x / flat, 0};
        const Vec3 foot = middle_of(t), tip = foot + down * length, back = foot + down * (0.7 * length);
        arrows.push_back({foot, tip, back + aside * (0.15 * length), tip, back - aside * (0.15 * length)});
    }
    return arrows;
}

}  // namespace pristine::measure
