// Delaunay and constrained triangulations: laws on random input, much of it on one line, on circles, on
// grids.

#include <catch2/catch.hpp>

#include <algorithm>
#include <cmath>
#include <map>
#include <numbers>
#include <random>
#include <set>

#include "core/base/parallel.h"
#include "core/geometry/predicates.h"
#include "core/surface/constrain.h"
#include "core/surface/delaunay.h"
#include "support/cloud_makers.h"

using namespace pristine;
using namespace pristine::surface;

namespace {

std::vector<Plan> random_points(std::mt19937_64& dice, int kind, std::size_t n) {
    std::vector<Plan> p(n);
    const auto up_to = [&](int m) { return static_cast<double>(dice() % static_cast<std::uint64_t>(m)); };
    for (Plan& q : p) {
        const double a = up_to(64) * std::numbers::pi / 32;
        switch (kind) {
            case 0:
                q = {up_to(7), up_to(7)};
                break;
            case 1:
                q = {5e6 + up_to(1'000'000) / 1e3, 6e6 + up_to(1'000'000) / 1e3};
                break;
            case 2:
                q = {up_to(20) * 0.1, 0};
                break;
            case 3:
                q = {std::cos(a), std::sin(a)};
                break;
            case 4:
                q = {up_to(30) * 0.1, up_to(30) * 0.3};
                break;
            default:
                q = {1e-9 * up_to(1000), 1e7 + up_to(3)};
        }
    }
    return p;
}

// What is wrong with it; empty: nothing.
std::string faults(const Triangulation& m) {
    for (std::uint32_t t = 0; t < m.size(); ++t) {
        const Plan &a = m.point(t, 0), &b = m.point(t, 1), &c = m.point(t, 2);
        if (orientation(a.x, a.y, b.x, b.y, c.x, c.y) <= 0) return "a triangle turns the wrong way";
        for (int k = 0; k < 3; ++k) {
            const std::uint32_t o = m.across(t, k);
            if (o == kNone) continue;
            const int j = m.edge_to(o, t);
            if (j < 0 || m.corner(o, next(j)) != m.corner(t, previous(k)) ||
                m.corner(o, previous(j)) != m.corner(t, next(k)))
                return "neighbours do not share their edge";
            if (m.fixed(t, k) != m.fixed(o, j)) return "an edge is fixed on one side only";
            if (wants_flip(m, t, k)) return "an edge is not Delaunay";
        }
    }
    return {};
}

std::size_t boundary_edges(const Triangulation& m) {
    std::size_t n = 0;
    for (const auto& b : m.beside)
        for (const std::uint32_t o : b) n += o == kNone;
    return n;
}

std::multiset<std::array<double, 6>> as_places(const Triangulation& m) {
    std::multiset<std::array<double, 6>> all;
    for (std::uint32_t t = 0; t < m.size(); ++t) {
        std::array<Plan, 3> c{m.point(t, 0), m.point(t, 1), m.point(t, 2)};
        std::sort(c.begin(), c.end(),
                  [](const Plan& a, const Plan& b) { return a.x != b.x ? a.x < b.x : a.y < b.y; });
        all.insert({c[0].x, c[0].y, c[1].x, c[1].y, c[2].x, c[2].y});
    }
    return all;
}

}  // namespace

TEST_CASE("InCircleIsExact") {
    std::mt19937_64 dice(test::seed_for("InCircleIsExact"));
    for (int round = 0; round < 20'000; ++round) {
        // Integers so small that 128 bits hold the determinant; often on one circle.
        std::array<std::int64_t, 8> v{};
        const std::int64_t range = round % 2 ? 8 : 1 << 20;
        for (auto& x : v) x = static_cast<std::int64_t>(dice() % static_cast<std::uint64_t>(range));
        if (round % 3 == 0) v[6] = v[0], v[7] = v[3], v[2] = v[4], v[5] = v[1];
        std::array<double, 8> d{};
        for (std::size_t i = 0; i < 8; ++i) d[i] = static_cast<double>(v[i]);
        __int128 m[3][3];
        for (std::size_t r = 0; r < 3; ++r) {
            const __int128 x = v[2 * r] - v[6], y = v[2 * r + 1] - v[7];
            m[r][0] = x, m[r][1] = y, m[r][2] = x * x + y * y;
        }
        const __int128 det = m[0][2] * (m[1][0] * m[2][1] - m[2][0] * m[1][1]) +
                             m[1][2] * (m[2][0] * m[0][1] - m[0][0] * m[2][1]) +
                             m[2][2] * (m[0][0] * m[1][1] - m[1][0] * m[0][1]);
        const int sign = det > 0 ? 1 : det < 0 ? -1 : 0;
        REQUIRE(in_circle(d[0], d[1], d[2], d[3], d[4], d[5], d[6], d[7]) == sign);
        REQUIRE(in_circle_exact(d[0], d[1], d[2], d[3], d[4], d[5], d[6], d[7]) == sign);
    }
    // One unit in the last place off the circle, far from the origin.
    const double e = 8388608.0, tiny = 1.0 / (1 << 28);
    CHECK(in_circle(e, 0, e + 1, 0, e + 1, 1, e, 1) == 0);
    CHECK(in_circle(e, 0, e + 1, 0, e + 1, 1, e + tiny, 1 - tiny) > 0);
    CHECK(in_circle(e, 0, e + 1, 0, e + 1, 1, e - tiny, 1) < 0);
}

