// Heights evened out: what bends stays, noise goes, nothing moves farther than is allowed.

#include <catch2/catch.hpp>

#include <cmath>
#include <functional>
#include <random>

#include "core/base/error.h"
#include "core/base/parallel.h"
#include "core/repair/smooth_heights.h"
#include "core/surface/definition.h"
#include "support/cloud_makers.h"

using namespace pristine;
using namespace pristine::repair;

namespace {

mesh::TriMesh ground(std::mt19937_64& dice, const std::function<double(double, double)>& height) {
    std::uniform_real_distribution<double> u(0, 1);
    surface::Definition d;
    for (int i = 0; i < 600; ++i) {
        const double x = 40 * u(dice), y = 30 * u(dice);
        d.points.push_back({4'412'300 + x, 5'218'930 + y, 58 + height(x, y)});
    }
    return surface::build(d).mesh;
}

std::vector<char> inner(const mesh::TriMesh& m) {
    std::vector<char> may;
    for (const Vec3& p : m.vertices)
        may.push_back(p.x > 4'412'306 && p.x < 4'412'334 && p.y > 5'218'936 && p.y < 5'218'954);
    return may;
}

}  // namespace

TEST_CASE("AQuadricStaysWhenHeightsAreEvenedOut", "[repair]") {
    const std::uint64_t seed = test::seed_for("SmoothQuadric");
    CAPTURE(seed);
    std::mt19937_64 dice(seed);
    std::uniform_real_distribution<double> u(-0.05, 0.05);
    for (int round = 0; round < 10; ++round) {
        const double a = u(dice), b = u(dice), c = u(dice), d = u(dice), e = u(dice);
        const mesh::TriMesh m = ground(
            dice, [&](double x, double y) { return a * x + b * y + c * x * x + d * x * y + e * y * y; });
        const SmoothHeights s = smoothed_heights(m, inner(m), 1, 3);
        for (std::size_t v = 0; v < m.vertices.size(); ++v)
            REQUIRE(s.heights[v] == Approx(m.vertices[v].z).margin(1e-6));
    }
}

TEST_CASE("NoiseGetsLessAndNothingMovesFartherThanIsAllowed", "[repair]") {
    const std::uint64_t seed = test::seed_for("SmoothNoise");
    CAPTURE(seed);
    std::mt19937_64 dice(seed);
    std::normal_distribution<double> noise(0, 0.05);
    for (int round = 0; round < 5; ++round) {
        const auto shape = [](double x, double y) { return 2 * std::sin(0.15 * x) + 0.02 * y * y; };
        const mesh::TriMesh m = ground(dice, [&](double x, double y) { return shape(x, y) + noise(dice); });
        const std::vector<char> may = inner(m);
        const auto rms = [&](const std::vector<double>& heights) {
            double sum = 0;
            std::size_t n = 0;
            for (std::size_t v = 0; v < may.size(); ++v) {
                if (!may[v]) continue;
                const Vec3& p = m.vertices[v];
                sum += std::pow(heights[v] - 58 - shape(p.x - 4'412'300, p.y - 5'218'930), 2);
                ++n;
            }
            return std::sqrt(sum / static_cast<double>(n));
        };
        std::vector<double> was;
        for (const Vec3& p : m.vertices) was.push_back(p.z);
        const SmoothHeights free = smoothed_heights(m, may, 1, 3);
        CHECK(rms(free.heights) < 0.6 * rms(was));
        const SmoothHeights held = smoothed_heights(m, may, 0.02, 3);
        CHECK(held.largest <= 0.02);
        CHECK(held.largest > 0.019);
        CHECK(rms(held.heights) < rms(was));
        std::size_t moved = 0;
        for (std::size_t v = 0; v < may.size(); ++v) {
            const double change = std::fabs(held.heights[v] - m.vertices[v].z);
            REQUIRE(change <= 0.02);
            if (!may[v]) REQUIRE(held.heights[v] == m.vertices[v].z);  // to the bit
            moved += change > 0;
        }
        CHECK(moved == held.moved);
    }
    const mesh::TriMesh m = ground(dice, [](double, double) { return 0.0; });
    CHECK_THROWS_AS(smoothed_heights(m, inner(m), 0, 3), Error);
}
