#include "core/mesh/merge.h"

#include <fmt/format.h>

#include <algorithm>
#include <array>
#include <cmath>
#include <limits>
#include <map>
#include <numeric>
#include <unordered_map>
#include <vector>

#include "core/base/error.h"
#include "core/mesh/weld.h"

namespace pristine::mesh {
namespace {

using Edge = std::array<std::uint32_t, 2>;
using Triangle = std::array<std::uint32_t, 3>;

struct Joint {
    std::vector<Vec3> vertices;
    std::vector<std::uint32_t> source;  // of each vertex
    std::vector<Triangle> triangles;
    std::vector<std::uint32_t> triangle_source;
};

Joint side_by_side(std::span<const TriMesh> meshes) {
    Joint j;
    for (std::size_t k = 0; k < meshes.size(); ++k) {
        const auto first = static_cast<std::uint32_t>(j.vertices.size());
        j.vertices.insert(j.vertices.end(), meshes[k].vertices.begin(), meshes[k].vertices.end());
        j.source.resize(j.vertices.size(), static_cast<std::uint32_t>(k));
        for (const auto& t : meshes[k].triangles)
            j.triangles.push_back({t[0] + first, t[1] + first, t[2] + first});
        j.triangle_source.resize(j.triangles.size(), static_cast<std::uint32_t>(k));
    }
    return j;
}

// Directed edges without a partner, each with its triangle.
std::map<Edge, std::uint32_t> open_edges(const std::vector<Triangle>& triangles) {
    std::map<Edge, std::uint32_t> open;
    for (std::uint32_t t = 0; t < triangles.size(); ++t)
        for (std::size_t k = 0; k < 3; ++k) {
            const Edge e{triangles[t][k], triangles[t][(k + 1) % 3]};
            if (const auto partner = open.find({e[1], e[0]}); partner != open.end())
                open.erase(partner);
            else
                open.emplace(e, t);
        }
    return open;
}

// Vertices by cubes, for those near a place.
class Near {
  public:
    Near(const std::vector<Vec3>& places, const std::vector<std::uint32_t>& which, double cell)
        : cell_(cell) {
        for (const std::uint32_t v : which) cells_[key(cube(places[v]))].push_back(v);
    }
    double cell() const { return cell_; }
    template <class Visit>
    void visit(const Vec3& lo, const Vec3& hi, const Visit& visit) const {
        const auto a = cube(lo), b = cube(hi);
        for (std::int64_t x = a[0]; x <= b[0]; ++x)
            for (std::int64_t y = a[1]; y <= b[1]; ++y)
                for (std::int64_t z = a[2]; z <= b[2]; ++z)
                    if (const auto at = cells_.find(key({x, y, z})); at != cells_.end())
                        for (const std::uint32_t v : at->second) visit(v);
    }

