// Piles found on a yard with noise: as many as were heaped up, each with its volume; no pits, no slopes.

#include <catch2/catch.hpp>
#include <cmath>
#include <numbers>
#include <random>

#include "core/measure/pile_outlines.h"
#include "core/measure/stockpile.h"
#include "core/surface/clip.h"
#include "core/surface/definition.h"
#include "support/cloud_makers.h"

using namespace pristine;

namespace {

struct Cone {
    double x, y, radius, height;
    double volume() const { return std::numbers::pi * radius * radius * height / 3; }
};

// A yard of 120 by 80 m that falls by one in a hundred, with a ditch, a bank along its north side and cones.
mesh::TriMesh yard(const std::vector<Cone>& cones, std::mt19937_64& dice, double unit) {
    std::uniform_real_distribution<double> u(0, 1);
    std::normal_distribution<double> noise(0, 0.02);
    surface::Definition d;
    for (int k = 0; k < 60'000; ++k) {
        const double x = 120 * u(dice), y = 80 * u(dice);
        double z = 0.01 * x;
        for (const Cone& c : cones)
            z += std::max(0.0, c.height * (1 - std::hypot(x - c.x, y - c.y) / c.radius));
        z -= std::max(0.0, 2 - std::hypot(x - 20, y - 60));  // a pit
        z += std::clamp(0.6 * (y - 72), 0.0, 10.0);          // a bank that runs out
        d.points.push_back(Vec3{4e5, 5e6, 30} + Vec3{x, y, z + noise(dice)} * unit);
    }
    return surface::build(d).mesh;
}

}  // namespace

TEST_CASE("PilesOfAYardAreProposedWithTheirFeet") {
    const std::uint64_t seed = test::seed_for("piles");
    CAPTURE(seed);
    std::mt19937_64 dice(seed);
    std::uniform_real_distribution<double> u(0, 1);
    for (int round = 0; round < 6; ++round) {
        const double unit = round % 2 ? 1 / 0.3048 : 1;
        std::vector<Cone> cones;
        for (int k = 0; k < 6; ++k) {
            const double radius = 4 + 6 * u(dice);
            cones.push_back({35 + 18.0 * (k % 5) - (k == 5 ? 18 : 0) - 2 * u(dice), k < 5 ? 15.0 : 48.0,
                             radius, radius * (0.4 + 0.4 * u(dice))});
            cones.back().radius = std::min(cones.back().radius, 6.3);
        }
        const mesh::TriMesh m = yard(cones, dice, unit);
        measure::PileSearch search;
        search.least_height = 0.8 * unit;
        const auto lines = measure::pile_outlines(m, search);
        CAPTURE(round, lines.size());
        REQUIRE(lines.size() == cones.size());
        for (const Cone& c : cones) {
            int round_it = 0;
            for (const auto& line : lines) {
                const Vec3 top = Vec3{4e5, 5e6, 30} + Vec3{c.x, c.y, 0} * unit;
                if (!surface::Inside({line})(top.x, top.y)) continue;
                ++round_it;
                measure::PileOptions o;
                o.noise = 0.02 * unit;
                const measure::Pile p = measure::stockpile(m, line, o);
                CAPTURE(c.radius, c.height, p.volume / std::pow(unit, 3));
                CHECK(p.volume / std::pow(unit, 3) == Approx(c.volume()).epsilon(0.06));
            }
            CHECK(round_it == 1);
        }
    }
}

TEST_CASE("NothingIsProposedWhereNothingRises") {
    std::mt19937_64 dice(4);
    CHECK(measure::pile_outlines(yard({}, dice, 1)).empty());
    CHECK(measure::pile_outlines({}).empty());
    mesh::TriMesh one;
    one.vertices = {{0, 0, 0}, {1, 0, 0}, {0, 1, 5}};
    one.triangles = {{0, 1, 2}};
    CHECK(measure::pile_outlines(one).empty());
}
