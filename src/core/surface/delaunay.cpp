#include "core/surface/delaunay.h"

#include <algorithm>
#include <atomic>
#include <bit>
#include <cmath>
#include <memory>
#include <utility>

#include "core/base/error.h"
#include "core/base/parallel.h"
#include "core/geometry/predicates.h"

namespace pristine::surface {
namespace {

constexpr std::size_t kAlone = 20'000;  // points: what fewer make is not shared out

std::uint64_t spread(std::uint64_t v) {
    v = (v | v << 16) & 0x0000FFFF0000FFFFull;
    v = (v | v << 8) & 0x00FF00FF00FF00FFull;
    v = (v | v << 4) & 0x0F0F0F0F0F0F0F0Full;
    v = (v | v << 2) & 0x3333333333333333ull;
    return (v | v << 1) & 0x5555555555555555ull;
}

struct Keyed {
    std::uint64_t key;
    std::uint32_t index;
};

// Morton order of a grid of 2^32 cells along the longer side; inside a cell by x, then y.
std::vector<Keyed> in_order(std::span<const Plan> points) {
    double x0 = INFINITY, y0 = INFINITY, x1 = -INFINITY, y1 = -INFINITY;
    for (const Plan& p : points) {
        if (!std::isfinite(p.x) || !std::isfinite(p.y))
            throw Error(ErrorCode::Usage, "A coordinate is no number");
        x0 = std::min(x0, p.x), x1 = std::max(x1, p.x);
        y0 = std::min(y0, p.y), y1 = std::max(y1, p.y);
    }
    const double extent = std::max({x1 - x0, y1 - y0, 1e-300}), scale = 4294967295.0 / extent;
    const auto key_of = [&](const Plan& p) {
        return spread(static_cast<std::uint64_t>((p.x - x0) * scale)) << 1 |
               spread(static_cast<std::uint64_t>((p.y - y0) * scale));
    };
    const auto before = [&](const Keyed& a, const Keyed& b) {
        if (a.key != b.key) return a.key < b.key;
        const Plan &p = points[a.index], &q = points[b.index];
        return p.x != q.x ? p.x < q.x : p.y != q.y ? p.y < q.y : a.index < b.index;
    };
    std::vector<Keyed> keyed(points.size());
    if (points.size() < kAlone) {
        for (std::uint32_t i = 0; i < points.size(); ++i) keyed[i] = {key_of(points[i]), i};
        std::sort(keyed.begin(), keyed.end(), before);
        return keyed;
    }
    // Buckets by the upper bits, each sorted for itself.
    constexpr unsigned kShift = 48;
    std::vector<std::uint32_t> start((1u << 16) + 1, 0);
    std::vector<std::uint64_t> keys(points.size());
    parallel::for_ranges(points.size(), 65536, [&](std::size_t from, std::size_t to) {
        for (std::size_t i = from; i < to; ++i) keys[i] = key_of(points[i]);
    });
    for (const std::uint64_t k : keys) ++start[(k >> kShift) + 1];
    for (std::size_t b = 1; b < start.size(); ++b) start[b] += start[b - 1];
    std::vector<std::uint32_t> at(start.begin(), start.end() - 1);
    for (std::uint32_t i = 0; i < keys.size(); ++i) keyed[at[keys[i] >> kShift]++] = {keys[i], i};
    parallel::for_ranges(start.size() - 1, 64, [&](std::size_t from, std::size_t to) {
        for (std::size_t b = from; b < to; ++b)
            std::sort(keyed.begin() + start[b], keyed.begin() + start[b + 1], before);
    });
    return keyed;
}

// Directed edges; the other direction of e is e ^ 1. Both go round their origin counter-clockwise.
struct Edge {
    std::uint32_t origin, after, before;  // origin kNone: not in use
};

// Numbers of pairs of edges that may be used: those given back, and stretches never used.
struct Pool {
    std::vector<std::uint32_t> free;
    std::vector<std::pair<std::uint32_t, std::uint32_t>> fresh;
    std::uint32_t take() {
        if (!free.empty()) {
            const std::uint32_t e = free.back();
            free.pop_back();
            return e;
        }
        while (fresh.back().first == fresh.back().second) fresh.pop_back();
        return fresh.back().first++ * 2;
    }
    void join(Pool&& other) {
        free.insert(free.end(), other.free.begin(), other.free.end());
        fresh.insert(fresh.end(), other.fresh.begin(), other.fresh.end());
    }
};

class Maker {
  public:
    Maker(const std::vector<Plan>& points, const std::vector<std::uint64_t>& keys, Progress& progress)
        : p_(points),
          keys_(keys),
          count_(6 * points.size()),
          edges_(std::make_unique_for_overwrite<Edge[]>(count_)),
          progress_(progress) {}

