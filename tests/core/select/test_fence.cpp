#include <catch2/catch.hpp>

#include "core/base/parallel.h"
#include "core/select/fence.h"
#include "core/select/summary.h"
#include "render/renderer.h"
#include "support/cloud_makers.h"

using namespace pristine;
using test::Shape;

TEST_CASE("AFenceSelectsWhatTheSlowExactLoopSelects") {
    const std::uint64_t seed = test::seed_for("Fence");
    CAPTURE(seed);
    std::mt19937_64 dice(seed);
    for (const Shape shape :
         {Shape::Terrain, Shape::Clusters, Shape::Grid, Shape::WithFarStrays, Shape::OnePlace}) {
        const auto c = test::random_cloud(140000, shape, dice());
        const ElementSet all = ElementSet::all(c->size());
        for (int round = 0; round < 12; ++round) {
            CAPTURE(static_cast<int>(shape), round);
            const select::Fence f = test::random_fence(*c, dice, round % 2 == 0);
            REQUIRE(select::fence(*c, f, all) == test::reference_fence(*c, f, all));
        }
    }
}

TEST_CASE("PointsExactlyOnTheFenceAreDecidedAsTheLawSays") {
    // A grid of points under a fence whose edges run exactly through them, parallel to the axes.
    const auto c = test::random_cloud(90000, Shape::Grid, 1);
    select::Fence f;
    f.view.eye = {412300, 5218930, 100};
    f.view.scale = 128;
    f.view.near_depth = -1e300;
    for (const PixelPoint p : {PixelPoint{0.5, -0.25}, {2.25, -0.25}, {2.25, -2.5}, {0.5, -2.5}})
        f.corners.push_back({p.x * 128, p.y * 128});
    const ElementSet all = ElementSet::all(c->size());
    CHECK(select::fence(*c, f, all) == test::reference_fence(*c, f, all));
}

TEST_CASE("WhatIsNotEligibleIsNeverSelected") {
    const auto c = test::random_cloud(140000, Shape::Terrain, 21);
    std::mt19937_64 dice(2);
    const select::Fence f = test::random_fence(*c, dice, false), g = test::random_fence(*c, dice, true);
    const ElementSet all = ElementSet::all(c->size());
    const ElementSet eligible = ~select::fence(*c, g, all);
    const ElementSet s = select::fence(*c, f, eligible);
    CHECK((s - eligible).empty());
    CHECK(s == (select::fence(*c, f, all) & eligible));
}

TEST_CASE("TwoCornersSelectNothing") {
    const auto c = test::random_cloud(1000, Shape::Terrain, 1);
    select::Fence f;
    f.corners = {{0, 0}, {100, 100}};
    CHECK(select::fence(*c, f, ElementSet::all(c->size())).empty());
}

