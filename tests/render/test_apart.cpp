#include <catch2/catch.hpp>
#include <cmath>
#include <map>
#include <random>

#include "core/cloud/builder.h"
#include "render/apart.h"
#include "render/renderer.h"
#include "support/cloud_makers.h"

using namespace pristine;
using namespace pristine::render;

namespace {

// A wall of points some 14 mm apart, and strays in the air.
constexpr int kStrays = 300;

std::shared_ptr<const cloud::PointCloud> cloud_with_strays(std::mt19937_64& dice) {
    cloud::PointBatch strays, wall;
    const auto put = [&](cloud::PointBatch& b, std::uint64_t x, std::uint64_t y, std::uint64_t z,
                         std::uint32_t colour) {
        b.x.push_back(static_cast<std::int32_t>(x));
        b.y.push_back(static_cast<std::int32_t>(y));
        b.z.push_back(static_cast<std::int32_t>(z));
        b.colour.push_back(colour);
    };
    for (int i = 0; i < kStrays; ++i)
        put(strays, dice() % 400000, 20000 + dice() % 200000, dice() % 300000, 0xFF0000);
    for (int i = 0; i < 60000; ++i) put(wall, dice() % 4000, 9000, dice() % 3000, 0x00FF00);
    cloud::PointCloud::Parts parts;
    parts.grid = {{0.001, 0.001, 0.001}, {0, 0, 0}};
    return cloud::build({strays, wall}, std::move(parts));
}

ViewFrame looking_north(Vec3 eye) {
    ViewFrame v;
    v.eye = eye;
    v.right = {1, 0, 0};
    v.down = {0, 0, -1};
    v.ahead = {0, 1, 0};
    v.perspective = true;
    v.scale = 500;
    v.width = 800;
    v.height = 600;
    v.centre_x = 400;
    v.centre_y = 300;
    v.near_depth = 0.01;
    return v;
}

}  // namespace

TEST_CASE("NearestDistancesAreThoseOfTheSlowSearch") {
    const std::uint64_t seed = test::seed_for("Apart");
    CAPTURE(seed);
    std::mt19937_64 dice(seed);
    for (int round = 0; round < 40; ++round) {
        const std::size_t n = 1 + dice() % 700;
        const auto side = static_cast<std::int32_t>(10 + dice() % 100000);
        std::vector<std::int32_t> x(n), y(n), z(n);
        for (std::size_t i = 0; i < n; ++i) {
            // A surface, every seventh point far from it; some twice.
            x[i] = static_cast<std::int32_t>(dice() % static_cast<std::uint64_t>(side));
            y[i] = static_cast<std::int32_t>(dice() % static_cast<std::uint64_t>(side));
            z[i] = i % 7 == 0 ? static_cast<std::int32_t>(dice() % static_cast<std::uint64_t>(40 * side)) : 0;
            if (i > 0 && dice() % 50 == 0) x[i] = x[i - 1], y[i] = y[i - 1], z[i] = z[i - 1];
        }
        const cloud::Grid grid{{0.001, 0.002, 0.001}, {4e5, 5e6, 0}};
        const float spacing = 0.003f * static_cast<float>(side) / std::sqrt(static_cast<float>(n));
        const auto found = nearest_distances({x, y, z}, grid, spacing);
        REQUIRE(found.size() == n);
        for (std::size_t i = 0; i < n; ++i) {
            double best = static_cast<double>(kFarApart) * static_cast<double>(spacing);
            for (std::size_t k = 0; k < n; ++k)
                if (k != i)
                    best = std::min(best, norm(grid.world(x[i], y[i], z[i]) - grid.world(x[k], y[k], z[k])));
            CAPTURE(round, i);
            REQUIRE(static_cast<double>(found[i]) == Approx(best).epsilon(1e-4).margin(1e-6));
        }
    }
}

