#include "core/repair/guard.h"

#include <algorithm>
#include <array>
#include <cmath>
#include <cstring>
#include <map>
#include <set>
#include <unordered_map>

#include "core/base/disjoint_sets.h"
#include "core/mesh/winding_tree.h"
#include "core/repair/edges.h"
#include "core/repair/steps.h"

namespace pristine::repair {
namespace {

constexpr int kMostGuardRounds = 8;
constexpr double kNamedFactor = 1.5;  // rings round faulty triangles go with them
constexpr double kInside = 0.9;       // winding number from which a place is enclosed
constexpr std::uint32_t kNowhere = UINT32_MAX;

using Key = std::array<std::uint32_t, 3>;

struct PlaceHash {
    std::size_t operator()(const Vec3& p) const {
        std::size_t h = 0;
        for (int a = 0; a < 3; ++a) {
            std::uint64_t bits = 0;
            const double v = p[a] == 0 ? 0 : p[a];  // both zeros are one place
            std::memcpy(&bits, &v, sizeof bits);
            h = (h ^ bits) * 0x9E3779B97F4A7C15ull;
            h ^= h >> 29;
        }
        return h;
    }
};
struct SamePlace {
    bool operator()(const Vec3& a, const Vec3& b) const { return a.x == b.x && a.y == b.y && a.z == b.z; }
};

double area_of(const mesh::TriMesh& m, std::uint32_t t) {
    const auto& c = m.triangles[t];
    return 0.5 * norm(cross(m.vertices[c[1]] - m.vertices[c[0]], m.vertices[c[2]] - m.vertices[c[0]]));
}

class Guard {
  public:
    Guard(const mesh::TriMesh& before, const Check& found, const mesh::TriMesh& proposed,
          const CheckOptions& options, double most_loss, Progress& progress)
        : b_(before),
          a_(proposed),
          found_(found),
          options_(options),
          most_loss_(most_loss),
          progress_(progress) {}

    Guarded run() {
        compare();
        bad_.assign(places_, 0);
        why_.resize(places_);
        Guarded g;
        judge_losses();
        for (int round = 0;; ++round) {
            const bool all = std::all_of(bad_.begin(), bad_.end(), [](char c) { return c == 0; });
            const bool none = std::all_of(bad_.begin(), bad_.end(), [](char c) { return c != 0; });
            g.mesh = all ? a_ : none ? b_ : assembled();
            g.after = none ? found_ : check(g.mesh, options_, progress_);
            if (none || !judge(g.mesh, g.after, round)) break;
        }
        for (std::uint32_t p = 0; p < places_; ++p)
            if (bad_[p]) g.left.push_back({corners_[p], why_[p]});
        return g;
    }

  private:
    std::uint32_t place_id(const Vec3& p) {
        return ids_.emplace(p, static_cast<std::uint32_t>(ids_.size())).first->second;
    }
    static Key key_of(const std::vector<std::uint32_t>& ids, const Triangle& t) {
        const Key k{ids[t[0]], ids[t[1]], ids[t[2]]};
        const auto least = static_cast<std::size_t>(std::min_element(k.begin(), k.end()) - k.begin());
        return {k[least], k[(least + 1) % 3], k[(least + 2) % 3]};
    }
    std::vector<std::pair<Key, std::uint32_t>> sorted(const mesh::TriMesh& m,
                                                      std::vector<std::uint32_t>& ids) {
        ids.clear();
        for (const Vec3& v : m.vertices) ids.push_back(place_id(v));
        std::vector<std::pair<Key, std::uint32_t>> keys;
        keys.reserve(m.triangles.size());
        for (std::uint32_t t = 0; t < m.triangles.size(); ++t)
            keys.push_back({key_of(ids, m.triangles[t]), t});
        std::sort(keys.begin(), keys.end());
        return keys;
    }

    // What is in one of the meshes only, and the places that it forms.
    void compare() {
        const auto before = sorted(b_, b_ids_), after = sorted(a_, a_ids_);
        std::size_t i = 0, j = 0;
        while (i < before.size() || j < after.size()) {
            if (j == after.size() || (i < before.size() && before[i].first < after[j].first))
                taken_.push_back(before[i++].second);
            else if (i == before.size() || after[j].first < before[i].first)
                made_.push_back(after[j++].second);
            else
                ++i, ++j;
        }
        DisjointSets joined(ids_.size());
        const auto join = [&](const std::vector<std::uint32_t>& ids, const Triangle& t) {
            for (std::size_t k = 1; k < 3; ++k)
                joined.join(static_cast<std::int32_t>(ids[t[0]]), static_cast<std::int32_t>(ids[t[k]]));
        };
        for (const std::uint32_t t : taken_) join(b_ids_, b_.triangles[t]);
        for (const std::uint32_t t : made_) join(a_ids_, a_.triangles[t]);
        place_of_.assign(ids_.size(), kNowhere);
        std::unordered_map<std::int32_t, std::uint32_t> number;
        const auto put = [&](const mesh::TriMesh& m, const std::vector<std::uint32_t>& ids, std::uint32_t t) {
            for (const std::uint32_t v : m.triangles[t]) {
                std::uint32_t& place = place_of_[ids[v]];
                if (place != kNowhere) continue;
                place = number
                            .emplace(joined.find(static_cast<std::int32_t>(ids[v])),
                                     static_cast<std::uint32_t>(number.size()))
                            .first->second;
                if (place >= corners_.size()) corners_.resize(place + 1);
                corners_[place].push_back(m.vertices[v]);
            }
        };
        for (const std::uint32_t t : taken_) put(b_, b_ids_, t);
        for (const std::uint32_t t : made_) put(a_, a_ids_, t);
        places_ = static_cast<std::uint32_t>(corners_.size());
    }

