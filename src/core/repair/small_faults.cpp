// Triangles without area, short edges, doubled faces, needles, small pieces.

#include <algorithm>
#include <cmath>
#include <map>
#include <utility>

#include "core/repair/edges.h"
#include "core/repair/steps.h"

namespace pristine::repair {
namespace {

constexpr double kFlatToSquare = 1e-6;  // as in the check
constexpr double kNeedle =
    0.05;  // shortest to longest edge: below, a flat triangle closes up; above, it turns
constexpr int kMostPasses = 60;

double length(const mesh::TriMesh& m, std::uint32_t a, std::uint32_t b) {
    return norm(m.vertices[b] - m.vertices[a]);
}

Vec3 normal_of(const mesh::TriMesh& m, const Triangle& t) {
    return cross(m.vertices[t[1]] - m.vertices[t[0]], m.vertices[t[2]] - m.vertices[t[0]]);
}

// One pass over a mesh: repairs that do not touch each other.
class Pass {
  public:
    Pass(mesh::TriMesh& m, double tiny_edge)
        : m_(m), tiny_(tiny_edge), at_(m), busy_(m.vertices.size(), 0), gone_(m.triangles.size(), 0) {}

    // Whether anything was done.
    bool run(Step& step) {
        collect();
        std::sort(edges_.begin(), edges_.end());
        bool any = dropped_ > 0;
        step.removed += dropped_;
        step.unrepaired.clear();
        for (const auto& [l, edge] : edges_) any |= close_up(edge[0], edge[1], step);
        for (const std::uint32_t t : caps_) any |= turn(t, step);
        if (!any) return false;
        step.mesh = without(m_, gone_);
        return true;
    }