  private:
    using Cube = std::array<std::int64_t, 3>;
    Cube cube(const Vec3& p) const {
        return {static_cast<std::int64_t>(std::floor(p.x / cell_)),
                static_cast<std::int64_t>(std::floor(p.y / cell_)),
                static_cast<std::int64_t>(std::floor(p.z / cell_))};
    }
    // Cubes may share a key; what is visited is looked at again.
    static std::uint64_t key(const Cube& c) {
        std::uint64_t h = 0;
        for (const std::int64_t v : c) h = (h ^ static_cast<std::uint64_t>(v)) * 0x9E3779B97F4A7C15u;
        return h;
    }
    double cell_;
    std::unordered_map<std::uint64_t, std::vector<std::uint32_t>> cells_;
};

// Which vertex each one became: pairs of different meshes, the nearest first; no group holds two of one mesh.
std::vector<std::uint32_t> joined_vertices(const Joint& j, const std::vector<std::uint32_t>& rim,
                                           double tolerance, Merged& out) {
    struct Pair {
        double distance;
        std::uint32_t a, b;
    };
    std::vector<Pair> pairs;
    const double cell = std::max(tolerance, 1e-9);
    const Near near(j.vertices, rim, cell);
    for (const std::uint32_t v : rim) {
        const Vec3 r{tolerance, tolerance, tolerance};
        near.visit(j.vertices[v] - r, j.vertices[v] + r, [&](std::uint32_t u) {
            const double d = norm(j.vertices[u] - j.vertices[v]);
            if (j.source[u] < j.source[v] && d <= tolerance) pairs.push_back({d, u, v});
        });
    }
    std::sort(pairs.begin(), pairs.end(), [](const Pair& p, const Pair& q) {
        return std::tie(p.distance, p.a, p.b) < std::tie(q.distance, q.a, q.b);
    });
    pairs.erase(std::unique(pairs.begin(), pairs.end(),
                            [](const Pair& p, const Pair& q) { return p.a == q.a && p.b == q.b; }),
                pairs.end());
    std::vector<std::uint32_t> becomes(j.vertices.size());
    std::iota(becomes.begin(), becomes.end(), 0u);
    std::unordered_map<std::uint32_t, std::vector<std::uint32_t>> groups;  // by the first vertex
    const auto group_of = [&](std::uint32_t v) -> std::vector<std::uint32_t>& {
        auto& g = groups[becomes[v]];
        if (g.empty()) g.push_back(becomes[v]);
        return g;
    };
    for (const Pair& p : pairs) {
        if (becomes[p.a] == becomes[p.b]) continue;
        std::vector<std::uint32_t> one = group_of(p.a), other = group_of(p.b);
        const bool clash = std::any_of(one.begin(), one.end(), [&](std::uint32_t u) {
            return std::any_of(other.begin(), other.end(),
                               [&](std::uint32_t v) { return j.source[u] == j.source[v]; });
        });
        if (clash) continue;
        one.insert(one.end(), other.begin(), other.end());
        std::sort(one.begin(), one.end());  // the mesh named first is first
        // A chain of near ones may be longer than the tolerance.
        if (std::any_of(one.begin(), one.end(), [&](std::uint32_t v) {
                return norm(j.vertices[v] - j.vertices[one.front()]) > tolerance;
            }))
            continue;
        groups.erase(becomes[p.a]);
        groups.erase(becomes[p.b]);
        for (const std::uint32_t v : one) becomes[v] = one.front();
        groups[one.front()] = std::move(one);
    }
    for (const std::uint32_t v : rim)
        if (becomes[v] != v) {
            ++out.joined;
            out.farthest = std::max(out.farthest, norm(j.vertices[v] - j.vertices[becomes[v]]));
        }
    return becomes;
}

// Triangles that joining made flat.
std::uint64_t drop_flat(Joint& j) {
    std::size_t to = 0;
    for (std::size_t t = 0; t < j.triangles.size(); ++t) {
        const Triangle& c = j.triangles[t];
        if (c[0] == c[1] || c[1] == c[2] || c[2] == c[0]) continue;
        j.triangles[to] = c;
        j.triangle_source[to++] = j.triangle_source[t];
    }
    const std::uint64_t dropped = j.triangles.size() - to;
    j.triangles.resize(to);
    j.triangle_source.resize(to);
    return dropped;
}

Vec3 normal_of(const std::vector<Vec3>& v, const Triangle& t) {
    return cross(v[t[1]] - v[t[0]], v[t[2]] - v[t[0]]);
}

// Puts vertices of other meshes into open edges that they lie near.
class EdgeSplitter {
  public:
    EdgeSplitter(Joint& j, double tolerance, Merged& out) : j_(j), tolerance_(tolerance), out_(out) {}

    void run() {
        std::map<Edge, std::uint32_t> open = open_edges(j_.triangles);
        std::vector<std::uint32_t> rim;
        double length = 0;
        for (const auto& [e, t] : open) {
            rim.push_back(e[0]);
            length += norm(j_.vertices[e[1]] - j_.vertices[e[0]]);
        }
        if (rim.empty()) return;
        std::sort(rim.begin(), rim.end());
        rim.erase(std::unique(rim.begin(), rim.end()), rim.end());
        const Near near(j_.vertices, rim, std::max(tolerance_, length / static_cast<double>(open.size())));
        note_meshes(rim);
        pieces_.resize(j_.triangles.size());
        for (std::uint32_t t = 0; t < j_.triangles.size(); ++t) pieces_[t] = {j_.triangles[t]};
        for (const auto& [e, t] : open) split(e, t, near);
        j_.triangles.clear();
        for (const auto& p : pieces_) j_.triangles.insert(j_.triangles.end(), p.begin(), p.end());
    }

