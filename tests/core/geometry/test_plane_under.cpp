// The plane under most places: what stands on it does not lift it.

#include "core/geometry/plane_under.h"

#include <catch2/catch.hpp>

#include <random>

#include "support/cloud_makers.h"
#include "support/wkt.h"

using namespace pristine;

TEST_CASE("ThePlaneLiesUnderWhatStandsOnIt") {
    std::mt19937_64 dice(test::seed_for("ThePlaneLiesUnderWhatStandsOnIt"));
    std::uniform_real_distribution<double> some(0, 1);
    std::normal_distribution<double> noise(0, 0.01);
    for (int turn = 0; turn < 50; ++turn) {
        const double a = 10 * some(dice), b = some(dice) - 0.5, c = some(dice) - 0.5;
        std::vector<Vec3> places;
        for (int i = 0; i < 600; ++i) {
            const double x = 10 * some(dice), y = 10 * some(dice);
            // A third of all are bushes, up to 3 m high.
            const double bush = i % 3 == 0 ? 0.2 + 2.8 * some(dice) : 0;
            places.push_back({x, y, a + b * x + c * y + noise(dice) + bush});
        }
        const auto plane = plane_under(places, 0.05);
        CAPTURE(turn, a, b, c);
        REQUIRE(plane);
        for (const double x : {0.0, 10.0})
            for (const double y : {0.0, 10.0}) CHECK(std::abs(plane->at(x, y) - (a + b * x + c * y)) < 0.05);
    }
}

TEST_CASE("PlacesThatMakeNoPlaneHaveNone") {
    CHECK_FALSE(plane_under({}, 0.1));
    CHECK_FALSE(plane_under(test::places_of("MULTIPOINT Z ((0 0 1), (1 0 1))"), 0.1));
    CHECK_FALSE(plane_under(test::places_of("MULTIPOINT Z ((0 0 1), (1 1 2), (2 2 3), (3 3 4))"), 0.1));
    const auto plane = plane_under(test::places_of("MULTIPOINT Z ((0 0 1), (1 0 1), (0 1 3))"), 0.1);
    REQUIRE(plane);
    CHECK(plane->at(2, 2) == Approx(5));
}
