#include "core/repair/repair.h"

#include <algorithm>
#include <array>
#include <map>
#include <optional>
#include <set>
#include <tuple>
#include <utility>

#include "core/repair/edges.h"
#include "core/repair/guard.h"
#include "core/repair/steps.h"
#include "core/topology/adjacency.h"

namespace pristine::repair {
namespace {

constexpr int kMostRepairRounds = 4;

// Places of the rims that there were at first: holes that repairs leave are filled in any case.
using Place = std::tuple<double, double, double>;
Place place_of(const mesh::TriMesh& m, std::uint32_t v) {
    return {m.vertices[v].x, m.vertices[v].y, m.vertices[v].z};
}
std::set<Place> rim_places(const mesh::TriMesh& m) {
    std::set<Place> places;
    for (const auto& rim : topology::boundary_loops(m.triangles, topology::adjacency(m.triangles)))
        for (const std::uint32_t v : rim) places.insert({m.vertices[v].x, m.vertices[v].y, m.vertices[v].z});
    return places;
}

class Repairer {
  public:
    /// `found`: the check of the mesh, if there is one already. `frozen`: corners of rims that stay open.
    Repairer(const mesh::TriMesh& m, const RepairOptions& o, Progress& p, std::optional<Check> found = {},
             std::set<Place> frozen = {})
        : o_(o), progress_(p), found_(std::move(found)), frozen_(std::move(frozen)) {
        r_.mesh = m;
        before_ = &m;
    }
    Repaired run() {
        const double checked = found_ ? 0 : 0.3;  // of the time that it takes
        {
            const Progress::Part part(progress_, 0, checked, "Checking");
            r_.before = found_ ? std::move(*found_) : check(r_.mesh, o_.check, progress_);
        }
        const std::set<Place> rims = rim_places(r_.mesh);
        std::set<Place> outer = frozen_;
        if (!o_.fill_outer)
            for (const Finding& f : r_.before.outer)
                for (const std::uint32_t v : f.vertices) outer.insert(place_of(r_.mesh, v));
        const RimWanted wanted = [&](const mesh::TriMesh& m, const std::vector<std::uint32_t>& rim) {
            // The edge of an open scan stays open, also where a repair moved it.
            for (const std::uint32_t v : rim)
                if (outer.contains(place_of(m, v))) return false;
            if (wants(Fault::Hole)) return true;
            return std::any_of(rim.begin(), rim.end(),
                               [&](std::uint32_t v) { return !rims.contains(place_of(m, v)); });
        };
        // What counts as tiny and small is decided once.
        tiny_ = o_.check.tiny_edge > 0 ? o_.check.tiny_edge : r_.before.tiny_edge;
        small_ = r_.before.small_piece;
        progress_.stretch(checked, 0.7, "Repairing");
        for (int round = 0; round < kMostRepairRounds; ++round) {
            open_.clear();
            before_filling(round);
            take(Fault::Hole, fill_holes(r_.mesh, o_.fill, o_.max_hole, wanted, progress_));
            const bool stuck = !std::exchange(changed_, false) && tight_.empty();
            if (stuck || !left_to_do()) break;
        }
        const Progress::Part part(progress_, 0.7, 1, "Checking");
        Guarded g = guarded(*before_, r_.before, r_.mesh, settled(), o_.most_loss, progress_);
        r_.mesh = std::move(g.mesh);
        r_.after = std::move(g.after);
        r_.left_alone = g.left.size();
        report(g.left);
        measure_change();
        r_.deviation = deviation_of_made(*before_, r_.mesh, progress_);
        return std::move(r_);
    }

