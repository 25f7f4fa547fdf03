#include "core/repair/fill.h"

#include <fmt/format.h>

#include <algorithm>
#include <cmath>
#include <unordered_map>
#include <unordered_set>

#include "core/base/error.h"
#include "core/repair/edges.h"
#include "core/repair/fair.h"
#include "core/repair/patch_mesh.h"
#include "core/repair/rim_triangles.h"

namespace pristine::repair {
namespace {

constexpr int kSurroundingRings = 3;  // of surroundings

std::uint64_t directed_key(std::uint32_t a, std::uint32_t b) {
    return std::uint64_t{a} << 32 | b;
}

// What a fill needs to know of the mesh round a rim.
class Surroundings {
  public:
    // Triangles within `rings` rings of the rim.
    Surroundings(const mesh::TriMesh& m, const Incidence& at, const std::vector<std::uint32_t>& rim,
                 int rings) {
        std::unordered_set<std::uint32_t> met(rim.begin(), rim.end()), taken;
        std::vector<std::uint32_t> ring = rim;
        for (int r = 0; r < rings; ++r) {
            std::vector<std::uint32_t> next;
            for (const std::uint32_t v : ring)
                for (const std::uint32_t t : at.of(v)) {
                    if (!taken.insert(t).second) continue;
                    triangles_.push_back(m.triangles[t]);
                    if (r == 0) enter(m, m.triangles[t]);
                    for (const std::uint32_t o : m.triangles[t])
                        if (met.insert(o).second) next.push_back(o);
                }
            ring = std::move(next);
        }
    }
    const std::vector<Triangle>& triangles() const { return triangles_; }
    // The corner opposite of a directed edge; UINT32_MAX when there is no such edge.
    std::uint32_t opposite(std::uint32_t a, std::uint32_t b) const {
        const auto it = edges_.find(directed_key(a, b));
        return it == edges_.end() ? UINT32_MAX : it->second;
    }
    bool has_edge(std::uint32_t a, std::uint32_t b) const {
        return edges_.contains(directed_key(a, b)) || edges_.contains(directed_key(b, a));
    }
    double edge_length(std::uint32_t v) const {
        const auto it = length_.find(v);
        return it == length_.end() ? 0 : it->second.first / it->second.second;
    }

  private:
    void enter(const mesh::TriMesh& m, const Triangle& c) {
        for (std::size_t k = 0; k < 3; ++k) {
            edges_[directed_key(c[(k + 1) % 3], c[(k + 2) % 3])] = c[k];
            for (const std::size_t o : {(k + 1) % 3, (k + 2) % 3}) {
                auto& [sum, n] = length_[c[k]];
                sum += norm(m.vertices[c[o]] - m.vertices[c[k]]);
                ++n;
            }
        }
    }
    std::vector<Triangle> triangles_;
    std::unordered_map<std::uint64_t, std::uint32_t> edges_;
    std::unordered_map<std::uint32_t, std::pair<double, int>> length_;
};

// What is filled: round to the left. Vertices beyond those of the mesh are new, on rims that are drawn.
struct Loop {
    std::vector<std::uint32_t> vertices;
    std::vector<Vec3> places;
    std::vector<char> open;  // edges i - i+1 that are drawn