TEST_CASE("DelaunayHoldsItsLawsOnAnyPoints") {
    const std::uint64_t seed = test::seed_for("Delaunay");
    CAPTURE(seed);
    std::mt19937_64 dice(seed);
    for (int round = 0; round < 1200; ++round) {
        CAPTURE(round);
        const std::vector<Plan> p =
            random_points(dice, round % 6, 1 + dice() % (round % 50 == 0 ? 1500 : 40));
        const Delaunay d = delaunay(p);
        const Triangulation& m = d.mesh;
        REQUIRE(faults(m) == "");
        for (std::size_t i = 0; i < p.size(); ++i) REQUIRE(m.points[d.vertex[i]] == p[i]);
        if (m.size() == 0) {
            for (std::size_t i = 2; i < m.points.size(); ++i)
                REQUIRE(orientation(m.points[0].x, m.points[0].y, m.points[1].x, m.points[1].y, m.points[i].x,
                                    m.points[i].y) == 0);
            continue;
        }
        // Euler: all points are used, and the rim is the convex hull.
        REQUIRE(m.size() == 2 * m.points.size() - 2 - boundary_edges(m));
        if (p.size() > 60) continue;
        for (std::uint32_t t = 0; t < m.size(); ++t)
            for (const Plan& q : m.points) {
                const Plan &a = m.point(t, 0), &b = m.point(t, 1), &c = m.point(t, 2);
                REQUIRE(in_circle(a.x, a.y, b.x, b.y, c.x, c.y, q.x, q.y) <= 0);
            }
    }
}

TEST_CASE("DelaunayDoesNotDependOnTheOrderOfPointsOrOnWorkers") {
    std::mt19937_64 dice(7);
    for (int kind = 0; kind < 6; ++kind) {
        std::vector<Plan> p = random_points(dice, kind, 60'000);
        const auto first = as_places(delaunay(p).mesh);
        std::shuffle(p.begin(), p.end(), dice);
        CHECK(as_places(delaunay(p).mesh) == first);
        const parallel::WorkerLimit alone(1);
        CHECK(as_places(delaunay(p).mesh) == first);
    }
    CHECK_THROWS_AS(delaunay(std::vector<Plan>{{0, 0}, {NAN, 1}, {2, 2}}), Error);
}

// Every segment is there as a chain of fixed edges, and nothing else is fixed.
TEST_CASE("ConstraintsAreFollowedExactly") {
    const std::uint64_t seed = test::seed_for("Constraints");
    CAPTURE(seed);
    std::mt19937_64 dice(seed);
    std::size_t crossings = 0, through_points = 0;
    for (int round = 0; round < 1500; ++round) {
        CAPTURE(round);
        const std::vector<Plan> p = random_points(dice, round % 6, 4 + dice() % (round % 50 == 0 ? 600 : 30));
        Delaunay d = delaunay(p);
        Triangulation& m = d.mesh;
        if (m.size() == 0) continue;
        const std::size_t before = m.points.size();
        std::vector<std::array<std::uint32_t, 2>> segments;
        for (std::size_t i = 0; i < 1 + dice() % 8; ++i)
            segments.push_back(
                {static_cast<std::uint32_t>(dice() % before), static_cast<std::uint32_t>(dice() % before)});
        const ConstrainResult result = constrain(m, segments);
        REQUIRE(faults(m) == "");
        REQUIRE(m.size() == 2 * m.points.size() - 2 - boundary_edges(m));
        crossings += result.crossings.size();
        std::map<std::uint32_t, std::vector<std::uint32_t>> fixed;
        std::size_t edges = 0;
        for (std::uint32_t t = 0; t < m.size(); ++t)
            for (int k = 0; k < 3; ++k)
                if (m.fixed(t, k)) {
                    fixed[m.corner(t, next(k))].push_back(m.corner(t, previous(k)));
                    fixed[m.corner(t, previous(k))].push_back(m.corner(t, next(k)));
                    edges += m.across(t, k) == kNone ? 2 : 1;
                }
        REQUIRE(edges == 2 * result.edges);
        // A walk along fixed edges that stays on the line, but for the rounding of crossings.
        for (const auto& [from, to] : segments) {
            // Places a millionth apart at ten million: a crossing is rounded to where other points are.
            if (from == to || (round % 6 == 5 && !result.crossings.empty())) continue;
            const Plan a = m.points[from], b = m.points[to];
            const double dx = b.x - a.x, dy = b.y - a.y, length = std::hypot(dx, dy);
            const double slack = result.crossings.empty() ? 0 : 1e-7 * (1 + length);
            std::set<std::uint32_t> passed{from};
            std::vector<std::uint32_t> open{from};
            while (!open.empty()) {
                const std::uint32_t at = open.back();
                open.pop_back();
                for (const std::uint32_t v : fixed[at]) {
                    const Plan q = m.points[v];
                    const double along = ((q.x - a.x) * dx + (q.y - a.y) * dy) / length,
                                 off = std::fabs((q.x - a.x) * dy - (q.y - a.y) * dx) / length;
                    const bool on = result.crossings.empty() ? orientation(a.x, a.y, b.x, b.y, q.x, q.y) == 0
                                                             : off <= slack;
                    if (on && along > -slack && along < length + slack + 1e-9 && passed.insert(v).second)
                        open.push_back(v);
                }
            }
            REQUIRE(passed.contains(to));
            through_points += passed.size() > 2;
        }
    }
    CHECK(crossings > 300);
    CHECK(through_points > 300);
}
