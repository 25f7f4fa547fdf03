#include "core/repair/collapse.h"

#include <algorithm>
#include <array>
#include <cmath>
#include <cstdint>
#include <queue>

#include "core/topology/adjacency.h"

namespace pristine::repair {
namespace {

constexpr double kByLength = 1e-6;   // of the length to the fourth power: what an edge costs in a plane
constexpr double kRimWeight = 10;    // of the planes that hold rims
constexpr double kTurn = 0.3;        // least cosine by which a triangle may turn at once
constexpr double kFold = -0.7;       // cosine between neighbours: sharper is a fold, unless it was one
constexpr double kThinnest = 0.005;  // quality of a triangle, 1 for an equilateral one, unless it was thinner

// Sum of weighted squared distances from planes.
struct Quadric {
    double xx = 0, xy = 0, xz = 0, yy = 0, yz = 0, zz = 0, x = 0, y = 0, z = 0, c = 0;
    void add_plane(const Vec3& n, double d, double weight) {
        xx += weight * n.x * n.x, xy += weight * n.x * n.y, xz += weight * n.x * n.z;
        yy += weight * n.y * n.y, yz += weight * n.y * n.z, zz += weight * n.z * n.z;
        x += weight * n.x * d, y += weight * n.y * d, z += weight * n.z * d, c += weight * d * d;
    }
    void add(const Quadric& q) {
        xx += q.xx, xy += q.xy, xz += q.xz, yy += q.yy, yz += q.yz, zz += q.zz;
        x += q.x, y += q.y, z += q.z, c += q.c;
    }
    double at(const Vec3& p) const {
        return std::max(
            0.0, xx * p.x * p.x + yy * p.y * p.y + zz * p.z * p.z +
                     2 * (xy * p.x * p.y + xz * p.x * p.z + yz * p.y * p.z + x * p.x + y * p.y + z * p.z) +
                     c);
    }
};

class Collapser {
  public:
    Collapser(const mesh::TriMesh& m, const CollapseOptions& options)
        : m_(m),
          shorter_than_(options.shorter_than),
          triangles_(m.triangles),
          alive_(m.triangles.size(), 1),
          left_(m.triangles.size()) {
        find_places();
        link_corners();
        find_states(options);
        sum_quadrics();
    }

    // What could not go at first may go when its surroundings have changed: so again, while that helps.
    void run(std::size_t wanted, Progress& progress) {
        const std::size_t all = left_;
        for (std::size_t before = left_ + 1; left_ > wanted && left_ < before;) {
            before = left_;
            for (std::uint32_t t = 0; t < triangles_.size(); ++t)
                for (std::size_t k = 0; k < 3 && alive_[t]; ++k) {
                    const std::uint32_t u = triangles_[t][k], v = triangles_[t][(k + 1) % 3];
                    if (u < v || rim_edge(u, v)) offer(u, v);
                }
            while (left_ > wanted && !queue_.empty()) {
                const Edge e = queue_.top();
                queue_.pop();
                if ((++looked_at_ & 1023u) == 0) {
                    progress.check();
                    progress.advance(static_cast<double>(all - left_) / static_cast<double>(all - wanted));
                }
                if (stamp_[e.from] + stamp_[e.to] != e.stamp || head_[e.from] == kNone ||
                    head_[e.to] == kNone)
                    continue;
                if (may_go(e.from, e.to))
                    close(e.from, e.to);
                else if (!e.turned)
                    push(e.to, e.from, true);
            }
        }
    }

    mesh::TriMesh result() const {
        mesh::TriMesh out;
        std::vector<std::uint32_t> number(m_.vertices.size(), kNone);
        for (std::size_t t = 0; t < triangles_.size(); ++t) {
            if (!alive_[t]) continue;
            out.triangles.push_back(triangles_[t]);
            for (std::uint32_t& v : out.triangles.back()) {
                if (number[v] == kNone) {
                    number[v] = static_cast<std::uint32_t>(out.vertices.size());
                    out.vertices.push_back(m_.vertices[v]);
                }
                v = number[v];
            }
        }
        return out;
    }

  private:
    static constexpr std::uint32_t kNone = UINT32_MAX;
    enum class State : std::uint8_t { Free, Rim, Fixed };
    struct Edge {
        double cost;
        std::uint32_t from, to, stamp;  // of both ends when it was offered
        bool turned;                    // the other way round was tried
        bool operator<(const Edge& o) const {
            if (cost != o.cost) return cost > o.cost;
            return from != o.from ? from > o.from : to > o.to;
        }
    };

