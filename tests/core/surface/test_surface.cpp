// Surfaces: built, limited, cut, measured, compared, against closed forms and slow obvious ways.

#include <catch2/catch.hpp>

#include <algorithm>
#include <cmath>
#include <numbers>
#include <random>

#include "core/base/error.h"
#include "core/base/parallel.h"
#include "core/measure/contours.h"
#include "core/measure/change_map.h"
#include "core/measure/difference.h"
#include "core/measure/figures.h"
#include "core/measure/noise.h"
#include "core/surface/definition.h"
#include "core/surface/thin.h"
#include "core/topology/adjacency.h"
#include "support/cloud_makers.h"

using namespace pristine;
using namespace pristine::surface;

namespace {

constexpr Vec3 kGrid{4'412'300, 5'218'930, 58};  // the size of national coordinates

std::vector<Vec3> random_ground(std::mt19937_64& dice, std::size_t n, double size = 100,
                                const Vec3& at = kGrid) {
    std::uniform_real_distribution<double> u(0, 1);
    std::vector<Vec3> p;
    for (std::size_t i = 0; i < n; ++i) {
        const double x = size * u(dice), y = size * u(dice);
        p.push_back(
            {at.x + x, at.y + y, at.z + 3 * std::sin(0.1 * x) + 2 * std::cos(0.13 * y) + 0.2 * u(dice)});
    }
    return p;
}

std::vector<Vec3> ring(double x0, double y0, double x1, double y1) {
    return {{kGrid.x + x0, kGrid.y + y0, 0},
            {kGrid.x + x1, kGrid.y + y0, 0},
            {kGrid.x + x1, kGrid.y + y1, 0},
            {kGrid.x + x0, kGrid.y + y1, 0}};
}

std::vector<Vec3> circle(double x, double y, double r, int n, double turned = 0.1) {
    std::vector<Vec3> c;
    for (int i = 0; i < n; ++i) {
        const double a = turned + 2 * std::numbers::pi * i / n;
        c.push_back({kGrid.x + x + r * std::cos(a), kGrid.y + y + r * std::sin(a), 0});
    }
    return c;
}

double area_of_ring(const std::vector<Vec3>& r) {
    double a = 0;
    for (std::size_t i = 0; i < r.size(); ++i) {
        const Vec3 p = r[i] - r[0], q = r[(i + 1) % r.size()] - r[0];
        a += 0.5 * (p.x * q.y - p.y * q.x);
    }
    return std::fabs(a);
}

double net(const mesh::TriMesh& m, double level) {
    const measure::Volumes v = measure::volumes(m, measure::level(level));
    return v.above - v.below;
}

// Nothing but rims of one triangle, everything turning counter-clockwise in plan.
void check_sound(const mesh::TriMesh& m) {
    const topology::Adjacency a = topology::adjacency(m.triangles);
    CHECK(a.non_manifold_edges == 0);
    CHECK(a.inconsistent_edges == 0);
    std::size_t wrong = 0;
    for (const auto& t : m.triangles) {
        const Vec3 p = m.vertices[t[1]] - m.vertices[t[0]], q = m.vertices[t[2]] - m.vertices[t[0]];
        wrong += p.x * q.y - p.y * q.x < -1e-9;
    }
    CHECK(wrong == 0);
}

mesh::TriMesh built(std::vector<Vec3> points) {
    Definition d;
    d.points = std::move(points);
    return build(d).mesh;
}

}  // namespace

