#include "core/repair/check.h"

#include <algorithm>
#include <cmath>
#include <numbers>

#include "core/base/disjoint_sets.h"
#include "core/base/error.h"
#include "core/base/parallel.h"
#include "core/mesh/winding.h"
#include "core/repair/crossings.h"
#include "core/repair/edges.h"
#include "core/repair/outer_boundaries.h"
#include "core/topology/adjacency.h"

namespace pristine::repair {
namespace {

constexpr const char* kIds[kFaults] = {"non_manifold_edges",
                                       "non_manifold_vertices",
                                       "inconsistent_edges",
                                       "self_crossings",
                                       "degenerate",
                                       "tiny_edges",
                                       "spikes",
                                       "duplicate_faces",
                                       "small_pieces",
                                       "holes",
                                       "inner_shells"};

constexpr double kFlat = 1e-6;  // height to longest edge of a triangle without area

class Checker {
  public:
    Checker(const mesh::TriMesh& m, const CheckOptions& o) : m_(m), o_(o), uses_(edge_uses(m.triangles)) {}

    Check run(Progress& progress) {
        progress.stretch(0, 1, "Looking at edges and for crossings");
        // Side by side: much of the first runs on one worker. They add to lists of their own.
        parallel::for_each(o_.crossings ? 2 : 1, [&](std::size_t part) {
            if (part == 1) return find_crossings(progress);
            edges();
            triangles();
            progress.check();
            corners();
            pieces();
        });
        return std::move(c_);
    }

  private:
    void find_crossings(Progress& progress) {
        for (const Pair& p : crossings(m_, progress)) {
            const auto ends = intersection_segment(m_, p[0], p[1]);
            add({Fault::SelfIntersection, ends.empty() ? middle(p[0]) : ends[0], {p[0], p[1]}, {}});
        }
    }
    void add(Finding f) { c_.findings[static_cast<std::size_t>(f.fault)].push_back(std::move(f)); }
    Vec3 middle(std::uint32_t t) const {
        const auto& c = m_.triangles[t];
        return (m_.vertices[c[0]] + m_.vertices[c[1]] + m_.vertices[c[2]]) * (1 / 3.0);
    }
    double length(std::uint32_t a, std::uint32_t b) const { return norm(m_.vertices[b] - m_.vertices[a]); }

    double tiny_edge() const {
        if (o_.tiny_edge > 0) return o_.tiny_edge;
        std::vector<double> lengths;
        const std::size_t step = uses_.size() / 100'000 + 1;
        for (std::size_t i = 0; i < uses_.size(); i += step)
            lengths.push_back(length(uses_[i].lower, uses_[i].higher));
        if (lengths.empty()) return 0;
        std::nth_element(lengths.begin(), lengths.begin() + static_cast<std::ptrdiff_t>(lengths.size() / 2),
                         lengths.end());
        return 0.01 * lengths[lengths.size() / 2];
    }

    void edges() {
        c_.tiny_edge = tiny_edge();
        each_edge(uses_, [&](std::span<const EdgeUse> e) {
            ++edges_;
            open_ += e.size() == 1;
            if (e.size() == 2 && e[0].forward != e[1].forward) {
                // Nearly all of them.
                if (m_.triangles[e[0].triangle][e[0].k] == m_.triangles[e[1].triangle][e[1].k]) duplicates(e);
                if (length(e[0].lower, e[0].higher) >= c_.tiny_edge) return;
            } else {
                duplicates(e);
            }
            std::vector<std::uint32_t> at;
            for (const EdgeUse& u : e) at.push_back(u.triangle);
            const Vec3 where = (m_.vertices[e[0].lower] + m_.vertices[e[0].higher]) * 0.5;
            const std::vector<std::uint32_t> ends{e[0].lower, e[0].higher};
            if (e.size() > 2) add({Fault::NonManifoldEdge, where, at, ends});
            if (e.size() == 2 && e[0].forward == e[1].forward)
                add({Fault::InconsistentEdge, where, at, ends});
            if (length(e[0].lower, e[0].higher) < c_.tiny_edge) add({Fault::TinyEdge, where, at, ends});
        });
        c_.closed = !m_.triangles.empty() && open_ == 0 && c_.count(Fault::NonManifoldEdge) == 0 &&
                    c_.count(Fault::InconsistentEdge) == 0;
    }

