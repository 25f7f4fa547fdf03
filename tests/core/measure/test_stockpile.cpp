// Stockpiles above every kind of base: exact bodies, random noise and how sure the volume is of it.

#include <catch2/catch.hpp>
#include <cmath>
#include <numbers>
#include <random>

#include "core/base/error.h"
#include "core/measure/stockpile.h"
#include "core/surface/definition.h"
#include "support/cloud_makers.h"

using namespace pristine;
using measure::Pile;
using measure::PileBase;
using measure::PileOptions;

namespace {

const Vec3 kYard{412300, 5218930, 58};

// A pyramid of 20 by 20 m and 6 m height on a yard that falls by `fall` to the east, points every metre.
mesh::TriMesh yard(double fall, std::mt19937_64* dice = nullptr, double noise = 0) {
    surface::Definition d;
    std::normal_distribution<double> n(0, noise > 0 ? noise : 1);
    for (int y = -20; y <= 20; ++y)
        for (int x = -20; x <= 20; ++x) {
            const double up = std::max(0.0, 6 - 0.6 * std::max(std::abs(x), std::abs(y)));
            const double z = -fall * x + up + (dice && noise > 0 ? n(*dice) : 0);
            d.points.push_back(kYard + Vec3{1.0 * x, 1.0 * y, z});
        }
    return surface::build(d).mesh;
}

std::vector<Vec3> square(double half, const Vec3& at = kYard) {
    return {at + Vec3{-half, -half, 0}, at + Vec3{half, -half, 0}, at + Vec3{half, half, 0},
            at + Vec3{-half, half, 0}};
}

PileOptions over(PileBase base, double level = 0) {
    PileOptions o;
    o.base = base;
    o.level = level;
    o.noise = 0.01;
    return o;
}

// Of a pyramid whose foot follows the squares of a metre, as it is triangulated.
constexpr double kPyramid = 800;

}  // namespace

TEST_CASE("APyramidHasItsVolumeAboveEveryBase") {
    const mesh::TriMesh flat = yard(0), sloping = yard(0.05);
    // The mesh cuts no corner off: the edges of the pyramid run along its diagonals.
    for (const PileBase base :
         {PileBase::TriangulatedRim, PileBase::LowestOfRim, PileBase::MeanOfRim, PileBase::PlaneOfRim}) {
        CAPTURE(measure::id_of(base));
        const Pile p = measure::stockpile(flat, square(12), over(base));
        CHECK(p.volume == Approx(kPyramid).epsilon(0.01));
        CHECK(p.below == Approx(0).margin(1e-6));
        CHECK(p.outline_area == Approx(576));
        CHECK(p.plan_area == Approx(576));
        CHECK(p.highest == Approx(kYard.z + 6));
        CHECK(p.base_low == Approx(kYard.z));
        CHECK(p.base_high == Approx(kYard.z));
    }
    const double whole = measure::stockpile(flat, square(12), over(PileBase::MeanOfRim)).volume;
    CHECK(measure::stockpile(flat, square(12), over(PileBase::Level, kYard.z - 1)).volume ==
          Approx(whole + 576));
    const Pile above = measure::stockpile(flat, square(12), over(PileBase::Level, kYard.z + 1));
    CHECK(above.volume < whole);
    CHECK(above.volume - above.below == Approx(whole - 576));
    // On a slope the foot and its plane bear the slope, levels do not.
    for (const PileBase base : {PileBase::TriangulatedRim, PileBase::PlaneOfRim}) {
        const Pile p = measure::stockpile(sloping, square(12), over(base));
        CHECK(p.volume == Approx(whole).epsilon(1e-6));
        CHECK(p.base_high - p.base_low == Approx(1.2));
    }
    const Pile lowest = measure::stockpile(sloping, square(12), over(PileBase::LowestOfRim));
    CHECK(lowest.volume == Approx(whole + 576 * 0.6).epsilon(1e-6));
    const Pile mean = measure::stockpile(sloping, square(12), over(PileBase::MeanOfRim));
    CHECK(mean.volume - mean.below == Approx(whole).epsilon(1e-6));
    CHECK(mean.below > 1);
    PileOptions other = over(PileBase::OtherSurface);
    CHECK_THROWS_AS(measure::stockpile(flat, square(12), other), Error);
    surface::Definition empty;
    for (const double x : {-30.0, 30.0})
        for (const double y : {-30.0, 30.0}) empty.points.push_back(kYard + Vec3{x, y, 0});
    const mesh::TriMesh ground = surface::build(empty).mesh;
    other.other = &ground;
    const Pile before = measure::stockpile(flat, square(12), other);
    CHECK(before.volume == Approx(whole).epsilon(1e-9));
    CHECK(before.sigma > 0);
}

TEST_CASE("WhatTheSurfaceDoesNotCoverIsSeen") {
    const mesh::TriMesh m = yard(0);
    const Pile half = measure::stockpile(m, square(12, kYard + Vec3{20, 0, 0}), over(PileBase::MeanOfRim));
    CHECK(half.plan_area == Approx(288));
    CHECK(half.outline_area == Approx(576));
    CHECK_THROWS_AS(measure::stockpile(m, square(5, kYard + Vec3{200, 0, 0}), over(PileBase::Level)), Error);
    std::vector<Vec3> crossed = square(5);
    std::swap(crossed[1], crossed[2]);
    CHECK_THROWS_AS(measure::stockpile(m, crossed, over(PileBase::Level)), Error);
}

TEST_CASE("TheSpreadOfAPileIsWhatNoiseMakesOfIt", "[statistics]") {
    const std::uint64_t seed = test::seed_for("stockpile");
    CAPTURE(seed);
    std::mt19937_64 dice(seed);
    const double noise = 0.05;
    const mesh::TriMesh clean = yard(0.02);
    for (const PileBase base :
         {PileBase::TriangulatedRim, PileBase::MeanOfRim, PileBase::PlaneOfRim, PileBase::Level}) {
        PileOptions o = over(base, kYard.z);
        o.noise = noise;
        const Pile truth = measure::stockpile(clean, square(12), o);
        int within = 0;
        constexpr int kTrials = 200;
        for (int k = 0; k < kTrials; ++k) {
            const Pile p = measure::stockpile(yard(0.02, &dice, noise), square(12), o);
            within += std::fabs((p.volume - p.below) - (truth.volume - truth.below)) <= p.sigma;
        }
        CAPTURE(measure::id_of(base), truth.sigma);
        // 68 % of 200 with four standard deviations of the count.
        CHECK(within > 110);
        CHECK(within < 163);
    }
}

TEST_CASE("OutlinesThatOverlapAreNamedAndNeighboursAreNot") {
    const auto a = square(5), beside = square(5, kYard + Vec3{10, 0, 0}),
               over_it = square(5, kYard + Vec3{3, 3, 0}), inside = square(1),
               far = square(5, kYard + Vec3{100, 0, 0});
    const auto pairs = measure::overlapping_outlines({a, beside, over_it, inside, far});
    CHECK(pairs == std::vector<std::pair<std::size_t, std::size_t>>{{0, 2}, {0, 3}, {1, 2}, {2, 3}});
}

TEST_CASE("BasesOfPilesHaveNames") {
    for (int k = 0; k < 6; ++k) {
        const auto base = static_cast<PileBase>(k);
        CHECK(measure::pile_base_of(measure::id_of(base)) == base);
    }
    CHECK_THROWS_AS(measure::pile_base_of("floor"), Error);
}
