#include "core/surface/replace.h"

#include <fmt/format.h>

#include <algorithm>
#include <cmath>
#include <map>
#include <span>
#include <tuple>
#include <unordered_set>
#include <utility>

#include "core/base/error.h"
#include "core/mesh/weld.h"
#include "core/surface/constrain.h"
#include "core/surface/delaunay.h"
#include "core/topology/adjacency.h"

namespace pristine::surface {
namespace {

struct CutEdge {
    Vec3 from, to;
};

bool before(const Vec3& a, const Vec3& b) {
    return std::tie(a.x, a.y, a.z) < std::tie(b.x, b.y, b.z);
}

std::vector<CutEdge> boundary_edges(const mesh::TriMesh& m) {
    std::vector<CutEdge> edges;
    const topology::Adjacency a = topology::adjacency(m.triangles);
    for (std::size_t t = 0; t < m.triangles.size(); ++t)
        for (std::size_t k = 0; k < 3; ++k)
            if (a.across[t][k] == topology::kNone)
                edges.push_back(
                    {m.vertices[m.triangles[t][(k + 1) % 3]], m.vertices[m.triangles[t][(k + 2) % 3]]});
    return edges;
}

// Edges of the cut: rims of the inside that the outside has too, the other way round.
std::vector<CutEdge> cut_between(const mesh::TriMesh& inside, const mesh::TriMesh& outside) {
    const auto order = [](const CutEdge& a, const CutEdge& b) {
        if (before(a.from, b.from) || before(b.from, a.from)) return before(a.from, b.from);
        return before(a.to, b.to);
    };
    std::vector<CutEdge> out = boundary_edges(outside), cut;
    for (CutEdge& e : out) std::swap(e.from, e.to);
    std::sort(out.begin(), out.end(), order);
    for (const CutEdge& e : boundary_edges(inside))
        if (std::binary_search(out.begin(), out.end(), e, order)) cut.push_back(e);
    return cut;
}

double length_in_plan(const Vec3& a, const Vec3& b) {
    return std::hypot(b.x - a.x, b.y - a.y);
}

void check_closed(const std::vector<CutEdge>& cut, const std::vector<Vec3>& outline) {
    double have = 0, want = 0;
    for (const CutEdge& e : cut) have += length_in_plan(e.from, e.to);
    for (std::size_t i = 0; i < outline.size(); ++i)
        want += length_in_plan(outline[i], outline[(i + 1) % outline.size()]);
    if (std::fabs(have - want) > 1e-6 * want)
        throw Error(ErrorCode::Usage,
                    fmt::format("The outline leaves the surface: {:.3f} of its {:.3f} lie on it", have, want),
                    {}, "Draw it on the surface, not beyond its rim or across a hole.");
}

// The new triangulation, growing: the cut first, so that its heights hold where a line ends on it.
struct Work {
    std::vector<Plan> plan;
    std::vector<double> heights;
    std::vector<std::array<std::uint32_t, 2>> segments;
    std::vector<const std::string*> names;  // of the lines of segments after those of the cut