    void find_places() {
        Box3 box;
        for (const Vec3& v : m_.vertices) box.add(v);
        const Vec3 middle = box.empty() ? Vec3{} : box.centre();
        for (const Vec3& v : m_.vertices) place_.push_back(v - middle);
    }
    // The corners at each vertex, as a list.
    void link_corners() {
        head_.assign(m_.vertices.size(), kNone);
        next_.assign(3 * triangles_.size(), kNone);
        for (std::uint32_t c = 0; c < next_.size(); ++c) {
            const std::uint32_t v = triangles_[c / 3][c % 3];
            next_[c] = head_[v];
            head_[v] = c;
        }
        stamp_.assign(m_.vertices.size(), 0);
    }
    // visit(triangle, which corner) for each triangle at a vertex; those that are gone are let go of.
    template <class Visit>
    void around(std::uint32_t v, Visit&& visit) {
        std::uint32_t* link = &head_[v];
        while (*link != kNone) {
            const std::uint32_t c = *link;
            if (!alive_[c / 3]) {
                *link = next_[c];
                continue;
            }
            visit(c / 3, c % 3);
            link = &next_[c];
        }
    }
    void find_states(const CollapseOptions& options) {
        state_.assign(m_.vertices.size(), State::Free);
        const auto fix = [&](std::uint32_t v) { state_[v] = State::Fixed; };
        const topology::Adjacency a = topology::adjacency(triangles_);
        std::vector<std::uint32_t> at_rim(m_.vertices.size(), 0);
        for (std::uint32_t t = 0; t < triangles_.size(); ++t) {
            const auto& c = triangles_[t];
            const bool flat = c[0] == c[1] || c[1] == c[2] || c[0] == c[2];
            for (const std::uint32_t v : c)
                if (flat || (!options.only.empty() && !options.only[t])) fix(v);
            for (std::size_t k = 0; k < 3; ++k)
                if (a.across[t][k] == topology::kNone)
                    for (const std::size_t end : {k + 1, k + 2}) ++at_rim[c[end % 3]];
        }
        std::vector<std::uint32_t> others;
        for (std::uint32_t v = 0; v < state_.size(); ++v) {
            if (at_rim[v] > 0 && state_[v] == State::Free)
                state_[v] = options.lock_rim || at_rim[v] != 2 ? State::Fixed : State::Rim;
            if (state_[v] != State::Fixed && !one_fan(v, at_rim[v] > 0, others)) fix(v);
        }
    }
    // Whether the triangles at a vertex hang together, and no edge there has more than two.
    bool one_fan(std::uint32_t v, bool rim, std::vector<std::uint32_t>& others) {
        others.clear();
        std::uint32_t first = kNone, second = kNone, count = 0;
        around(v, [&](std::uint32_t t, std::uint32_t k) {
            if (first == kNone) {
                first = triangles_[t][(k + 1) % 3];
                second = triangles_[t][(k + 2) % 3];
            }
            others.push_back(triangles_[t][(k + 1) % 3]);
            others.push_back(triangles_[t][(k + 2) % 3]);
            ++count;
        });
        std::sort(others.begin(), others.end());
        std::size_t once = 0, distinct = 0;
        for (std::size_t i = 0; i < others.size();) {
            std::size_t n = 1;
            while (i + n < others.size() && others[i + n] == others[i]) ++n;
            if (n > 2) return false;
            once += n == 1;
            ++distinct;
            i += n;
        }
        // An open fan has one neighbour more than triangles, a closed one as many; two fans have more open
        // ends, or, both closed, are told apart by walking round one.
        if (once != (rim ? 2u : 0u) || distinct != count + (rim ? 1 : 0)) return false;
        return rim || walk(v, first, second) == count;
    }
    // How many triangles of a closed fan are met going round from one.
    std::uint32_t walk(std::uint32_t v, std::uint32_t from, std::uint32_t to) {
        std::uint32_t n = 1;
        const std::uint32_t start = from;
        while (to != start && n < 100'000) {
            std::uint32_t further = kNone;
            around(v, [&](std::uint32_t t, std::uint32_t k) {
                const std::uint32_t a = triangles_[t][(k + 1) % 3], b = triangles_[t][(k + 2) % 3];
                if (a == to && b != from) further = b;
                if (b == to && a != from) further = a;
            });
            if (further == kNone) break;
            from = to;
            to = further;
            ++n;
        }
        return n;
    }
    bool rim_edge(std::uint32_t u, std::uint32_t v) {
        int n = 0;
        around(u, [&](std::uint32_t t, std::uint32_t) {
            for (const std::uint32_t c : triangles_[t]) n += c == v;
        });
        return n == 1;
    }
    Vec3 normal(const std::array<std::uint32_t, 3>& t) const {
        return cross(place_[t[1]] - place_[t[0]], place_[t[2]] - place_[t[0]]);
    }
    void sum_quadrics() {
        quadric_.resize(m_.vertices.size());
        const topology::Adjacency a = topology::adjacency(triangles_);
        for (std::uint32_t t = 0; t < triangles_.size(); ++t) {
            const auto& c = triangles_[t];
            const Vec3 n = normal(c);
            const double twice = norm(n);
            if (twice == 0) continue;
            const Vec3 unit = n * (1 / twice);
            for (const std::uint32_t v : c) quadric_[v].add_plane(unit, -dot(unit, place_[v]), twice / 6);
            for (std::size_t k = 0; k < 3; ++k) {
                if (a.across[t][k] != topology::kNone) continue;
                const std::uint32_t p = c[(k + 1) % 3], q = c[(k + 2) % 3];
                const Vec3 upright = cross(place_[q] - place_[p], unit);
                const double length = norm(upright);
                if (length == 0) continue;
                const Vec3 side = upright * (1 / length);
                for (const std::uint32_t v : {p, q})
                    quadric_[v].add_plane(side, -dot(side, place_[p]), kRimWeight * length * length);
            }
        }
    }
    // The cheaper way of closing an edge up, if there is one.
    void offer(std::uint32_t u, std::uint32_t v) {
        if (state_[u] == State::Fixed && state_[v] == State::Fixed) return;
        if (shorter_than_ > 0 && !(norm(place_[u] - place_[v]) < shorter_than_)) return;
        const double one = cost(u, v), other = cost(v, u);
        one <= other ? push(u, v, false) : push(v, u, false);
    }
    double cost(std::uint32_t from, std::uint32_t to) const {
        if (state_[from] == State::Fixed) return INFINITY;
        const Vec3 d = place_[from] - place_[to];
        Quadric both = quadric_[from];
        both.add(quadric_[to]);
        return both.at(place_[to]) + kByLength * dot(d, d) * dot(d, d);
    }
    void push(std::uint32_t from, std::uint32_t to, bool turned) {
        if (state_[from] != State::Fixed)
            queue_.push({cost(from, to), from, to, stamp_[from] + stamp_[to], turned});
    }
    bool may_go(std::uint32_t u, std::uint32_t v) {
        if (state_[u] == State::Fixed) return false;
        std::size_t shared = 0;
        ring_.clear();
        around(u, [&](std::uint32_t t, std::uint32_t k) {
            const std::uint32_t a = triangles_[t][(k + 1) % 3], b = triangles_[t][(k + 2) % 3];
            shared += a == v || b == v;
            ring_.push_back(a);
            ring_.push_back(b);
        });
        if (shared == 0 || shared > 2 || (state_[u] == State::Rim) != (shared == 1)) return false;
        return links_agree(u, v, shared) && stays_sound(u, v);
    }
    // Only the third corners of the triangles at the edge are neighbours of both ends, and something is left.
    bool links_agree(std::uint32_t u, std::uint32_t v, std::size_t shared) {
        std::sort(ring_.begin(), ring_.end());
        ring_.erase(std::unique(ring_.begin(), ring_.end()), ring_.end());
        beside_.clear();
        around(v, [&](std::uint32_t t, std::uint32_t k) {
            for (const std::size_t step : {1u, 2u}) {
                const std::uint32_t c = triangles_[t][(k + step) % 3];
                if (c != u && std::binary_search(ring_.begin(), ring_.end(), c)) beside_.push_back(c);
            }
        });
        std::sort(beside_.begin(), beside_.end());
        beside_.erase(std::unique(beside_.begin(), beside_.end()), beside_.end());
        if (beside_.size() != shared || ring_.size() < 3) return false;
        if (ring_.size() > 3 || shared == 1) return true;
        // Of a tetrahedron nothing would be left but a triangle twice.
        bool twice = false;
        around(v, [&](std::uint32_t t, std::uint32_t) {
            const auto& c = triangles_[t];
            const auto has = [&](std::uint32_t o) { return c[0] == o || c[1] == o || c[2] == o; };
            twice |= has(beside_[0]) && has(beside_[1]) && !has(u);
        });
        return !twice;
    }
    static double quality(const Vec3& a, const Vec3& b, const Vec3& c, double twice_area) {
        const double sum = dot(b - a, b - a) + dot(c - b, c - b) + dot(a - c, a - c);
        return sum > 0 ? 2 * std::sqrt(3.0) * twice_area / sum : 0;
    }
    // No triangle at `u` turns over, gets thin, or folds onto the one on its far side when u goes to v.
    bool stays_sound(std::uint32_t u, std::uint32_t v) {
        bool sound = true;
        turned_.clear();
        around(u, [&](std::uint32_t t, std::uint32_t k) {
            if (!sound) return;
            const std::uint32_t a = triangles_[t][(k + 1) % 3], b = triangles_[t][(k + 2) % 3];
            if (a == v || b == v) return;
            const Vec3 before = cross(place_[a] - place_[u], place_[b] - place_[u]),
                       after = cross(place_[a] - place_[v], place_[b] - place_[v]);
            const double was = norm(before), is = norm(after);
            if (is == 0 || dot(before, after) < (shorter_than_ > 0 ? 0.0 : kTurn) * was * is)
                return void(sound = false);
            const double q = quality(place_[v], place_[a], place_[b], is);
            if (q < (shorter_than_ > 0 ? kThinnest / 5 : kThinnest) &&
                q < quality(place_[u], place_[a], place_[b], was))
                return void(sound = false);
            turned_.push_back({a, b, before * (1 / std::max(was, 1e-300)), after * (1 / is)});
        });
        return sound && no_folds(u, v);
    }
    struct Turned {
        std::uint32_t a, b;
        Vec3 before, after;
    };
    // Sharper than a fold, and sharper than it was.
    static bool folds(const Vec3& was_a, const Vec3& was_b, const Vec3& a, const Vec3& b) {
        const double is = dot(a, b);
        return is < kFold && is < dot(was_a, was_b);
    }
    // Whether it folds onto a triangle on the edge from `at` to `end` that u is no corner of.
    bool folds_onto(const Turned& one, std::uint32_t at, std::uint32_t end, std::uint32_t u) {
        bool bad = false;
        around(at, [&](std::uint32_t t, std::uint32_t) {
            const auto& c = triangles_[t];
            const auto has = [&](std::uint32_t o) { return c[0] == o || c[1] == o || c[2] == o; };
            if (!has(end) || has(u) || bad) return;
            const Vec3 n = normal(c);
            const double size = norm(n);
            if (size > 0) bad = folds(one.before, n * (1 / size), one.after, n * (1 / size));
        });
        return bad;
    }
    bool no_folds(std::uint32_t u, std::uint32_t v) {
        for (std::size_t i = 0; i < turned_.size(); ++i) {
            const Turned& one = turned_[i];
            // Across the edge that stays, and against those that share a side with it.
            if (folds_onto(one, one.a, one.b, u)) return false;
            for (std::size_t j = 0; j < i; ++j) {
                const Turned& two = turned_[j];
                if ((one.a == two.b || one.b == two.a) && folds(one.before, two.before, one.after, two.after))
                    return false;
            }
            // Those beside the triangles that go meet what lay on their other side.
            for (const std::uint32_t side : {one.a, one.b})
                if (std::binary_search(beside_.begin(), beside_.end(), side) && folds_onto(one, v, side, u))
                    return false;
        }
        return true;
    }
    void close(std::uint32_t u, std::uint32_t v) {
        std::uint32_t last = kNone;
        around(u, [&](std::uint32_t t, std::uint32_t k) {
            auto& c = triangles_[t];
            if (c[0] == v || c[1] == v || c[2] == v) {
                alive_[t] = 0;
                --left_;
            } else {
                c[k] = v;
            }
            last = 3 * t + k;
        });
        // The list of u goes before that of v.
        next_[last] = head_[v];
        head_[v] = head_[u];
        head_[u] = kNone;
        quadric_[v].add(quadric_[u]);
        ++stamp_[v];
        touched_.clear();
        around(v, [&](std::uint32_t t, std::uint32_t k) {
            touched_.push_back(triangles_[t][(k + 1) % 3]);
            touched_.push_back(triangles_[t][(k + 2) % 3]);
        });
        std::sort(touched_.begin(), touched_.end());
        touched_.erase(std::unique(touched_.begin(), touched_.end()), touched_.end());
        for (const std::uint32_t o : touched_) offer(v, o);
    }

    const mesh::TriMesh& m_;
    double shorter_than_;
    std::vector<Vec3> place_;  // about the middle, for the digits of quadrics
    std::vector<std::array<std::uint32_t, 3>> triangles_;
    std::vector<char> alive_;
    std::size_t left_, looked_at_ = 0;
    std::vector<std::uint32_t> head_, next_, stamp_;
    std::vector<State> state_;
    std::vector<Quadric> quadric_;
    std::priority_queue<Edge> queue_;
    std::vector<std::uint32_t> ring_, beside_, touched_;
    std::vector<Turned> turned_;
};

}  // namespace

mesh::TriMesh collapsed(const mesh::TriMesh& m, const CollapseOptions& options, Progress& progress) {
    Collapser c(m, options);
    c.run(options.triangles, progress);
    return c.result();
}

}  // namespace pristine::repair
