#include "core/surface/delaunay.h"

#include <algorithm>
#include <atomic>
#include <bit>
#include <cmath>
#include <memory>
#include <utility>

#include "core/base/error.h"
#include "core/base/parallel.h"
#include "core/base/plain_array.h"
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
PlainArray<Keyed> in_order(std::span<const Plan> points) {
    double x0 = INFINITY, y0 = INFINITY, x1 = -INFINITY, y1 = -INFINITY;
    for (const Plan& p : points) {
        if (!std::isfinite(p.x) || !std::isfinite(p.y))
            throw Error(ErrorCode::Usage, "A coordinate is no number");
        x0 = std::min(x0, p.x), x1 = std::max(x1, p.x);
        y0 = std::min(y0, p.y), y1 = std::max(y1, p.y);
    }
    // Halves: the difference of two numbers may be greater than any number. Nor may the scale be.
    constexpr double kCells = 4294967295.0, kLeast = 1e-290;
    const double extent = std::max({0.5 * x1 - 0.5 * x0, 0.5 * y1 - 0.5 * y0, kLeast}),
                 scale = kCells / extent;
    const auto cell = [&](double v, double v0) {
        return static_cast<std::uint64_t>(std::min((0.5 * v - 0.5 * v0) * scale, kCells));
    };
    const auto key_of = [&](const Plan& p) { return spread(cell(p.x, x0)) << 1 | spread(cell(p.y, y0)); };
    const auto before = [&](const Keyed& a, const Keyed& b) {
        if (a.key != b.key) return a.key < b.key;
        const Plan &p = points[a.index], &q = points[b.index];
        return p.x != q.x ? p.x < q.x : p.y != q.y ? p.y < q.y : a.index < b.index;
    };
    PlainArray<Keyed> keyed(points.size());
    if (points.size() < kAlone) {
        for (std::uint32_t i = 0; i < points.size(); ++i) keyed[i] = {key_of(points[i]), i};
        std::sort(keyed.begin(), keyed.end(), before);
        return keyed;
    }
    // Buckets by the upper bits, each sorted for itself. Runs of points are shared out among them side by
    // side.
    constexpr unsigned kShift = 50;
    constexpr std::size_t kBuckets = std::size_t{1} << (64 - kShift), kRun = 1 << 18;
    const std::size_t runs = (points.size() + kRun - 1) / kRun;
    PlainArray<std::uint64_t> keys(points.size());
    std::vector<std::uint32_t> start(runs * kBuckets + 1, 0);  // of each run in each bucket, bucket by bucket
    parallel::for_each(runs, [&](std::size_t r) {
        std::vector<std::uint32_t> count(kBuckets, 0);
        for (std::size_t i = r * kRun; i < std::min(points.size(), (r + 1) * kRun); ++i)
            ++count[(keys[i] = key_of(points[i])) >> kShift];
        for (std::size_t b = 0; b < kBuckets; ++b) start[b * runs + r + 1] = count[b];
    });
    for (std::size_t b = 1; b < start.size(); ++b) start[b] += start[b - 1];
    parallel::for_each(runs, [&](std::size_t r) {
        std::vector<std::uint32_t> at(kBuckets);
        for (std::size_t b = 0; b < kBuckets; ++b) at[b] = start[b * runs + r];
        for (std::size_t i = r * kRun; i < std::min(points.size(), (r + 1) * kRun); ++i)
            keyed[at[keys[i] >> kShift]++] = {keys[i], static_cast<std::uint32_t>(i)};
    });
    parallel::for_ranges(kBuckets, 64, [&](std::size_t from, std::size_t to) {
        for (std::size_t b = from; b < to; ++b)
            std::sort(keyed.begin() + start[b * runs], keyed.begin() + start[(b + 1) * runs], before);
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
        : p_(points), keys_(keys), count_(6 * points.size()), edges_(count_), progress_(progress) {}

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
    std::span<Edge> edges() { return {edges_.data(), count_}; }
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

    // A corner as the base sees it: from the base's origin, across the base, with what rounding can have
    // done.
    struct Seen {
        std::uint32_t vertex;
        double x, y, lift, cross, size;
    };
    struct Base {
        std::uint32_t origin, end;
        double x, y, lift;  // from origin to end
    };
    Seen seen(std::uint32_t v, const Base& b) const {
        const double x = at(v).x - at(b.origin).x, y = at(v).y - at(b.origin).y;
        const double left = x * b.y, right = y * b.x;
        return {v, x, y, x * x + y * y, left - right, std::fabs(left) + std::fabs(right)};
    }
    bool above(const Seen& p, const Base& b) const {
        // As orientation(), whose products these are.
        const double bound = (3.0 + 16.0 * kHalfUlp) * kHalfUlp * p.size;
        if (p.cross > bound) return true;
        if (-p.cross > bound) return false;
        return turn(p.vertex, b.end, b.origin) > 0;
    }
    // Whether q lies in the circle through the base and p. As in_circle(), about the base's origin: what the
    // base sees of each corner serves all of its tests.
    bool inside(const Base& b, const Seen& p, const Seen& q) const {
        const double pq = p.x * q.y, qp = p.y * q.x;
        const double det = b.lift * (pq - qp) + p.lift * q.cross - q.lift * p.cross;
        const double size = b.lift * (std::fabs(pq) + std::fabs(qp)) + p.lift * q.size + q.lift * p.size;
        const double bound = (10.0 + 96.0 * kHalfUlp) * kHalfUlp * size;
        if (det > bound) return true;
        if (-det > bound) return false;
        const Plan &o = at(b.end), &u = at(b.origin), &v = at(p.vertex), &w = at(q.vertex);
        return in_circle_exact(o.x, o.y, u.x, u.y, v.x, v.y, w.x, w.y) > 0;
    }
    // Of the edges that leave an end of the base the first whose circle holds no corner of the next; those
    // before it go. `next` turns from an edge to the one after it. Gives false when none is above the base.
    template <class Next>
    bool candidate(const Base& b, std::uint32_t& e, Seen& p, Next&& next, Pool& pool) {
        // Of an end without other edges it is the base itself.
        if (to(e) == b.origin || to(e) == b.end) return false;
        p = seen(to(e), b);
        if (!above(p, b)) return false;
        for (;;) {
            const std::uint32_t other = next(e), v = to(other);
            if (v == b.origin || v == b.end || v == p.vertex) return true;
            const Seen q = seen(v, b);
            // Whoever takes the place of a removed one lies inside its circle, and so above the base too.
            if (!inside(b, p, q)) return true;
            remove(e, pool);
            e = other;
            p = q;
        }
    }

    // From the lower tangent upwards, one edge across after the other.
    void rise(std::uint32_t base, Pool& pool) {
        for (;;) {
            Base b{from(base), to(base), 0, 0, 0};
            b.x = at(b.end).x - at(b.origin).x;
            b.y = at(b.end).y - at(b.origin).y;
            b.lift = b.x * b.x + b.y * b.y;
            std::uint32_t l = edges_[base ^ 1].after, r = edges_[base].before;
            Seen p, q;
            const bool left = candidate(
                           b, l, p, [&](std::uint32_t e) { return edges_[e].after; }, pool),
                       right = candidate(
                           b, r, q, [&](std::uint32_t e) { return edges_[e].before; }, pool);
            if (!left && !right) return;
            if (!left || (right && p.vertex != q.vertex && inside(b, p, q)))
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
    PlainArray<Edge> edges_;
    Progress& progress_;
};

// Faces to the left of edges, numbered by their least edge.
// Going round to the left needs only what lies before an edge: what lies after it gives way to its face.
void take_triangles(Maker& maker, std::uint32_t hull, Triangulation& m) {
    const std::span<Edge> edges = maker.edges();
    constexpr std::uint32_t kOutside = kNone;
    for (std::uint32_t e = hull; edges[e ^ 1].after != kOutside;) {
        const std::uint32_t next = maker.hull_next(e);
        edges[e ^ 1].after = kOutside;
        e = next;
    }
    // Each triangle by its least edge, with the two that follow.
    using Round = std::array<std::uint32_t, 3>;
    constexpr std::size_t kRun = 1 << 16;
    const std::size_t runs = (edges.size() + kRun - 1) / kRun;
    const auto found = parallel::map<std::vector<Round>>(runs, [&](std::size_t r) {
        const auto own = std::make_unique_for_overwrite<Round[]>(std::min(kRun, edges.size() - r * kRun));
        std::size_t n = 0;
        for (std::size_t i = r * kRun; i < std::min(edges.size(), (r + 1) * kRun); ++i) {
            const auto e = static_cast<std::uint32_t>(i);
            if (edges[e].origin == kNone) continue;
            // No jumps: whether an edge is the least of its triangle cannot be foreseen.
            const std::uint32_t f = maker.left_next(e), g = maker.left_next(f);
            own[n] = {e, f, g};
            n += static_cast<std::size_t>((e < f) & (e < g) & (edges[e].after != kOutside));
        }
        return std::vector<Round>(own.get(), own.get() + n);
    });
    std::vector<std::uint32_t> first(runs + 1, 0);
    for (std::size_t r = 0; r < runs; ++r)
        first[r + 1] = first[r] + static_cast<std::uint32_t>(found[r].size());
    const std::uint32_t sum = first.back();
    m.corners.resize(sum);
    m.beside.resize(sum);
    m.constrained.assign(sum, 0);
    parallel::for_each(runs, [&](std::size_t r) {
        std::uint32_t t = first[r];
        for (const auto& [e, f, g] : found[r]) {
            m.corners[t] = {edges[e].origin, edges[f].origin, edges[g].origin};
            edges[e].after = edges[f].after = edges[g].after = t;
            ++t;
        }
    });
    parallel::for_each(runs, [&](std::size_t r) {
        const auto other = [&](std::uint32_t e) { return edges[e ^ 1].after; };
        std::uint32_t t = first[r];
        for (const auto& [e, f, g] : found[r]) m.beside[t++] = {other(f), other(g), other(e)};
    });
}

// The points in this order, those in one place once; gives their keys.
std::vector<std::uint64_t> take_points(std::span<const Plan> points, const PlainArray<Keyed>& keyed,
                                       Delaunay& d) {
    constexpr std::size_t kRun = 1 << 16, kAhead = 24;
    const std::size_t n = keyed.size(), runs = (n + kRun - 1) / kRun;
    const auto first_of_place = [&](std::size_t i) {
        return i == 0 || keyed[i].key != keyed[i - 1].key ||
               !(points[keyed[i].index] == points[keyed[i - 1].index]);
    };
    std::vector<std::uint32_t> start(runs + 1, 0);
    parallel::for_each(runs, [&](std::size_t r) {
        std::uint32_t own = 0;
        for (std::size_t i = r * kRun; i < std::min(n, (r + 1) * kRun); ++i) own += first_of_place(i);
        start[r + 1] = own;
    });
    for (std::size_t r = 0; r < runs; ++r) start[r + 1] += start[r];
    std::vector<std::uint64_t> keys(start[runs]);
    d.mesh.points.resize(start[runs]);
    d.source.resize(start[runs]);
    d.vertex.resize(n);
    parallel::for_each(runs, [&](std::size_t r) {
        std::uint32_t v = start[r];
        for (std::size_t i = r * kRun; i < std::min(n, (r + 1) * kRun); ++i) {
            if (i + kAhead < n) {
                __builtin_prefetch(&points[keyed[i + kAhead].index]);
                __builtin_prefetch(&d.vertex[keyed[i + kAhead].index], 1);
            }
            const Keyed& k = keyed[i];
            if (first_of_place(i)) {
                d.mesh.points[v] = points[k.index];
                d.source[v] = k.index;
                keys[v++] = k.key;
            }
            d.vertex[k.index] = v - 1;
        }
    });
    return keys;
}

}  // namespace

Delaunay delaunay(std::span<const Plan> points, Progress& progress) {
    if (points.size() > UINT32_MAX / 8) throw Error(ErrorCode::Unsupported, "There are too many points");
    Delaunay d;
    if (points.empty()) return d;
    const PlainArray<Keyed> keyed = in_order(points);
    progress.check();
    std::vector<std::uint64_t> keys = take_points(points, keyed, d);
    Maker maker(d.mesh.points, keys, progress);
    const std::uint32_t hull = maker.run();
    progress.check();
    if (hull == kNone) return d;
    // Points on one line have edges only: their hull goes there and back.
    std::uint32_t e = hull;
    bool flat = true;
    do {
        const std::span<Edge> edges = maker.edges();
        const Plan &a = d.mesh.points[edges[e].origin], &b = d.mesh.points[edges[e ^ 1].origin],
                   &c = d.mesh.points[edges[maker.hull_next(e) ^ 1].origin];
        flat = flat && orientation(a.x, a.y, b.x, b.y, c.x, c.y) == 0;
        e = maker.hull_next(e);
    } while (e != hull && flat);
    if (!flat) take_triangles(maker, hull, d.mesh);
    return d;
}

}  // namespace pristine::surface
