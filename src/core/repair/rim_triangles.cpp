#include "core/repair/rim_triangles.h"

#include <algorithm>
#include <cmath>
#include <limits>
#include <set>

namespace pristine::repair {
namespace {

using Index = std::size_t;
constexpr Index kMostExact = 300;

struct Weight {
    double fold = 0, area = 0;  // fold: 1 - cosine of the worst angle between neighbours, in steps
    bool operator<(const Weight& o) const { return fold != o.fold ? fold < o.fold : area < o.area; }
};
constexpr Weight kNever{std::numeric_limits<double>::infinity(), std::numeric_limits<double>::infinity()};

Vec3 normal_of(const Vec3& a, const Vec3& b, const Vec3& c) {
    return cross(b - a, c - a);
}

// In coarse steps, so that among nearly equal folds the area decides.
double fold_between(const Vec3& n, const Vec3& m) {
    const double l = norm(n) * norm(m);
    return l > 0 ? std::ceil((1 - dot(n, m) / l) * 16 - 1e-9) : 32;
}

class Exact {
  public:
    explicit Exact(const Rim& r) : r_(r), n_(r.corners.size()), best_(n_ * n_), at_(n_ * n_, 0) {}

    std::vector<std::array<Index, 3>> run() {
        for (Index i = 0; i + 1 < n_; ++i) best_[i * n_ + i + 1] = {};
        for (Index span = 2; span < n_; ++span)
            for (Index i = 0; i + span < n_; ++i) solve(i, i + span);
        std::vector<std::array<Index, 3>> out;
        if (!(best_[n_ - 1] < kNever)) return out;
        std::vector<std::pair<Index, Index>> open{{0, n_ - 1}};
        while (!open.empty()) {
            const auto [i, k] = open.back();
            open.pop_back();
            if (k - i < 2) continue;
            const Index j = at_[i * n_ + k];
            out.push_back({i, j, k});
            open.push_back({i, j});
            open.push_back({j, k});
        }
        return out;
    }

  private:
    bool open(Index i) const { return !r_.open.empty() && r_.open[i]; }
    // Against the triangle beyond the edge i-k of the part between them: of the rim, or of the part's own.
    double fold(const Vec3& n, Index i, Index k) const {
        const Vec3 &a = r_.corners[i], &b = r_.corners[k];
        if (k != i + 1) return fold_between(n, normal_of(a, r_.corners[at_[i * n_ + k]], b));
        return open(i) ? 0 : fold_between(n, normal_of(b, a, r_.beyond[i]));
    }
    void solve(Index i, Index k) {
        Weight best = kNever;
        Index at = 0;
        const bool whole = i == 0 && k == n_ - 1;
        if (whole || !r_.taken(i, k))
            for (Index j = i + 1; j < k; ++j) {
                const Weight &u = best_[i * n_ + j], &v = best_[j * n_ + k];
                if (!(u < kNever) || !(v < kNever)) continue;
                const Vec3 n = normal_of(r_.corners[i], r_.corners[j], r_.corners[k]);
                Weight w{std::max({u.fold, v.fold, fold(n, i, j), fold(n, j, k)}),
                         u.area + v.area + 0.5 * norm(n)};
                if (whole && !open(n_ - 1))
                    w.fold = std::max(
                        w.fold, fold_between(n, normal_of(r_.corners[i], r_.corners[k], r_.beyond[n_ - 1])));
                if (w < best) best = w, at = j;
            }
        best_[i * n_ + k] = best;
        at_[i * n_ + k] = at;
    }

    const Rim& r_;
    Index n_;
    std::vector<Weight> best_;
    std::vector<Index> at_;
};

// Cuts off ears, the one with the least angle first, folded as little as its surroundings allow.
std::vector<std::array<Index, 3>> by_ears(const Rim& r) {
    const Index n = r.corners.size();
    std::vector<Index> next(n), previous(n);
    for (Index i = 0; i < n; ++i) next[i] = (i + 1) % n, previous[i] = (i + n - 1) % n;
    // The rim's own turning tells inner angles from outer ones.
    Vec3 area{0, 0, 0};
    for (Index i = 0; i < n; ++i)
        area = area + cross(r.corners[i] - r.corners[0], r.corners[(i + 1) % n] - r.corners[0]);
    const auto angle = [&](Index i) {
        const Vec3 u = r.corners[previous[i]] - r.corners[i], v = r.corners[next[i]] - r.corners[i];
        const double a = std::atan2(norm(cross(u, v)), dot(u, v));
        return dot(cross(v, u), area) >= 0 ? a : 7 - a;  // reflex corners come last
    };
    std::set<std::pair<double, Index>> ears;
    std::vector<double> key(n);
    for (Index i = 0; i < n; ++i) ears.insert({key[i] = angle(i), i});
    std::vector<std::array<Index, 3>> out;
    Index left = n;
    while (left > 3) {
        auto ear = ears.begin();
        while (ear != ears.end() && r.taken(previous[ear->second], next[ear->second])) ++ear;
        if (ear == ears.end()) return {};
        const Index i = ear->second, p = previous[i], q = next[i];
        out.push_back({p, i, q});
        ears.erase(ear);
        next[p] = q;
        previous[q] = p;
        --left;
        for (const Index k : {p, q}) {
            ears.erase({key[k], k});
            ears.insert({key[k] = angle(k), k});
        }
    }
    const Index i = ears.begin()->second;
    out.push_back({previous[i], i, next[i]});
    return out;
}

}  // namespace

std::vector<std::array<std::size_t, 3>> rim_triangles(const Rim& r) {
    if (r.corners.size() < 3) return {};
    return r.corners.size() <= kMostExact ? Exact(r).run() : by_ears(r);
}

}  // namespace pristine::repair