TEST_CASE("VolumesOfPrismsAndPyramidsEqualTheClosedForm") {
    // A square of 40 x 30 with a point of height 12 in the middle.
    std::vector<Vec3> p = ring(0, 0, 40, 30);
    for (Vec3& v : p) v.z = 58;
    p.push_back({kGrid.x + 20, kGrid.y + 15, 70});
    const mesh::TriMesh pyramid = built(p);
    const measure::SurfaceFigures f = measure::figures(pyramid);
    CHECK(f.plan_area == Approx(1200).epsilon(1e-12));
    CHECK(f.perimeter == Approx(140).epsilon(1e-12));
    CHECK(f.surface_area ==
          Approx(2 * 0.5 * 40 * std::hypot(15, 12) + 2 * 0.5 * 30 * std::hypot(20, 12)).epsilon(1e-12));
    CHECK(measure::volumes(pyramid, measure::level(58)).above == Approx(1200 * 12 / 3.0).epsilon(1e-12));
    CHECK(measure::volumes(pyramid, measure::level(58)).below == 0);
    // Half-way up: the tip is an eighth; what is below is the box without the frustum.
    const measure::Volumes half = measure::volumes(pyramid, measure::level(64));
    CHECK(half.above == Approx(600).epsilon(1e-12));
    CHECK(half.area_above == Approx(300).epsilon(1e-12));
    CHECK(half.below == Approx(1200 * 6 - (4800 - 600)).epsilon(1e-12));
    CHECK(measure::volumes(pyramid, measure::lowest_of_rim(pyramid)).above == Approx(4800).epsilon(1e-12));
    CHECK(measure::volumes(pyramid, measure::mean_of_rim(pyramid)).above == Approx(4800).epsilon(1e-12));
    const measure::Difference d = measure::difference(measure::triangulated_rim(pyramid), pyramid);
    CHECK(d.fill == Approx(4800).epsilon(1e-12));
    CHECK(d.cut == 0);
    // A tilted plane has no volume over itself.
    std::vector<Vec3> tilted = ring(0, 0, 50, 20);
    const measure::Base plane =
        measure::plane_through({kGrid.x, kGrid.y, 3}, {kGrid.x + 10, kGrid.y, 5}, {kGrid.x, kGrid.y + 10, 2});
    for (Vec3& v : tilted) v.z = plane.height(v.x, v.y);
    const measure::Volumes none = measure::volumes(built(tilted), plane);
    CHECK(none.above + none.below < 1e-6);
    CHECK_THROWS_AS(measure::plane_through({0, 0, 0}, {1, 1, 1}, {2, 2, 5}), Error);
}

TEST_CASE("AConeOfManySidesHasTheVolumeOfItsPolygon") {
    for (const int n : {3, 7, 64, 1000}) {
        std::vector<Vec3> p = circle(0, 0, 10, n);
        for (Vec3& v : p) v.z = 58;
        p.push_back({kGrid.x, kGrid.y, 88});
        const double area = 0.5 * n * 100 * std::sin(2 * std::numbers::pi / n);
        CHECK(measure::volumes(built(p), measure::level(58)).above == Approx(area * 10).epsilon(1e-9));
    }
}

TEST_CASE("VolumesOfRandomTerrainsEqualTheSumOfTheirPrisms") {
    std::mt19937_64 dice(test::seed_for("Terrains"));
    for (int round = 0; round < 10; ++round) {
        const mesh::TriMesh m = built(random_ground(dice, 3000));
        check_sound(m);
        const double level = 57 + 0.5 * round;
        long double whole = 0, area = 0;
        for (const auto& t : m.triangles) {
            const Vec3 a = m.vertices[t[0]], b = m.vertices[t[1]] - a, c = m.vertices[t[2]] - a;
            const long double s = 0.5L * ((long double)b.x * c.y - (long double)b.y * c.x);
            area += s;
            whole += s * ((a.z - level) + (b.z + c.z) / 3.0L);
        }
        const measure::Volumes v = measure::volumes(m, measure::level(level));
        CHECK(v.above - v.below == Approx((double)whole).epsilon(1e-9));
        CHECK(v.area_above + v.area_below == Approx((double)area).epsilon(1e-9));
        // Above, counted on a fine grid.
        CHECK(v.above >= 0);
        CHECK(v.below >= 0);
        const parallel::WorkerLimit alone(1);
        CHECK(measure::volumes(m, measure::level(level)).above == v.above);
    }
}

