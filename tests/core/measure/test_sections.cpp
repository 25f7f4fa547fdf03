// Sections across an axis: areas between surfaces against sampling, volumes of known bodies.

#include <catch2/catch.hpp>
#include <cmath>
#include <random>

#include "core/base/error.h"
#include "core/measure/sections.h"
#include "core/surface/definition.h"
#include "support/cloud_makers.h"

using namespace pristine;
using measure::OffsetHeight;
using measure::SectionStretch;

namespace {

const Vec3 kSite{412300, 5218930, 58};

template <class Height>
mesh::TriMesh surface_of(const Height& height, int half = 40, double step = 1) {
    surface::Definition d;
    for (double y = -half; y <= half; y += step)
        for (double x = -half; x <= half; x += step) d.points.push_back(kSite + Vec3{x, y, height(x, y)});
    return surface::build(d).mesh;
}

std::vector<SectionStretch> random_line(std::mt19937_64& dice) {
    std::uniform_real_distribution<double> u(0, 1);
    std::vector<SectionStretch> out;
    double x = -5 * u(dice);
    for (int stretch = 0; stretch < 3; ++stretch) {
        out.emplace_back();
        for (int k = 0; k < 6; ++k) {
            out.back().push_back({x, 2 * u(dice) - 1});
            x += 0.05 + u(dice);
        }
        x += u(dice);
    }
    return out;
}

// Height at an offset; not a number in gaps.
double sampled(const std::vector<SectionStretch>& line, double x) {
    for (const SectionStretch& s : line)
        for (std::size_t k = 0; k + 1 < s.size(); ++k)
            if (x >= s[k].offset && x <= s[k + 1].offset)
                return s[k].height +
                       (s[k + 1].height - s[k].height) * (x - s[k].offset) / (s[k + 1].offset - s[k].offset);
    return NAN;
}

}  // namespace

TEST_CASE("TheAreaBetweenTwoLinesIsThatOfManySamples") {
    const std::uint64_t seed = test::seed_for("sections");
    CAPTURE(seed);
    std::mt19937_64 dice(seed);
    for (int round = 0; round < 40; ++round) {
        const auto a = random_line(dice), b = random_line(dice);
        double cut = 0, fill = 0, both = 0;
        constexpr double kStep = 1e-4;
        for (double x = -6; x < 25; x += kStep) {
            const double d = sampled(b, x) - sampled(a, x);
            if (!std::isfinite(d)) continue;
            (d < 0 ? cut : fill) += kStep * std::fabs(d);
            both += kStep;
        }
        const measure::AreaBetween found = measure::area_between(a, b);
        CAPTURE(round);
        CHECK(found.cut == Approx(cut).margin(2e-3));
        CHECK(found.fill == Approx(fill).margin(2e-3));
        CHECK(found.both == Approx(both).margin(2e-3));
    }
    CHECK(measure::area_between({}, random_line(dice)).both == 0);
}

TEST_CASE("AHeapAlongAnAxisHasItsVolumeBySectionsAndByTriangles") {
    // A pyramid of 20 by 20 m and 6 m height, its foot and its top on sections.
    const auto pyramid = [](double x, double y) {
        return std::max(0.0, 6 - 0.6 * std::max(std::fabs(x), std::fabs(y)));
    };
    const mesh::TriMesh before = surface_of([](double, double) { return 0.0; }), after = surface_of(pyramid);
    measure::SectionPlan plan;
    plan.every = 10;
    plan.half_width = 15;
    const std::vector<Vec3> axis{kSite + Vec3{0, -30, 0}, kSite + Vec3{0, 30, 0}};
    const measure::Sections s = measure::sections({&before, &after}, axis, plan);
    REQUIRE(s.all.size() == 7);
    CHECK(s.all[3].chainage == Approx(30));
    CHECK(s.all[3].fill == Approx(60));  // a triangle of 20 by 6
    CHECK(s.all[3].both == Approx(30));
    CHECK(s.all[2].fill == Approx(0).margin(1e-9));
    CHECK(norm(s.all[3].right - (Vec3{kSite.x + 15, kSite.y, 0})) < 1e-9);
    REQUIRE(s.volumes.fill_exact);
    CHECK(*s.volumes.fill_exact == Approx(800).epsilon(0.01));
    CHECK(s.volumes.fill_prisms == Approx(800).epsilon(0.01)); // areas change as squares: exact
    CHECK(s.volumes.fill_ends == Approx(600));    // known to be too small where it bends
    CHECK(s.volumes.cut_prisms == Approx(0).margin(1e-9));
    // The other way round everything is cut; of one surface there are shapes and no areas.
    const measure::Sections back = measure::sections({&after, &before}, axis, plan);
    CHECK(back.volumes.cut_prisms == Approx(800).epsilon(0.01));
    CHECK(back.all[3].cut == Approx(60));
    const measure::Sections alone = measure::sections({&after}, axis, plan);
    REQUIRE(alone.all[3].surfaces.size() == 1);
    REQUIRE(alone.all[3].surfaces[0].size() == 1);
    double top = 0;
    for (const OffsetHeight& p : alone.all[3].surfaces[0][0]) {
        top = std::max(top, p.height);
        CHECK(std::fabs(p.height - kSite.z - pyramid(p.offset, 0)) < 1e-9);
    }
    CHECK(top == Approx(kSite.z + 6));
    CHECK(alone.all[3].fill == 0);
    CHECK_FALSE(alone.volumes.fill_exact);
}

TEST_CASE("SectionsFollowABendAndSayWhereTheyCross") {
    const mesh::TriMesh low = surface_of([](double, double) { return 0.0; }),
                        high = surface_of([](double, double) { return 2.0; });
    measure::SectionPlan plan;
    plan.every = 5;
    plan.half_width = 4;
    std::vector<Vec3> arc;
    for (int k = 0; k <= 90; ++k) {
        const double a = k * 3.14159265358979 / 180;
        arc.push_back(kSite + Vec3{20 * std::cos(a), 20 * std::sin(a), 0});
    }
    const measure::Sections s = measure::sections({&low, &high}, arc, plan);
    REQUIRE(s.volumes.fill_exact);
    // By Pappus: 16 square metres along 31.4 m.
    CHECK(s.volumes.fill_ends == Approx(16 * 31.416).epsilon(1e-3));
    CHECK(*s.volumes.fill_exact == Approx(16 * 31.416).epsilon(0.01));
    CHECK(s.all.back().chainage == Approx(31.416).epsilon(1e-3));
    plan.half_width = 30;  // wider than the bend is round
    const measure::Sections wide = measure::sections({&low, &high}, arc, plan);
    CHECK_FALSE(wide.volumes.fill_exact);
    CHECK_FALSE(wide.volumes.why_not_exact.empty());
    CHECK_THROWS_AS(measure::sections({&low}, {kSite}, plan), Error);
    plan.every = 0;
    CHECK_THROWS_AS(measure::sections({&low}, arc, plan), Error);
    plan.every = 1e-7;
    CHECK_THROWS_AS(measure::sections({&low}, arc, plan), Error);
}
