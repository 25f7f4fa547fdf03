#include "core/surface/constrain.h"

#include <fmt/format.h>

#include <algorithm>
#include <bit>
#include <cmath>
#include <utility>

#include "core/base/error.h"
#include "core/geometry/predicates.h"

namespace pristine::surface {
namespace {

using Ends = std::array<std::uint32_t, 2>;

std::uint64_t key(std::uint32_t a, std::uint32_t b) {
    return std::uint64_t{std::min(a, b)} << 32 | std::max(a, b);
}

// Which segment owns an edge, by its ends. Edges that are no longer there stay in it: an edge that is fixed
// anew is said anew.
class Owners {
  public:
    explicit Owners(std::size_t expected) : slots_(std::bit_ceil(2 * expected + 16)) {}
    void put(std::uint64_t edge, std::uint32_t segment) {
        if (2 * (used_ + 1) > slots_.size()) grow();
        Slot& s = slot(edge);
        used_ += s.edge == 0;
        s = {edge, segment};
    }
    std::uint32_t of(std::uint64_t edge) { return slot(edge).segment; }

  private:
    struct Slot {
        std::uint64_t edge = 0;  // 0: free; the upper end of an edge is never vertex 0
        std::uint32_t segment = 0;
    };
    Slot& slot(std::uint64_t edge) {
        std::size_t at = static_cast<std::size_t>((edge * 0x9E3779B97F4A7C15u) >> 20) & (slots_.size() - 1);
        while (slots_[at].edge != 0 && slots_[at].edge != edge) at = (at + 1) & (slots_.size() - 1);
        return slots_[at];
    }
    void grow() {
        std::vector<Slot> old(2 * slots_.size());
        old.swap(slots_);
        for (const Slot& s : old)
            if (s.edge != 0) slot(s.edge) = s;
    }
    std::vector<Slot> slots_;
    std::size_t used_ = 0;
};

class Inserter {
  public:
    Inserter(Triangulation& mesh, ConstrainResult& result, std::size_t segments)
        : m_(mesh), result_(result), at_(mesh.triangle_at()), owner_(4 * segments) {}

    // What a segment will look at first: its ends lie anywhere in memory. `near`: soon, else later.
    void prepare(const Ends& s, bool near) const {
        for (const std::uint32_t v : s) {
            if (!near) {
                __builtin_prefetch(&at_[v]);
                __builtin_prefetch(&m_.points[v]);
            } else if (at_[v] != kNone) {
                __builtin_prefetch(&m_.corners[at_[v]]);
                __builtin_prefetch(&m_.beside[at_[v]]);
            }
        }
    }

    void insert(std::uint32_t from, std::uint32_t to, std::uint32_t segment) {
        segment_ = segment;
        const std::uint32_t start = from;
        const std::size_t most = m_.points.size();
        for (std::size_t steps = 0; from != to && at_[from] != kNone && at_[to] != kNone; ++steps) {
            // Rounded crossings can only lead back where lines lie on each other to the last digits.
            if (steps > most)
                throw Error(ErrorCode::Usage,
                            fmt::format("The line from {} {} to {} {} cannot be followed", point(start).x,
                                        point(start).y, point(to).x, point(to).y),
                            {}, "Take away lines that lie on each other.");
            from = advance(from, to);
        }
    }

  private:
    const Plan& point(std::uint32_t v) const { return m_.points[v]; }
    int turn(std::uint32_t a, std::uint32_t b, std::uint32_t c) const {
        const Plan &p = point(a), &q = point(b), &r = point(c);
        return orientation(p.x, p.y, q.x, q.y, r.x, r.y);
    }
    // Whether c lies on the line from a towards b, known to be on it, ahead of a.
    bool ahead(std::uint32_t a, std::uint32_t b, std::uint32_t c) const {
        const Plan &p = point(a), &q = point(b), &r = point(c);
        return (q.x - p.x) * (r.x - p.x) + (q.y - p.y) * (r.y - p.y) > 0;
    }

