// Exact decisions in space, and pairs of triangles that pass through each other.

#include <catch2/catch.hpp>

#include <cmath>
#include <random>

#include "core/base/parallel.h"
#include "core/geometry/predicates.h"
#include "core/mesh/box_tree.h"
#include "core/repair/crossings.h"
#include "demo/solids.h"
#include "support/cloud_makers.h"

using namespace pristine;

namespace {

using Int = __int128;
using Place = std::array<long long, 3>;

// The determinant of whole numbers, exactly.
int side(const Place& a, const Place& b, const Place& c, const Place& d) {
    Int m[3][3];
    for (std::size_t k = 0; k < 3; ++k) {
        m[0][k] = b[k] - a[k];
        m[1][k] = c[k] - a[k];
        m[2][k] = d[k] - a[k];
    }
    const Int det = m[0][0] * (m[1][1] * m[2][2] - m[1][2] * m[2][1]) -
                    m[0][1] * (m[1][0] * m[2][2] - m[1][2] * m[2][0]) +
                    m[0][2] * (m[1][0] * m[2][1] - m[1][1] * m[2][0]);
    return det > 0 ? 1 : det < 0 ? -1 : 0;
}

Vec3 vec(const Place& p) {
    return {double(p[0]), double(p[1]), double(p[2])};
}

}  // namespace

TEST_CASE("SideOfAPlaneIsThatOfWholeNumbers", "[geometry][property]") {
    std::mt19937_64 dice(7);
    for (const long long range : {2LL, 20LL, 5'000'000LL}) {
        int zero = 0;
        for (int round = 0; round < 4000; ++round) {
            std::uniform_int_distribution<long long> u(-range, range);
            Place p[4];
            for (Place& q : p) q = {u(dice), u(dice), u(dice)};
            if (round % 3 == 0)  // in one plane to the last bit, far from the origin
                for (std::size_t k = 0; k < 3; ++k)
                    p[3][k] = p[0][k] + 2 * (p[1][k] - p[0][k]) - (p[2][k] - p[0][k]);
            const int s = side(p[0], p[1], p[2], p[3]);
            zero += s == 0;
            CHECK(side_of_plane(vec(p[0]), vec(p[1]), vec(p[2]), vec(p[3])) == s);
            CHECK(side_of_plane_exact(vec(p[0]), vec(p[1]), vec(p[2]), vec(p[3])) == s);
            CHECK(side_of_plane(vec(p[1]), vec(p[0]), vec(p[2]), vec(p[3])) == -s);
        }
        CHECK(zero > 1000);
    }
    // The sign is that of the normal.
    CHECK(side_of_plane({0, 0, 0}, {1, 0, 0}, {0, 1, 0}, {0, 0, 1}) == 1);
    // Off the plane by the last bit.
    const Vec3 a{412300.1, 5218930.3, 58.7}, b{412300.2, 5218930.9, 58.1}, c{412300.7, 5218930.2, 58.3};
    const Vec3 d = a + (b - a) * 0.5 + (c - a) * 0.25;
    CHECK(side_of_plane(a, b, c, d) == side_of_plane_exact(a, b, c, d));
}

namespace {

// Slow and obvious, on whole numbers: closed triangles meet when an edge of one meets the other.
struct Slow {
    static int turn(const Place& a, const Place& b, const Place& c, std::size_t u, std::size_t v) {
        const Int d = Int(b[u] - a[u]) * (c[v] - a[v]) - Int(b[v] - a[v]) * (c[u] - a[u]);
        return d > 0 ? 1 : d < 0 ? -1 : 0;
    }
    static std::size_t axis(const Place* t) {
        for (std::size_t k = 0; k < 3; ++k)
            if (turn(t[0], t[1], t[2], (k + 1) % 3, (k + 2) % 3) != 0) return k;
        return 3;
    }
    static bool in_plane(const Place* t, const Place& p) {
        const std::size_t k = axis(t), u = (k + 1) % 3, v = (k + 2) % 3;
        int lo = 1, hi = -1;
        for (std::size_t i = 0; i < 3; ++i) {
            const int s = turn(t[i], t[(i + 1) % 3], p, u, v);
            lo = std::min(lo, s), hi = std::max(hi, s);
        }
        return lo >= 0 || hi <= 0;
    }
    static bool on(const Place& a, const Place& b, const Place& p) {
        for (std::size_t k = 0; k < 3; ++k)
            if (p[k] < std::min(a[k], b[k]) || p[k] > std::max(a[k], b[k])) return false;
        for (std::size_t k = 0; k < 3; ++k)
            if (turn(a, b, p, (k + 1) % 3, (k + 2) % 3) != 0) return false;
        return true;
    }
    static bool segment(const Place& p, const Place& q, const Place* t) {
        const int sp = side(t[0], t[1], t[2], p), sq = side(t[0], t[1], t[2], q);
        if (sp * sq > 0) return false;
        if (sp == 0 && in_plane(t, p)) return true;
        if (sq == 0 && in_plane(t, q)) return true;
        if (sp == 0 && sq == 0) {
            const std::size_t k = axis(t), u = (k + 1) % 3, v = (k + 2) % 3;
            for (std::size_t i = 0; i < 3; ++i) {
                const Place &a = t[i], &b = t[(i + 1) % 3];
                if (turn(p, q, a, u, v) * turn(p, q, b, u, v) < 0 &&
                    turn(a, b, p, u, v) * turn(a, b, q, u, v) < 0)
                    return true;
                if (on(p, q, a) || on(a, b, p)) return true;
            }
            return false;
        }
        if (sp == 0 || sq == 0) return false;
        int lo = 1, hi = -1;
        for (std::size_t i = 0; i < 3; ++i) {
            const int s = side(p, q, t[i], t[(i + 1) % 3]);
            lo = std::min(lo, s), hi = std::max(hi, s);
        }
        return lo >= 0 || hi <= 0;
    }
    static bool meet(const Place* a, const Place* b) {
        for (std::size_t i = 0; i < 3; ++i)
            if (segment(a[i], a[(i + 1) % 3], b) || segment(b[i], b[(i + 1) % 3], a)) return true;
        return false;
    }
};

}  // namespace