  private:
    void collect() {
        for (std::uint32_t t = 0; t < m_.triangles.size(); ++t) {
            const Triangle& c = m_.triangles[t];
            if (c[0] == c[1] || c[1] == c[2] || c[2] == c[0]) {
                gone_[t] = 1;
                ++dropped_;
                continue;
            }
            std::array<double, 3> l{};
            for (std::size_t k = 0; k < 3; ++k) l[k] = length(m_, c[(k + 1) % 3], c[(k + 2) % 3]);
            const auto shortest = static_cast<std::size_t>(std::min_element(l.begin(), l.end()) - l.begin());
            const double longest = *std::max_element(l.begin(), l.end());
            const bool flat = !(norm(normal_of(m_, c)) > kFlatToSquare * longest * longest);
            if (l[shortest] < tiny_ || (flat && l[shortest] < kNeedle * longest))
                edges_.push_back({l[shortest], {c[(shortest + 1) % 3], c[(shortest + 2) % 3]}});
            else if (flat)
                caps_.push_back(t);
        }
    }
    bool is_free(std::uint32_t v) const { return !busy_[v]; }
    void occupy(std::uint32_t v) {
        for (const std::uint32_t t : at_.of(v))
            for (const std::uint32_t o : m_.triangles[t]) busy_[o] = 1;
    }
    bool on_rim(std::uint32_t v) const {
        std::map<std::uint32_t, int> spokes;
        for (const std::uint32_t t : at_.of(v))
            for (const std::uint32_t o : m_.triangles[t])
                if (o != v) ++spokes[o];
        return std::any_of(spokes.begin(), spokes.end(), [](const auto& s) { return s.second == 1; });
    }
    std::vector<std::uint32_t> neighbours(std::uint32_t v) const {
        std::vector<std::uint32_t> out;
        for (const std::uint32_t t : at_.of(v))
            for (const std::uint32_t o : m_.triangles[t])
                if (o != v) out.push_back(o);
        std::sort(out.begin(), out.end());
        out.erase(std::unique(out.begin(), out.end()), out.end());
        return out;
    }
    // Whether moving `from` to `to` turns no triangle over.
    bool keeps_facing(std::uint32_t from, std::uint32_t to) const {
        for (const std::uint32_t t : at_.of(from)) {
            Triangle c = m_.triangles[t];
            if (gone_[t] || std::find(c.begin(), c.end(), to) != c.end()) continue;
            const Vec3 before = normal_of(m_, c);
            std::replace(c.begin(), c.end(), from, to);
            const Vec3 after = normal_of(m_, c);
            const double l = norm(before) * norm(after);
            if (norm(before) > 0 && !(dot(before, after) > 0.1 * l)) return false;
        }
        return true;
    }
    bool close_up(std::uint32_t a, std::uint32_t b, Step& step) {
        if (!is_free(a) || !is_free(b)) return false;
        std::size_t uses = 0;
        for (const std::uint32_t t : at_.of(a)) {
            const Triangle& c = m_.triangles[t];
            uses += !gone_[t] && std::find(c.begin(), c.end(), b) != c.end();
        }
        const auto na = neighbours(a), nb = neighbours(b);
        std::vector<std::uint32_t> common;
        std::set_intersection(na.begin(), na.end(), nb.begin(), nb.end(), std::back_inserter(common));
        const Vec3 where = (m_.vertices[a] + m_.vertices[b]) * 0.5;
        const bool rim_a = on_rim(a), rim_b = on_rim(b);
        if (uses > 2 || common.size() != uses || (rim_a && rim_b && uses == 2)) {
            step.unrepaired.push_back(
                {Fault::TinyEdge, where, "Closing the edge up would pinch the surface"});
            return false;
        }
        std::uint32_t from = b, to = a;
        if (rim_b && !rim_a) std::swap(from, to);
        if (!keeps_facing(from, to)) {
            std::swap(from, to);
            if ((rim_a != rim_b) || !keeps_facing(from, to)) {
                step.unrepaired.push_back(
                    {Fault::TinyEdge, where, "Closing the edge up would fold the surface"});
                return false;
            }
        }
        occupy(a);
        occupy(b);
        auto& triangles = m_.triangles;
        for (const std::uint32_t t : at_.of(from)) {
            if (gone_[t]) continue;
            Triangle& c = triangles[t];
            ++step.removed;
            if (std::find(c.begin(), c.end(), to) != c.end()) {
                gone_[t] = 1;
                continue;
            }
            ++step.made;
            std::replace(c.begin(), c.end(), from, to);
        }
        return true;
    }
    bool turn(std::uint32_t t, Step& step) {
        auto& triangles = m_.triangles;
        const Triangle c = m_.triangles[t];
        if (gone_[t] || busy_[c[0]] || busy_[c[1]] || busy_[c[2]]) return false;
        std::size_t k = 0;
        for (std::size_t i = 1; i < 3; ++i)
            if (length(m_, c[(i + 1) % 3], c[(i + 2) % 3]) > length(m_, c[(k + 1) % 3], c[(k + 2) % 3]))
                k = i;
        const std::uint32_t top = c[k], u = c[(k + 1) % 3], v = c[(k + 2) % 3];
        std::vector<std::uint32_t> others;
        for (const std::uint32_t o : at_.of(u)) {
            const Triangle& d = m_.triangles[o];
            if (o != t && !gone_[o] && std::find(d.begin(), d.end(), v) != d.end()) others.push_back(o);
        }
        if (others.empty()) {
            gone_[t] = 1;
            ++step.removed;
            for (const std::uint32_t w : c) occupy(w);
            return true;
        }
        const Triangle d = m_.triangles[others[0]];
        std::size_t l = 0;
        while (d[l] == u || d[l] == v) ++l;
        const auto near = neighbours(top);
        if (others.size() > 1 || d[(l + 1) % 3] != v || busy_[d[l]] ||
            std::binary_search(near.begin(), near.end(), d[l])) {
            step.unrepaired.push_back(
                {Fault::Degenerate, m_.vertices[top], "Its neighbour leaves no room to turn it"});
            return false;
        }
        for (const std::uint32_t w : {top, u, v, d[l]}) occupy(w);
        triangles[t] = {top, u, d[l]};
        triangles[others[0]] = {top, d[l], v};
        step.removed += 2;
        step.made += 2;
        return true;
    }

