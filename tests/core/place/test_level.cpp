// Levelling and scaling, against scenes of which that is known.

#include "core/place/level.h"

#include <catch2/catch.hpp>

#include <cmath>
#include <random>

#include "core/base/error.h"
#include "support/cloud_makers.h"

using namespace pristine;

TEST_CASE("WhatShouldBeLevelBecomesLevelByTheSmallestTurn") {
    const auto seed = test::seed_for("levelled");
    CAPTURE(seed);
    std::mt19937_64 dice(seed);
    std::uniform_real_distribution<double> any(-1, 1);
    for (int trial = 0; trial < 200; ++trial) {
        const Vec3 n{any(dice), any(dice), any(dice)};
        if (norm(n) < 0.05) continue;
        const Vec3 about{412300 + any(dice), 5218930, 58};
        const Similarity s = place::levelled(n, about);
        const Vec3 up = s(about + normalized(n)) - s(about);
        CHECK(std::fabs(up.z) == Approx(1).margin(1e-8));
        CHECK((up.z > 0) == (n.z >= 0));
        CHECK(norm(s(about) - about) < 1e-7);
        CHECK(s.scale == Approx(1));
        CHECK(s.turn_deg() == Approx(place::tilt_deg(n)).margin(1e-6));
    }
    CHECK(place::levelled({0, 0, 3}, {1, 2, 3}).turn_deg() == Approx(0).margin(1e-12));
    CHECK_THROWS_AS(place::levelled({0, 0, 0}, {}), Error);
}

TEST_CASE("KnownDistancesGiveTheScaleThatSuitsThemBest") {
    const auto seed = test::seed_for("scaled by");
    CAPTURE(seed);
    std::mt19937_64 dice(seed);
    std::uniform_real_distribution<double> any(-20, 20);
    std::normal_distribution<double> noise(0, 0.002);
    std::vector<place::KnownDistance> all;
    const double truth = 1.037;
    for (int k = 0; k < 12; ++k) {
        place::KnownDistance d;
        d.name = std::to_string(k);
        d.a = {any(dice), any(dice), any(dice)};
        d.b = {any(dice), any(dice), any(dice)};
        d.should = truth * norm(d.b - d.a) + noise(dice);
        all.push_back(d);
    }
    const place::Scaled s = place::scaled_by(all);
    const auto squares = [&](double scale) {
        double sum = 0;
        for (const auto& d : all)
            if (d.used) sum += std::pow(scale * norm(d.b - d.a) - d.should, 2);
        return sum;
    };
    CHECK(squares(s.scale) <= squares(s.scale * 1.00001));
    CHECK(squares(s.scale) <= squares(s.scale / 1.00001));
    CHECK(s.scale == Approx(truth).epsilon(1e-3));
    CHECK(s.sigma < 0.01);
    // One that is not used has a residual, and no say.
    all[3].should *= 2;
    CHECK(std::fabs(place::scaled_by(all).scale - s.scale) > 0.01);
    all[3].used = false;
    CHECK(place::scaled_by(all).scale == Approx(truth).epsilon(1e-3));
    CHECK(std::fabs(place::scaled_by(all).off[3]) > 0.1);
    all.resize(1);
    CHECK(std::isnan(place::scaled_by(all).sigma));
    all[0].used = false;
    CHECK_THROWS_AS(place::scaled_by(all), Error);
    all[0].used = true;
    all[0].should = 0;
    CHECK_THROWS_AS(place::scaled_by(all), Error);
    all[0].should = 1;
    all[0].b = all[0].a;
    CHECK_THROWS_AS(place::scaled_by(all), Error);
}