TEST_CASE("ACutAtABoundaryChangesNoVolume") {
    const std::uint64_t seed = test::seed_for("Cut");
    CAPTURE(seed);
    std::mt19937_64 dice(seed);
    for (int round = 0; round < 25; ++round) {
        CAPTURE(round);
        const mesh::TriMesh m = built(random_ground(dice, 40 + 300 * static_cast<std::size_t>(round % 5)));
        // Outer, a hole in it, an island in the hole; some corners on points of the surface.
        Rings rings{circle(50, 50, 45, 5 + round), circle(48, 52, 25, 17), circle(50, 50, 8, 9)};
        if (round % 3 == 0) {
            rings = {ring(5, 5, 95, 80)};
            rings[0][0] = m.vertices[7];
        }
        double wanted = 0;
        if (round % 3 == 0)
            wanted = area_of_ring(rings[0]);
        else
            wanted = area_of_ring(rings[0]) - area_of_ring(rings[1]) + area_of_ring(rings[2]);
        const mesh::TriMesh in = clip(m, rings, Keep::Inside, Edges::Exact),
                            out = clip(m, rings, Keep::Outside, Edges::Exact);
        check_sound(in);
        check_sound(out);
        const double whole = measure::figures(m).plan_area;
        const double a = measure::figures(in).plan_area, b = measure::figures(out).plan_area;
        CHECK(a + b == Approx(whole).epsilon(1e-9));
        if (round % 3 != 0) CHECK(a <= wanted * (1 + 1e-9));
        CHECK(net(in, 58) + net(out, 58) == Approx(net(m, 58)).epsilon(1e-9).margin(1e-6));
        // Cut at its own line again, nothing changes.
        const mesh::TriMesh again = clip(in, boundary_of(in), Keep::Inside, Edges::Exact);
        CHECK(again.triangles.size() == in.triangles.size());
        CHECK(net(again, 58) == Approx(net(in, 58)).epsilon(1e-12).margin(1e-9));
    }
    // Well inside the surface, the area is that of the rings.
    std::vector<Vec3> p = random_ground(dice, 2000);
    for (const Vec3& c : ring(0, 0, 100, 100)) p.push_back({c.x, c.y, 58});
    const mesh::TriMesh m = built(p);
    const Rings rings{circle(50, 50, 40, 37), circle(50, 50, 15, 11)};
    CHECK(measure::figures(clip(m, rings, Keep::Inside, Edges::Exact)).plan_area ==
          Approx(area_of_ring(rings[0]) - area_of_ring(rings[1])).epsilon(1e-9));
    // Whole triangles: those that stay are the ones whose middle does.
    const mesh::TriMesh whole = clip(m, rings, Keep::Inside, Edges::Whole);
    const Inside inside(rings);
    std::size_t middles = 0;
    for (const auto& t : m.triangles) {
        const Vec3 c = (m.vertices[t[0]] + m.vertices[t[1]] + m.vertices[t[2]]) * (1 / 3.0);
        middles += inside(c.x, c.y);
    }
    CHECK(whole.triangles.size() == middles);
}

TEST_CASE("BoundariesThatMakeNoSenseAreRefusedWithTheirPlace") {
    Rings bow{{{0, 0, 0}, {10, 10, 0}, {10, 0, 0}, {0, 10, 0}}};
    CHECK_THROWS_AS(check_rings(bow), Error);
    CHECK_THROWS_AS(check_rings({{{0, 0, 0}, {1, 1, 0}}}), Error);
    CHECK_NOTHROW(check_rings({ring(0, 0, 10, 10), ring(2, 2, 5, 5)}));
    CHECK_THROWS_AS(check_rings({ring(0, 0, 10, 10), ring(5, 5, 15, 15)}), Error);
}

