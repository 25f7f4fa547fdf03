#include "core/surface/triangle_values.h"

#include <algorithm>
#include <array>
#include <cmath>
#include <numbers>
#include <queue>

#include "core/base/parallel.h"
#include "core/surface/box_grid.h"
#include "core/topology/adjacency.h"

namespace pristine::surface {
namespace {

constexpr double kDegrees = 180 / std::numbers::pi;

struct Shape {
    std::array<double, 3> edge;  // opposite each corner, in plan
    Vec3 normal;                 // twice the area long
    Vec3 middle;
};

Shape shape_of(const mesh::TriMesh& m, std::size_t t) {
    const auto& c = m.triangles[t];
    const Vec3 &p = m.vertices[c[0]], &q = m.vertices[c[1]], &r = m.vertices[c[2]];
    const auto plan = [](const Vec3& a, const Vec3& b) { return std::hypot(b.x - a.x, b.y - a.y); };
    return {{plan(q, r), plan(r, p), plan(p, q)}, cross(q - p, r - p), p + ((q - p) + (r - p)) * (1 / 3.0)};
}

// Angles by the sides, the sharp ones without loss (Kahan 1986 would be exacter still).
double angle(const Shape& s, std::size_t k) {
    const double a = s.edge[k], b = s.edge[(k + 1) % 3], c = s.edge[(k + 2) % 3];
    if (b == 0 || c == 0) return 0;
    return std::acos(std::clamp((b * b + c * c - a * a) / (2 * b * c), -1.0, 1.0)) * kDegrees;
}

double value_of(const Shape& s, TriangleValue v) {
    switch (v) {
        case TriangleValue::LongestEdge:
            return std::max({s.edge[0], s.edge[1], s.edge[2]});
        case TriangleValue::Area:
            return 0.5 * norm(s.normal);
        case TriangleValue::EdgeRatio:
            return std::max({s.edge[0], s.edge[1], s.edge[2]}) / std::min({s.edge[0], s.edge[1], s.edge[2]});
        case TriangleValue::SmallestAngle:
            return std::min({angle(s, 0), angle(s, 1), angle(s, 2)});
        case TriangleValue::LargestAngle:
            return std::max({angle(s, 0), angle(s, 1), angle(s, 2)});
        case TriangleValue::Elevation:
            return s.middle.z;
        case TriangleValue::Slope:
            return std::atan2(std::hypot(s.normal.x, s.normal.y), std::fabs(s.normal.z)) * kDegrees;
        case TriangleValue::Facing: {
            if (s.normal.x == 0 && s.normal.y == 0) return NAN;
            const double a = std::atan2(s.normal.x, s.normal.y) * kDegrees;
            return a < 0 ? a + 360 : a;
        }
        default:
            return NAN;
    }
}

double away(const Vec3& p, const Vec3& a, const Vec3& b) {
    const double dx = b.x - a.x, dy = b.y - a.y, l = dx * dx + dy * dy;
    const double t = l > 0 ? std::clamp(((p.x - a.x) * dx + (p.y - a.y) * dy) / l, 0.0, 1.0) : 0;
    return std::hypot(p.x - a.x - t * dx, p.y - a.y - t * dy);
}

std::vector<double> rim_distances(const mesh::TriMesh& m) {
    const topology::Adjacency a = topology::adjacency(m.triangles);
    std::vector<std::array<Vec3, 2>> rim;
    std::vector<PlanBox> boxes;
    PlanBox whole;
    for (std::size_t t = 0; t < m.triangles.size(); ++t)
        for (std::size_t k = 0; k < 3; ++k)
            if (a.across[t][k] == topology::kNone) {
                rim.push_back(
                    {m.vertices[m.triangles[t][(k + 1) % 3]], m.vertices[m.triangles[t][(k + 2) % 3]]});
                boxes.emplace_back();
                for (const Vec3& v : rim.back()) boxes.back().add(v.x, v.y), whole.add(v.x, v.y);
            }
    std::vector<double> out(m.triangles.size(), NAN);
    if (rim.empty()) return out;
    const BoxGrid grid(boxes);
    const double first =
        std::hypot(whole.x1 - whole.x0, whole.y1 - whole.y0) / std::sqrt(static_cast<double>(rim.size())) / 4;
    parallel::for_ranges(out.size(), 1024, [&](std::size_t from, std::size_t to) {
        for (std::size_t t = from; t < to; ++t) {
            const Vec3 p = shape_of(m, t).middle;
            // A box that grows until what lies in it is nearer than its side.
            for (double reach = first;; reach *= 2) {
                double best = INFINITY;
                grid.meeting({p.x - reach, p.y - reach, p.x + reach, p.y + reach},
                             [&](std::uint32_t e) { best = std::min(best, away(p, rim[e][0], rim[e][1])); });
                if (best <= reach) {
                    out[t] = best;
                    break;
                }
            }
        }
    });
    return out;
}

// A triangle is peeled when one of its edges lies on the rim, or becomes one as its neighbour is peeled, and
// has more than the limit. So its value is that of the widest way in from the rim: the least edge on a way,
// of the way where that is greatest (Pollack 1960), found from the widest on.
template <class ValueOfEdge>
std::vector<double> peeled_below(const mesh::TriMesh& m, const ValueOfEdge& value) {
    struct Way {
        double widest;
        std::uint32_t triangle;
        bool operator<(const Way& o) const {
            return widest != o.widest ? widest < o.widest : triangle > o.triangle;
        }
    };
    const topology::Adjacency a = topology::adjacency(m.triangles);
    std::vector<double> out(m.triangles.size(), NAN);
    std::priority_queue<Way> open;
    for (std::uint32_t t = 0; t < out.size(); ++t)
        for (std::size_t k = 0; k < 3; ++k)
            if (a.across[t][k] == topology::kNone) open.push({value(shape_of(m, t), k), t});
    while (!open.empty()) {
        const Way way = open.top();
        open.pop();
        if (!std::isnan(out[way.triangle])) continue;
        out[way.triangle] = way.widest;
        for (const std::uint32_t o : a.across[way.triangle]) {
            if (o == topology::kNone || !std::isnan(out[o])) continue;
            for (std::size_t k = 0; k < 3; ++k)
                if (a.across[o][k] == way.triangle)
                    open.push({std::min(way.widest, value(shape_of(m, o), k)), o});
        }
    }
    return out;
}

}  // namespace

std::vector<double> triangle_values(const mesh::TriMesh& m, TriangleValue value) {
    if (value == TriangleValue::RimDistance) return rim_distances(m);
    if (value == TriangleValue::RimEdge)
        return peeled_below(m, [](const Shape& s, std::size_t k) { return s.edge[k]; });
    if (value == TriangleValue::RimAngle) return peeled_below(m, angle);
    std::vector<double> out(m.triangles.size());
    if (value == TriangleValue::PieceSize) {
        const topology::Pieces p = topology::pieces(m.triangles, topology::adjacency(m.triangles));
        for (std::size_t t = 0; t < out.size(); ++t) out[t] = static_cast<double>(p.size[p.of[t]]);
        return out;
    }
    parallel::for_ranges(out.size(), 16384, [&](std::size_t from, std::size_t to) {
        for (std::size_t t = from; t < to; ++t) out[t] = value_of(shape_of(m, t), value);
    });
    return out;
}

}  // namespace pristine::surface
