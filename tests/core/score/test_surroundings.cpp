// Means over cubes, against adding up every place.

#include "core/score/surroundings.h"

#include <catch2/catch.hpp>

#include <cmath>
#include <random>

#include "support/cloud_makers.h"

using namespace pristine;

TEST_CASE("TheMeanRoundAPlaceIsThatOfTheCubesRoundIt") {
    std::mt19937_64 dice(test::seed_for("TheMeanRoundAPlaceIsThatOfTheCubesRoundIt"));
    std::uniform_real_distribution<double> at(-30, 30);
    SpillVector<Vec3> places;
    SpillVector<float> values;
    for (int i = 0; i < 1500; ++i) {
        places.push_back({412300 + at(dice), 5218930 + at(dice), at(dice)});
        values.push_back(static_cast<float>(at(dice)));
    }
    const double finest = 0.8;
    const score::Surroundings s(places, values, finest);
    for (const int level : {0, 1, 3, 5}) {
        const double side = finest * std::pow(2, level);
        const auto cube = [&](double v) { return std::floor(v / side); };
        double worst = 0;
        for (std::size_t i = 0; i < places.size(); i += 37) {
            double sum = 0, n = 0;
            for (std::size_t k = 0; k < places.size(); ++k)
                if (std::abs(cube(places[k].x) - cube(places[i].x)) <= 1 &&
                    std::abs(cube(places[k].y) - cube(places[i].y)) <= 1 &&
                    std::abs(cube(places[k].z) - cube(places[i].z)) <= 1) {
                    sum += static_cast<double>(values[k]);
                    ++n;
                }
            worst = std::max(worst, std::abs(s.mean(i, level) - sum / n));
        }
        CAPTURE(level);
        CHECK(worst < 1e-6);
    }
}

TEST_CASE("TheLevelForASideIsLargeEnough") {
    const score::Surroundings s({Vec3{0, 0, 0}}, {1.0f}, 0.5);
    CHECK(s.level_for(0.1) == 0);
    CHECK(s.level_for(0.5) == 0);
    CHECK(s.level_for(0.51) == 1);
    CHECK(s.level_for(7) == 4);
    CHECK(s.level_for(1e9) == score::Surroundings::kLevels - 1);
    CHECK(s.mean(0, 3) == Approx(1));
}