    void triangles() {
        for (std::uint32_t t = 0; t < m_.triangles.size(); ++t) {
            const Triangle& c = m_.triangles[t];
            const Vec3 u = m_.vertices[c[1]] - m_.vertices[c[0]], v = m_.vertices[c[2]] - m_.vertices[c[0]];
            const double longest = std::max({dot(u, u), dot(v, v), dot(v - u, v - u)});
            if (c[0] == c[1] || c[1] == c[2] || c[2] == c[0] || !(norm(cross(u, v)) > kFlat * longest))
                add({Fault::Degenerate, middle(t), {t}, {}});
        }
    }

    // Triangles on the edge of their two lower corners, with the same third one.
    void duplicates(std::span<const EdgeUse> e) {
        for (std::size_t j = 1; j < e.size(); ++j) {
            const std::uint32_t apex = m_.triangles[e[j].triangle][e[j].k];
            if (apex < e[j].higher) continue;
            for (std::size_t i = 0; i < j; ++i)
                // One that names a corner twice has an edge twice, and is no double of itself.
                if (e[i].triangle != e[j].triangle && m_.triangles[e[i].triangle][e[i].k] == apex) {
                    add({Fault::DuplicateFace, middle(e[j].triangle), {e[j].triangle, e[i].triangle}, {}});
                    break;
                }
        }
    }

    // Fans: triangles round a corner, joined where they share an edge there.
    void corners() {
        std::vector<std::uint32_t> first(m_.vertices.size() + 1, 0);
        for (const auto& t : m_.triangles)
            for (const std::uint32_t v : t) ++first[v + 1];
        for (std::size_t v = 1; v < first.size(); ++v) first[v] += first[v - 1];
        std::vector<std::uint32_t> at(first.begin(), first.end() - 1), round(first.back());
        for (std::uint32_t t = 0; t < m_.triangles.size(); ++t)
            for (const std::uint32_t v : m_.triangles[t]) round[at[v]++] = t;
        constexpr std::size_t kRun = 32768;
        const std::size_t runs = (m_.vertices.size() + kRun - 1) / kRun;
        struct Part {
            std::vector<Finding> found;
            std::uint64_t used = 0;
        };
        for (auto& part : parallel::map<Part>(runs, [&](std::size_t r) {
                 Part own;
                 for (std::size_t v = r * kRun; v < std::min(m_.vertices.size(), (r + 1) * kRun); ++v) {
                     const std::span<const std::uint32_t> about(round.data() + first[v],
                                                                first[v + 1] - first[v]);
                     if (about.empty()) continue;
                     ++own.used;
                     corner(static_cast<std::uint32_t>(v), about, own.found);
                 }
                 return own;
             })) {
            used_ += part.used;
            for (Finding& f : part.found) add(std::move(f));
        }
    }

