// What passes through itself or another becomes one: cut along the line where it meets, the inner side
// dropped.

#include <algorithm>
#include <cmath>
#include <map>
#include <optional>
#include <random>
#include <set>
#include <unordered_map>

#include "core/base/disjoint_sets.h"
#include "core/geometry/predicates.h"
#include "core/mesh/weld.h"
#include "core/mesh/winding_tree.h"
#include "core/repair/check.h"
#include "core/repair/crossings.h"
#include "core/repair/edges.h"
#include "core/repair/inside.h"
#include "core/repair/steps.h"
#include "core/surface/constrain.h"
#include "core/surface/delaunay.h"
#include "core/topology/adjacency.h"

namespace pristine::repair {
namespace {

using Edge = std::pair<std::uint32_t, std::uint32_t>;  // the lower vertex first

Edge edge_of(std::uint32_t a, std::uint32_t b) {
    return {std::min(a, b), std::max(a, b)};
}

// Cuts the triangles of a mesh along the stretches in which they cross. Only of what is in general position:
// where corners or edges touch, cut() gives nothing, and says of which triangles.
class Cutter {
  public:
    Cutter(const mesh::TriMesh& m, const std::vector<Pair>& pairs) : m_(m), pairs_(pairs) { out_ = m; }

    // The cut mesh; nothing when a place is not in general position: then `touching` has the triangles.
    std::optional<mesh::TriMesh> cut() {
        for (const Pair& p : pairs_)
            if (!meet(p[0], p[1])) touching_.insert({p[0], p[1]});
        if (!touching_.empty()) return std::nullopt;
        std::set<std::uint32_t> touched;
        for (const auto& [t, s] : stretches_) touched.insert(t);
        const Incidence at(m_);
        for (const auto& [e, points] : on_edge_)
            for (const std::uint32_t t : at.of(e.first)) {
                const Triangle& c = m_.triangles[t];
                if (std::find(c.begin(), c.end(), e.second) != c.end()) touched.insert(t);
            }
        std::vector<Triangle> fresh;
        for (std::uint32_t t = 0; t < m_.triangles.size(); ++t) {
            if (!touched.contains(t)) {
                fresh.push_back(m_.triangles[t]);
            } else if (!divide(t, fresh)) {
                touching_.insert(t);
            }
        }
        if (!touching_.empty()) return std::nullopt;
        out_.triangles = std::move(fresh);
        return std::move(out_);
    }
    /// Edges of the cut mesh along which it was cut.
    const std::set<Edge>& seams() const { return seams_; }
    const std::set<std::uint32_t>& touching() const { return touching_; }

  private:
    const Vec3& corner(std::uint32_t t, std::size_t k) const { return m_.vertices[m_.triangles[t][k]]; }

    // Where an edge passes through a triangle, as one vertex for whoever asks. 0: it does not; -1: it
    // touches.
    int through(std::uint32_t a, std::uint32_t b, std::uint32_t t, std::uint32_t& vertex) {
        const Edge e = edge_of(a, b);
        const Vec3 &p = m_.vertices[e.first], &q = m_.vertices[e.second];
        const Vec3 &u = corner(t, 0), &v = corner(t, 1), &w = corner(t, 2);
        const int sp = side_of_plane(u, v, w, p), sq = side_of_plane(u, v, w, q);
        if (sp == 0 || sq == 0) return -1;
        if (sp == sq) return 0;
        const int s[3] = {side_of_plane(p, q, u, v), side_of_plane(p, q, v, w), side_of_plane(p, q, w, u)};
        const bool some = s[0] > 0 || s[1] > 0 || s[2] > 0, other = s[0] < 0 || s[1] < 0 || s[2] < 0;
        if (some && other) return 0;
        if (s[0] == 0 || s[1] == 0 || s[2] == 0) return -1;
        const auto [known, fresh] =
            number_.try_emplace({e, t}, static_cast<std::uint32_t>(out_.vertices.size()));
        vertex = known->second;
        if (!fresh) return 1;
        const Vec3 n = cross(v - u, w - u);
        const double up = dot(n, p - u), uq = dot(n, q - u);
        const double share = up == uq ? 0.5 : std::clamp(up / (up - uq), 0.0, 1.0);
        out_.vertices.push_back(p + (q - p) * share);
        on_edge_[e].push_back({share, vertex});
        return 1;
    }

    // The corners that two triangles have in common.
    std::vector<std::uint32_t> common(std::uint32_t s, std::uint32_t t) const {
        std::vector<std::uint32_t> out;
        for (const std::uint32_t v : m_.triangles[s])
            if (std::find(m_.triangles[t].begin(), m_.triangles[t].end(), v) != m_.triangles[t].end())
                out.push_back(v);
        return out;
    }

