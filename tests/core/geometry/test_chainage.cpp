// Places along a line, against many small steps along it.

#include "core/geometry/chainage.h"

#include <catch2/catch.hpp>

#include <cmath>
#include <random>
#include <vector>

#include "support/cloud_makers.h"

using namespace pristine;

TEST_CASE("AChainageIsThatOfTheNearestPlace") {
    const auto seed = test::seed_for("chainage");
    CAPTURE(seed);
    std::mt19937_64 dice(seed);
    std::uniform_real_distribution<double> any(-10, 10);
    CHECK_FALSE(chainage_of(std::vector<Vec3>{{0, 0, 0}}, {1, 1, 1}));
    for (int trial = 0; trial < 100; ++trial) {
        std::vector<Vec3> line;
        for (int k = 0; k < 2 + trial % 6; ++k) line.push_back({any(dice), any(dice), any(dice)});
        if (trial % 5 == 0) line.push_back(line.back());  // a step of no length
        const Vec3 p{any(dice), any(dice), any(dice)};
        double best = INFINITY, at = 0, before = 0;
        for (std::size_t k = 1; k < line.size(); ++k) {
            const double length = std::hypot(line[k].x - line[k - 1].x, line[k].y - line[k - 1].y);
            for (int s = 0; s <= 2000; ++s) {
                const Vec3 q = line[k - 1] + (line[k] - line[k - 1]) * (s / 2000.0);
                if (const double off = std::hypot(p.x - q.x, p.y - q.y); off < best) {
                    best = off;
                    at = before + length * s / 2000.0;
                }
            }
            before += length;
        }
        const auto c = chainage_of(line, p);
        REQUIRE(c);
        CHECK(c->off <= best);
        CHECK(c->off == Approx(best).margin(0.02));
        // Two places of the line may be nearly as near.
        if (best > 0.05 && std::fabs(c->along - at) > 0.05) CHECK(c->off == Approx(best).margin(1e-3));
    }
}