  private:
    bool wants(Fault f) const { return o_.only.empty() || o_.only.contains(f); }
    // Of two kinds that one step repairs, the one that was found.
    Fault either(Fault first, Fault second) const {
        return wants(first) && (r_.before.count(first) > 0 || !wants(second)) ? first : second;
    }
    void take(Fault f, Step s) {
        if (s.removed + s.made > 0) {
            changed_ = true;
            auto at = std::find_if(r_.steps.begin(), r_.steps.end(),
                                   [&](const RepairStep& k) { return k.fault == f; });
            if (at == r_.steps.end()) {
                r_.steps.push_back({f, r_.before.count(f), 0, 0});
                at = r_.steps.end() - 1;
            }
            at->removed += s.removed;
            at->made += s.made;
        }
        tight_.insert(tight_.end(), s.tight.begin(), s.tight.end());
        open_.insert(open_.end(), s.unrepaired.begin(), s.unrepaired.end());
        r_.mesh = std::move(s.mesh);
    }
    void before_filling(int round) {
        if (!tight_.empty()) take(Fault::Hole, widen(r_.mesh, std::exchange(tight_, {})));
        if (wants(Fault::Degenerate) || wants(Fault::TinyEdge)) {
            const double tiny = wants(Fault::TinyEdge) ? tiny_ : 0;
            take(either(Fault::TinyEdge, Fault::Degenerate), drop_degenerate(r_.mesh, tiny, progress_));
        }
        if (wants(Fault::DuplicateFace)) take(Fault::DuplicateFace, drop_duplicates(r_.mesh));
        if (wants(Fault::SmallPiece) && small_ > 0)
            take(Fault::SmallPiece, drop_small_pieces(r_.mesh, small_));
        if (wants(Fault::InnerShell)) take(Fault::InnerShell, drop_inner_shells(r_.mesh));
        if (wants(Fault::InconsistentEdge)) take(Fault::InconsistentEdge, orient_consistently(r_.mesh));
        if (wants(Fault::NonManifoldEdge) || wants(Fault::NonManifoldVertex))
            take(either(Fault::NonManifoldEdge, Fault::NonManifoldVertex), split_non_manifold_edges(r_.mesh));
        if (wants(Fault::Spike)) take(Fault::Spike, drop_spikes(r_.mesh, o_.check.spike_deg));
        if (wants(Fault::SelfIntersection)) {
            take(Fault::SelfIntersection, self_union(r_.mesh, progress_));
            take(Fault::SelfIntersection, drop_crossings(r_.mesh, round, progress_));
        }
        // What these left behind.
        if (wants(Fault::SmallPiece) && small_ > 0)
            take(Fault::SmallPiece, drop_small_pieces(r_.mesh, small_));
        if (wants(Fault::NonManifoldEdge) || wants(Fault::NonManifoldVertex))
            take(either(Fault::NonManifoldEdge, Fault::NonManifoldVertex), split_non_manifold_edges(r_.mesh));
    }
    CheckOptions settled() const {
        CheckOptions c = o_.check;
        c.tiny_edge = tiny_;
        c.small_piece = std::max<std::uint64_t>(small_, 1);
        return c;
    }
    bool left_to_do() {
        const Check c = check(r_.mesh, settled(), progress_);
        for (std::size_t f = 0; f < kFaults; ++f)
            if (wants(static_cast<Fault>(f)) && c.count(static_cast<Fault>(f)) > 0) return true;
        return false;
    }
    // How much surface went and came; the counts of steps tell what was tried.
    void measure_change() {
        const auto sorted_of = [](const mesh::TriMesh& m, double& whole) {
            std::vector<std::pair<std::array<double, 9>, double>> all;
            for (const auto& t : m.triangles) {
                const Vec3 &a = m.vertices[t[0]], &b = m.vertices[t[1]], &c = m.vertices[t[2]];
                const double area = 0.5 * norm(cross(b - a, c - a));
                std::array<Place, 3> at{place_of(m, t[0]), place_of(m, t[1]), place_of(m, t[2])};
                std::sort(at.begin(), at.end());
                std::array<double, 9> key{};
                for (std::size_t k = 0; k < 3; ++k)
                    std::tie(key[3 * k], key[3 * k + 1], key[3 * k + 2]) = at[k];
                all.push_back({key, area});
                whole += area;
            }
            std::sort(all.begin(), all.end());
            return all;
        };
        const auto before = sorted_of(*before_, r_.area_before), after = sorted_of(r_.mesh, r_.area_after);
        std::size_t i = 0, j = 0;
        while (i < before.size() || j < after.size()) {
            if (j == after.size() || (i < before.size() && before[i].first < after[j].first))
                ++r_.taken, r_.area_taken += before[i++].second;
            else if (i == before.size() || after[j].first < before[i].first)
                ++r_.made, r_.area_made += after[j++].second;
            else
                ++i, ++j;
        }
    }
    // Everything that is still found is listed, with the reason where a repair gave one.
    void report(const std::vector<Guarded::Left>& left) {
        std::map<Place, const std::string*> left_at;
        for (const Guarded::Left& l : left)
            for (const Vec3& p : l.corners) left_at[{p.x, p.y, p.z}] = &l.why;
        const auto why_left = [&](const Finding& f) -> const std::string* {
            for (const std::uint32_t t : f.triangles)
                for (const std::uint32_t v : r_.mesh.triangles[t])
                    if (const auto it = left_at.find(place_of(r_.mesh, v)); it != left_at.end())
                        return it->second;
            return nullptr;
        };
        for (std::size_t k = 0; k < kFaults; ++k) {
            const auto f = static_cast<Fault>(k);
            if (!wants(f)) continue;
            for (const Finding& finding : r_.after.of(f)) {
                std::string why = "It came back after every repair";
                double nearest = INFINITY;
                for (const Unrepaired& u : open_) {
                    const bool same = u.fault == f || (f == Fault::Degenerate && u.fault == Fault::TinyEdge);
                    if (same && norm(u.where - finding.where) < nearest) {
                        nearest = norm(u.where - finding.where);
                        why = u.why;
                    }
                }
                if (const std::string* own = why_left(finding)) why = *own + ", so it stays as it was";
                r_.unrepaired.push_back({f, finding.where, why});
            }
        }
    }