TEST_CASE("CrossingsAreThoseOfEveryPairTriedSlowly", "[repair][property]") {
    for (int seed = 0; seed < 12; ++seed) {
        std::mt19937_64 dice(static_cast<std::uint64_t>(seed));
        // Few places, so that corners, edges and planes meet exactly all the time.
        std::uniform_int_distribution<long long> u(0, seed % 3 == 0 ? 3 : seed % 3 == 1 ? 8 : 1000);
        mesh::TriMesh m;
        std::vector<Place> at;
        const Place shift = seed % 2 ? Place{412300, 5218930, 58} : Place{0, 0, 0};
        std::vector<std::array<std::uint32_t, 3>> wanted;
        for (int t = 0; t < 160; ++t) {
            std::array<std::uint32_t, 3> tri{};
            for (std::uint32_t& v : tri) {
                // Every other corner is one that another triangle has.
                if (!at.empty() && dice() % 2 == 0) {
                    v = static_cast<std::uint32_t>(dice() % at.size());
                    continue;
                }
                at.push_back({u(dice) + shift[0], u(dice) + shift[1], u(dice) + shift[2]});
                m.vertices.push_back(vec(at.back()));
                v = static_cast<std::uint32_t>(at.size() - 1);
            }
            m.triangles.push_back(tri);
        }
        const auto corners = [&](std::uint32_t t) {
            return std::array<Place, 3>{at[m.triangles[t][0]], at[m.triangles[t][1]], at[m.triangles[t][2]]};
        };
        std::vector<repair::Pair> slow;
        for (std::uint32_t s = 0; s < m.triangles.size(); ++s)
            for (std::uint32_t t = s + 1; t < m.triangles.size(); ++t) {
                const auto a = corners(s), b = corners(t);
                if (Slow::axis(a.data()) == 3 || Slow::axis(b.data()) == 3) continue;
                std::vector<std::pair<std::size_t, std::size_t>> shared;
                for (std::size_t i = 0; i < 3; ++i)
                    for (std::size_t j = 0; j < 3; ++j)
                        if (m.triangles[s][i] == m.triangles[t][j]) shared.push_back({i, j});
                bool cross = false;
                if (shared.empty()) {
                    cross = Slow::meet(a.data(), b.data());
                } else if (shared.size() == 1) {
                    const auto [i, j] = shared[0];
                    cross = Slow::segment(a[(i + 1) % 3], a[(i + 2) % 3], b.data()) ||
                            Slow::segment(b[(j + 1) % 3], b[(j + 2) % 3], a.data());
                } else if (shared.size() == 2) {
                    const Place &p = a[3 - shared[0].first - shared[1].first],
                                &q = b[3 - shared[0].second - shared[1].second];
                    const Place &e = a[shared[0].first], &f = a[shared[1].first];
                    const std::size_t k = Slow::axis(a.data());
                    cross = side(e, f, p, q) == 0 && Slow::turn(e, f, p, (k + 1) % 3, (k + 2) % 3) ==
                                                         Slow::turn(e, f, q, (k + 1) % 3, (k + 2) % 3);
                }
                if (cross) slow.push_back({s, t});
            }
        const auto fast = repair::crossings(m);
        CHECK(fast == slow);
        CHECK(!slow.empty());
        const parallel::WorkerLimit one(1);
        CHECK(repair::crossings(m) == slow);
    }
}