TEST_CASE("BreaklinesAndDuplicatesAreReportedAndResolved") {
    Definition d;
    d.points = ring(0, 0, 20, 20);
    for (Vec3& p : d.points) p.z = 10;
    d.points.push_back({kGrid.x, kGrid.y, 14});
    d.breaklines = {{"toe", {{kGrid.x + 2, kGrid.y + 10, 11}, {kGrid.x + 18, kGrid.y + 10, 11}}, false},
                    {"crest", {{kGrid.x + 10, kGrid.y + 2, 15}, {kGrid.x + 10, kGrid.y + 18, 15}}, false}};
    Built b = build(d);
    REQUIRE(b.report.crossings.size() == 1);
    CHECK(b.report.crossings[0].first == "toe");
    CHECK(b.report.crossings[0].second == "crest");
    CHECK(b.report.crossings[0].place.z == Approx(13));
    CHECK(b.report.crossings[0].place.x == Approx(kGrid.x + 10).epsilon(1e-15));
    CHECK(b.report.breakline_segments == 4);
    REQUIRE(b.report.duplicates.size() == 1);
    CHECK(b.report.duplicates[0].place.z == 10);
    CHECK(b.report.duplicates[0].highest == 14);
    const auto corner = [&](const Built& of) -> double {
        for (const Vec3& v : of.mesh.vertices)
            if (v.x == kGrid.x && v.y == kGrid.y) return v.z;
        return NAN;
    };
    CHECK(corner(b) == 10);
    d.duplicates = Duplicates::Highest;
    CHECK(corner(build(d)) == 14);
    d.duplicates = Duplicates::Mean;
    CHECK(corner(build(d)) == 12);
    for (const auto& [rule, z] : {std::pair{Crossings::Earlier, 11.0}, std::pair{Crossings::Later, 15.0},
                                  std::pair{Crossings::Highest, 15.0}, std::pair{Crossings::Lowest, 11.0}}) {
        d.crossings = rule;
        CHECK(build(d).report.crossings[0].place.z == z);
    }
    Definition line;
    line.points = {{0, 0, 0}, {1, 1, 0}, {2, 2, 5}};
    CHECK_THROWS_AS(build(line), Error);
}

TEST_CASE("LimitsPeelTheRimAndStopAtBreaklines") {
    // A U of points on a grid: the opening is bridged by long triangles.
    Definition d;
    for (int x = 0; x <= 20; ++x)
        for (int y = 0; y <= 20; ++y)
            if (x <= 5 || x >= 15 || y <= 5) d.points.push_back({kGrid.x + x, kGrid.y + y, 0.01 * x * y});
    CHECK(measure::figures(build(d).mesh).plan_area == Approx(400));
    // In the two inner corners the diagonal is shorter than the limit.
    const double u = 400 - 10 * 15 + 2 * 0.5;
    d.limits.rim_edge = 1.5;
    CHECK(measure::figures(build(d).mesh).plan_area == Approx(u));
    d.limits = {};
    d.limits.longest_edge = 1.5;
    CHECK(measure::figures(build(d).mesh).plan_area == Approx(u));
    d.limits = {};
    d.limits.rim_edge = 1.5;
    d.breaklines = {{"edge", {{kGrid.x + 5, kGrid.y + 20, 0}, {kGrid.x + 15, kGrid.y + 20, 0}}, false}};
    CHECK(measure::figures(build(d).mesh).plan_area == Approx(400));
    // A boundary says where the surface ends: inside it nothing is peeled.
    d.breaklines.clear();
    d.boundary = {{{kGrid.x, kGrid.y, 0},
                   {kGrid.x + 20, kGrid.y, 0},
                   {kGrid.x + 20, kGrid.y + 20, 0},
                   {kGrid.x, kGrid.y + 20, 0}}};
    d.limits = {0, 1.5, 100};
    CHECK(measure::figures(build(d).mesh).plan_area == Approx(400));
    // Angles: a flat triangle at the rim goes.
    Definition flat;
    flat.points = {{0, 0, 0}, {10, 0, 0}, {10, 10, 0}, {0, 10, 0}, {5, -0.2, 0}, {5, 0.4, 0}};
    flat.points[4].y = 0.2;
    flat.limits.rim_angle = 150;
    const mesh::TriMesh m = build(flat).mesh;
    CHECK(measure::figures(m).plan_area == Approx(100 - 0.5 * 10 * 0.2));
}