    void corner(std::uint32_t v, std::span<const std::uint32_t> own, std::vector<Finding>& found) const {
        DisjointSets fans(own.size());
        bool closed = true;
        double angle = 0;
        std::vector<std::pair<std::uint32_t, std::int32_t>> spokes;
        for (std::size_t i = 0; i < own.size(); ++i) {
            const auto& t = m_.triangles[own[i]];
            std::size_t k = 0;
            while (t[k] != v) ++k;
            const std::uint32_t a = t[(k + 1) % 3], b = t[(k + 2) % 3];
            spokes.push_back({a, static_cast<std::int32_t>(i)});
            spokes.push_back({b, static_cast<std::int32_t>(i)});
            const Vec3 p = m_.vertices[a] - m_.vertices[v], q = m_.vertices[b] - m_.vertices[v];
            angle += std::atan2(norm(cross(p, q)), dot(p, q));
        }
        std::sort(spokes.begin(), spokes.end());
        for (std::size_t i = 0; i < spokes.size();) {
            std::size_t j = i + 1;
            for (; j < spokes.size() && spokes[j].first == spokes[i].first; ++j)
                fans.join(spokes[i].second, spokes[j].second);
            closed &= j - i == 2;
            i = j;
        }
        const std::vector<std::uint32_t> all(own.begin(), own.end());
        for (std::size_t i = 0; i < own.size(); ++i)
            if (fans.find(static_cast<std::int32_t>(i)) != fans.find(0)) {
                found.push_back({Fault::NonManifoldVertex, m_.vertices[v], all, {v}});
                return;
            }
        if (closed && angle < o_.spike_deg * std::numbers::pi / 180)
            found.push_back({Fault::Spike, m_.vertices[v], all, {v}});
    }

    void pieces() {
        // DisjointSets across every edge, also where three meet or two face opposite ways.
        DisjointSets joined(m_.triangles.size());
        each_edge(uses_, [&](std::span<const EdgeUse> e) {
            for (std::size_t i = 1; i < e.size(); ++i)
                joined.join(static_cast<std::int32_t>(e[0].triangle),
                            static_cast<std::int32_t>(e[i].triangle));
        });
        std::vector<std::vector<std::uint32_t>> members;
        std::vector<std::int32_t> number(m_.triangles.size(), -1);
        for (std::uint32_t t = 0; t < m_.triangles.size(); ++t) {
            auto& n = number[static_cast<std::size_t>(joined.find(static_cast<std::int32_t>(t)))];
            if (n < 0) {
                n = static_cast<std::int32_t>(members.size());
                members.emplace_back();
            }
            members[static_cast<std::size_t>(n)].push_back(t);
            piece_.push_back(static_cast<std::uint32_t>(n));
        }
        c_.components = members.size();
        std::size_t largest = 0;
        for (const auto& p : members) largest = std::max(largest, p.size());
        c_.small_piece = o_.small_piece > 0 ? o_.small_piece : largest / 50;
        inner_shells(members);
        for (auto& p : members)
            if (p.size() < c_.small_piece) {
                const Vec3 where = middle(p[0]);
                add({Fault::SmallPiece, where, std::move(p), {}});
            }
        holes();
        const auto euler = static_cast<std::int64_t>(used_) - static_cast<std::int64_t>(edges_) +
                           static_cast<std::int64_t>(m_.triangles.size());
        c_.genus = c_.count(Fault::NonManifoldEdge) > 0
                       ? -1
                       : (2 * static_cast<std::int64_t>(c_.components) - euler -
                          static_cast<std::int64_t>(c_.count(Fault::Hole) + c_.outer.size())) /
                             2;
    }

    // Pieces whose places all lie inside a larger one.
    void inner_shells(const std::vector<std::vector<std::uint32_t>>& members) {
        constexpr std::size_t kMost =
            500;  // of many tiny pieces the first; they are found as small ones anyway
        if (members.size() < 2 || members.size() > kMost) return;
        std::vector<Box3> boxes(members.size());
        for (std::size_t p = 0; p < members.size(); ++p)
            for (const std::uint32_t t : members[p])
                for (const std::uint32_t v : m_.triangles[t]) boxes[p].add(m_.vertices[v]);
        const auto within = [](const Box3& a, const Box3& b) {
            for (int k = 0; k < 3; ++k)
                if (a.lo[k] < b.lo[k] || a.hi[k] > b.hi[k]) return false;
            return true;
        };
        for (std::size_t p = 0; p < members.size(); ++p)
            for (std::size_t o = 0; o < members.size(); ++o) {
                if (o == p || members[o].size() < members[p].size() || !within(boxes[p], boxes[o])) continue;
                const std::size_t step = std::max<std::size_t>(1, members[p].size() / 4);
                bool inside = true;
                for (std::size_t i = 0; i < members[p].size() && inside; i += step)
                    inside = std::fabs(mesh::winding(m_, members[o], middle(members[p][i]))) > 0.5;
                if (!inside) continue;
                add({Fault::InnerShell, middle(members[p][0]), members[p], {}});
                break;
            }
    }