  private:
    void split(const Edge& e, std::uint32_t triangle, const Near& near) {
        const Vec3 a = j_.vertices[e[0]], b = j_.vertices[e[1]], along = b - a;
        const double length = norm(along);
        if (!(length > 0)) return;
        struct At {
            double t;
            std::uint32_t v;
            double off;
        };
        std::vector<At> found;
        const Vec3 r{tolerance_, tolerance_, tolerance_};
        const auto look = [&](std::uint32_t v) {
            if (v == e[0] || v == e[1] || is_own(triangle, v)) return;
            const double t = dot(j_.vertices[v] - a, along) / (length * length);
            const double off = norm(a + along * t - j_.vertices[v]);
            if (off <= tolerance_ && t * length > tolerance_ && (1 - t) * length > tolerance_)
                found.push_back({t, v, off});
        };
        // Piece by piece: the box of a long slanting edge holds far more than lies near it.
        const auto pieces = static_cast<int>(std::clamp(std::ceil(length / near.cell()), 1.0, 1e6));
        for (int k = 0; k < pieces; ++k) {
            Box3 box;
            box.add(a + along * (static_cast<double>(k) / pieces));
            box.add(a + along * (static_cast<double>(k + 1) / pieces));
            near.visit(box.lo - r, box.hi + r, look);
        }
        std::sort(found.begin(), found.end(),
                  [](const At& p, const At& q) { return std::tie(p.t, p.v) < std::tie(q.t, q.v); });
        found.erase(
            std::unique(found.begin(), found.end(), [](const At& p, const At& q) { return p.v == q.v; }),
            found.end());
        Edge rest = e;
        for (const At& at : found)
            if (put_in(rest, triangle, at.v)) {
                ++out_.split;
                out_.farthest = std::max(out_.farthest, at.off);
                rest[0] = at.v;
            }
    }
    // A mesh takes no vertex of its own.
    bool is_own(std::uint32_t triangle, std::uint32_t v) const {
        const auto at = meshes_of_.find(v);
        return at != meshes_of_.end() && std::find(at->second.begin(), at->second.end(),
                                                   j_.triangle_source[triangle]) != at->second.end();
    }
    // Which meshes use each vertex of the open edges: those that became one belong to several.
    void note_meshes(const std::vector<std::uint32_t>& rim) {
        for (const std::uint32_t v : rim) meshes_of_[v];
        for (std::size_t t = 0; t < j_.triangles.size(); ++t)
            for (const std::uint32_t v : j_.triangles[t])
                if (const auto at = meshes_of_.find(v);
                    at != meshes_of_.end() && std::find(at->second.begin(), at->second.end(),
                                                        j_.triangle_source[t]) == at->second.end())
                    at->second.push_back(j_.triangle_source[t]);
    }
    bool put_in(const Edge& e, std::uint32_t triangle, std::uint32_t v) {
        for (Triangle& t : pieces_[triangle])
            for (std::size_t k = 0; k < 3; ++k) {
                if (t[k] != e[0] || t[(k + 1) % 3] != e[1]) continue;
                const std::uint32_t apex = t[(k + 2) % 3];
                const Triangle first{e[0], v, apex}, second{v, e[1], apex};
                const Vec3 n = normal_of(j_.vertices, t);
                if (!(dot(normal_of(j_.vertices, first), n) > 0) ||
                    !(dot(normal_of(j_.vertices, second), n) > 0))
                    return false;
                t = first;
                pieces_[triangle].push_back(second);
                return true;
            }
        return false;
    }
    Joint& j_;
    double tolerance_;
    Merged& out_;
    std::vector<std::vector<Triangle>> pieces_;
    std::unordered_map<std::uint32_t, std::vector<std::uint32_t>> meshes_of_;
};

}  // namespace

Merged merged(std::span<const TriMesh> meshes, double tolerance) {
    if (!(tolerance >= 0)) throw Error(ErrorCode::Usage, "A tolerance is 0 or more");
    Merged out;
    Joint j = side_by_side(meshes);
    std::vector<std::uint32_t> rim;
    double shortest = std::numeric_limits<double>::infinity();
    for (const auto& [e, t] : open_edges(j.triangles)) {
        rim.push_back(e[0]);
        rim.push_back(e[1]);
        if (const double l = norm(j.vertices[e[1]] - j.vertices[e[0]]); l > 0)
            shortest = std::min(shortest, l);
    }
    if (tolerance > 0.5 * shortest)
        throw Error(
            ErrorCode::Usage,
            fmt::format("The tolerance of {:.6g} is larger than half of the shortest open edge, {:.6g}: "
                        "details would be lost",
                        tolerance, shortest));
    std::sort(rim.begin(), rim.end());
    rim.erase(std::unique(rim.begin(), rim.end()), rim.end());
    const std::vector<std::uint32_t> becomes = joined_vertices(j, rim, tolerance, out);
    for (Triangle& t : j.triangles)
        for (std::uint32_t& v : t) v = becomes[v];
    out.dropped = drop_flat(j);
    if (tolerance > 0) EdgeSplitter(j, tolerance, out).run();
    TriMesh all{std::move(j.vertices), std::move(j.triangles)};
    std::vector<std::uint32_t> every(all.triangles.size());
    std::iota(every.begin(), every.end(), 0u);
    out.mesh = part_of(all, every);
    return out;
}

namespace {

bool inside_in_plan(const TriMesh& m, std::size_t t, double x, double y) {
    const auto& c = m.triangles[t];
    int signs = 0;
    for (std::size_t k = 0; k < 3; ++k) {
        const Vec3 &a = m.vertices[c[k]], &b = m.vertices[c[(k + 1) % 3]];
        const double side = (b.x - a.x) * (y - a.y) - (b.y - a.y) * (x - a.x);
        const double scale = std::hypot(b.x - a.x, b.y - a.y);
        // On an edge both touch, and neither lies over the other.
        if (std::fabs(side) <= 1e-9 * scale * scale) return false;
        signs += side > 0 ? 1 : -1;
    }
    return signs == 3 || signs == -3;
}

}  // namespace

std::uint64_t overlapping(std::span<const TriMesh> meshes) {
    std::uint64_t found = 0;
    for (std::size_t k = 0; k < meshes.size(); ++k) {
        // Triangles of the others, by squares of plan.
        double width = 0;
        std::size_t n = 0;
        Box3 all;
        for (std::size_t o = 0; o < meshes.size(); ++o)
            for (const auto& t : meshes[o].triangles) {
                Box3 b;
                for (const std::uint32_t v : t) b.add(meshes[o].vertices[v]);
                all.add(b.lo);
                all.add(b.hi);
                width += std::max(b.hi.x - b.lo.x, b.hi.y - b.lo.y);
                ++n;
            }
        if (n == 0) return 0;
        const double cell = std::max(width / static_cast<double>(n), 1e-9);
        const auto square = [&](double x, double y) {
            return std::pair(static_cast<std::int64_t>(std::floor((x - all.lo.x) / cell)),
                             static_cast<std::int64_t>(std::floor((y - all.lo.y) / cell)));
        };
        std::map<std::pair<std::int64_t, std::int64_t>, std::vector<std::pair<std::size_t, std::size_t>>> at;
        for (std::size_t o = 0; o < meshes.size(); ++o) {
            if (o == k) continue;
            for (std::size_t t = 0; t < meshes[o].triangles.size(); ++t) {
                Box3 b;
                for (const std::uint32_t v : meshes[o].triangles[t]) b.add(meshes[o].vertices[v]);
                const auto from = square(b.lo.x, b.lo.y), to = square(b.hi.x, b.hi.y);
                for (std::int64_t x = from.first; x <= to.first; ++x)
                    for (std::int64_t y = from.second; y <= to.second; ++y) at[{x, y}].emplace_back(o, t);
            }
        }
        for (const auto& t : meshes[k].triangles) {
            const Vec3 &a = meshes[k].vertices[t[0]], &b = meshes[k].vertices[t[1]],
                       &c = meshes[k].vertices[t[2]];
            const std::array<Vec3, 4> places{(a + b + c) * (1.0 / 3), (a + b) * 0.5, (b + c) * 0.5,
                                             (c + a) * 0.5};
            found += std::any_of(places.begin(), places.end(), [&](const Vec3& p) {
                const auto cell_at = at.find(square(p.x, p.y));
                return cell_at != at.end() &&
                       std::any_of(cell_at->second.begin(), cell_at->second.end(), [&](const auto& other) {
                           return inside_in_plan(meshes[other.first], other.second, p.x, p.y);
                       });
            });
        }
    }
    return found;
}

}  // namespace pristine::mesh
