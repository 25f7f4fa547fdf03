// What lies under a pixel, against every point projected.

#include <catch2/catch.hpp>

#include <cmath>
#include <random>

#include "core/select/under.h"
#include "render/camera.h"
#include "support/cloud_makers.h"

using namespace pristine;

TEST_CASE("LayersHoldEveryPointUnderThePixelNearToFar") {
    const std::uint64_t seed = test::seed_for("under");
    CAPTURE(seed);
    std::mt19937_64 dice(seed);
    for (int round = 0; round < 20; ++round) {
        const auto c =
            test::random_cloud(8'000, round % 2 ? test::Shape::Terrain : test::Shape::Clusters, dice());
        render::Camera camera;
        camera.perspective = dice() % 2;
        camera.yaw_deg = static_cast<double>(dice() % 360);
        camera.pitch_deg = -static_cast<double>(dice() % 90);
        camera.look_at_all(c->robust_bounds(), 1.5);
        const ViewFrame view = camera.frame(600, 400, c->bounds());
        const PixelPoint at{static_cast<double>(dice() % 600), static_cast<double>(dice() % 400)};
        const double radius = 5;
        ElementSet eligible(c->size());
        for (std::uint64_t i = 0; i < c->size(); ++i)
            if (dice() % 4) eligible.insert(i);
        std::uint64_t expected = 0;
        double nearest = INFINITY;
        eligible.for_each([&](std::uint64_t e) {
            const Vec3 w = c->position(e);
            const PixelPoint p = view.project(w);
            const double depth = view.depth(w);
            if (depth < view.near_depth || std::fabs(p.x - at.x) > radius || std::fabs(p.y - at.y) > radius)
                return;
            ++expected;
            nearest = std::min(nearest, depth);
        });
        const auto layers = select::layers_under(*c, eligible, view, at, radius);
        std::uint64_t sum = 0;
        double last = -INFINITY;
        for (const select::Layer& l : layers) {
            sum += l.count;
            CHECK(l.depth > last);
            CHECK(eligible.contains(l.element));
            CHECK(l.depth == Approx(view.depth(c->position(l.element))));
            last = l.depth;
        }
        CHECK(sum == expected);
        if (expected > 0) CHECK(layers.front().depth == Approx(nearest));
    }
}
