#include "core/repair/fill.h"

#include <fmt/format.h>

#include <algorithm>
#include <cmath>
#include <unordered_map>
#include <unordered_set>

#include "core/repair/edges.h"
#include "core/repair/fair.h"
#include "core/repair/patch_mesh.h"
#include "core/repair/rim_triangles.h"

namespace pristine::repair {
namespace {

std::uint64_t key(std::uint32_t a, std::uint32_t b) {
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
        const auto it = edges_.find(key(a, b));
        return it == edges_.end() ? UINT32_MAX : it->second;
    }
    bool has_edge(std::uint32_t a, std::uint32_t b) const {
        return edges_.contains(key(a, b)) || edges_.contains(key(b, a));
    }
    double edge_length(std::uint32_t v) const {
        const auto it = length_.find(v);
        return it == length_.end() ? 0 : it->second.first / it->second.second;
    }

  private:
    void enter(const mesh::TriMesh& m, const Triangle& c) {
        for (std::size_t k = 0; k < 3; ++k) {
            edges_[key(c[(k + 1) % 3], c[(k + 2) % 3])] = c[k];
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

// Why a rim cannot be filled; empty: it can.
std::string fault_of(const mesh::TriMesh& m, const std::vector<std::uint32_t>& loop,
                     const Surroundings& around, Vec3& where) {
    if (loop.size() < 3) return "The rim has fewer than three edges: take the triangles at it away";
    std::unordered_set<std::uint32_t> met;
    for (const std::uint32_t v : loop)
        if (!met.insert(v).second) {
            where = m.vertices[v];
            return "The rim is pinched: it passes through one corner twice. Take one ring of triangles away "
                   "and "
                   "fill";
        }
    for (std::size_t i = 0; i < loop.size(); ++i) {
        const std::uint32_t a = loop[i], b = loop[(i + 1) % loop.size()];
        // The fill runs from a to b, so the mesh must run from b to a, and nothing from a to b.
        if (around.opposite(b, a) == UINT32_MAX || around.opposite(a, b) != UINT32_MAX) {
            where = (m.vertices[a] + m.vertices[b]) * 0.5;
            return "The rim has an edge that does not belong to one triangle: repair the mesh there first";
        }
    }
    return {};
}

PatchMesh first_patch(const mesh::TriMesh& m, const std::vector<std::uint32_t>& loop,
                      const Surroundings& around, double density) {
    Rim rim;
    const std::size_t n = loop.size();
    for (std::size_t i = 0; i < n; ++i) {
        rim.corners.push_back(m.vertices[loop[i]]);
        rim.beyond.push_back(m.vertices[around.opposite(loop[(i + 1) % n], loop[i])]);
    }
    rim.taken = [&](std::size_t i, std::size_t j) { return around.has_edge(loop[i], loop[j]); };
    PatchMesh p;
    p.rim = n;
    p.vertices = rim.corners;
    for (const std::uint32_t v : loop) p.scale.push_back(density * around.edge_length(v));
    for (const auto& t : rim_triangles(rim))
        p.triangles.push_back({static_cast<std::uint32_t>(t[0]), static_cast<std::uint32_t>(t[1]),
                               static_cast<std::uint32_t>(t[2])});
    return p;
}

// The patch, whose rim's vertices have numbers of the mesh, and the rings round it.
FairProblem problem_of(const mesh::TriMesh& m, const std::vector<std::uint32_t>& loop, const PatchMesh& p,
                       const Surroundings& around) {
    FairProblem f;
    f.vertices = p.vertices;
    f.free.assign(p.vertices.size(), 1);
    std::unordered_map<std::uint32_t, std::uint32_t> number;
    for (std::uint32_t i = 0; i < loop.size(); ++i) {
        f.free[i] = 0;
        number[loop[i]] = i;
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

}  // namespace

Fill fill_rim(const mesh::TriMesh& m, const std::vector<std::uint32_t>& rim, const FillOptions& options,
              Progress& progress) {
    return fill_rim(m, Incidence(m), rim, options, progress);
}

Fill fill_rim(const mesh::TriMesh& m, const Incidence& at, const std::vector<std::uint32_t>& rim,
              const FillOptions& options, Progress& progress) {
    Fill out;
    // The other way round: the fill lies to the left.
    const std::vector<std::uint32_t> loop(rim.rbegin(), rim.rend());
    const Surroundings around(m, at, rim, 3);
    out.where = loop.empty() ? Vec3{} : m.vertices[loop[0]];
    out.why_not = fault_of(m, loop, around, out.where);
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
        const bool flat = options.kind == FillKind::Flat || is_cut(m, loop, around);
        if (flat)
            fair_flat(f);
        else
            fair_tangent(f);
        if (!flat && options.kind == FillKind::Curvature) follow_curvature(f);
        std::copy_n(f.vertices.begin(), p.vertices.size(), p.vertices.begin());
    }
    out.vertices.assign(p.vertices.begin() + static_cast<std::ptrdiff_t>(loop.size()), p.vertices.end());
    const auto first = static_cast<std::uint32_t>(m.vertices.size()),
               n = static_cast<std::uint32_t>(loop.size());
    for (const Triangle& t : p.triangles) {
        Triangle own{};
        for (std::size_t k = 0; k < 3; ++k) own[k] = t[k] < n ? loop[t[k]] : first + t[k] - n;
        out.triangles.push_back(own);
    }
    return out;
}

mesh::TriMesh with_fill(const mesh::TriMesh& m, const Fill& f) {
    mesh::TriMesh out = m;
    out.vertices.insert(out.vertices.end(), f.vertices.begin(), f.vertices.end());
    out.triangles.insert(out.triangles.end(), f.triangles.begin(), f.triangles.end());
    return out;
}

}  // namespace pristine::repair