TEST_CASE("SoundMeshesHaveNoCrossingsAndStuckOnesHaveARingOfThem", "[repair]") {
    CHECK(repair::crossings(demo::ball(16, 1)).empty());
    CHECK(repair::crossings(demo::block(12, {0, 0, 0}, {1, 2, 3})).empty());
    CHECK(repair::crossings(demo::ring(60, 1, 0.3)).empty());
    CHECK(repair::crossings({}).empty());
    mesh::TriMesh m = demo::ball(16, 1);
    const mesh::TriMesh other = demo::ball(16, 1, {0.7, 0.01, 0.02});
    const auto n = static_cast<std::uint32_t>(m.vertices.size());
    m.vertices.insert(m.vertices.end(), other.vertices.begin(), other.vertices.end());
    for (const auto& t : other.triangles) m.triangles.push_back({t[0] + n, t[1] + n, t[2] + n});
    const auto pairs = repair::crossings(m);
    CHECK(pairs.size() > 50);
    for (const auto& p : pairs) {
        // The balls meet in the plane between their centres.
        for (const Vec3& w : repair::intersection_segment(m, p[0], p[1]))
            CHECK(dot(w, Vec3{0.7, 0.01, 0.02}) == Approx(0.2452).margin(0.02));
    }
}

TEST_CASE("TheNearestPlaceOfAMeshIsThatOfEveryTriangleTried", "[mesh][property]") {
    std::mt19937_64 dice(3);
    std::uniform_real_distribution<double> u(-2, 2);
    mesh::TriMesh m = demo::ring(40, 1, 0.4);
    for (Vec3& v : m.vertices) v = v + Vec3{412300, 5218930, 58};
    const mesh::BoxTree tree(m);
    for (int round = 0; round < 300; ++round) {
        const Vec3 p = Vec3{412300, 5218930, 58} + Vec3{u(dice), u(dice), u(dice)};
        double best = INFINITY;
        for (const auto& t : m.triangles)
            best = std::min(
                best, norm(closest_on_triangle(p, m.vertices[t[0]], m.vertices[t[1]], m.vertices[t[2]]) - p));
        CHECK(tree.nearest(p).distance == Approx(best).epsilon(1e-12));
        const auto near = tree.nearest(p, 0.3);
        CHECK((near.triangle == UINT32_MAX) == !(best < 0.3));
    }
}

TEST_CASE("CrossingsAtAVertexOfManyTrianglesAreThoseOfEachPair", "[repair][property]") {
    // So many triangles meet at one vertex that they are found by their directions.
    const std::uint64_t seed = test::seed_for("hubs");
    CAPTURE(seed);
    std::mt19937_64 dice(seed);
    std::uniform_real_distribution<double> u(-1, 1);
    for (int round = 0; round < 4; ++round) {
        CAPTURE(round);
        mesh::TriMesh m;
        m.vertices = {{5e5, 4e6, 30}, {5e5 + 0.5, 4e6, 30}};
        const auto corner = [&](double reach) {
            Vec3 d{u(dice), u(dice), round % 2 ? 0.0 : u(dice)};  // in a plane, or all round
            if (round > 1) d = {std::round(d.x * 6) / 6, std::round(d.y * 6) / 6, std::round(d.z * 6) / 6};
            m.vertices.push_back(m.vertices[0] + d * reach);
            return static_cast<std::uint32_t>(m.vertices.size() - 1);
        };
        for (int t = 0; t < 650; ++t) {
            const std::uint32_t a = corner(1);
            // Slim ones, a few over half a turn, some on an edge that others have, some at two hubs.
            const Vec3 at = m.vertices[a];
            std::uint32_t b = t % 40 == 0 ? corner(1) : t % 7 == 0 && t > 10 ? a - 3 : 0;
            if (b < 2) {
                m.vertices.push_back(at + Vec3{u(dice), u(dice), round % 2 ? 0.0 : u(dice)} * 0.05);
                b = static_cast<std::uint32_t>(m.vertices.size() - 1);
            }
            m.triangles.push_back({t % 9 == 0 ? 1u : 0u, a, b});
            if (t % 50 == 0) m.triangles.push_back({0, 1, a});
        }
        std::vector<repair::Pair> slow;
        for (std::uint32_t s = 0; s < m.triangles.size(); ++s)
            for (std::uint32_t t = s + 1; t < m.triangles.size(); ++t)
                if (repair::cross(m, s, t)) slow.push_back({s, t});
        CHECK(!slow.empty());
        CHECK(repair::crossings(m) == slow);
    }
}
