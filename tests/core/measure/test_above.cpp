// Volumes above a level or a plane, with the spread that noise of the heights gives them.

#include <catch2/catch.hpp>

#include <cmath>
#include <random>

#include "core/measure/above.h"
#include "core/surface/definition.h"
#include "support/cloud_makers.h"

using namespace pristine;
using namespace pristine::measure;

namespace {

mesh::TriMesh ground(std::mt19937_64& dice, double rise) {
    std::uniform_real_distribution<double> u(0, 1);
    surface::Definition d;
    for (int i = 0; i < 400; ++i) {
        const double x = 40 * u(dice), y = 30 * u(dice);
        d.points.push_back({4'412'300 + x, 5'218'930 + y, 58 + rise + 2 * std::sin(0.2 * x) + 0.05 * y});
    }
    return surface::build(d).mesh;
}

}  // namespace

TEST_CASE("WhatLiesAboveABaseIsWhatVolumesSay", "[measure]") {
    const std::uint64_t seed = test::seed_for("Above");
    CAPTURE(seed);
    std::mt19937_64 dice(seed);
    std::uniform_real_distribution<double> u(-0.1, 0.1);
    for (int round = 0; round < 20; ++round) {
        const mesh::TriMesh m = ground(dice, 0);
        const Base base{{4'412'320, 5'218'945, 59}, round % 2 ? u(dice) : 0, round % 2 ? u(dice) : 0};
        const Volumes v = volumes(m, base);
        const Difference d = above(m, base, {0.02, 0, 0});
        CHECK(d.fill == Approx(v.above).epsilon(1e-9));
        CHECK(d.cut == Approx(v.below).epsilon(1e-9));
        CHECK(d.overlap_area == Approx(figures(m).plan_area).epsilon(1e-9));
        CHECK(d.uncovered_area > 0);  // of the base, which reaches beyond
    }
    CHECK(above({}, level(0), {}).fill == 0);
}

// All of it above: each vertex counts with a third of the area of its triangles, a common shift with all.
TEST_CASE("TheSpreadOfAVolumeAboveALevelIsThatOfASumOfHeights", "[measure]") {
    std::mt19937_64 dice(test::seed_for("AboveSpread"));
    const mesh::TriMesh m = ground(dice, 20);
    std::vector<double> weight(m.vertices.size(), 0);
    double area = 0;
    for (const auto& t : m.triangles) {
        const Vec3 a = m.vertices[t[1]] - m.vertices[t[0]], b = m.vertices[t[2]] - m.vertices[t[0]];
        const double own = 0.5 * (a.x * b.y - a.y * b.x);
        area += own;
        for (const std::uint32_t v : t) weight[v] += own / 3;
    }
    double square = 0;
    for (const double w : weight) square += w * w;
    const Difference noisy = above(m, level(58), {0.03, 0, 0});
    CHECK(noisy.sigma_fill == Approx(0.03 * std::sqrt(square)).epsilon(1e-6));
    CHECK(noisy.sigma_net == Approx(noisy.sigma_fill).epsilon(1e-6));
    CHECK(noisy.sigma_cut == Approx(0).margin(1e-9));
    const Difference shifted = above(m, level(58), {0.03, 0.01, 0});
    CHECK(shifted.sigma_fill == Approx(std::hypot(0.03 * std::sqrt(square), 0.01 * area)).epsilon(1e-6));
    // Nothing stated: the noise is estimated, and smooth ground has little.
    CHECK(above(m, level(58), {}).sigma_fill < noisy.sigma_fill);
    CHECK(above(m, level(58), {}).sigma_fill > 0);
}