    // An edge of the hull that has the outside to its right; kNone when there is nothing.
    std::uint32_t run() {
        const auto n = static_cast<std::uint32_t>(p_.size());
        if (n < 2) return kNone;
        Pool pool;
        pool.fresh.push_back({0, 3 * n});
        const std::uint32_t hull = solve(0, n, pool);
        for (const auto& [first, last] : pool.fresh)
            for (std::uint32_t e = 2 * first; e < 2 * last; ++e) edges_[e].origin = kNone;
        return hull;
    }
    std::span<const Edge> edges() const { return {edges_.get(), count_}; }
    std::uint32_t left_next(std::uint32_t e) const { return edges_[e ^ 1].before; }
    std::uint32_t hull_next(std::uint32_t e) const { return edges_[e ^ 1].after; }

  private:
    const Plan& at(std::uint32_t v) const { return p_[v]; }
    std::uint32_t from(std::uint32_t e) const { return edges_[e].origin; }
    std::uint32_t to(std::uint32_t e) const { return edges_[e ^ 1].origin; }
    int turn(std::uint32_t a, std::uint32_t b, std::uint32_t c) const {
        return orientation(at(a).x, at(a).y, at(b).x, at(b).y, at(c).x, at(c).y);
    }
    bool left_of(std::uint32_t v, std::uint32_t e) const { return turn(v, from(e), to(e)) > 0; }
    bool right_of(std::uint32_t v, std::uint32_t e) const { return turn(v, to(e), from(e)) > 0; }
    bool inside(std::uint32_t a, std::uint32_t b, std::uint32_t c, std::uint32_t d) const {
        if (d == a || d == b || d == c) return false;  // often; the filter could not tell
        return in_circle(at(a).x, at(a).y, at(b).x, at(b).y, at(c).x, at(c).y, at(d).x, at(d).y) > 0;
    }

    std::uint32_t make(std::uint32_t a, std::uint32_t b, Pool& pool) {
        const std::uint32_t e = pool.take();
        edges_[e] = {a, e, e};
        edges_[e ^ 1] = {b, e ^ 1, e ^ 1};
        return e;
    }
    void splice(std::uint32_t a, std::uint32_t b) {
        const std::uint32_t an = edges_[a].after, bn = edges_[b].after;
        edges_[a].after = bn;
        edges_[b].after = an;
        edges_[an].before = b;
        edges_[bn].before = a;
    }
    std::uint32_t connect(std::uint32_t a, std::uint32_t b, Pool& pool) {
        const std::uint32_t e = make(to(a), from(b), pool);
        splice(e, left_next(a));
        splice(e ^ 1, b);
        return e;
    }
    void remove(std::uint32_t e, Pool& pool) {
        splice(e, edges_[e].before);
        splice(e ^ 1, edges_[e ^ 1].before);
        edges_[e].origin = edges_[e ^ 1].origin = kNone;
        pool.free.push_back(e & ~1u);
    }

    std::uint32_t solve(std::uint32_t lo, std::uint32_t hi, Pool& pool) {
        const std::uint32_t n = hi - lo;
        if (n == 2) return make(lo, lo + 1, pool);
        if (n == 3) return three(lo, pool);
        const std::uint64_t differ = keys_[lo] ^ keys_[hi - 1];
        std::uint32_t cut = lo + n / 2;
        bool by_x = true;
        if (differ != 0) {
            const int bit = 63 - std::countl_zero(differ);
            by_x = bit % 2 == 1;
            cut = static_cast<std::uint32_t>(
                std::partition_point(keys_.begin() + lo, keys_.begin() + hi,
                                     [bit](std::uint64_t k) { return (k >> bit & 1) == 0; }) -
                keys_.begin());
        }
        if (n < kAlone) {
            const std::uint32_t a = part(lo, cut, pool), b = part(cut, hi, pool);
            return merge(a, lo, b, cut, by_x, pool);
        }
        progress_.check();
        Pool left, right;
        const std::uint32_t first = pool.fresh.back().first;
        left.fresh.push_back({first, first + 3 * (cut - lo)});
        right.fresh.push_back({first + 3 * (cut - lo), pool.fresh.back().second});
        std::uint32_t hull[2];
        parallel::for_each(2, [&](std::size_t side) {
            hull[side] = side == 0 ? part(lo, cut, left) : part(cut, hi, right);
        });
        pool = std::move(left);
        pool.join(std::move(right));
        return merge(hull[0], lo, hull[1], cut, by_x, pool);
    }
    // One point alone has no edge.
    std::uint32_t part(std::uint32_t lo, std::uint32_t hi, Pool& pool) {
        return hi - lo == 1 ? kNone : solve(lo, hi, pool);
    }