TEST_CASE("VisibleOnlyTakesTheNearWallAndLeavesTheFarOne") {
    // Two walls, one behind the other, 2 m apart, seen square on.
    cloud::PointBatch b;
    std::mt19937_64 dice(4);
    for (int i = 0; i < 200000; ++i) {
        b.x.push_back(static_cast<std::int32_t>(dice() % 4000));
        b.y.push_back(i % 2 ? 0 : 2000);
        b.z.push_back(static_cast<std::int32_t>(dice() % 3000));
        b.colour.push_back(0x808080);
    }
    cloud::PointCloud::Parts parts;
    parts.grid = {{0.001, 0.001, 0.001}, {0, 0, 0}};
    const auto c = cloud::build({b}, std::move(parts));
    render::DrawItem item{1, c, nullptr, nullptr, nullptr, {}};
    const auto scene = std::make_shared<const render::Scene>(std::vector<render::DrawItem>{item});
    select::Fence f;
    f.view.eye = {2, -5, 1.5};
    f.view.right = {1, 0, 0};
    f.view.down = {0, 0, -1};
    f.view.ahead = {0, 1, 0};
    f.view.perspective = true;
    f.view.scale = 400;
    f.view.width = 640;
    f.view.height = 480;
    f.view.centre_x = 320;
    f.view.centre_y = 240;
    f.view.near_depth = 0.01;
    f.corners = {{260, 180}, {380, 180}, {380, 300}, {260, 300}};
    const render::Picture picture = render::render_picture(scene, f.view);
    const std::vector<float> depths = picture.depths();
    const select::DepthPicture seen{picture.width, picture.height, depths};
    const ElementSet all = ElementSet::all(c->size());
    const ElementSet through = select::fence(*c, f, all);
    const ElementSet visible = select::fence(*c, f, all, {&seen});
    std::uint64_t near_through = 0, near_visible = 0, far_visible = 0;
    through.for_each([&](std::uint64_t i) { near_through += c->position(i).y < 1; });
    visible.for_each([&](std::uint64_t i) { (c->position(i).y < 1 ? near_visible : far_visible)++; });
    REQUIRE(near_through > 10000);
    CHECK(far_visible == 0);
    CHECK(near_visible == near_through);  // also those that win no pixel
}

TEST_CASE("APlanFenceWithAHoleKeepsTheHoleOut") {
    const auto c = test::random_cloud(90000, Shape::Grid, 1);  // x 0..3 m, y 0..3 m from the site's corner
    const auto ring = [](double x0, double y0, double x1, double y1) {
        return Polygon{{412300 + x0, 5218930 + y0},
                       {412300 + x1, 5218930 + y0},
                       {412300 + x1, 5218930 + y1},
                       {412300 + x0, 5218930 + y1}};
    };
    const ElementSet s = select::plan_fence(
        *c, {ring(0.505, 0.505, 2.505, 2.505), ring(1.005, 1.005, 1.505, 1.505)}, ElementSet::all(c->size()));
    CHECK(s.count() == 200 * 200 - 50 * 50);
}

TEST_CASE("TheSummaryCountsHeightsAndTheFloor") {
    // A floor at 0 and a post of 1.5 m with a gap of 0.2 m under it.
    cloud::PointBatch b;
    std::mt19937_64 dice(4);
    for (int i = 0; i < 120000; ++i) {
        b.x.push_back(static_cast<std::int32_t>(dice() % 5000));
        b.y.push_back(static_cast<std::int32_t>(dice() % 5000));
        b.z.push_back(0);
    }
    for (int i = 0; i < 5000; ++i) {
        b.x.push_back(2500 + static_cast<std::int32_t>(dice() % 100));
        b.y.push_back(2500 + static_cast<std::int32_t>(dice() % 100));
        b.z.push_back(200 + static_cast<std::int32_t>(dice() % 1301));
    }
    cloud::PointCloud::Parts parts;
    parts.grid = {{0.001, 0.001, 0.001}, {412300, 5218930, 58}};
    const auto c = cloud::build({b}, std::move(parts));
    const ElementSet all = ElementSet::all(c->size());
    ElementSet post(c->size());
    for (std::uint64_t i = 0; i < c->size(); ++i)
        if (c->position(i).z > 58.1) post.insert(i);
    const terrain::GroundModel ground(*c, all);
    const select::Summary s = select::summarise(*c, post, all, &ground);
    CHECK(s.count == 5000);
    CHECK(s.of == 125000);
    CHECK(*s.lowest == Approx(58.2).margin(0.002));
    CHECK(*s.highest == Approx(59.5).margin(0.002));
    REQUIRE(s.lowest_above_ground);
    CHECK(*s.lowest_above_ground == Approx(0.2).margin(0.01));
    std::uint64_t in_bins = 0;
    for (const auto n : s.above_ground) in_bins += n;
    CHECK(in_bins == 5000);
    CHECK(select::summarise(*c, ElementSet(c->size()), all).lowest == std::nullopt);
}