TEST_CASE("StraysHaveTwoPixelsWhateverTheirDepth") {
    const std::uint64_t seed = test::seed_for("Strays");
    CAPTURE(seed);
    std::mt19937_64 dice(seed);
    const auto c = cloud_with_strays(dice);
    const auto scene =
        std::make_shared<const Scene>(std::vector<DrawItem>{{1, c, nullptr, nullptr, nullptr, {}}});
    for (const Vec3 eye : {Vec3{200, -200, 150}, Vec3{200, 0, 150}, Vec3{200, 60, 150}}) {
        const Picture p = render_picture(scene, looking_north(eye));
        std::map<std::uint32_t, int> pixels;
        for (const std::uint64_t key : p.keys)
            if (key != kNothing) ++pixels[static_cast<std::uint32_t>(key)];
        int seen = 0, larger = 0;
        for (const auto& [id, n] : pixels) {
            if (p.position(id).y < 15) continue;  // of the wall
            ++seen;
            larger += n > 4;
        }
        CAPTURE(eye.y);
        CHECK(seen > kStrays / 20);
        CHECK(larger <= seen / 50);  // two that are neighbours in the picture may close up
    }
}

TEST_CASE("DiscsOfAnEarlyStepAreGoneInTheCompletePicture") {
    std::mt19937_64 dice(8);
    const auto c = cloud_with_strays(dice);
    const auto scene =
        std::make_shared<const Scene>(std::vector<DrawItem>{{1, c, nullptr, nullptr, nullptr, {}}});
    const ViewFrame v = looking_north({2, 6, 1.5});
    const Picture at_once = render_picture(scene, v);
    Renderer r;
    Picture p;
    r.begin(scene, v);
    r.step(3000);
    r.resolve(p);
    REQUIRE_FALSE(p.complete);
    std::size_t early = 0, late = 0;
    for (const std::uint64_t key : p.keys) early += key != kNothing;
    for (const std::uint64_t key : at_once.keys) late += key != kNothing;
    CHECK(early > late / 3);  // larger discs close what is not drawn yet
    while (!r.step(7000)) r.resolve(p);
    r.resolve(p);
    CHECK(p.keys == at_once.keys);
}

TEST_CASE("AStrayBeforeASparseSurfaceIsNoBubbleAndTheSurfaceIsClosed") {
    std::mt19937_64 dice(12);
    cloud::PointBatch b;
    const auto put = [&](std::int32_t x, std::int32_t y, std::int32_t z) {
        b.x.push_back(x);
        b.y.push_back(y);
        b.z.push_back(z);
    };
    // A wall of points 10 cm apart, and three strays a metre before it.
    for (int x = 0; x < 80; ++x)
        for (int z = 0; z < 60; ++z)
            put(100 * x + static_cast<std::int32_t>(dice() % 30), 9000,
                100 * z + static_cast<std::int32_t>(dice() % 30));
    for (int k = 0; k < 3; ++k) put(2000 + 2000 * k, 8000, 3050);
    cloud::PointCloud::Parts parts;
    parts.grid = {{0.001, 0.001, 0.001}, {0, 0, 0}};
    const auto c = cloud::build({b}, std::move(parts));
    const auto scene =
        std::make_shared<const Scene>(std::vector<DrawItem>{{1, c, nullptr, nullptr, nullptr, {}}});
    const Picture p = render_picture(scene, looking_north({4, 2, 3}));
    std::map<std::uint32_t, int> pixels;
    std::size_t empty = 0, in_wall = 0;
    for (int y = 150; y < 450; ++y)
        for (int x = 200; x < 600; ++x) {
            const std::uint64_t key = p.keys[static_cast<std::size_t>(y) * 800 + static_cast<std::size_t>(x)];
            ++in_wall;
            empty += key == kNothing;
            if (key != kNothing) ++pixels[static_cast<std::uint32_t>(key)];
        }
    CHECK(empty < in_wall / 20);
    int strays = 0;
    for (const auto& [id, n] : pixels)
        if (p.position(id).y < 8.5) {
            ++strays;
            CHECK(n <= 4);
        }
    CHECK(strays == 3);
}