    std::uint32_t three(std::uint32_t lo, Pool& pool) {
        std::uint32_t v[3] = {lo, lo + 1, lo + 2};
        std::sort(v, v + 3, [&](std::uint32_t a, std::uint32_t b) {
            return at(a).x != at(b).x ? at(a).x < at(b).x : at(a).y < at(b).y;
        });
        const std::uint32_t a = make(v[0], v[1], pool), b = make(v[1], v[2], pool);
        splice(a ^ 1, b);
        const int side = turn(v[0], v[1], v[2]);
        if (side == 0) return a;
        const std::uint32_t c = connect(b, a, pool);
        return side > 0 ? a : c ^ 1;
    }

    // Whether a lies farther than b in the direction of the cut.
    bool beyond(std::uint32_t a, std::uint32_t b, bool by_x) const {
        const Plan &p = at(a), &q = at(b);
        if (by_x) return p.x != q.x ? p.x > q.x : p.y > q.y;
        return p.y != q.y ? p.y > q.y : p.x < q.x;
    }

    // `a` and `b`: edges of the hulls of the nearer and the farther half, kNone for a single point.
    std::uint32_t merge(std::uint32_t a, std::uint32_t a_point, std::uint32_t b, std::uint32_t b_point,
                        bool by_x, Pool& pool) {
        if (a == kNone && b == kNone) return make(a_point, b_point, pool);
        if (a == kNone) return add_point(b, a_point, by_x, false, pool);
        if (b == kNone) return add_point(a, b_point, by_x, true, pool);
        // Out of the farthest point of the nearer half, clockwise; out of the nearest of the other,
        // counter-clockwise.
        std::uint32_t ldi = a ^ 1, rdi = b;
        for (std::uint32_t e = hull_next(a); e != a; e = hull_next(e))
            if (beyond(to(e), from(ldi), by_x)) ldi = e ^ 1;
        for (std::uint32_t e = hull_next(b); e != b; e = hull_next(e))
            if (beyond(from(rdi), from(e), by_x)) rdi = e;
        for (;;) {
            if (left_of(from(rdi), ldi))
                ldi = left_next(ldi);
            else if (right_of(from(ldi), rdi))
                rdi = hull_next(rdi);
            else
                break;
        }
        const std::uint32_t tangent = connect(rdi ^ 1, ldi, pool);
        rise(tangent, pool);
        return tangent ^ 1;
    }

    // From the lower tangent upwards, one edge across after the other.
    void rise(std::uint32_t base, Pool& pool) {
        for (;;) {
            std::uint32_t l = edges_[base ^ 1].after, r = edges_[base].before;
            const bool l_valid = right_of(to(l), base);
            if (l_valid)
                while (inside(to(base), from(base), to(l), to(edges_[l].after))) {
                    const std::uint32_t t = edges_[l].after;
                    remove(l, pool);
                    l = t;
                }
            const bool r_valid = right_of(to(r), base);
            if (r_valid)
                while (inside(to(base), from(base), to(r), to(edges_[r].before))) {
                    const std::uint32_t t = edges_[r].before;
                    remove(r, pool);
                    r = t;
                }
            // Whoever took the place of a removed candidate lies inside its circle, and so above the base
            // too.
            if (!l_valid && !r_valid) return;
            if (!l_valid || (r_valid && inside(to(l), from(l), from(r), to(r))))
                base = connect(r, base ^ 1, pool);
            else
                base = connect(base ^ 1, l ^ 1, pool);
        }
    }

    // A half that is one point.
    std::uint32_t add_point(std::uint32_t hull, std::uint32_t v, bool by_x, bool farther, Pool& pool) {
        // A lone point is a half whose hull is that point: the tangent from it touches where the hull turns
        // away from it.
        std::uint32_t e = hull;
        if (farther) {
            std::uint32_t ldi = hull ^ 1;
            for (e = hull_next(hull); e != hull; e = hull_next(e))
                if (beyond(to(e), from(ldi), by_x)) ldi = e ^ 1;
            while (left_of(v, ldi)) ldi = left_next(ldi);
            // From v to the hull.
            const std::uint32_t base = make(v, from(ldi), pool);
            splice(base ^ 1, ldi);
            rise(base, pool);
            return base ^ 1;
        }
        std::uint32_t rdi = hull;
        for (e = hull_next(hull); e != hull; e = hull_next(e))
            if (beyond(from(rdi), from(e), by_x)) rdi = e;
        while (right_of(v, rdi)) rdi = hull_next(rdi);
        const std::uint32_t base = make(from(rdi), v, pool);
        splice(base, edges_[rdi].before);
        rise(base, pool);
        return base ^ 1;
    }