    RepairOptions o_;
    Progress& progress_;
    std::optional<Check> found_;
    std::set<Place> frozen_;
    Repaired r_;
    const mesh::TriMesh* before_;
    double tiny_ = 0;
    std::uint64_t small_ = 0;
    std::vector<Unrepaired> open_;
    std::vector<Vec3> tight_;
    bool changed_ = false;  // in this round
};

// A large mesh with few faults: only their surroundings are repaired, and put back.
class Nearby {
  public:
    Nearby(const mesh::TriMesh& m, const RepairOptions& o, Progress& p) : m_(m), o_(o), progress_(p) {}
    /// None when the faults lie all over it, or the outcome would have more of some kind; `found` is then
    /// filled.
    std::optional<Repaired> run(std::optional<Check>& found) {
        const double checked = found ? 0.05 : 0.45;  // of the time that it takes
        if (!found) {
            const Progress::Part part(progress_, 0, checked, "Checking");
            found = check(m_, o_.check, progress_);
        }
        if (wants(Fault::InnerShell) && found->count(Fault::InnerShell) > 0) return std::nullopt;
        mark(*found);
        const auto n = static_cast<std::size_t>(std::count(near_.begin(), near_.end(), 1));
        if (n > m_.triangles.size() / 5) return std::nullopt;
        Repaired r;
        r.before = *found;
        std::vector<char> rest = near_;
        for (char& c : rest) c = static_cast<char>(!c);
        const mesh::TriMesh part = without(m_, rest);
        Repaired local;
        if (!part.triangles.empty()) {
            const Progress::Part stretch(progress_, checked, checked + 0.05, "Repairing");
            local = Repairer(part, options(*found), progress_, {}, frozen(part, *found)).run();
        }
        r.mesh = put_back(local.mesh);
        r.steps = local.steps;
        if (const auto pieces = static_cast<std::uint64_t>(std::count(gone_.begin(), gone_.end(), 1));
            pieces > 0)
            r.steps.push_back({Fault::SmallPiece, found->count(Fault::SmallPiece), pieces, 0});
        r.taken = local.taken;
        r.made = local.made;
        r.area_taken = local.area_taken;
        r.area_made = local.area_made;
        r.left_alone = local.left_alone;
        r.deviation = local.deviation;
        for (std::size_t t = 0; t < m_.triangles.size(); ++t) {
            r.area_before += area(t);
            if (gone_[t]) r.area_taken += area(t), ++r.taken;
        }
        r.area_after = r.area_before - r.area_taken + r.area_made;
        const Progress::Part stretch(progress_, checked + 0.15, 1, "Checking");
        CheckOptions settled = o_.check;
        settled.tiny_edge = found->tiny_edge;
        settled.small_piece = std::max<std::uint64_t>(found->small_piece, 1);
        r.after = check(r.mesh, settled, progress_);
        for (std::size_t k = 0; k < kFaults; ++k)
            if (r.after.findings[k].size() > found->findings[k].size()) return std::nullopt;
        report(r, local);
        return r;
    }

