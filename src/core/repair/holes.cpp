// Triangles that cross go; rims are filled.

#include <algorithm>
#include <cmath>
#include <map>
#include <set>
#include <tuple>

#include "core/base/disjoint_sets.h"
#include "core/mesh/winding_tree.h"
#include "core/repair/crossings.h"
#include "core/repair/edges.h"
#include "core/repair/inside.h"
#include "core/repair/steps.h"
#include "core/topology/adjacency.h"

namespace pristine::repair {
namespace {

std::vector<char> grown(const mesh::TriMesh& m, std::vector<char> in, int rings) {
    for (int r = 0; r < rings; ++r) {
        std::vector<char> near(m.vertices.size(), 0);
        for (std::size_t t = 0; t < in.size(); ++t)
            if (in[t])
                for (const std::uint32_t v : m.triangles[t]) near[v] = 1;
        for (std::size_t t = 0; t < in.size(); ++t) {
            const auto& c = m.triangles[t];
            if (near[c[0]] || near[c[1]] || near[c[2]]) in[t] = 1;
        }
    }
    return in;
}

// Pieces of what is left, joined across edges.
std::vector<std::vector<std::uint32_t>> pieces_of(const mesh::TriMesh& m, const std::vector<char>& gone) {
    DisjointSets joined(m.triangles.size());
    const auto uses = edge_uses(m.triangles);
    each_edge(uses, [&](std::span<const EdgeUse> e) {
        for (std::size_t i = 0; i < e.size(); ++i)
            for (std::size_t j = i + 1; j < e.size(); ++j)
                if (!gone[e[i].triangle] && !gone[e[j].triangle])
                    joined.join(static_cast<std::int32_t>(e[i].triangle),
                                static_cast<std::int32_t>(e[j].triangle));
    });
    std::map<std::int32_t, std::vector<std::uint32_t>> members;
    for (std::uint32_t t = 0; t < m.triangles.size(); ++t)
        if (!gone[t]) members[joined.find(static_cast<std::int32_t>(t))].push_back(t);
    std::vector<std::vector<std::uint32_t>> out;
    for (auto& [first, all] : members) out.push_back(std::move(all));
    return out;
}

}  // namespace

Step widen(const mesh::TriMesh& m, const std::vector<Vec3>& places) {
    using Place = std::tuple<double, double, double>;
    std::set<Place> at;
    for (const Vec3& p : places) at.insert({p.x, p.y, p.z});
    Step step;
    std::vector<char> gone(m.triangles.size(), 0);
    for (std::size_t t = 0; t < gone.size(); ++t)
        for (const std::uint32_t v : m.triangles[t])
            if (at.contains({m.vertices[v].x, m.vertices[v].y, m.vertices[v].z})) gone[t] = 1;
    step.removed = static_cast<std::uint64_t>(std::count(gone.begin(), gone.end(), 1));
    step.mesh = without(m, gone);
    return step;
}

Step drop_crossings(const mesh::TriMesh& m, int rings, Progress& progress) {
    Step step;
    const auto pairs = crossings(m, progress);
    std::vector<char> gone(m.triangles.size(), 0);
    for (const Pair& p : pairs) gone[p[0]] = gone[p[1]] = 1;
    if (pairs.empty()) {
        step.mesh = m;
        return step;
    }
    const std::vector<char> crossed = gone;
    gone = grown(m, std::move(gone), rings);
    const auto pieces = pieces_of(m, gone);
    std::size_t largest = 0;
    for (const auto& p : pieces) largest = std::max(largest, p.size());
    std::vector<char> beside = grown(m, gone, 1);
    const mesh::WindingTree winding(m);
    for (const auto& p : pieces) {
        const bool cut = std::any_of(p.begin(), p.end(), [&](std::uint32_t t) { return beside[t]; });
        if (!cut || p.size() == largest) continue;
        progress.check();
        if (is_inside(winding, p))
            for (const std::uint32_t t : p) gone[t] = 1;
    }
    step.removed = static_cast<std::uint64_t>(std::count(gone.begin(), gone.end(), 1));
    step.mesh = without(m, gone);
    return step;
}

namespace {

struct Open {
    std::vector<std::uint32_t> rim;
    std::size_t attempt = 0;
    Fill fill;
    std::string why;
    bool joins_sheets = false;
};

// From what was asked for to flatter, then without new vertices.
FillOptions attempt_of(const FillOptions& asked, std::size_t attempt) {
    FillOptions o = asked;
    const auto kind = static_cast<std::size_t>(asked.kind);
    o.kind = static_cast<FillKind>(kind > attempt ? kind - attempt : 0);
    o.refine = asked.refine && attempt <= kind;
    return o;
}

// A fill that only repeats triangles of the mesh from behind: the piece is a sheet of one triangle.
bool repeats(const mesh::TriMesh& m, const Incidence& at, const Fill& f) {
    for (auto t : f.triangles) {
        if (t[0] >= m.vertices.size()) continue;
        std::sort(t.begin(), t.end());
        for (const std::uint32_t o : at.of(t[0])) {
            Triangle c = m.triangles[o];
            std::sort(c.begin(), c.end());
            if (c == t) return true;
        }
    }
    return false;
}

void try_fill(const mesh::TriMesh& m, const Incidence& at, const FillOptions& options, Open& open,
              Progress& progress) {
    const std::size_t kinds = static_cast<std::size_t>(options.kind) + 2;
    for (; open.attempt < kinds; ++open.attempt) {
        open.fill = fill_boundary(m, at, open.rim, attempt_of(options, open.attempt), progress);
        if (!open.fill.why_not.empty()) {
            open.why = open.fill.why_not;
            open.attempt = kinds;
            return;
        }
        if (!repeats(m, at, open.fill)) return;
        open.why = "The piece is a single sheet: there is nothing to close";
    }
    open.fill = {};
}

}  // namespace

Step fill_holes(const mesh::TriMesh& m, const FillOptions& options, std::uint64_t max_hole,
                const RimWanted& wanted, Progress& progress) {
    Step step;
    const topology::Adjacency a = topology::adjacency(m.triangles);
    std::vector<Open> open;
    const Incidence at(m);
    for (auto& rim : topology::boundary_loops(m.triangles, a)) {
        if (wanted && !wanted(m, rim)) continue;
        if (max_hole > 0 && rim.size() > max_hole) {
            step.unrepaired.push_back({Fault::Hole, m.vertices[rim[0]],
                                       "The hole has " + std::to_string(rim.size()) +
                                           " edges, more than the limit of " + std::to_string(max_hole)});
            continue;
        }
        open.push_back({std::move(rim), 0, {}, {}, false});
    }
    if (open.empty()) {
        step.mesh = m;
        return step;
    }
    const mesh::WindingTree winding(m);
    for (Open& o : open) {
        progress.check();
        if (joins_inner_sheet(winding, at, o.rim)) {
            o.why = kJoinsInnerSheet;
            o.joins_sheets = true;
            continue;
        }
        try_fill(m, at, options, o, progress);
    }
    // Fills that cross are tried flatter, all of them at once, until none does.
    for (;;) {
        step.mesh = m;
        std::vector<std::uint32_t> owner(m.triangles.size(), UINT32_MAX);
        for (std::uint32_t k = 0; k < open.size(); ++k) {
            const Fill& f = open[k].fill;
            const auto shift = static_cast<std::uint32_t>(step.mesh.vertices.size() - m.vertices.size());
            for (Triangle t : f.triangles) {
                for (std::uint32_t& v : t)
                    if (v >= m.vertices.size()) v += shift;
                step.mesh.triangles.push_back(t);
                owner.push_back(k);
            }
            step.mesh.vertices.insert(step.mesh.vertices.end(), f.vertices.begin(), f.vertices.end());
        }
        std::set<std::uint32_t> bad;
        for (const Pair& p : crossings(step.mesh, progress)) {
            // Of two fills that cross, the later gives way.
            const std::uint32_t k = std::max(owner[p[0]] == UINT32_MAX ? 0 : owner[p[0]] + 1,
                                             owner[p[1]] == UINT32_MAX ? 0 : owner[p[1]] + 1);
            if (k > 0) bad.insert(k - 1);
        }
        if (bad.empty()) break;
        for (const std::uint32_t k : bad) {
            ++open[k].attempt;
            open[k].why =
                "Every fill would cross the mesh: take the triangles round it away, or wrap the mesh";
            open[k].fill = {};
            try_fill(m, at, options, open[k], progress);
        }
    }
    for (const Open& o : open) {
        step.made += o.fill.triangles.size();
        if (!o.fill.triangles.empty()) continue;
        step.unrepaired.push_back({Fault::Hole, m.vertices[o.rim[0]], o.why});
        if (o.joins_sheets) continue;  // no ring less makes one sheet of two
        for (const std::uint32_t v : o.rim) step.tight.push_back(m.vertices[v]);
    }
    return step;
}

}  // namespace pristine::repair