    const std::vector<Plan>& p_;
    const std::vector<std::uint64_t>& keys_;
    std::size_t count_;
    std::unique_ptr<Edge[]> edges_;
    Progress& progress_;
};

// Faces to the left of edges, numbered by their least edge.
void take_triangles(const Maker& maker, std::uint32_t hull, Triangulation& m) {
    const std::span<const Edge> edges = maker.edges();
    constexpr std::uint32_t kOutside = kNone - 1;
    std::vector<std::uint32_t> face(edges.size(), kNone);
    for (std::uint32_t e = hull;;) {
        face[e ^ 1] = kOutside;
        e = maker.hull_next(e);
        if (e == hull) break;
    }
    const auto least = [&](std::uint32_t e) {
        if (edges[e].origin == kNone || face[e] == kOutside) return false;
        const std::uint32_t f = maker.left_next(e);
        return e < f && e < maker.left_next(f);
    };
    constexpr std::size_t kRun = 1 << 16;
    const std::size_t runs = (edges.size() + kRun - 1) / kRun;
    const auto found = parallel::map<std::vector<std::uint32_t>>(runs, [&](std::size_t r) {
        std::vector<std::uint32_t> own;
        own.reserve(kRun / 3);
        for (std::size_t e = r * kRun; e < std::min(edges.size(), (r + 1) * kRun); ++e)
            if (least(static_cast<std::uint32_t>(e))) own.push_back(static_cast<std::uint32_t>(e));
        return own;
    });
    std::vector<std::uint32_t> first(runs + 1, 0);
    for (std::size_t r = 0; r < runs; ++r)
        first[r + 1] = first[r] + static_cast<std::uint32_t>(found[r].size());
    const std::uint32_t sum = first.back();
    m.corners.resize(sum);
    m.beside.resize(sum);
    m.constrained.assign(sum, 0);
    std::vector<std::uint32_t> edge_of(sum);
    parallel::for_each(runs, [&](std::size_t r) {
        std::uint32_t t = first[r];
        for (const std::uint32_t e : found[r]) {
            const std::uint32_t f = maker.left_next(e), g = maker.left_next(f);
            m.corners[t] = {edges[e].origin, edges[f].origin, edges[g].origin};
            face[e] = face[f] = face[g] = t;
            edge_of[t++] = e;
        }
    });
    parallel::for_ranges(sum, 65536, [&](std::size_t from, std::size_t to) {
        const auto other = [&](std::uint32_t e) { return face[e ^ 1] == kOutside ? kNone : face[e ^ 1]; };
        for (std::size_t t = from; t < to; ++t) {
            const std::uint32_t e = edge_of[t], f = maker.left_next(e), g = maker.left_next(f);
            m.beside[t] = {other(f), other(g), other(e)};
        }
    });
}

}  // namespace

Delaunay delaunay(std::span<const Plan> points, Progress& progress) {
    if (points.size() > UINT32_MAX / 8) throw Error(ErrorCode::Unsupported, "There are too many points");
    Delaunay d;
    if (points.empty()) return d;
    const std::vector<Keyed> keyed = in_order(points);
    progress.check();
    std::vector<std::uint64_t> keys;
    keys.reserve(keyed.size());
    d.mesh.points.reserve(keyed.size());
    d.source.reserve(keyed.size());
    d.vertex.resize(points.size());
    for (const Keyed& k : keyed) {
        const Plan p = points[k.index];
        if (d.mesh.points.empty() || !(d.mesh.points.back() == p)) {
            d.mesh.points.push_back(p);
            d.source.push_back(k.index);
            keys.push_back(k.key);
        }
        d.vertex[k.index] = static_cast<std::uint32_t>(d.mesh.points.size() - 1);
    }
    Maker maker(d.mesh.points, keys, progress);
    const std::uint32_t hull = maker.run();
    progress.check();
    if (hull == kNone) return d;
    // Points on one line have edges only: their hull goes there and back.
    std::uint32_t e = hull;
    bool flat = true;
    do {
        const std::span<const Edge> edges = maker.edges();
        const Plan &a = d.mesh.points[edges[e].origin], &b = d.mesh.points[edges[e ^ 1].origin],
                   &c = d.mesh.points[edges[maker.hull_next(e) ^ 1].origin];
        flat = flat && orientation(a.x, a.y, b.x, b.y, c.x, c.y) == 0;
        e = maker.hull_next(e);
    } while (e != hull && flat);
    if (!flat) take_triangles(maker, hull, d.mesh);
    return d;
}

}  // namespace pristine::surface