  private:
    bool wants(Fault f) const { return o_.only.empty() || o_.only.contains(f); }
    double area(std::size_t t) const {
        const auto& c = m_.triangles[t];
        return 0.5 *
               norm(cross(m_.vertices[c[1]] - m_.vertices[c[0]], m_.vertices[c[2]] - m_.vertices[c[0]]));
    }
    void mark(const Check& found) {
        near_.assign(m_.triangles.size(), 0);
        gone_.assign(m_.triangles.size(), 0);
        for (std::size_t k = 0; k < kFaults; ++k) {
            const auto f = static_cast<Fault>(k);
            if (!wants(f)) continue;
            for (const Finding& finding : found.of(f)) {
                if (f == Fault::Hole && o_.max_hole > 0 && finding.vertices.size() > o_.max_hole) continue;
                for (const std::uint32_t t : finding.triangles)
                    (f == Fault::SmallPiece ? gone_ : near_)[t] = 1;
            }
        }
        if (o_.fill_outer)
            for (const Finding& finding : found.outer)
                for (const std::uint32_t t : finding.triangles) near_[t] = 1;
        constexpr int kRings = 8;
        for (int r = 0; r < kRings; ++r) {
            std::vector<char> at(m_.vertices.size(), 0);
            for (std::size_t t = 0; t < near_.size(); ++t)
                if (near_[t])
                    for (const std::uint32_t v : m_.triangles[t]) at[v] = 1;
            for (std::size_t t = 0; t < near_.size(); ++t)
                for (const std::uint32_t v : m_.triangles[t]) near_[t] = static_cast<char>(near_[t] | at[v]);
        }
        for (std::size_t t = 0; t < near_.size(); ++t)
            if (gone_[t]) near_[t] = 0;
    }
    RepairOptions options(const Check& found) const {
        RepairOptions o = o_;
        if (o.only.empty())
            for (std::size_t k = 0; k < kFaults; ++k) o.only.insert(static_cast<Fault>(k));
        o.only.erase(Fault::SmallPiece);
        o.only.erase(Fault::InnerShell);
        o.check.tiny_edge = found.tiny_edge;
        o.check.small_piece = 1;
        o.fill_outer = false;  // what is an edge is decided on the whole
        return o;
    }
    // Corners of edges that are open in the part only because it is one, and of edges of the open scan.
    std::set<Place> frozen(const mesh::TriMesh& part, const Check& found) const {
        std::set<Place> open;
        const auto add_open = [](const mesh::TriMesh& m, std::set<std::pair<Place, Place>>& edges) {
            const auto uses = edge_uses(m.triangles);
            each_edge(uses, [&](std::span<const EdgeUse> e) {
                if (e.size() == 1)
                    edges.insert(std::minmax(place_of(m, e[0].lower), place_of(m, e[0].higher)));
            });
        };
        std::set<std::pair<Place, Place>> of_part, of_whole;
        add_open(part, of_part);
        add_open(m_, of_whole);
        for (const auto& e : of_part)
            if (!of_whole.contains(e)) {
                open.insert(e.first);
                open.insert(e.second);
            }
        if (!o_.fill_outer)
            for (const Finding& f : found.outer)
                for (const std::uint32_t v : f.vertices) open.insert(place_of(m_, v));
        return open;
    }
    // Corners of the part have the numbers that they have in the mesh, new ones come after them.
    mesh::TriMesh put_back(const mesh::TriMesh& repaired) const {
        std::map<Place, std::uint32_t> number;
        std::vector<char> used(m_.vertices.size(), 0);
        for (std::size_t t = 0; t < near_.size(); ++t)
            if (near_[t])
                for (const std::uint32_t v : m_.triangles[t]) used[v] = 1;
        for (std::uint32_t v = 0; v < used.size(); ++v)
            if (used[v]) number.emplace(place_of(m_, v), v);
        mesh::TriMesh out;
        out.vertices = m_.vertices;
        for (std::size_t t = 0; t < near_.size(); ++t)
            if (!near_[t] && !gone_[t]) out.triangles.push_back(m_.triangles[t]);
        for (Triangle t : repaired.triangles) {
            for (std::uint32_t& v : t) {
                const auto [it, fresh] =
                    number.emplace(place_of(repaired, v), static_cast<std::uint32_t>(out.vertices.size()));
                if (fresh) out.vertices.push_back(repaired.vertices[v]);
                v = it->second;
            }
            out.triangles.push_back(t);
        }
        return without(out, std::vector<char>(out.triangles.size(), 0));
    }
    void report(Repaired& r, const Repaired& local) const {
        for (std::size_t k = 0; k < kFaults; ++k) {
            const auto f = static_cast<Fault>(k);
            if (!wants(f)) continue;
            for (const Finding& finding : r.after.of(f)) {
                std::string why = f == Fault::Hole && o_.max_hole > 0 && finding.vertices.size() > o_.max_hole
                                      ? "The hole has " + std::to_string(finding.vertices.size()) +
                                            " edges, more than the limit of " + std::to_string(o_.max_hole)
                                      : "It came back after every repair";
                double nearest = INFINITY;
                for (const Unrepaired& u : local.unrepaired)
                    if (u.fault == f && norm(u.where - finding.where) < nearest) {
                        nearest = norm(u.where - finding.where);
                        why = u.why;
                    }
                r.unrepaired.push_back({f, finding.where, why});
            }
        }
    }

    const mesh::TriMesh& m_;
    RepairOptions o_;
    Progress& progress_;
    std::vector<char> near_, gone_;
};

constexpr std::size_t kLarge = 200'000;  // triangles; below, the whole is as fast

}  // namespace

Repaired repair(const mesh::TriMesh& m, const RepairOptions& options, Progress& progress,
                const Check* known) {
    std::optional<Check> found;
    if (known) found = *known;
    if (m.triangles.size() >= kLarge)
        if (auto done = Nearby(m, options, progress).run(found)) return std::move(*done);
    return Repairer(m, options, progress, std::move(found)).run();
}

}  // namespace pristine::repair