    void holes() {
        // True rims only: edges of one triangle.
        std::vector<std::array<std::uint32_t, 3>> inner(m_.triangles.size(), {0, 0, 0});
        each_edge(uses_, [&](std::span<const EdgeUse> e) {
            if (e.size() > 1)
                for (const EdgeUse& u : e) inner[u.triangle][u.k] = 1;
        });
        if (open_ == 0) return;
        const auto loops = topology::boundary_loops(m_.triangles, topology::adjacency(m_.triangles));
        std::vector<std::pair<std::uint64_t, std::uint32_t>> rim;  // directed edge, triangle
        const auto key = [](std::uint32_t a, std::uint32_t b) { return std::uint64_t{a} << 32 | b; };
        for (std::uint32_t t = 0; t < m_.triangles.size(); ++t)
            for (std::size_t k = 0; k < 3; ++k)
                if (!inner[t][k])
                    rim.push_back({key(m_.triangles[t][(k + 1) % 3], m_.triangles[t][(k + 2) % 3]), t});
        std::sort(rim.begin(), rim.end());
        const std::vector<bool> outer = outer_boundaries(m_, loops, piece_);
        for (std::size_t l = 0; l < loops.size(); ++l) {
            const auto& loop = loops[l];
            Finding f{Fault::Hole, {}, {}, loop};
            bool any = false;
            for (std::size_t i = 0; i < loop.size(); ++i) {
                const auto at = std::lower_bound(rim.begin(), rim.end(),
                                                 std::pair{key(loop[i], loop[(i + 1) % loop.size()]), 0u});
                if (at == rim.end() || at->first != key(loop[i], loop[(i + 1) % loop.size()])) continue;
                any = true;
                f.triangles.push_back(at->second);
            }
            std::sort(f.triangles.begin(), f.triangles.end());
            f.triangles.erase(std::unique(f.triangles.begin(), f.triangles.end()), f.triangles.end());
            if (!any) continue;  // where three triangles meet: no hole
            for (const std::uint32_t v : loop)
                f.where = f.where + m_.vertices[v] * (1 / static_cast<double>(loop.size()));
            if (outer[l])
                c_.outer.push_back(std::move(f));
            else
                add(std::move(f));
        }
    }

    const mesh::TriMesh& m_;
    CheckOptions o_;
    std::vector<EdgeUse> uses_;
    std::uint64_t used_ = 0, edges_ = 0, open_ = 0;
    std::vector<std::uint32_t> piece_;  // of each triangle
    Check c_;
};

}  // namespace

const char* id_of(Fault f) {
    return kIds[static_cast<std::size_t>(f)];
}

Fault fault_of(const std::string& id) {
    for (std::size_t i = 0; i < kFaults; ++i)
        if (id == kIds[i]) return static_cast<Fault>(i);
    std::string all;
    for (const char* known : kIds) all += std::string(all.empty() ? "" : ", ") + known;
    throw Error(ErrorCode::Usage, "'" + id + "' is no fault of meshes", {}, "There are: " + all + ".");
}

bool Check::sound() const {
    return closed && count(Fault::SelfIntersection) == 0 && count(Fault::NonManifoldVertex) == 0 &&
           count(Fault::Degenerate) == 0 && count(Fault::DuplicateFace) == 0;
}

Check check(const mesh::TriMesh& m, const CheckOptions& options, Progress& progress) {
    return Checker(m, options).run(progress);
}

}  // namespace pristine::repair
