// Lines simplified, laid beside themselves, split and joined.

#include <catch2/catch.hpp>

#include <cmath>
#include <random>

#include "core/base/error.h"
#include "core/geometry/line_edit.h"
#include "support/cloud_makers.h"

using namespace pristine;

namespace {

double from_line(const Vec3& p, const std::vector<Vec3>& line, bool closed) {
    double least = INFINITY;
    for (std::size_t k = 0; k + 1 < line.size() + (closed ? 1 : 0); ++k) {
        const Vec3 &a = line[k], &b = line[(k + 1) % line.size()], d = b - a;
        const double l = dot(d, d), t = l > 0 ? std::min(1.0, std::max(0.0, dot(p - a, d) / l)) : 0;
        least = std::min(least, norm(p - (a + d * t)));
    }
    return least;
}

std::vector<Vec3> walk(std::mt19937_64& dice, std::size_t n) {
    std::normal_distribution<double> step(0, 1);
    std::vector<Vec3> out{{412300, 5218930, 58}};
    while (out.size() < n) out.push_back(out.back() + Vec3{1 + step(dice), step(dice), 0.2 * step(dice)});
    return out;
}

}  // namespace

TEST_CASE("NoPlaceIsFartherFromTheSimplifiedLineThanItSays") {
    const std::uint64_t seed = test::seed_for("simplified");
    CAPTURE(seed);
    std::mt19937_64 dice(seed);
    for (int round = 0; round < 60; ++round) {
        const bool closed = round % 2;
        const std::vector<Vec3> line = walk(dice, 4 + dice() % 200);
        const double tolerance = std::uniform_real_distribution<double>(0, 3)(dice);
        const Simplified s = simplified(line, closed, tolerance);
        CAPTURE(closed, line.size(), tolerance);
        CHECK(s.deviation <= tolerance);
        CHECK(s.points.size() <= line.size());
        CHECK(s.points.size() >= (closed ? 3u : 2u));
        CHECK(s.points.front() == line.front());
        if (!closed) CHECK(s.points.back() == line.back());
        double worst = 0;
        for (const Vec3& p : line) worst = std::max(worst, from_line(p, s.points, closed));
        CHECK(worst <= s.deviation + 1e-9);
    }
    const std::vector<Vec3> straight{{0, 0, 0}, {1, 0, 0}, {2, 0, 0}, {5, 0, 0}};
    CHECK(simplified(straight, false, 0).points.size() == 2);
    CHECK_THROWS_AS(simplified(straight, false, -1), Error);
    CHECK(simplified({}, false, 1).points.empty());
}

TEST_CASE("ALineBesideAnotherHasItsDistance") {
    // A rectangle, counterclockwise: inwards for a distance above zero.
    const std::vector<Vec3> yard{{0, 0, 1}, {10, 0, 2}, {10, 6, 3}, {0, 6, 4}};
    const std::vector<Vec3> in = beside(yard, true, 1), out = beside(yard, true, -2);
    const std::vector<Vec3> expected{{1, 1, 1}, {9, 1, 2}, {9, 5, 3}, {1, 5, 4}};
    REQUIRE(in.size() == 4);
    for (std::size_t k = 0; k < 4; ++k) CHECK(norm(in[k] - expected[k]) < 1e-12);
    CHECK(norm(out[0] - Vec3{-2, -2, 1}) < 1e-12);
    // Of a gentle line every new place has the distance in plan, and its side.
    std::vector<Vec3> curve;
    for (int k = 0; k <= 60; ++k) curve.push_back({1.0 * k, 8 * std::sin(0.05 * k), 0.1 * k});
    const std::vector<Vec3> left = beside(curve, false, 1.5);
    REQUIRE(left.size() == curve.size());
    std::vector<Vec3> flat = curve;
    for (Vec3& p : flat) p.z = 0;
    for (const Vec3& p : left) CHECK(from_line({p.x, p.y, 0}, flat, false) == Approx(1.5).epsilon(0.002));
    CHECK(left[30].y > curve[30].y);
    // A hairpin is cut off instead of reaching far out.
    const std::vector<Vec3> hairpin = beside({{0, 0, 0}, {10, 0, 0}, {0, 0.5, 0}}, false, -1);
    for (const Vec3& p : hairpin) CHECK(p.x < 12);
    CHECK(hairpin.size() == 4);
    CHECK_THROWS_AS(beside({{1, 1, 1}, {1, 1, 5}}, false, 1), Error);
}

TEST_CASE("LinesAreSplitAndJoined") {
    const std::vector<Vec3> line{{0, 0, 0}, {1, 0, 0}, {2, 0, 0}, {3, 1, 0}};
    const auto [a, b] = split_at(line, false, 2);
    CHECK(a.size() == 3);
    CHECK(b.size() == 2);
    CHECK(joined_ends(a, b) == line);
    // Whichever way round they run.
    std::vector<Vec3> turned(b.rbegin(), b.rend());
    CHECK(joined_ends(a, turned) == line);
    std::vector<Vec3> back(line.rbegin(), line.rend());
    CHECK(joined_ends(b, a) == back);
    const auto [open, none] = split_at(line, true, 1);
    CHECK(open == std::vector<Vec3>{{1, 0, 0}, {2, 0, 0}, {3, 1, 0}, {0, 0, 0}, {1, 0, 0}});
    CHECK(none.empty());
    CHECK_THROWS_AS(split_at(line, false, 0), Error);
    CHECK_THROWS_AS(split_at(line, false, 3), Error);
    CHECK_THROWS_AS(split_at(line, true, 4), Error);
    CHECK_THROWS_AS(joined_ends({}, line), Error);
}