    // Calls visit(triangle, place of v in it) for the triangles round v; stops at true.
    template <class Visit>
    bool around(std::uint32_t v, Visit&& visit) const {
        const std::uint32_t first = at_[v];
        std::uint32_t t = first;
        do {
            const int k = m_.place_of(t, v);
            if (visit(t, k)) return true;
            t = m_.across(t, next(k));
        } while (t != kNone && t != first);
        if (t == first) return false;
        for (t = m_.across(first, previous(m_.place_of(first, v))); t != kNone;) {
            const int k = m_.place_of(t, v);
            if (visit(t, k)) return true;
            t = m_.across(t, previous(k));
        }
        return false;
    }
    // The triangle that has the directed edge a-b, and which edge of it that is.
    bool find(std::uint32_t a, std::uint32_t b, std::uint32_t& t, int& k) const {
        return around(a, [&](std::uint32_t s, int place) {
            if (m_.corner(s, next(place)) != b) return false;
            t = s;
            k = previous(place);
            return true;
        });
    }

    void fix(std::uint32_t t, int k) {
        if (m_.fixed(t, k)) return;  // whoever was first owns it
        ++result_.edges;
        m_.fix(t, k);
        const std::uint32_t o = m_.across(t, k);
        if (o != kNone) m_.fix(o, m_.edge_to(o, t));
        owner_.put(key(m_.corner(t, next(k)), m_.corner(t, previous(k))), segment_);
    }

    // Makes an edge from `from` as far as the first point on the way to `to`, and returns that point.
    std::uint32_t advance(std::uint32_t from, std::uint32_t to) {
        std::uint32_t reached = kNone, t = kNone;
        int k = 0;
        around(from, [&](std::uint32_t s, int place) {
            const std::uint32_t a = m_.corner(s, next(place)), b = m_.corner(s, previous(place));
            const int ta = turn(from, to, a), tb = turn(from, to, b);
            if (ta == 0 && ahead(from, to, a)) {
                fix(s, previous(place));
                reached = a;
            } else if (tb == 0 && ahead(from, to, b)) {
                fix(s, next(place));
                reached = b;
            } else if (ta < 0 && tb > 0) {
                t = s;
                k = place;
            } else {
                return false;
            }
            return true;
        });
        if (reached != kNone) return reached;
        if (t == kNone) return to;  // outside of the triangles: only where the mesh is not convex
        // Edges in between, from right to left.
        crossed_.clear();
        for (;;) {
            const std::uint32_t right = m_.corner(t, next(k)), left = m_.corner(t, previous(k));
            if (m_.fixed(t, k)) return cross(from, to, right, left);
            crossed_.push_back({right, left});
            const std::uint32_t o = m_.across(t, k);
            if (o == kNone) return to;
            const int j = m_.edge_to(o, t);
            const std::uint32_t q = m_.corner(o, j);
            const int side = turn(from, to, q);
            if (side == 0) {
                clear_way(from, q);
                return q;
            }
            t = o;
            // The next edge lies between q and the corner on its other side.
            k = side > 0 ? next(j) : previous(j);
        }
    }

    // Turns edges until none lies between two points.
    void clear_way(std::uint32_t from, std::uint32_t to) {
        made_.clear();
        for (std::size_t i = 0; i < crossed_.size(); ++i) {
            const auto [a, b] = crossed_[i];
            std::uint32_t t = kNone;
            int k = 0;
            find(a, b, t, k);
            const std::uint32_t o = m_.across(t, k), p = m_.corner(t, k), q = m_.corner(o, m_.edge_to(o, t));
            if (turn(p, q, a) * turn(p, q, b) >= 0) {
                crossed_.push_back({a, b});  // not convex yet
                continue;
            }
            turn_edge(t, k);
            const int sp = p == from || p == to ? 0 : turn(from, to, p),
                      sq = q == from || q == to ? 0 : turn(from, to, q);
            if (sp * sq < 0)
                crossed_.push_back({p, q});
            else
                made_.push_back({p, q});
        }
        std::uint32_t t = kNone;
        int k = 0;
        if (find(from, to, t, k) || find(to, from, t, k)) fix(t, k);
        for (const Ends& e : made_) restore(e);
    }