    std::size_t size() const { return vertices.size(); }
    bool all_closed() const { return std::find(open.begin(), open.end(), 1) == open.end(); }
};

Loop loop_of(const mesh::TriMesh& m, const std::vector<std::uint32_t>& rim) {
    Loop l;
    // The other way round: the fill lies to the left.
    l.vertices.assign(rim.rbegin(), rim.rend());
    for (const std::uint32_t v : l.vertices) l.places.push_back(m.vertices[v]);
    l.open.assign(rim.size(), 0);
    return l;
}

Vec3 normal_at(const mesh::TriMesh& m, const Incidence& at, std::uint32_t v) {
    Vec3 n;
    for (const std::uint32_t t : at.of(v)) {
        const Triangle& c = m.triangles[t];
        n = n + cross(m.vertices[c[1]] - m.vertices[c[0]], m.vertices[c[2]] - m.vertices[c[0]]);
    }
    return normalized(n);
}

// The places of a new rim from a to b, without the two: a cubic that leaves and arrives along the surface.
std::vector<Vec3> gap(const mesh::TriMesh& m, const Incidence& at, std::uint32_t a, std::uint32_t b,
                      double edge, bool straight) {
    const Vec3 &p = m.vertices[a], &q = m.vertices[b], d = q - p;
    const double length = norm(d);
    const auto along = [&](std::uint32_t v) {
        const Vec3 n = normal_at(m, at, v), t = d - n * dot(d, n);
        // Where the gap runs nearly along the normal, the surface does not say where to go.
        return norm(t) > 0.3 * length ? normalized(t) * length : d;
    };
    const Vec3 u = straight ? d : along(a), v = straight ? d : along(b);
    const auto n = static_cast<int>(std::clamp(std::round(length / std::max(edge, 1e-12)), 1.0, 500.0));
    std::vector<Vec3> out;
    for (int i = 1; i < n; ++i) {
        const double t = static_cast<double>(i) / n, s = 1 - t;
        out.push_back(p * (s * s * (1 + 2 * t)) + q * (t * t * (1 + 2 * s)) + u * (t * s * s) -
                      v * (t * t * s));
    }
    return out;
}

Loop loop_between(const mesh::TriMesh& m, const Incidence& at, const Surroundings& around,
                  const std::vector<std::vector<std::uint32_t>>& stretches, const FillOptions& options) {
    Loop l;
    auto next = static_cast<std::uint32_t>(m.vertices.size());
    for (std::size_t k = stretches.size(); k-- > 0;) {
        const auto& stretch = stretches[k];
        for (std::size_t i = stretch.size(); i-- > 0;) {
            l.vertices.push_back(stretch[i]);
            l.places.push_back(m.vertices[stretch[i]]);
            l.open.push_back(i == 0);
        }
        const std::uint32_t from = stretch.front(),
                            to = stretches[(k + stretches.size() - 1) % stretches.size()].back();
        const double edge = options.density * 0.5 * (around.edge_length(from) + around.edge_length(to));
        for (const Vec3& p : gap(m, at, from, to, edge, options.kind == FillKind::Flat)) {
            l.vertices.push_back(next++);
            l.places.push_back(p);
            l.open.push_back(1);
        }
    }
    return l;
}

// Why a rim cannot be filled; empty: it can.
std::string fault_of(const Loop& loop, const Surroundings& around, Vec3& where) {
    if (loop.size() < 3) return "The rim has fewer than three edges: take the triangles at it away";
    std::unordered_set<std::uint32_t> met;
    for (std::size_t i = 0; i < loop.size(); ++i)
        if (!met.insert(loop.vertices[i]).second) {
            where = loop.places[i];
            return "The rim is pinched: it passes through one corner twice. Take one ring of triangles away "
                   "and "
                   "fill";
        }
    for (std::size_t i = 0; i < loop.size(); ++i) {
        const std::size_t j = (i + 1) % loop.size();
        const std::uint32_t a = loop.vertices[i], b = loop.vertices[j];
        where = (loop.places[i] + loop.places[j]) * 0.5;
        if (loop.open[i]) {
            if (around.has_edge(a, b)) return "Between two corners there is an edge already: choose others";
            continue;
        }
        // The fill runs from a to b, so the mesh must run from b to a, and nothing from a to b.
        if (around.opposite(b, a) == UINT32_MAX || around.opposite(a, b) != UINT32_MAX)
            return "The rim has an edge that does not belong to one triangle: repair the mesh there first";
    }
    return {};
}

PatchMesh first_patch(const mesh::TriMesh& m, const Loop& loop, const Surroundings& around, double density) {
    Rim rim;
    const std::size_t n = loop.size();
    rim.corners = loop.places;
    rim.open = loop.open;
    for (std::size_t i = 0; i < n; ++i)
        rim.beyond.push_back(loop.open[i]
                                 ? Vec3{}
                                 : m.vertices[around.opposite(loop.vertices[(i + 1) % n], loop.vertices[i])]);
    rim.taken = [&](std::size_t i, std::size_t j) {
        return around.has_edge(loop.vertices[i], loop.vertices[j]);
    };
    PatchMesh p;
    p.rim = n;
    p.vertices = rim.corners;
    for (std::size_t i = 0; i < n; ++i)
        p.scale.push_back(loop.vertices[i] < m.vertices.size()
                              ? density * around.edge_length(loop.vertices[i])
                              : norm(loop.places[(i + 1) % n] - loop.places[i]));
    for (const auto& t : rim_triangles(rim))
        p.triangles.push_back({static_cast<std::uint32_t>(t[0]), static_cast<std::uint32_t>(t[1]),
                               static_cast<std::uint32_t>(t[2])});
    return p;
}

// The patch, whose rim's vertices have numbers of the mesh, and the rings round it.
FairProblem problem_of(const mesh::TriMesh& m, const Loop& loop, const PatchMesh& p,
                       const Surroundings& around) {
    FairProblem f;
    f.vertices = p.vertices;
    f.free.assign(p.vertices.size(), 1);
    std::unordered_map<std::uint32_t, std::uint32_t> number;
    f.loose.assign(p.vertices.size(), 0);
    for (std::uint32_t i = 0; i < loop.size(); ++i) {
        f.free[i] = 0;
        f.loose[i] = static_cast<char>(loop.vertices[i] >= m.vertices.size());
        number[loop.vertices[i]] = i;
    }
    f.triangles = p.triangles;
    f.patch = p.triangles.size();
    for (const Triangle& t : around.triangles()) {
        Triangle own{};
        for (std::size_t k = 0; k < 3; ++k) {
            const auto [it, fresh] = number.try_emplace(t[k], static_cast<std::uint32_t>(f.vertices.size()));
            if (fresh) {
                f.vertices.push_back(m.vertices[t[k]]);
                f.free.push_back(0);
                f.loose.push_back(0);
            }
            own[k] = it->second;
        }
        f.triangles.push_back(own);
    }
    return f;
}

// Whether a rim lies in a plane and the mesh stands upright on it, as where a plane cut it: then it is closed
// by that plane, however the rest bends.
bool is_cut(const mesh::TriMesh& m, const std::vector<std::uint32_t>& loop, const Surroundings& around) {
    Vec3 middle, normal;
    const double n = static_cast<double>(loop.size());
    for (const std::uint32_t v : loop) middle = middle + (m.vertices[v] - m.vertices[loop[0]]) * (1 / n);
    middle = middle + m.vertices[loop[0]];
    double edge = 0;
    for (std::size_t i = 0; i < loop.size(); ++i) {
        const Vec3 &a = m.vertices[loop[i]], &b = m.vertices[loop[(i + 1) % loop.size()]];
        normal = normal + cross(a - middle, b - middle);
        edge += norm(b - a) / n;
    }
    normal = normalized(normal);
    std::size_t upright = 0;
    for (std::size_t i = 0; i < loop.size(); ++i) {
        const std::uint32_t u = loop[i], v = loop[(i + 1) % loop.size()];
        if (std::fabs(dot(normal, m.vertices[u] - middle)) > 1e-3 * edge) return false;
        const Vec3 &a = m.vertices[u], &b = m.vertices[v], &c = m.vertices[around.opposite(v, u)];
        upright += std::fabs(dot(normalized(cross(b - a, c - a)), normal)) < 0.17;  // 80 degrees
    }
    return upright * 10 >= loop.size() * 9;
}

Fill fill_loop(const mesh::TriMesh& m, const Loop& loop, const Surroundings& around,
               const FillOptions& options, Progress& progress) {
    Fill out;
    out.why_not = fault_of(loop, around, out.where);
    if (!out.why_not.empty()) return out;
    PatchMesh p = first_patch(m, loop, around, options.density);
    if (p.triangles.empty()) {
        out.why_not =
            "No triangles fit between the corners of the rim: edges between them are taken. Take one ring "
            "of triangles away and fill";
        return out;
    }
    progress.check();
    if (options.refine) {
        refine(p, progress);
        FairProblem f = problem_of(m, loop, p, around);
        const bool flat =
            options.kind == FillKind::Flat || (loop.all_closed() && is_cut(m, loop.vertices, around));
        if (flat)
            fair_flat(f);
        else
            fair_tangent(f);
        if (!flat && options.kind == FillKind::Curvature) follow_curvature(f);
        std::copy_n(f.vertices.begin(), p.vertices.size(), p.vertices.begin());
    }
    out.where = loop.places[0];
    // New vertices: of rims that were drawn, as they are numbered already, then those inside.
    const auto first = static_cast<std::uint32_t>(m.vertices.size()),
               n = static_cast<std::uint32_t>(loop.size());
    for (std::uint32_t i = 0; i < n; ++i)
        if (loop.vertices[i] >= first) out.vertices.push_back(loop.places[i]);
    const auto inside = static_cast<std::uint32_t>(out.vertices.size());
    out.vertices.insert(out.vertices.end(), p.vertices.begin() + n, p.vertices.end());
    for (const Triangle& t : p.triangles) {
        Triangle own{};
        for (std::size_t k = 0; k < 3; ++k)
            own[k] = t[k] < n ? loop.vertices[t[k]] : first + inside + t[k] - n;
        out.triangles.push_back(own);
    }
    return out;
}

}  // namespace

Fill fill_boundary(const mesh::TriMesh& m, const std::vector<std::uint32_t>& rim, const FillOptions& options,
                   Progress& progress) {
    return fill_boundary(m, Incidence(m), rim, options, progress);
}

Fill fill_boundary(const mesh::TriMesh& m, const Incidence& at, const std::vector<std::uint32_t>& rim,
                   const FillOptions& options, Progress& progress) {
    return fill_loop(m, loop_of(m, rim), Surroundings(m, at, rim, kSurroundingRings), options, progress);
}

Fill fill_between(const mesh::TriMesh& m, const std::vector<std::vector<std::uint32_t>>& stretches,
                  const FillOptions& options, Progress& progress) {
    std::vector<std::uint32_t> all;
    for (const auto& s : stretches) {
        if (s.size() < 2) throw Error(ErrorCode::Usage, "A stretch of a rim has at least one edge");
        all.insert(all.end(), s.begin(), s.end());
    }
    const Incidence at(m);
    const Surroundings around(m, at, all, kSurroundingRings);
    return fill_loop(m, loop_between(m, at, around, stretches, options), around, options, progress);
}

mesh::TriMesh with_fill(const mesh::TriMesh& m, const Fill& f) {
    mesh::TriMesh out = m;
    out.vertices.insert(out.vertices.end(), f.vertices.begin(), f.vertices.end());
    out.triangles.insert(out.triangles.end(), f.triangles.begin(), f.triangles.end());
    return out;
}

}  // namespace pristine::repair