    bool meet(std::uint32_t s, std::uint32_t t) {
        // Where they have a corner in common, they cross from there to an edge.
        std::vector<std::uint32_t> ends = common(s, t);
        if (ends.size() > 1) return false;
        const std::uint32_t corner = ends.empty() ? UINT32_MAX : ends[0];
        for (const auto& [own, other] : {std::pair{s, t}, std::pair{t, s}})
            for (std::size_t k = 0; k < 3; ++k) {
                std::uint32_t vertex = 0;
                const std::uint32_t a = m_.triangles[own][k], b = m_.triangles[own][(k + 1) % 3];
                if (a == corner || b == corner) continue;
                const int how = through(a, b, other, vertex);
                if (how < 0) return false;
                if (how > 0) ends.push_back(vertex);
            }
        if (ends.size() != 2 || ends[0] == ends[1]) return false;
        const Edge e = edge_of(ends[0], ends[1]);
        stretches_[s].push_back(e);
        stretches_[t].push_back(e);
        seams_.insert(e);
        return true;
    }

    // The two coordinates in which a triangle turns left, and which are left of it.
    struct Flat {
        int u, v;
    };
    Flat flat_of(std::uint32_t t) const {
        const Vec3 n = cross(corner(t, 1) - corner(t, 0), corner(t, 2) - corner(t, 0));
        int a = 0;
        for (int k = 1; k < 3; ++k)
            if (std::fabs(n[k]) > std::fabs(n[a])) a = k;
        const int u = (a + 1) % 3, v = (a + 2) % 3;
        return n[a] > 0 ? Flat{u, v} : Flat{v, u};
    }

    // The border of a triangle with the vertices on its edges.
    std::vector<std::uint32_t> border(std::uint32_t t) const {
        std::vector<std::uint32_t> out;
        for (std::size_t k = 0; k < 3; ++k) {
            const std::uint32_t a = m_.triangles[t][k], b = m_.triangles[t][(k + 1) % 3];
            out.push_back(a);
            const auto on = on_edge_.find(edge_of(a, b));
            if (on == on_edge_.end()) continue;
            auto points = on->second;
            std::sort(points.begin(), points.end());
            if (a > b) std::reverse(points.begin(), points.end());
            for (const auto& [share, v] : points) out.push_back(v);
        }
        return out;
    }

    bool divide(std::uint32_t t, std::vector<Triangle>& fresh) {
        const Flat flat = flat_of(t);
        std::vector<std::uint32_t> vertices = border(t);
        const std::size_t rim = vertices.size();
        const auto own = stretches_.find(t);
        if (own != stretches_.end())
            for (const Edge& e : own->second)
                for (const std::uint32_t v : {e.first, e.second})
                    if (std::find(vertices.begin(), vertices.end(), v) == vertices.end())
                        vertices.push_back(v);
        std::vector<surface::Plan> places;
        for (const std::uint32_t v : vertices)
            places.push_back({out_.vertices[v][flat.u], out_.vertices[v][flat.v]});
        surface::Delaunay d = surface::delaunay(places);
        // Two that are one in plan: too near to each other to tell apart.
        if (d.source.size() != vertices.size()) return false;
        const auto in_plan = [&](std::uint32_t v) {
            return d.vertex[static_cast<std::size_t>(std::find(vertices.begin(), vertices.end(), v) -
                                                     vertices.begin())];
        };
        std::vector<std::array<std::uint32_t, 2>> lines;
        std::set<Edge> boundary_edges;
        for (std::size_t i = 0; i < rim; ++i) {
            lines.push_back({in_plan(vertices[i]), in_plan(vertices[(i + 1) % rim])});
            boundary_edges.insert(edge_of(lines.back()[0], lines.back()[1]));
        }
        if (own != stretches_.end())
            for (const Edge& e : own->second) lines.push_back({in_plan(e.first), in_plan(e.second)});
        const auto done = surface::constrain(d.mesh, lines);
        // Three sheets in one place, or a stretch through a third vertex.
        if (!done.crossings.empty() || done.edges != lines.size()) return false;
        const std::vector<char> outside = beyond(d.mesh, boundary_edges);
        for (std::uint32_t k = 0; k < d.mesh.size(); ++k) {
            if (outside[k]) continue;
            Triangle c{};
            for (int i = 0; i < 3; ++i)
                c[static_cast<std::size_t>(i)] = vertices[d.source[d.mesh.corner(k, i)]];
            fresh.push_back(c);
        }
        return true;
    }