    void turn_edge(std::uint32_t t, int k) {
        const std::uint32_t o = m_.across(t, k);
        flip(m_, t, k);
        for (int c = 0; c < 3; ++c) at_[m_.corner(t, c)] = t;
        for (int c = 0; c < 3; ++c) at_[m_.corner(o, c)] = o;
    }

    // Delaunay again, from an edge outwards.
    void restore(const Ends& first) {
        std::vector<Ends>& open = open_;
        open.assign(1, first);
        while (!open.empty()) {
            const auto [a, b] = open.back();
            open.pop_back();
            std::uint32_t t = kNone;
            int k = 0;
            if (!find(a, b, t, k) && !find(b, a, t, k)) continue;
            if (!wants_flip(m_, t, k)) continue;
            const std::uint32_t o = m_.across(t, k), p = m_.corner(t, k), q = m_.corner(o, m_.edge_to(o, t)),
                                c = m_.corner(t, next(k)), d = m_.corner(t, previous(k));
            turn_edge(t, k);
            for (const Ends& e : {Ends{p, c}, Ends{c, q}, Ends{q, d}, Ends{d, p}}) open.push_back(e);
        }
    }

    // Of the two triangles at a fixed edge, which are so flat that a point between its ends does not fit: the
    // corner nearest to a place. The edge is led through it.
    std::uint32_t nearest_corner(std::uint32_t a, std::uint32_t b, const Plan& at, std::uint32_t owner) {
        std::uint32_t t = kNone, best = a;
        int k = 0;
        if (!find(a, b, t, k)) find(b, a, t, k);
        const auto away = [&](std::uint32_t v) { return std::hypot(point(v).x - at.x, point(v).y - at.y); };
        if (away(b) < away(best)) best = b;
        const std::uint32_t o = m_.across(t, k);
        std::uint32_t through = kNone;
        for (const std::uint32_t s : {t, o}) {
            if (s == kNone) continue;
            const std::uint32_t v = m_.corner(s, s == t ? k : m_.edge_to(o, t));
            if (away(v) < away(best)) best = v, through = s;
        }
        if (through == kNone) return best;
        m_.fix(t, k, false);
        if (o != kNone) m_.fix(o, m_.edge_to(o, t), false);
        --result_.edges;
        const std::uint32_t later = std::exchange(segment_, owner);
        const int c = m_.place_of(through, best);
        fix(through, next(c));
        fix(through, previous(c));
        segment_ = later;
        return best;
    }

    // Two segments cross: a point there, unless rounding would turn a triangle over.
    std::uint32_t cross(std::uint32_t from, std::uint32_t to, std::uint32_t a, std::uint32_t b) {
        const Plan &p = point(from), &q = point(to), &r = point(a), &s = point(b);
        const double dx = q.x - p.x, dy = q.y - p.y, ex = s.x - r.x, ey = s.y - r.y;
        const double t = (dx * (r.y - p.y) - dy * (r.x - p.x)) / (dy * ex - dx * ey);
        const Plan at{r.x + t * ex, r.y + t * ey};
        const std::uint32_t earlier = owner_.of(key(a, b));
        std::uint32_t v = split(a, b, at, earlier);
        if (v == kNone) v = nearest_corner(a, b, at, earlier);
        result_.crossings.push_back({v, earlier, segment_});
        // As far as the crossing first: nothing fixed lies in between.
        const std::uint32_t end = advance(from, v);
        return end;
    }