    std::uint32_t place_of_triangle(const std::vector<std::uint32_t>& ids, const Triangle& t) const {
        return place_of_[ids[t[0]]];
    }

    // How often a kind is found at each place; a finding that touches several counts for each.
    // After the kinds the edges of open scans: one less is better, one more is no fault.
    using Counts = std::vector<std::array<std::uint32_t, kFaults + 1>>;
    Counts counts(const mesh::TriMesh& m, const Check& c) const {
        Counts out(places_);
        std::vector<std::uint32_t> touched;
        for (std::size_t k = 0; k <= kFaults; ++k)
            for (const Finding& f : k == kFaults ? c.outer : c.findings[k]) {
                touched.clear();
                const auto look = [&](std::uint32_t v) {
                    const auto it = ids_.find(m.vertices[v]);
                    if (it != ids_.end() && place_of_[it->second] != kNowhere)
                        touched.push_back(place_of_[it->second]);
                };
                for (const std::uint32_t t : f.triangles)
                    for (const std::uint32_t v : m.triangles[t]) look(v);
                for (const std::uint32_t v : f.vertices) look(v);
                std::sort(touched.begin(), touched.end());
                touched.erase(std::unique(touched.begin(), touched.end()), touched.end());
                for (const std::uint32_t p : touched) ++out[p][k];
            }
        return out;
    }

    void leave(std::uint32_t place, std::string why) {
        bad_[place] = 1;
        why_[place] = std::move(why);
    }

    // A place may lose the faulty triangles, what goes with them, and a share of the mesh.
    void judge_losses() {
        std::vector<double> lost(places_, 0), named(places_, 0);
        double whole = 0;
        for (std::uint32_t t = 0; t < b_.triangles.size(); ++t) whole += area_of(b_, t);
        for (const std::uint32_t t : taken_)
            lost[place_of_triangle(b_ids_, b_.triangles[t])] += area_of(b_, t);
        for (const std::uint32_t t : made_)
            lost[place_of_triangle(a_ids_, a_.triangles[t])] -= area_of(a_, t);
        std::vector<char> is_named(b_.triangles.size(), 0);
        for (std::size_t k = 0; k < kFaults; ++k)
            if (static_cast<Fault>(k) != Fault::Hole)
                for (const Finding& f : found_.findings[k])
                    for (const std::uint32_t t : f.triangles) is_named[t] = 1;
        for (const std::uint32_t t : taken_)
            if (is_named[t]) named[place_of_triangle(b_ids_, b_.triangles[t])] += area_of(b_, t);
        const auto too_much = [&](std::uint32_t p) {
            return lost[p] > kNamedFactor * named[p] + most_loss_ * whole;
        };
        // What lies inside of the outcome is hidden by it and not lost: walls between bodies that became one.
        bool any = false;
        for (std::uint32_t p = 0; p < places_; ++p) any |= too_much(p);
        if (any) {
            const mesh::WindingTree winding(a_);
            for (const std::uint32_t t : taken_) {
                const std::uint32_t p = place_of_triangle(b_ids_, b_.triangles[t]);
                if (!too_much(p)) continue;
                progress_.check();
                const auto& c = b_.triangles[t];
                const Vec3 middle = (b_.vertices[c[0]] + b_.vertices[c[1]] + b_.vertices[c[2]]) * (1 / 3.0);
                if (std::fabs(winding.at(middle)) > kInside) lost[p] -= area_of(b_, t);
            }
        }
        for (std::uint32_t p = 0; p < places_; ++p)
            if (too_much(p)) leave(p, "The repair would take far more of the surface than is at fault there");
    }

    // Whether a place was only turned: the same triangles, with their corners the other way round.
    std::vector<char> only_turned() const {
        std::vector<std::map<std::array<std::uint32_t, 3>, int>> balance(places_);
        const auto add = [&](const std::vector<std::uint32_t>& ids, const Triangle& t, int by) {
            std::array<std::uint32_t, 3> k{ids[t[0]], ids[t[1]], ids[t[2]]};
            std::sort(k.begin(), k.end());
            balance[place_of_[ids[t[0]]]][k] += by;
        };
        for (const std::uint32_t t : taken_) add(b_ids_, b_.triangles[t], 1);
        for (const std::uint32_t t : made_) add(a_ids_, a_.triangles[t], -1);
        std::vector<char> out(places_, 1);
        for (std::uint32_t p = 0; p < places_; ++p)
            for (const auto& entry : balance[p])
                if (entry.second != 0) out[p] = 0;
        return out;
    }