    // Triangles beyond the border, which is not convex to the last bit.
    static std::vector<char> beyond(const surface::Triangulation& m, const std::set<Edge>& border) {
        std::vector<char> out(m.size(), 0);
        std::vector<std::uint32_t> open;
        const auto on_border = [&](std::uint32_t t, int k) {
            return border.contains(edge_of(m.corner(t, surface::next(k)), m.corner(t, surface::previous(k))));
        };
        const auto reach = [&](std::uint32_t t) {
            if (!out[t]) out[t] = 1, open.push_back(t);
        };
        for (std::uint32_t t = 0; t < m.size(); ++t)
            for (int k = 0; k < 3; ++k)
                if (m.across(t, k) == surface::kNone && !on_border(t, k)) reach(t);
        while (!open.empty()) {
            const std::uint32_t t = open.back();
            open.pop_back();
            for (int k = 0; k < 3; ++k)
                if (m.across(t, k) != surface::kNone && !on_border(t, k)) reach(m.across(t, k));
        }
        return out;
    }

    const mesh::TriMesh& m_;
    const std::vector<Pair>& pairs_;
    mesh::TriMesh out_;
    std::map<std::pair<Edge, std::uint32_t>, std::uint32_t> number_;
    std::map<Edge, std::vector<std::pair<double, std::uint32_t>>> on_edge_;  // how far along, and the vertex
    std::map<std::uint32_t, std::vector<Edge>> stretches_;                   // in each triangle
    std::set<Edge> seams_;
    std::set<std::uint32_t> touching_;
};

// Parts of the cut mesh between seams; those at a seam that lie inside go.
mesh::TriMesh without_inner(const mesh::TriMesh& cut, const std::set<Edge>& seams, Progress& progress) {
    DisjointSets parts(cut.triangles.size());
    std::vector<char> at_seam(cut.triangles.size(), 0);
    each_edge(edge_uses(cut.triangles), [&](std::span<const EdgeUse> e) {
        if (seams.contains({e[0].lower, e[0].higher})) {
            for (const EdgeUse& u : e) at_seam[u.triangle] = 1;
            return;
        }
        for (std::size_t i = 1; i < e.size(); ++i)
            parts.join(static_cast<std::int32_t>(e[0].triangle), static_cast<std::int32_t>(e[i].triangle));
    });
    std::map<std::int32_t, std::vector<std::uint32_t>> members;
    std::set<std::int32_t> cut_off;
    for (std::uint32_t t = 0; t < cut.triangles.size(); ++t) {
        const std::int32_t part = parts.find(static_cast<std::int32_t>(t));
        members[part].push_back(t);
        if (at_seam[t]) cut_off.insert(part);
    }
    std::vector<char> gone(cut.triangles.size(), 0);
    const mesh::WindingTree winding(cut);
    for (const std::int32_t part : cut_off) {
        progress.check();
        if (is_inside(winding, members[part]))
            for (const std::uint32_t t : members[part]) gone[t] = 1;
    }
    return without(cut, gone);
}

// Whether it is as good as what it was made of, and has no crossings.
bool is_better(const Check& before, const Check& after) {
    for (const Fault f :
         {Fault::NonManifoldEdge, Fault::NonManifoldVertex, Fault::InconsistentEdge, Fault::Hole})
        if (after.count(f) > before.count(f)) return false;
    return after.count(Fault::SelfIntersection) == 0;
}

// Pieces that cross themselves or each other, directly or by others between them.
struct Group {
    std::vector<std::uint32_t> triangles;
};

std::vector<Group> groups_of(const mesh::TriMesh& m, const topology::Pieces& pieces,
                             const std::vector<Pair>& pairs) {
    DisjointSets joined(pieces.size.size());
    std::vector<char> crossed(pieces.size.size(), 0);
    for (const Pair& p : pairs) {
        joined.join(static_cast<std::int32_t>(pieces.of[p[0]]), static_cast<std::int32_t>(pieces.of[p[1]]));
        crossed[pieces.of[p[0]]] = crossed[pieces.of[p[1]]] = 1;
    }
    std::map<std::int32_t, Group> groups;
    for (std::uint32_t t = 0; t < m.triangles.size(); ++t)
        if (crossed[pieces.of[t]])
            groups[joined.find(static_cast<std::int32_t>(pieces.of[t]))].triangles.push_back(t);
    std::vector<Group> out;
    for (auto& [first, g] : groups) out.push_back(std::move(g));
    return out;
}

// Moves the corners of triangles by far less than can be seen, each another way, so that nothing touches.
void nudge(mesh::TriMesh& m, const std::set<std::uint32_t>& triangles, std::uint64_t seed) {
    constexpr double kShare = 1e-6;  // of the triangle's longest edge
    std::map<std::uint32_t, double> by;
    for (const std::uint32_t t : triangles) {
        const Triangle& c = m.triangles[t];
        double edge = 0, far = 0;
        for (std::size_t k = 0; k < 3; ++k) {
            const Vec3 &a = m.vertices[c[k]], &b = m.vertices[c[(k + 1) % 3]];
            edge = std::max(edge, norm(b - a));
            far = std::max({far, std::fabs(a.x), std::fabs(a.y), std::fabs(a.z)});
        }
        // Far from the origin no less than coordinates can tell.
        for (const std::uint32_t v : c) by[v] = std::max({by[v], kShare * edge, 3e-14 * far});
    }
    std::mt19937_64 dice(seed);
    const auto one = [&] { return static_cast<double>(dice() >> 11) * 0x1p-52 - 1; };
    for (const auto& [v, most] : by) m.vertices[v] = m.vertices[v] + Vec3{one(), one(), one()} * most;
}

// A group by itself, and which of its triangles cross.
struct Shell {
    mesh::TriMesh mesh;
    std::vector<Pair> pairs;
};

Shell part_of(const mesh::TriMesh& m, const Group& g, const std::vector<Pair>& all) {
    std::vector<char> rest(m.triangles.size(), 1);
    std::vector<std::uint32_t> number(m.triangles.size(), UINT32_MAX);
    std::uint32_t n = 0;
    for (const std::uint32_t t : g.triangles) rest[t] = 0;
    for (std::uint32_t t = 0; t < rest.size(); ++t)
        if (!rest[t]) number[t] = n++;
    Shell part;
    part.mesh = without(m, rest);
    for (const Pair& p : all)
        if (!rest[p[0]]) part.pairs.push_back({number[p[0]], number[p[1]]});
    return part;
}

std::optional<mesh::TriMesh> united(const mesh::TriMesh& m, const Group& g, const std::vector<Pair>& all,
                                    Progress& progress) {
    constexpr std::uint64_t kTries = 4;
    Shell part = part_of(m, g, all);
    CheckOptions edges_only;
    edges_only.crossings = false;
    const Check before = check(part.mesh, edges_only, progress);
    for (std::uint64_t round = 1; round <= kTries; ++round) {
        progress.check();
        Cutter cutter(part.mesh, part.pairs);
        if (const auto cut = cutter.cut()) {
            mesh::TriMesh out = without_inner(*cut, cutter.seams(), progress);
            if (is_better(before, check(out, {}, progress))) return out;
            return std::nullopt;
        }
        if (round == kTries) break;
        nudge(part.mesh, cutter.touching(), round);
        part.pairs = crossings(part.mesh, progress);
    }
    return std::nullopt;
}

}  // namespace

Step self_union(const mesh::TriMesh& m, Progress& progress) {
    Step step;
    step.mesh = m;
    const topology::Pieces pieces = topology::pieces(m.triangles, topology::adjacency(m.triangles));
    const std::vector<Pair> pairs = crossings(m, progress);
    // Bodies cross along lines; where most triangles cross many others there are none to unite, only a soup.
    constexpr std::size_t kMostPairs = 3,
                          kFew = 4000;  // of each triangle, on the average; coarse bodies have few
    if (pairs.empty() || pairs.size() > std::max(kFew, kMostPairs * m.triangles.size())) return step;
    std::vector<char> gone(m.triangles.size(), 0);
    std::vector<mesh::TriMesh> fresh;
    for (const Group& g : groups_of(m, pieces, pairs)) {
        auto one = united(m, g, pairs, progress);
        if (!one) continue;
        for (const std::uint32_t t : g.triangles) gone[t] = 1;
        fresh.push_back(std::move(*one));
    }
    if (fresh.empty()) return step;
    // Put together by numbers, not by places: corners that only touch stay apart.
    step.mesh = without(m, gone);
    for (const mesh::TriMesh& f : fresh) {
        const auto first = static_cast<std::uint32_t>(step.mesh.vertices.size());
        step.mesh.vertices.insert(step.mesh.vertices.end(), f.vertices.begin(), f.vertices.end());
        for (const Triangle& t : f.triangles)
            step.mesh.triangles.push_back({t[0] + first, t[1] + first, t[2] + first});
    }
    std::set<std::array<std::array<double, 3>, 3>> was;
    const auto places = [](const mesh::TriMesh& of, const Triangle& t) {
        std::array<std::array<double, 3>, 3> c{};
        for (std::size_t k = 0; k < 3; ++k)
            c[k] = {of.vertices[t[k]].x, of.vertices[t[k]].y, of.vertices[t[k]].z};
        return c;
    };
    for (std::size_t t = 0; t < gone.size(); ++t)
        if (gone[t]) was.insert(places(m, m.triangles[t]));
    std::uint64_t kept = 0;
    for (const mesh::TriMesh& f : fresh)
        for (const Triangle& t : f.triangles) kept += was.contains(places(f, t));
    std::uint64_t all = 0;
    for (const mesh::TriMesh& f : fresh) all += f.triangles.size();
    step.removed = static_cast<std::uint64_t>(std::count(gone.begin(), gone.end(), 1)) - kept;
    step.made = all - kept;
    return step;
}

}  // namespace pristine::repair