    // Puts a point onto a fixed edge; kNone when a triangle would not stay as it turns.
    std::uint32_t split(std::uint32_t a, std::uint32_t b, const Plan& at, std::uint32_t owner) {
        std::uint32_t t = kNone;
        int k = 0;
        if (!find(a, b, t, k)) find(b, a, t, k);
        const auto fits = [&](std::uint32_t s, int e) {
            const Plan &x = m_.point(s, e), &y = m_.point(s, next(e)), &z = m_.point(s, previous(e));
            return orientation(x.x, x.y, y.x, y.y, at.x, at.y) > 0 &&
                   orientation(x.x, x.y, at.x, at.y, z.x, z.y) > 0;
        };
        const std::uint32_t o = m_.across(t, k);
        const int j = o == kNone ? 0 : m_.edge_to(o, t);
        if (!fits(t, k) || (o != kNone && !fits(o, j))) return kNone;
        const auto v = static_cast<std::uint32_t>(m_.points.size());
        m_.points.push_back(at);
        at_.push_back(t);
        // Corner, first and second end of the edge, as t sees it: (x, y, v) stays in t, (x, v, z) is new.
        const auto halve = [&](std::uint32_t s, int e) {
            const std::uint32_t x = m_.corner(s, e), y = m_.corner(s, next(e)), z = m_.corner(s, previous(e));
            const std::uint32_t at_zx = m_.across(s, next(e)), at_xy = m_.across(s, previous(e));
            const bool fix_zx = m_.fixed(s, next(e)), fix_xy = m_.fixed(s, previous(e));
            const auto n = static_cast<std::uint32_t>(m_.size());
            m_.corners[s] = {x, y, v};
            m_.beside[s] = {kNone, n, at_xy};
            m_.constrained[s] = static_cast<std::uint8_t>(1 | fix_xy << 2);
            m_.corners.push_back({x, v, z});
            m_.beside.push_back({kNone, at_zx, s});
            m_.constrained.push_back(static_cast<std::uint8_t>(1 | fix_zx << 1));
            if (at_zx != kNone) m_.beside[at_zx][static_cast<std::size_t>(m_.edge_to(at_zx, s))] = n;
            at_[x] = s, at_[y] = s, at_[z] = n, at_[v] = s;
            return n;
        };
        const std::uint32_t t2 = halve(t, k);
        std::vector<Ends> open{{m_.corner(t, 0), m_.corner(t, 1)}, {m_.corner(t2, 2), m_.corner(t2, 0)}};
        if (o != kNone) {
            const std::uint32_t o2 = halve(o, j);
            // t has y-v, o2 has v-y; t2 has v-z, o has z-v.
            m_.beside[t][0] = o2, m_.beside[o2][0] = t;
            m_.beside[t2][0] = o, m_.beside[o][0] = t2;
            open.push_back({m_.corner(o, 0), m_.corner(o, 1)});
            open.push_back({m_.corner(o2, 2), m_.corner(o2, 0)});
        }
        ++result_.edges;
        owner_.put(key(a, v), owner);
        owner_.put(key(v, b), owner);
        for (const Ends& e : open) restore(e);
        return v;
    }

    Triangulation& m_;
    ConstrainResult& result_;
    std::vector<std::uint32_t> at_;
    Owners owner_;
    std::vector<Ends> crossed_, made_, open_;  // work space
    std::uint32_t segment_ = 0;
};

}  // namespace

ConstrainResult constrain(Triangulation& mesh, std::span<const Ends> segments, Progress& progress) {
    ConstrainResult result;
    if (mesh.size() == 0) return result;
    Inserter inserter(mesh, result, segments.size());
    constexpr std::size_t kSoon = 4, kLater = 12;
    for (std::uint32_t i = 0; i < segments.size(); ++i) {
        if (i % 1024 == 0) progress.check();
        if (i + kLater < segments.size()) inserter.prepare(segments[i + kLater], false);
        if (i + kSoon < segments.size()) inserter.prepare(segments[i + kSoon], true);
        inserter.insert(segments[i][0], segments[i][1], i);
    }
    return result;
}

}  // namespace pristine::surface
