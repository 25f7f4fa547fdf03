#include "core/repair/repair.h"

#include <algorithm>
#include <set>
#include <tuple>
#include <utility>

#include "core/repair/edges.h"
#include "core/repair/steps.h"
#include "core/topology/adjacency.h"

namespace pristine::repair {
namespace {

constexpr int kMostRounds = 4;

// Places of the rims that there were at first: holes that repairs leave are filled in any case.
using Place = std::tuple<double, double, double>;
std::set<Place> rim_places(const mesh::TriMesh& m) {
    std::set<Place> places;
    for (const auto& rim : topology::rims(m.triangles, topology::adjacency(m.triangles)))
        for (const std::uint32_t v : rim) places.insert({m.vertices[v].x, m.vertices[v].y, m.vertices[v].z});
    return places;
}

class Repairer {
  public:
    Repairer(const mesh::TriMesh& m, const RepairOptions& o, Progress& p) : o_(o), progress_(p) {
        r_.mesh = m;
        before_ = &m;
    }
    Repaired run() {
        progress_.stretch(0, 0.15, "Checking");
        r_.before = check(r_.mesh, o_.check, progress_);
        const std::set<Place> rims = rim_places(r_.mesh);
        const RimWanted wanted = [&](const mesh::TriMesh& m, const std::vector<std::uint32_t>& rim) {
            if (wants(Fault::Hole)) return true;
            return std::any_of(rim.begin(), rim.end(), [&](std::uint32_t v) {
                return !rims.contains({m.vertices[v].x, m.vertices[v].y, m.vertices[v].z});
            });
        };
        // What counts as tiny and small is decided once.
        tiny_ = o_.check.tiny_edge > 0 ? o_.check.tiny_edge : r_.before.tiny_edge;
        small_ = r_.before.small_piece;
        progress_.stretch(0.15, 0.85, "Repairing");
        for (int round = 0; round < kMostRounds; ++round) {
            open_.clear();
            before_filling(round);
            take(Fault::Hole, fill_holes(r_.mesh, o_.fill, o_.max_hole, wanted, progress_));
            const bool stuck = !std::exchange(changed_, false) && tight_.empty();
            if (stuck || !left_to_do()) break;
        }
        progress_.stretch(0.85, 1, "Checking");
        r_.after = check(r_.mesh, settled(), progress_);
        report();
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
        if (wants(Fault::InconsistentEdge)) take(Fault::InconsistentEdge, turn_alike(r_.mesh));
        if (wants(Fault::NonManifoldEdge) || wants(Fault::NonManifoldVertex))
            take(either(Fault::NonManifoldEdge, Fault::NonManifoldVertex), part_sheets(r_.mesh));
        if (wants(Fault::Spike)) take(Fault::Spike, drop_spikes(r_.mesh, o_.check.spike_deg));
        if (wants(Fault::SelfCrossing)) {
            take(Fault::SelfCrossing, unite_bodies(r_.mesh, progress_));
            take(Fault::SelfCrossing, drop_crossings(r_.mesh, round, progress_));
        }
        // What these left behind.
        if (wants(Fault::SmallPiece) && small_ > 0)
            take(Fault::SmallPiece, drop_small_pieces(r_.mesh, small_));
        if (wants(Fault::NonManifoldEdge) || wants(Fault::NonManifoldVertex))
            take(either(Fault::NonManifoldEdge, Fault::NonManifoldVertex), part_sheets(r_.mesh));
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
    // Everything that is still found is listed, with the reason where a repair gave one.
    void report() {
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
                r_.unrepaired.push_back({f, finding.where, why});
            }
        }
    }

    RepairOptions o_;
    Progress& progress_;
    Repaired r_;
    const mesh::TriMesh* before_;
    double tiny_ = 0;
    std::uint64_t small_ = 0;
    std::vector<Unrepaired> open_;
    std::vector<Vec3> tight_;
    bool changed_ = false;  // in this round
};

}  // namespace

Repaired repair(const mesh::TriMesh& m, const RepairOptions& options, Progress& progress) {
    return Repairer(m, options, progress).run();
}

}  // namespace pristine::repair
