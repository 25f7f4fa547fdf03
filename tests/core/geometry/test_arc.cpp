// Arcs as chords: on the circle, no farther from it than allowed, and no more of them than needed.

#include "core/geometry/arc.h"

#include <catch2/catch.hpp>

#include <cmath>
#include <numbers>
#include <random>

#include "support/cloud_makers.h"

using namespace pristine;

namespace {

double in_plan(const Vec3& a, const Vec3& b) {
    return std::hypot(a.x - b.x, a.y - b.y);
}

}  // namespace

TEST_CASE("ChordsKeepToTheirArc") {
    std::mt19937_64 dice(test::seed_for("ChordsKeepToTheirArc"));
    std::uniform_real_distribution<double> some(0, 1);
    for (int turn = 0; turn < 200; ++turn) {
        const double radius = std::pow(10, 4 * some(dice) - 1),
                     sagitta = radius * std::pow(10, -1 - 4 * some(dice));
        const double a0 = 2 * std::numbers::pi * some(dice),
                     sweep = 0.01 + (2 * std::numbers::pi - 0.02) * some(dice);
        const bool clockwise = turn % 2 == 0;
        const double a1 = clockwise ? a0 - sweep : a0 + sweep;
        const Vec3 centre{412300, 5218930, 58},
            from{centre.x + radius * std::cos(a0), centre.y + radius * std::sin(a0), 10},
            to{centre.x + radius * std::cos(a1), centre.y + radius * std::sin(a1), 20};
        const auto arc = arc_points(from, centre, to, clockwise, sagitta);
        CAPTURE(turn, radius, sagitta, a0, sweep, arc.size());
        REQUIRE_FALSE(arc.empty());
        CHECK(arc.back() == to);
        const double digits = 1e-9 * (1e6 + radius);
        Vec3 before = from;
        double turned = 0, climbed = 10;
        for (const Vec3& p : arc) {
            CHECK(in_plan(p, centre) == Approx(radius).margin(digits));
            const double half = in_plan(before, p) / 2;
            CHECK(radius - std::sqrt(std::max(0.0, radius * radius - half * half)) <=
                  sagitta * 1.0001 + digits);
            turned += 2 * std::asin(std::min(1.0, half / radius));
            CHECK(p.z >= climbed);
            climbed = p.z;
            before = p;
        }
        CHECK(turned == Approx(sweep).margin(1e-5));
        // One chord fewer would lie too far off.
        const double step = sweep / static_cast<double>(arc.size() - 1);
        if (arc.size() > 6) CHECK(radius * (1 - std::cos(step / 2)) > sagitta * 0.99);
    }
}

TEST_CASE("AnArcFromAPlaceToItselfIsACircle") {
    const Vec3 centre{5, 5, 0}, from{8, 5, 1};
    const auto arc = arc_points(from, centre, from, false, 0.01);
    CHECK(arc.size() >= 4);
    double length = in_plan(from, arc.front());
    for (std::size_t i = 1; i < arc.size(); ++i) length += in_plan(arc[i - 1], arc[i]);
    CHECK(length == Approx(2 * std::numbers::pi * 3).epsilon(0.01));
    CHECK(arc.back() == from);
}

TEST_CASE("AnArcGoesThroughThePlaceBetween") {
    const Vec3 from{10, 0, 0}, between{0, 10, 0}, to{-10, 0, 4};
    const auto arc = arc_points_through(from, between, to, 0.001);
    double nearest = INFINITY;
    for (const Vec3& p : arc) {
        CHECK(std::hypot(p.x, p.y) == Approx(10));
        CHECK(p.y >= -1e-9);
        nearest = std::min(nearest, in_plan(p, between));
    }
    CHECK(nearest < 0.3);
    CHECK(arc.back() == to);
    // In one line there is no circle.
    const auto straight = arc_points_through({0, 0, 0}, {1, 1, 0}, {2, 2, 0}, 0.001);
    REQUIRE(straight.size() == 1);
    CHECK(straight[0] == Vec3{2, 2, 0});
}
