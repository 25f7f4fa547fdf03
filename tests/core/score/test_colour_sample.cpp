// Colours of some points, against their own mean.

#include "core/score/colour_sample.h"

#include <catch2/catch.hpp>

#include <algorithm>
#include <cmath>
#include <random>

#include "core/io/cloud_io.h"
#include "core/score/colour.h"
#include "support/cloud_makers.h"

using namespace pristine;

TEST_CASE("TheColourOfPointsIsTheirMeanAndHowFarTheySpread") {
    const auto seed = test::seed_for("colour samples");
    CAPTURE(seed);
    std::mt19937_64 dice(seed);
    std::normal_distribution<double> noise(0, 4);
    const test::TemporaryFolder f;
    // Two walls side by side: red brick and grey stone.
    std::string text = "x y z red green blue\n";
    const auto shade = [&](int base) {
        return std::to_string(std::clamp(static_cast<int>(base + noise(dice)), 0, 255));
    };
    for (int i = 0; i < 6000; ++i) {
        const double x = 0.001 * static_cast<double>(dice() % 4000),
                     z = 0.001 * static_cast<double>(dice() % 2000);
        const bool brick = x < 2;
        text += std::to_string(x) + " 0 " + std::to_string(z) + " " + shade(brick ? 150 : 120) + " " +
                shade(brick ? 70 : 118) + " " + shade(brick ? 50 : 112) + "\n";
    }
    test::write_file(f / "walls.txt", text);
    const auto c = io::read_cloud(f / "walls.txt").cloud;
    const ElementSet all = ElementSet::all(c->size());
    ElementSet bricks(c->size());
    for (std::uint64_t e = 0; e < c->size(); ++e)
        if (c->position(e).x < 2) bricks.insert(e);
    const auto sample = score::sample_colours(*c, bricks);
    REQUIRE(sample);
    CHECK(sample->count == bricks.count());
    double red = 0;
    std::uint64_t near = 0;
    bricks.for_each([&](std::uint64_t e) {
        red += (*c->colour())[e] >> 16 & 255u;
        near +=
            score::ciede2000(score::lab_of(sample->rgb), score::lab_of((*c->colour())[e])) <= sample->spread;
    });
    CHECK((sample->rgb >> 16 & 255u) == Approx(red / static_cast<double>(bricks.count())).margin(0.6));
    CHECK(static_cast<double>(near) >= 0.945 * static_cast<double>(bricks.count()));
    // A click right beside the joint speaks of the side that it lies on.
    for (const double x : {1.99, 2.01}) {
        const auto there = score::colour_at(*c, all, {x, 0, 1});
        REQUIRE(there);
        // Which side the nearest point is of is chance; a mean of both it never is.
        const double off_brick = score::ciede2000(score::lab_of(there->rgb), score::lab_of(0x964632));
        const double off_stone = score::ciede2000(score::lab_of(there->rgb), score::lab_of(0x787670));
        CHECK(std::min(off_brick, off_stone) < 6);
    }
    CHECK_FALSE(score::colour_at(*c, all, {50, 0, 1}));
    CHECK_FALSE(score::sample_colours(*c, ElementSet(c->size())));
}
