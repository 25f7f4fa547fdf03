#include "core/repair/crossings.h"

#include <algorithm>
#include <atomic>
#include <cmath>

#include "core/base/parallel.h"
#include "core/geometry/predicates.h"
#include "core/mesh/box_tree.h"

namespace pristine::repair {
namespace {

using Corners = std::array<Vec3, 3>;

Corners corners_of(const mesh::TriMesh& m, std::uint32_t t) {
    const auto& c = m.triangles[t];
    return {m.vertices[c[0]], m.vertices[c[1]], m.vertices[c[2]]};
}

// ---- in a plane that is seen along an axis

struct Flat {
    int u, v;  // axes
    int turn(const Vec3& a, const Vec3& b, const Vec3& c) const {
        return orientation(a[u], a[v], b[u], b[v], c[u], c[v]);
    }
    bool between(const Vec3& a, const Vec3& b, const Vec3& p) const {
        return std::min(a[u], b[u]) <= p[u] && p[u] <= std::max(a[u], b[u]) && std::min(a[v], b[v]) <= p[v] &&
               p[v] <= std::max(a[v], b[v]);
    }
    bool segments_meet(const Vec3& a, const Vec3& b, const Vec3& c, const Vec3& d) const {
        const int ca = turn(c, d, a), cb = turn(c, d, b), ac = turn(a, b, c), ad = turn(a, b, d);
        if (ca * cb < 0 && ac * ad < 0) return true;
        return (ca == 0 && between(c, d, a)) || (cb == 0 && between(c, d, b)) ||
               (ac == 0 && between(a, b, c)) || (ad == 0 && between(a, b, d));
    }
    bool holds(const Corners& t, const Vec3& p) const {
        const int i = turn(t[0], t[1], p), j = turn(t[1], t[2], p), k = turn(t[2], t[0], p);
        return std::min({i, j, k}) >= 0 || std::max({i, j, k}) <= 0;
    }
};

// An axis along which the triangle is not seen edge-on; none for one without area.
bool flat_of(const Corners& t, Flat& out) {
    const Vec3 n = cross(t[1] - t[0], t[2] - t[0]);
    int axis = 0;
    for (int a = 1; a < 3; ++a)
        if (std::fabs(n[a]) > std::fabs(n[axis])) axis = a;
    for (int k = 0; k < 3; ++k) {
        const int a = (axis + k) % 3;
        out = {(a + 1) % 3, (a + 2) % 3};
        if (out.turn(t[0], t[1], t[2]) != 0) return true;
    }
    return false;
}

// ---- in space

// The segment p-q and the triangle, borders included; the triangle has an area.
bool segment_meets(const Vec3& p, const Vec3& q, const Corners& t) {
    const int sp = side_of_plane(t[0], t[1], t[2], p), sq = side_of_plane(t[0], t[1], t[2], q);
    if (sp * sq > 0) return false;
    Flat flat{};
    if (sp == 0 || sq == 0) {
        if (!flat_of(t, flat)) return false;
        if (sp == 0 && flat.holds(t, p)) return true;
        if (sq == 0 && flat.holds(t, q)) return true;
        if (sp != 0 || sq != 0) return false;
        for (std::size_t k = 0; k < 3; ++k)
            if (flat.segments_meet(p, q, t[k], t[(k + 1) % 3])) return true;
        return false;
    }
    const int i = side_of_plane(p, q, t[0], t[1]), j = side_of_plane(p, q, t[1], t[2]),
              k = side_of_plane(p, q, t[2], t[0]);
    return std::min({i, j, k}) >= 0 || std::max({i, j, k}) <= 0;
}

bool has_area(const Corners& t) {
    Flat flat{};
    return flat_of(t, flat);
}

// ---- cheap proofs that nothing is shared; margins are far above what rounding does

constexpr double kMargin = 1e-11;

// The two leave a shared corner v into cones that a plane through v parts.
bool cones_apart(const Vec3& v, const Vec3& a1, const Vec3& a2, const Vec3& b1, const Vec3& b2) {
    const Vec3 p1 = a1 - v, p2 = a2 - v, q1 = b1 - v, q2 = b2 - v;
    const double l[4] = {norm(p1), norm(p2), norm(q1), norm(q2)};
    if (!(l[0] > 0 && l[1] > 0 && l[2] > 0 && l[3] > 0)) return false;
    const Vec3 d =
        normalized(p1 * (1 / l[0]) + p2 * (1 / l[1])) - normalized(q1 * (1 / l[2]) + q2 * (1 / l[3]));
    return dot(d, p1) > kMargin * l[0] && dot(d, p2) > kMargin * l[1] && dot(d, q1) < -kMargin * l[2] &&
           dot(d, q2) < -kMargin * l[3];
}

double largest(const Vec3& v) {
    return std::max({std::fabs(v.x), std::fabs(v.y), std::fabs(v.z)});
}

// All corners of one lie beyond the plane of the other, or beyond one of its edges.
bool parted_by(const Corners& a, const Corners& b) {
    const Vec3 e0 = a[1] - a[0], e1 = a[2] - a[1], e2 = a[0] - a[2];
    const Vec3 q[3] = {b[0] - a[0], b[1] - a[0], b[2] - a[0]};
    const Vec3 n = cross(e0, e1);
    const double edge = std::max(largest(e0), largest(e1));
    const double reach = std::max({largest(q[0]), largest(q[1]), largest(q[2])}) + edge;
    const double hair = 8 * kMargin * edge * edge * reach;
    const double h[3] = {dot(n, q[0]), dot(n, q[1]), dot(n, q[2])};
    if (std::min({h[0], h[1], h[2]}) > hair || std::max({h[0], h[1], h[2]}) < -hair) return true;
    const double wide = 16 * kMargin * edge * edge * edge * reach;
    const auto beyond = [&](const Vec3& e, const Vec3& from) {
        const Vec3 out = cross(e, n);
        const double own = dot(out, from);
        return std::min({dot(out, q[0]), dot(out, q[1]), dot(out, q[2])}) - own > wide;
    };
    return beyond(e0, {0, 0, 0}) || beyond(e1, e0) || beyond(e2, {0, 0, 0});
}

bool cross_apart(const Corners& a, const Corners& b) {
    if (parted_by(a, b) || parted_by(b, a)) return false;
    if (!has_area(a) || !has_area(b)) return false;  // found as degenerate
    for (std::size_t k = 0; k < 3; ++k)
        if (segment_meets(a[k], a[(k + 1) % 3], b) || segment_meets(b[k], b[(k + 1) % 3], a)) return true;
    return false;
}

bool cross_at_corner(const Corners& a, std::size_t i, const Corners& b, std::size_t j) {
    const Vec3 &v = a[i], &a1 = a[(i + 1) % 3], &a2 = a[(i + 2) % 3], &b1 = b[(j + 1) % 3],
               &b2 = b[(j + 2) % 3];
    if (cones_apart(v, a1, a2, b1, b2)) return false;
    if (!has_area(a) || !has_area(b)) return false;
    return segment_meets(a1, a2, b) || segment_meets(b1, b2, a);
}

// Along the shared edge u-v: in one plane, and on the same side of it.
bool folded(const Vec3& u, const Vec3& v, const Vec3& a, const Vec3& b) {
    const Vec3 e = v - u;
    const double l = dot(e, e);
    if (!(l > 0)) return false;
    const Vec3 p = (a - u) - e * (dot(a - u, e) / l), q = (b - u) - e * (dot(b - u, e) / l);
    if (dot(p, q) < -kMargin * norm(p) * norm(q)) return false;
    const Corners t{u, v, a};
    Flat flat{};
    if (!flat_of(t, flat) || !has_area({u, v, b})) return false;
    return side_of_plane(u, v, a, b) == 0 && flat.turn(u, v, a) == flat.turn(u, v, b);
}

}  // namespace

bool cross(const mesh::TriMesh& m, std::uint32_t s, std::uint32_t t) {
    const auto &p = m.triangles[s], &q = m.triangles[t];
    const auto repeats = [](const std::array<std::uint32_t, 3>& c) {
        return c[0] == c[1] || c[1] == c[2] || c[2] == c[0];
    };
    if (repeats(p) || repeats(q)) return false;  // found as degenerate
    std::array<std::size_t, 3> at_p{}, at_q{};
    std::size_t shared = 0;
    for (std::size_t i = 0; i < 3; ++i)
        for (std::size_t j = 0; j < 3 && shared < 3; ++j)
            if (p[i] == q[j]) {
                at_p[shared] = i;
                at_q[shared++] = j;
            }
    const Corners a = corners_of(m, s), b = corners_of(m, t);
    if (shared == 0) return cross_apart(a, b);
    if (shared == 1) return cross_at_corner(a, at_p[0], b, at_q[0]);
    if (shared == 2)
        return folded(a[at_p[0]], a[at_p[1]], a[3 - at_p[0] - at_p[1]], b[3 - at_q[0] - at_q[1]]);
    return false;
}

namespace {

// Triangles on the same three vertices never cross each other, and all of them cross the same others.
struct Copies {
    mesh::TriMesh once;
    std::vector<std::vector<std::uint32_t>> of;  // of each triangle of `once`, those of the mesh
};

// A vertex where so many triangles meet that comparing each with each would not end is a hub.
constexpr std::uint32_t kNoHub = UINT32_MAX;
constexpr std::uint32_t kHub = 500;

// The hub of each triangle: of its vertices the one with the most triangles. Empty: no vertex is a hub.
std::vector<std::uint32_t> hubs_of(const mesh::TriMesh& m) {
    std::vector<std::uint32_t> meet(m.vertices.size());
    for (const auto& t : m.triangles)
        for (const std::uint32_t v : t) ++meet[v];
    if (meet.empty() || *std::max_element(meet.begin(), meet.end()) < kHub) return {};
    std::vector<std::uint32_t> hubs(m.triangles.size(), kNoHub);
    for (std::size_t t = 0; t < hubs.size(); ++t) {
        const auto& c = m.triangles[t];
        const std::uint32_t v =
            *std::max_element(c.begin(), c.end(), [&](auto a, auto b) { return meet[a] < meet[b]; });
        if (meet[v] >= kHub) hubs[t] = v;
    }
    return hubs;
}

// A triangle as a hub sees it: a corner `from` of the hub, an arc of directions. The arc lies in the triangle
// of its two ends and the place where the tangents at them meet. False: the triangle has no area.
bool add_arc(mesh::TriMesh& arcs, const Vec3& hub, const Vec3& a, const Vec3& b) {
    const double la = norm(a - hub), lb = norm(b - hub);
    if (!(la > 0 && lb > 0)) return false;
    const Vec3 p = (a - hub) * (1 / la), q = (b - hub) * (1 / lb);
    const double half = norm(p + q) / 2;  // cosine of half the angle
    const auto first = static_cast<std::uint32_t>(arcs.vertices.size());
    constexpr double kFlat = 0.01;  // nearly half a turn: the tangents do not meet
    if (half > kFlat)
        arcs.vertices.insert(arcs.vertices.end(), {p, q, (p + q) * (0.5 / (half * half))});
    else
        arcs.vertices.insert(arcs.vertices.end(), {p, {-1, -1, -1}, {1, 1, 1}});
    arcs.triangles.push_back({first, first + 1, first + 2});
    return true;
}

mesh::BoxTree::Box wider(mesh::BoxTree::Box b) {
    constexpr float kHair = 1e-6F;  // far above the rounding of a direction
    for (std::size_t a = 0; a < 3; ++a) {
        b.lo[a] -= kHair;
        b.hi[a] += kHair;
    }
    return b;
}

// Calls pair(i, j) for all pairs of triangles of a tree of which the boxes, made a hair wider, meet.
template <class Visit>
void pairs_meeting(const mesh::BoxTree& tree, std::size_t leaf, Visit&& pair) {
    tree.leaves_meeting(wider(tree.leaf_box(leaf)), leaf, [&](std::size_t other) {
        for (std::size_t j = tree.first(other); j < tree.last(other); ++j)
            for (std::size_t i = tree.first(leaf); i < tree.last(leaf); ++i) {
                if (other == leaf && i >= j) break;
                if (wider(tree.box(i)).meets(tree.box(j))) pair(tree.triangle(i), tree.triangle(j));
            }
    });
}

// Crossings among the triangles of each hub. Two of them share more than the hub only if their arcs meet.
std::vector<Pair> at_hubs(const mesh::TriMesh& m, const std::vector<std::uint32_t>& hubs,
                          Progress& progress) {
    std::vector<std::pair<std::uint32_t, std::uint32_t>> by_hub;
    for (std::uint32_t t = 0; t < hubs.size(); ++t)
        if (hubs[t] != kNoHub) by_hub.emplace_back(hubs[t], t);
    std::sort(by_hub.begin(), by_hub.end());
    std::vector<Pair> all;
    for (std::size_t from = 0, to = 0; from < by_hub.size(); from = to) {
        const std::uint32_t hub = by_hub[from].first;
        mesh::TriMesh arcs;
        std::vector<std::uint32_t> own;
        for (to = from; to < by_hub.size() && by_hub[to].first == hub; ++to) {
            const std::uint32_t t = by_hub[to].second;
            const auto& c = m.triangles[t];
            const std::size_t k = static_cast<std::size_t>(std::find(c.begin(), c.end(), hub) - c.begin());
            if (add_arc(arcs, m.vertices[hub], m.vertices[c[(k + 1) % 3]], m.vertices[c[(k + 2) % 3]]))
                own.push_back(t);
        }
        const mesh::BoxTree tree(arcs);
        const auto parts = parallel::map<std::vector<Pair>>(tree.leaves(), [&](std::size_t leaf) {
            progress.check();
            std::vector<Pair> found;
            pairs_meeting(tree, leaf, [&](std::uint32_t i, std::uint32_t j) {
                const std::uint32_t s = own[i], t = own[j];
                if (cross(m, s, t)) found.push_back({std::min(s, t), std::max(s, t)});
            });
            return found;
        });
        for (const auto& part : parts) all.insert(all.end(), part.begin(), part.end());
    }
    return all;
}

Copies copies_of(const mesh::TriMesh& m) {
    std::vector<std::pair<std::array<std::uint32_t, 3>, std::uint32_t>> keys;
    for (std::uint32_t t = 0; t < m.triangles.size(); ++t) {
        auto k = m.triangles[t];
        std::sort(k.begin(), k.end());
        keys.emplace_back(k, t);
    }
    std::sort(keys.begin(), keys.end());
    Copies c;
    c.once.vertices = m.vertices;
    for (std::size_t i = 0; i < keys.size(); ++i) {
        if (i == 0 || keys[i].first != keys[i - 1].first) {
            c.once.triangles.push_back(m.triangles[keys[i].second]);
            c.of.emplace_back();
        }
        c.of.back().push_back(keys[i].second);
    }
    return c;
}

}  // namespace

std::vector<Pair> crossings(const mesh::TriMesh& m, Progress& progress) {
    const std::vector<std::uint32_t> hubs = hubs_of(m);
    if (!hubs.empty()) {
        const Copies c = copies_of(m);
        if (c.once.triangles.size() < m.triangles.size()) {
            std::vector<Pair> all;
            for (const Pair& p : crossings(c.once, progress))
                for (const std::uint32_t s : c.of[p[0]])
                    for (const std::uint32_t t : c.of[p[1]]) all.push_back({std::min(s, t), std::max(s, t)});
            std::sort(all.begin(), all.end());
            return all;
        }
    }
    const auto found_at_hubs = hubs.empty() ? std::vector<Pair>() : at_hubs(m, hubs, progress);
    const auto at_one_hub = [&](std::uint32_t s, std::uint32_t t) {
        return !hubs.empty() && hubs[s] == hubs[t] && hubs[s] != kNoHub;
    };
    const mesh::BoxTree tree(m);
    constexpr std::size_t kRun = 512;
    const std::size_t runs = (tree.leaves() + kRun - 1) / kRun;
    constexpr double kTree = 0.3;  // of the time, about
    std::atomic<std::size_t> done{0};
    const auto parts = parallel::map<std::vector<Pair>>(runs, [&](std::size_t r) {
        progress.advance(kTree + (1 - kTree) * static_cast<double>(done++) / static_cast<double>(runs));
        std::vector<Pair> found;
        for (std::size_t leaf = r * kRun; leaf < std::min(tree.leaves(), (r + 1) * kRun); ++leaf) {
            const std::size_t first = tree.first(leaf), last = tree.last(leaf);
            tree.leaves_meeting(tree.leaf_box(leaf), leaf, [&](std::size_t other) {
                for (std::size_t j = tree.first(other); j < tree.last(other); ++j) {
                    const std::uint32_t t = tree.triangle(j);
                    const auto& box = tree.box(j);
                    for (std::size_t i = first; i < last; ++i) {
                        if (other == leaf && i >= j) break;
                        const std::uint32_t s = tree.triangle(i);
                        if (tree.box(i).meets(box) && !at_one_hub(s, t) && cross(m, s, t))
                            found.push_back({std::min(s, t), std::max(s, t)});
                    }
                }
            });
        }
        return found;
    });
    std::vector<Pair> all = found_at_hubs;
    for (const auto& part : parts) all.insert(all.end(), part.begin(), part.end());
    std::sort(all.begin(), all.end());
    return all;
}

std::vector<Vec3> intersection_segment(const mesh::TriMesh& m, std::uint32_t s, std::uint32_t t) {
    const Corners a = corners_of(m, s), b = corners_of(m, t);
    std::vector<Vec3> met;
    const auto through = [&](const Corners& edges, const Corners& other) {
        for (std::size_t k = 0; k < 3; ++k) {
            const Vec3 &p = edges[k], &q = edges[(k + 1) % 3];
            const int sp = side_of_plane(other[0], other[1], other[2], p),
                      sq = side_of_plane(other[0], other[1], other[2], q);
            if ((sp == 0 && sq == 0) || sp * sq > 0 || !segment_meets(p, q, other)) continue;
            const Vec3 n = cross(other[1] - other[0], other[2] - other[0]);
            const double up = dot(n, p - other[0]), uq = dot(n, q - other[0]);
            met.push_back(p + (q - p) * (up == uq ? 0 : std::clamp(up / (up - uq), 0.0, 1.0)));
        }
    };
    through(a, b);
    through(b, a);
    if (met.size() < 2) return met;
    // The two that are farthest from each other.
    std::array<Vec3, 2> ends{met[0], met[1]};
    for (const Vec3& p : met)
        for (const Vec3& q : met)
            if (norm(q - p) > norm(ends[1] - ends[0])) ends = {p, q};
    return {ends[0], ends[1]};
}

}  // namespace pristine::repair
