#include <catch2/catch.hpp>
#include <cmath>

#include "core/base/error.h"
#include "render/journey.h"

using namespace pristine;
using namespace pristine::render;

TEST_CASE("WhoWalksKeepsTheEyesOverTheFloor") {
    for (const double metre : {1.0, 3.28084}) {
        // A ramp up to the north of one in five; nothing beyond 20 m.
        const Walk::Floor floor = [&](const Vec3& eye, double least, double most) -> std::optional<double> {
            if (eye.y > 20 * metre) return std::nullopt;
            const double z = 0.2 * eye.y;
            return z <= eye.z - least && z >= eye.z - most ? std::optional(z) : std::nullopt;
        };
        Walk walk(floor, metre);
        Camera c;
        c.yaw_deg = 0;
        c.pitch_deg = -70;
        c.perspective = false;
        c = walk.stand_at(c, {3 * metre, 0, 0.5 * metre});
        CHECK(c.perspective);
        CHECK(c.pitch_deg == 0);
        CHECK(walk.on_floor());
        CHECK(c.eye.z == Approx(1.65 * metre));
        // Looking up does not lift the feet.
        c.pitch_deg = 40;
        for (int i = 0; i < 200; ++i) c = walk.walked(c, 0.09 * metre, 0);
        CHECK(c.eye.x == Approx(3 * metre));
        CHECK(c.eye.y == Approx(18 * metre));
        CHECK(c.eye.z == Approx(0.2 * c.eye.y + 1.65 * metre).margin(0.05 * metre));
        CHECK(c.pitch_deg == 40);
        const double before = c.eye.z;
        c = walk.walked(c, 3 * metre, 0);
        CHECK_FALSE(walk.on_floor());
        CHECK(c.eye.z == before);
        c = walk.walked(c, 0, -2 * metre);
        CHECK(c.eye.x == Approx(metre));
        c = walk.raised(c, 0.35 * metre);
        CHECK(walk.eye_height() == Approx(2 * metre));
        CHECK(c.eye.z == Approx(before + 0.35 * metre));
        c = walk.raised(c, -50 * metre);
        CHECK(walk.eye_height() == Approx(0.3 * metre));
    }
}

TEST_CASE("AFlightFollowsItsLineAndTurnsGently") {
    const Flight flight({{0, 0, 0}, {0, 30, 0}, {40, 30, 0}}, false, 1.65, 4);
    CHECK(flight.length() == Approx(70));
    Camera like;
    like.field_deg = 70;
    double last_yaw = 0, largest_turn = 0;
    Vec3 last = flight.at(0, like).eye;
    CHECK(norm(last - Vec3{0, 0, 1.65}) < 1e-12);
    for (double d = 0.1; d <= 70; d += 0.1) {
        const Camera c = flight.at(d, like);
        CHECK(norm(c.eye - last) < 0.1001);
        largest_turn = std::max(largest_turn, std::fabs(c.yaw_deg - last_yaw));
        last_yaw = c.yaw_deg;
        last = c.eye;
        REQUIRE(c.field_deg == 70);
    }
    CHECK(largest_turn < 4);  // of the 90 degrees at the corner, in a decimetre
    CHECK(norm(flight.at(1e9, like).eye - Vec3{40, 30, 1.65}) < 1e-9);
    CHECK(flight.at(70, like).yaw_deg == Approx(90).margin(1e-6));
    CHECK(flight.at(0, like).yaw_deg == Approx(0).margin(1e-6));
    // Uphill it looks up; a ring has no end to look at.
    CHECK(Flight({{0, 0, 0}, {0, 10, 10}}, false, 0, 2).at(1, like).pitch_deg == Approx(45));
    const Flight ring({{0, 0, 0}, {10, 0, 0}, {10, 10, 0}, {0, 10, 0}}, true, 0, 1);
    CHECK(ring.length() == Approx(40));
    CHECK(ring.at(39.5, like).yaw_deg == Approx(135).margin(1e-6));
    CHECK_THROWS_AS(Flight({{1, 1, 1}}, false, 1, 1), Error);
    CHECK_THROWS_AS(Flight({{1, 1, 1}, {1, 1, 1}}, true, 1, 1), Error);
}