// Exclusions hold through every rebuild: points come and go, breaklines and limits change.
TEST_CASE("WhatWasRemovedStaysRemovedThroughHundredsOfEdits") {
    const std::uint64_t seed = test::seed_for("Removed");
    CAPTURE(seed);
    std::mt19937_64 dice(seed);
    std::uniform_real_distribution<double> u(0, 1);
    Definition d;
    d.points = random_ground(dice, 400);
    std::uint64_t removed_ever = 0;
    for (int edit = 0; edit < 300; ++edit) {
        const mesh::TriMesh before = build(d).mesh;
        if (edit % 10 == 0 && d.exclusions.size() < 12) {
            // Some triangles round a place go.
            std::vector<std::uint32_t> gone;
            const double x = kGrid.x + 100 * u(dice), y = kGrid.y + 100 * u(dice);
            for (std::uint32_t t = 0; t < before.triangles.size(); ++t) {
                const Vec3 c = before.vertices[before.triangles[t][0]];
                if (std::hypot(c.x - x, c.y - y) < 9) gone.push_back(t);
            }
            if (!gone.empty()) {
                removed_ever += gone.size();
                Exclusion e;
                e.rings = rings_round(before, gone);
                d.exclusions.push_back(e);
                const mesh::TriMesh after = build(d).mesh;
                // Exactly these triangles have gone, and no other has changed.
                REQUIRE(after.triangles.size() == before.triangles.size() - gone.size());
            }
        } else if (edit % 3 == 0) {
            d.points.push_back(random_ground(dice, 1)[0]);
        } else if (edit % 3 == 1) {
            d.points.erase(d.points.begin() + static_cast<std::ptrdiff_t>(dice() % d.points.size()));
        } else {
            d.points[dice() % d.points.size()].x += u(dice) - 0.5;
        }
        if (edit == 150)
            d.breaklines.push_back({"b", {random_ground(dice, 1)[0], random_ground(dice, 1)[0]}, false});
        const mesh::TriMesh now = build(d).mesh;
        for (const Exclusion& e : d.exclusions) {
            const double left = measure::figures(clip(now, e.rings, Keep::Inside, Edges::Exact)).plan_area;
            REQUIRE(left < 1e-6);
        }
    }
    CHECK(removed_ever > 50);
    // Lifted, they are back.
    for (Exclusion& e : d.exclusions) e.active = false;
    Definition bare = d;
    bare.exclusions.clear();
    CHECK(build(d).mesh.triangles == build(bare).mesh.triangles);
}

TEST_CASE("TheLineRoundASurfaceAsALimitOfTheNextBuildReproducesIt") {
    std::mt19937_64 dice(5);
    Definition d;
    d.points = random_ground(dice, 800);
    d.limits.rim_edge = 8;
    Built first = build(d);
    const auto hole = clip(first.mesh, {circle(50, 50, 12, 20)}, Keep::Outside, Edges::Whole);
    Definition again;
    again.points = d.points;
    again.boundary = boundary_of(hole);
    const mesh::TriMesh second = build(again).mesh;
    CHECK(second.triangles.size() == hole.triangles.size());
    CHECK(net(second, 50) == Approx(net(hole, 50)).epsilon(1e-12));
    CHECK(measure::figures(second).perimeter == Approx(measure::figures(hole).perimeter).epsilon(1e-12));
}