    std::uint32_t add(const Vec3& p) {
        plan.push_back({p.x, p.y});
        heights.push_back(p.z);
        return static_cast<std::uint32_t>(plan.size() - 1);
    }
};

void add_cut(const std::vector<CutEdge>& cut, Work& w) {
    const auto order = [](const Vec3& a, const Vec3& b) { return before(a, b); };
    std::map<Vec3, std::uint32_t, decltype(order)> number(order);
    for (const CutEdge& e : cut) {
        const auto at = [&](const Vec3& p) {
            const auto [it, fresh] = number.try_emplace(p, 0);
            if (fresh) it->second = w.add(p);
            return it->second;
        };
        const std::uint32_t from = at(e.from), to = at(e.to);
        w.segments.push_back({from, to});
    }
}

void add_lines(const Patch& patch, const Inside& inside, Work& w) {
    for (const Breakline& l : patch.lines) {
        const std::size_t n = l.points.size(), steps = n + (l.closed && n > 2 ? 1 : 0);
        std::uint32_t last = kNone, first = kNone;
        for (std::size_t i = 0; i < steps; ++i) {
            const Vec3& p = l.points[i % n];
            if (!inside(p.x, p.y)) {
                last = kNone;
                continue;
            }
            const std::uint32_t v = i == n && first != kNone ? first : w.add(p);
            if (i == 0) first = v;
            if (last != kNone) {
                w.segments.push_back({last, v});
                w.names.push_back(&l.name);
            }
            last = v;
        }
    }
}

// The triangles to the left of the cut, from edge to edge: beside a cut that is straight but for rounding,
// their middles would say nothing.
std::vector<std::uint32_t> left_of(const Triangulation& d,
                                   std::span<const std::array<std::uint32_t, 2>> cut) {
    const auto key = [](std::uint32_t a, std::uint32_t b) { return std::uint64_t{a} << 32 | b; };
    std::unordered_set<std::uint64_t> edges;
    for (const auto& e : cut) edges.insert(key(e[0], e[1]));
    std::vector<char> in(d.size(), 0);
    std::vector<std::uint32_t> open, found;
    const auto take = [&](std::uint32_t t) {
        if (std::exchange(in[t], 1)) return;
        open.push_back(t);
        found.push_back(t);
    };
    std::size_t met = 0;
    for (std::uint32_t t = 0; t < d.size(); ++t)
        for (int k = 0; k < 3; ++k)
            if (edges.contains(key(d.corner(t, next(k)), d.corner(t, previous(k))))) {
                ++met;
                take(t);
            }
    if (met != edges.size())
        throw Error(ErrorCode::Usage, "A line lies on the outline", {}, "Move it inside.");
    while (!open.empty()) {
        const std::uint32_t t = open.back();
        open.pop_back();
        for (int k = 0; k < 3; ++k) {
            const std::uint32_t o = d.across(t, k);
            if (o != kNone && !edges.contains(key(d.corner(t, next(k)), d.corner(t, previous(k))))) take(o);
        }
    }
    std::sort(found.begin(), found.end());
    return found;
}

mesh::TriMesh triangulate(Work& w, std::size_t of_cut, Progress& progress) {
    Delaunay d = delaunay(w.plan, progress);
    std::vector<std::array<std::uint32_t, 2>> segments;
    for (const auto& s : w.segments) segments.push_back({d.vertex[s[0]], d.vertex[s[1]]});
    const ConstrainResult result = constrain(d.mesh, segments, progress);
    std::vector<double> z(d.mesh.points.size(), 0);
    for (std::size_t v = 0; v < d.source.size(); ++v) z[v] = w.heights[d.source[v]];
    for (const Crossing& c : result.crossings) {
        const Plan at = d.mesh.points[c.vertex];
        if (c.earlier < of_cut)
            throw Error(ErrorCode::Usage,
                        fmt::format("The line '{}' crosses the outline at {:.3f}, {:.3f}",
                                    *w.names[std::max(c.earlier, c.later) - of_cut], at.x, at.y),
                        {}, "End it inside, or draw the outline round it.");
        // Halfway between what the two lines say.
        double sum = 0;
        for (const std::uint32_t k : {c.earlier, c.later}) {
            const auto& s = w.segments[k];
            const Plan &a = w.plan[s[0]], &b = w.plan[s[1]];
            const double whole = std::hypot(b.x - a.x, b.y - a.y);
            const double t = whole > 0 ? std::hypot(at.x - a.x, at.y - a.y) / whole : 0;
            sum += 0.5 * (w.heights[s[0]] + t * (w.heights[s[1]] - w.heights[s[0]]));
        }
        z[c.vertex] = sum;
    }
    mesh::TriMesh m;
    for (std::size_t v = 0; v < z.size(); ++v)
        m.vertices.push_back({d.mesh.points[v].x, d.mesh.points[v].y, z[v]});
    for (const std::uint32_t t : left_of(d.mesh, std::span(segments).first(of_cut)))
        m.triangles.push_back(d.mesh.corners[t]);
    return m;
}

// The loops of the cut, to decide by: its vertices, not those of the outline, are what the triangles have.
Rings loops_of(const std::vector<CutEdge>& cut) {
    const auto order = [](const Vec3& a, const Vec3& b) { return before(a, b); };
    std::multimap<Vec3, std::size_t, decltype(order)> from(order);
    for (std::size_t i = 0; i < cut.size(); ++i) from.emplace(cut[i].from, i);
    Rings rings;
    while (!from.empty()) {
        auto at = from.begin();
        rings.emplace_back();
        while (at != from.end()) {
            const CutEdge& e = cut[at->second];
            from.erase(at);
            rings.back().push_back(e.from);
            at = from.find(e.to);
        }
    }
    return rings;
}

}  // namespace

mesh::TriMesh replace_part(const mesh::TriMesh& m, const Patch& patch, Progress& progress) {
    const mesh::TriMesh outside = clip(m, {patch.outline}, Keep::Outside, Edges::Exact, progress),
                        old = clip(m, {patch.outline}, Keep::Inside, Edges::Exact, progress);
    const std::vector<CutEdge> cut = cut_between(old, outside);
    check_closed(cut, patch.outline);
    const Inside inside(loops_of(cut));
    Work w;
    add_cut(cut, w);
    const std::size_t of_cut = w.segments.size();
    add_lines(patch, inside, w);
    const mesh::TriMesh fresh = triangulate(w, of_cut, progress);
    std::vector<Vec3> corners;
    corners.reserve(3 * (outside.triangles.size() + fresh.triangles.size()));
    for (const mesh::TriMesh* part : {&outside, &fresh})
        for (const auto& t : part->triangles)
            for (const std::uint32_t v : t) corners.push_back(part->vertices[v]);
    return mesh::weld(corners);
}

}  // namespace pristine::surface