    // Whether places were found that must go back.
    bool judge(const mesh::TriMesh& m, const Check& c, int round) {
        const Counts before = counts(b_, found_), after = counts(m, c);
        const std::vector<char> turned = only_turned();
        bool any = false;
        for (std::uint32_t p = 0; p < places_; ++p) {
            if (bad_[p]) continue;
            bool better = turned[p] != 0 || after[p][kFaults] < before[p][kFaults];
            for (std::size_t k = 0; k < kFaults; ++k) {
                better |= after[p][k] < before[p][k];
                if (after[p][k] <= before[p][k]) continue;
                leave(p, std::string("The repair would add to '") + id_of(static_cast<Fault>(k)) + "' here");
                break;
            }
            if (!bad_[p] && !better) leave(p, "The repair would better nothing here");
            any |= bad_[p] != 0;
        }
        if (any) return true;
        // Findings that touch no place, as a piece that lies inside of one that is now closed.
        bool worse = round >= kMostGuardRounds;
        for (std::size_t k = 0; k < kFaults; ++k) worse |= c.findings[k].size() > found_.findings[k].size();
        if (!worse) return false;
        for (std::uint32_t p = 0; p < places_; ++p)
            if (!bad_[p]) leave(p, "The repair would add faults elsewhere");
        return true;
    }

    // The mesh as it was, with what was made at the places that stay repaired.
    mesh::TriMesh assembled() const {
        mesh::TriMesh out;
        out.vertices = b_.vertices;
        std::vector<char> gone(b_.triangles.size(), 0);
        for (const std::uint32_t t : taken_) gone[t] = !bad_[place_of_triangle(b_ids_, b_.triangles[t])];
        std::vector<std::uint32_t> vertex_of(ids_.size(), kNowhere);
        for (std::uint32_t v = 0; v < b_ids_.size(); ++v)
            if (vertex_of[b_ids_[v]] == kNowhere) vertex_of[b_ids_[v]] = v;
        for (std::uint32_t t = 0; t < gone.size(); ++t)
            if (!gone[t]) out.triangles.push_back(b_.triangles[t]);
        for (const std::uint32_t t : made_) {
            Triangle c = a_.triangles[t];
            if (bad_[place_of_triangle(a_ids_, c)]) continue;
            for (std::uint32_t& v : c) {
                std::uint32_t& own = vertex_of[a_ids_[v]];
                if (own == kNowhere) {
                    own = static_cast<std::uint32_t>(out.vertices.size());
                    out.vertices.push_back(a_.vertices[v]);
                }
                v = own;
            }
            out.triangles.push_back(c);
        }
        return without(out, std::vector<char>(out.triangles.size(), 0));
    }

    const mesh::TriMesh &b_, &a_;
    const Check& found_;
    CheckOptions options_;
    double most_loss_;
    Progress& progress_;
    std::unordered_map<Vec3, std::uint32_t, PlaceHash, SamePlace> ids_;
    std::vector<std::uint32_t> b_ids_, a_ids_;  // of vertices
    std::vector<std::uint32_t> taken_, made_;   // triangles of before and of after
    std::vector<std::uint32_t> place_of_;       // of ids; kNone: nothing changed there
    std::uint32_t places_ = 0;
    std::vector<std::vector<Vec3>> corners_;
    std::vector<char> bad_;
    std::vector<std::string> why_;
};

}  // namespace

std::vector<char> still_there(const mesh::TriMesh& before, const mesh::TriMesh& after) {
    const auto key_of = [](const mesh::TriMesh& m, const Triangle& t) {
        std::array<std::array<double, 3>, 3> k{};
        for (std::size_t i = 0; i < 3; ++i)
            k[i] = {m.vertices[t[i]].x, m.vertices[t[i]].y, m.vertices[t[i]].z};
        const auto least = std::min_element(k.begin(), k.end());
        std::rotate(k.begin(), least, k.end());
        return k;
    };
    std::map<std::array<std::array<double, 3>, 3>, int> there;
    for (const Triangle& t : after.triangles) ++there[key_of(after, t)];
    std::vector<char> out;
    out.reserve(before.triangles.size());
    for (const Triangle& t : before.triangles) {
        const auto it = there.find(key_of(before, t));
        const bool still = it != there.end() && it->second > 0;
        if (still) --it->second;
        out.push_back(still);
    }
    return out;
}

Guarded guarded(const mesh::TriMesh& before, const Check& found, const mesh::TriMesh& proposed,
                const CheckOptions& options, double most_loss, Progress& progress) {
    return Guard(before, found, proposed, options, most_loss, progress).run();
}

}  // namespace pristine::repair