    mesh::TriMesh& m_;
    double tiny_;
    Incidence at_;
    std::vector<char> busy_, gone_;
    std::vector<std::pair<double, std::array<std::uint32_t, 2>>> edges_;
    std::vector<std::uint32_t> caps_;
    std::uint64_t dropped_ = 0;
};

}  // namespace

mesh::TriMesh without(const mesh::TriMesh& m, const std::vector<char>& gone) {
    mesh::TriMesh out;
    std::vector<std::uint32_t> number(m.vertices.size(), UINT32_MAX);
    for (std::size_t t = 0; t < m.triangles.size(); ++t)
        if (!gone[t])
            for (const std::uint32_t v : m.triangles[t]) number[v] = 0;
    for (std::size_t v = 0; v < number.size(); ++v)
        if (number[v] == 0) {
            number[v] = static_cast<std::uint32_t>(out.vertices.size());
            out.vertices.push_back(m.vertices[v]);
        }
    for (std::size_t t = 0; t < m.triangles.size(); ++t)
        if (!gone[t]) {
            const Triangle& c = m.triangles[t];
            out.triangles.push_back({number[c[0]], number[c[1]], number[c[2]]});
        }
    return out;
}

Step drop_degenerate(const mesh::TriMesh& m, double tiny_edge, Progress& progress) {
    Step step;
    step.mesh = m;
    for (int pass = 0; pass < kMostPasses; ++pass) {
        progress.check();
        mesh::TriMesh own = std::move(step.mesh);
        Pass p(own, tiny_edge);
        if (!p.run(step)) {
            step.mesh = std::move(own);
            break;
        }
    }
    return step;
}

Step drop_duplicates(const mesh::TriMesh& m) {
    Step step;
    std::vector<std::pair<Triangle, std::uint32_t>> sorted;
    for (std::uint32_t t = 0; t < m.triangles.size(); ++t) {
        Triangle c = m.triangles[t];
        std::sort(c.begin(), c.end());
        sorted.push_back({c, t});
    }
    std::sort(sorted.begin(), sorted.end());
    const auto uses = edge_uses(m.triangles);
    const auto count = [&](std::uint32_t a, std::uint32_t b) {
        const EdgeUse want{std::min(a, b), std::max(a, b), 0, 0, false};
        const auto [from, to] =
            std::equal_range(uses.begin(), uses.end(), want, [](const EdgeUse& x, const EdgeUse& y) {
                return x.lower != y.lower ? x.lower < y.lower : x.higher < y.higher;
            });
        return to - from;
    };
    std::vector<char> gone(m.triangles.size(), 0);
    for (std::size_t i = 0; i < sorted.size();) {
        std::size_t j = i + 1;
        while (j < sorted.size() && sorted[j].first == sorted[i].first) ++j;
        if (j - i > 1) {
            const Triangle& c = sorted[i].first;
            const auto copies = static_cast<std::ptrdiff_t>(j - i);
            // Without the copies, does every edge have two triangles already?
            const bool extra = count(c[0], c[1]) - copies >= 2 && count(c[1], c[2]) - copies >= 2 &&
                               count(c[2], c[0]) - copies >= 2;
            for (std::size_t k = extra ? i : i + 1; k < j; ++k) {
                gone[sorted[k].second] = 1;
                ++step.removed;
            }
        }
        i = j;
    }
    step.mesh = without(m, gone);
    return step;
}

namespace {

Step drop_found(const mesh::TriMesh& m, const CheckOptions& options, Fault fault) {
    CheckOptions own = options;
    own.crossings = false;
    const Check c = check(m, own);
    Step step;
    std::vector<char> gone(m.triangles.size(), 0);
    for (const Finding& f : c.of(fault))
        for (const std::uint32_t t : f.triangles) step.removed += !std::exchange(gone[t], 1);
    step.mesh = without(m, gone);
    return step;
}

}  // namespace

Step drop_spikes(const mesh::TriMesh& m, double spike_deg) {
    CheckOptions o;
    o.spike_deg = spike_deg;
    return drop_found(m, o, Fault::Spike);
}

Step drop_inner_shells(const mesh::TriMesh& m) {
    CheckOptions o;
    o.crossings = false;
    Step step;
    std::vector<char> gone(m.triangles.size(), 0);
    const Check found = check(m, o);
    for (const Finding& f : found.of(Fault::InnerShell)) {
        mesh::TriMesh piece;
        piece.vertices = m.vertices;
        for (const std::uint32_t t : f.triangles) piece.triangles.push_back(m.triangles[t]);
        if (mesh::open_edges(piece) == 0 && mesh::signed_volume(piece) < 0) {
            step.unrepaired.push_back(
                {Fault::InnerShell, f.where,
                 "It is closed and faces inwards, as a cavity does: remove it by hand if there is none"});
            continue;
        }
        for (const std::uint32_t t : f.triangles) step.removed += !std::exchange(gone[t], 1);
    }
    step.mesh = without(m, gone);
    return step;
}

Step drop_small_pieces(const mesh::TriMesh& m, std::uint64_t least) {
    CheckOptions o;
    o.small_piece = least;
    return drop_found(m, o, Fault::SmallPiece);
}

}  // namespace pristine::repair