TEST_CASE("CutAndFillEqualTheDifferenceOfVolumes") {
    const std::uint64_t seed = test::seed_for("CutAndFill");
    CAPTURE(seed);
    std::mt19937_64 dice(seed);
    for (int round = 0; round < 8; ++round) {
        CAPTURE(round);
        std::vector<Vec3> p = random_ground(dice, 900), q = random_ground(dice, 700);
        for (Vec3& v : q) v.z += 0.4 * std::sin(0.2 * (v.x - kGrid.x));
        for (const Vec3& c : ring(0, 0, 100, 100))
            for (auto* s : {&p, &q}) s->push_back({c.x, c.y, 58});
        const mesh::TriMesh before = built(p), after = built(q);
        const measure::Difference d = measure::difference(before, after);
        CHECK(d.net() == Approx(net(after, 58) - net(before, 58)).epsilon(1e-9).margin(1e-6));
        CHECK(d.overlap_area == Approx(10'000).epsilon(1e-9));
        CHECK(d.uncovered_area < 1e-5);
        CHECK(d.cut_area + d.fill_area + d.unchanged_area == Approx(10'000).epsilon(1e-9));
        const measure::Difference swapped = measure::difference(after, before);
        CHECK(swapped.cut == Approx(d.fill).epsilon(1e-9));
        CHECK(swapped.fill == Approx(d.cut).epsilon(1e-9));
        // With a band: less of both, and the areas still add up.
        const measure::Difference band = measure::difference(before, after, {0.3, {}, {}});
        CHECK(band.cut < d.cut);
        CHECK(band.fill < d.fill);
        CHECK(band.cut_area + band.fill_area + band.unchanged_area == Approx(10'000).epsilon(1e-9));
        CHECK(measure::figures(measure::difference_map(before, after)).plan_area ==
              Approx(10'000).epsilon(1e-9));
        const parallel::WorkerLimit alone(1);
        CHECK(measure::difference(before, after).cut == d.cut);
    }
    // A box of 10 x 10 raised by 2 on half of its width, lowered by 1 on the other.
    const mesh::TriMesh ground = built([] {
        auto r = ring(0, 0, 10, 10);
        for (Vec3& v : r) v.z = 5;
        return r;
    }());
    mesh::TriMesh tilted = ground;
    for (Vec3& v : tilted.vertices) v.z = 5 + 0.3 * (v.x - kGrid.x - 5);
    const measure::Difference d = measure::difference(ground, tilted, {0, {.noise = 0.1}, {}});
    CHECK(d.fill == Approx(0.5 * 1.5 * 5 * 10).epsilon(1e-12));
    CHECK(d.cut == Approx(37.5).epsilon(1e-12));
    CHECK(d.greatest == Approx(1.5));
    // Four corners of one square: the diagonal's ends carry a third of the area, the others a sixth.
    CHECK(d.sigma_net == Approx(0.1 * 100 * std::sqrt(2 / 9.0 + 2 / 36.0)));
    // Only what both cover counts.
    const mesh::TriMesh part = clip(tilted, {ring(0, 0, 4, 10)}, Keep::Inside, Edges::Exact);
    const measure::Difference partly = measure::difference(ground, part);
    CHECK(partly.overlap_area == Approx(40));
    CHECK(partly.uncovered_area == Approx(60));
    CHECK(partly.fill == 0);
}

TEST_CASE("UncertaintyIsWhatNoiseMakesOfTheVolume") {
    std::mt19937_64 dice(11);
    std::normal_distribution<double> noise(0, 0.05);
    std::vector<Vec3> p = random_ground(dice, 300);
    const mesh::TriMesh ground = built(p);
    const measure::Difference stated = measure::difference(ground, ground, {0, {}, {.noise = 0.05}});
    double sum = 0;
    constexpr int kTrials = 400;
    for (int i = 0; i < kTrials; ++i) {
        mesh::TriMesh other = ground;
        for (Vec3& v : other.vertices) v.z += noise(dice);
        const double n = measure::difference(ground, other).net();
        sum += n * n;
    }
    CHECK(std::sqrt(sum / kTrials) == Approx(stated.sigma_net).epsilon(0.12));
    // And the noise itself is found again from a smooth surface.
    std::vector<Vec3> smooth;
    for (int x = 0; x < 60; ++x)
        for (int y = 0; y < 60; ++y)
            smooth.push_back({kGrid.x + x + 0.1 * noise(dice), kGrid.y + y + 0.1 * noise(dice),
                              0.02 * x * y + noise(dice)});
    CHECK(measure::noise_of(built(smooth)) == Approx(0.05).epsilon(0.1));
}

TEST_CASE("NoiseIsFoundUnderTheShapeOfTheGround") {
    std::mt19937_64 dice(9);
    std::uniform_real_distribution<double> place(0, 100);
    for (const double sigma : {0.0, 0.003, 0.01, 0.03}) {
        std::normal_distribution<double> noise(0, 1);
        // Hills with a step across them: in a plane fit the bend alone is 2 mm and more.
        std::vector<Vec3> p;
        for (int i = 0; i < 30'000; ++i) {
            const double x = place(dice), y = place(dice);
            const double step = std::clamp(x - 60, 0.0, 4.0);
            p.push_back({kGrid.x + x, kGrid.y + y,
                         58 + 5 * std::sin(x / 20) * std::cos(y / 15) + step + sigma * noise(dice)});
        }
        const double found = measure::noise_of(built(p));
        CHECK(found == Approx(sigma).epsilon(0.05).margin(0.0003));
        // Thinned to 5 cm it is too large, but no more than the tolerance.
        std::vector<Vec3> few;
        for (const std::uint32_t k : thinned(p, 0.05)) few.push_back(p[k]);
        CHECK(measure::noise_of(built(few)) > found);
        CHECK(measure::noise_of(built(few)) < 0.05);
    }
    CHECK(measure::noise_of({}) == 0);
    // A machine of many rough points on a smooth yard does not count for more than its ground.
    std::vector<Vec3> yard;
    std::normal_distribution<double> fine(0, 0.004), rough(0, 0.4);
    for (int i = 0; i < 4000; ++i) {
        const double x = place(dice), y = place(dice);
        if (std::hypot(x - 50, y - 50) > 6)
            yard.push_back({kGrid.x + x, kGrid.y + y, 58 + 0.02 * x + fine(dice)});
    }
    for (int i = 0; i < 12'000; ++i) {
        const double r = 0.05 * place(dice), a = 0.0628 * place(dice);
        yard.push_back({kGrid.x + 50 + r * std::cos(a), kGrid.y + 50 + r * std::sin(a), 60 + rough(dice)});
    }
    CHECK(measure::noise_of(built(yard)) == Approx(0.004).epsilon(0.1));
}

TEST_CASE("ContoursLieOnTheSurfaceAndNeverBranch") {
    std::mt19937_64 dice(3);
    const mesh::TriMesh m = clip(built(random_ground(dice, 2500)),
                                 {circle(50, 50, 48, 60), circle(60, 40, 9, 14)}, Keep::Inside, Edges::Exact);
    const auto lines = measure::contours(m, 0.5);
    CHECK(lines.size() > 20);
    const topology::Adjacency a = topology::adjacency(m.triangles);
    std::size_t closed = 0, off = 0, wrong_side = 0;
    for (const auto& l : lines) {
        closed += l.closed;
        CHECK(std::fabs(l.level / 0.5 - std::round(l.level / 0.5)) < 1e-9);
        for (const Vec3& p : l.points) off += std::fabs(p.z - l.level) > 1e-9;
    }
    CHECK(closed > 0);
    CHECK(closed < lines.size());
    CHECK(off == 0);
    // The length of all lines of a level is that of all its cuts through triangles, counted one by one.
    double slow = 0, fast = 0;
    for (const auto& l : lines)
        for (std::size_t i = 0; i + (l.closed ? 0 : 1) < l.points.size(); ++i)
            fast += norm(l.points[(i + 1) % l.points.size()] - l.points[i]);
    for (const auto& t : m.triangles)
        for (int k = 90; k < 140; ++k) {
            const double z = 0.5 * k;
            std::vector<Vec3> ends;
            for (std::size_t e = 0; e < 3; ++e) {
                const Vec3 p = m.vertices[t[e]], q = m.vertices[t[(e + 1) % 3]];
                if ((p.z >= z) != (q.z >= z)) ends.push_back(p + (q - p) * ((z - p.z) / (q.z - p.z)));
            }
            if (ends.size() == 2) slow += norm(ends[1] - ends[0]);
        }
    CHECK(fast == Approx(slow).epsilon(1e-9));
    CHECK(wrong_side == 0);
    CHECK_THROWS_AS(measure::contours(m, 0), Error);
    CHECK_THROWS_AS(measure::contours(m, 1e-9), Error);
    // A level through vertices exactly.
    const mesh::TriMesh roof = built({{0, 0, 0}, {10, 0, 0}, {0, 10, 0}, {10, 10, 0}, {5, 5, 1}, {5, 0, 1}});
    for (const auto& l : measure::contours(roof, 1)) CHECK(l.points.size() > 1);
}

TEST_CASE("AProfileFollowsTheSurfaceAndItsGaps") {
    std::mt19937_64 dice(9);
    const mesh::TriMesh whole = built(random_ground(dice, 1500));
    const mesh::TriMesh m = clip(whole, {circle(50, 50, 10, 30)}, Keep::Outside, Edges::Exact);
    const std::vector<Vec3> line{kGrid + Vec3{10, 50, 0}, kGrid + Vec3{90, 50, 0}, kGrid + Vec3{90, 80, 0}};
    const auto profile = measure::profile(m, line);
    REQUIRE(profile.size() == 2);
    CHECK(profile[0].front().chainage == Approx(0).margin(1e-6));
    CHECK(profile[0].back().chainage == Approx(30).margin(0.1));
    CHECK(profile[1].front().chainage == Approx(50).margin(0.1));
    CHECK(profile[1].back().chainage == Approx(110).margin(1e-6));
    // Heights against triangles looked through one by one.
    for (const auto& stretch : profile)
        for (std::size_t i = 1; i < stretch.size(); ++i) {
            const Vec3 p = (stretch[i - 1].place + stretch[i].place) * 0.5;
            double z = NAN;
            for (const auto& t : m.triangles) {
                const Vec3 a = m.vertices[t[0]], b = m.vertices[t[1]] - a, c = m.vertices[t[2]] - a,
                           q = p - a;
                const double w = b.x * c.y - b.y * c.x, s = (q.x * c.y - q.y * c.x) / w,
                             r = (b.x * q.y - b.y * q.x) / w;
                if (s >= -1e-9 && r >= -1e-9 && s + r <= 1 + 1e-9) z = a.z + s * b.z + r * c.z;
            }
            if (stretch[i].chainage - stretch[i - 1].chainage > 1e-6) REQUIRE(p.z == Approx(z).margin(1e-6));
        }
}

TEST_CASE("SliversAsThinAsRoundingDoNotSpoilTheUncertainty") {
    mesh::TriMesh flat;
    flat.vertices = {kGrid, kGrid + Vec3{10, 0, 0}, kGrid + Vec3{10, 10, 0}, kGrid + Vec3{0, 10, 0}};
    flat.triangles = {{0, 1, 2}, {0, 2, 3}};
    mesh::TriMesh lifted = flat;
    for (Vec3& v : lifted.vertices) v.z += 1;
    // A corner on the diagonal, off it by a rounding or not at all, and the triangle between.
    lifted.vertices.push_back((lifted.vertices[0] + lifted.vertices[2]) * 0.5 + Vec3{1e-9, 0, 0});
    lifted.triangles = {{0, 1, 4}, {1, 2, 4}, {0, 2, 3}, {0, 4, 2}};
    const measure::Difference d = measure::difference(flat, lifted, {0, {.noise = 0.01}, {.noise = 0.01}});
    CHECK(d.fill == Approx(100).epsilon(1e-9));
    CHECK(std::isfinite(d.sigma_net));
    CHECK(d.sigma_net > 0);
    CHECK(d.sigma_net < 2);
}
