// Tunnels: places round a centreline, the lining, what is inside it, its volume.

#include <catch2/catch.hpp>

#include <cmath>
#include <cstdio>
#include <numbers>
#include <random>

#include "core/score/limits.h"
#include "core/score/score.h"
#include "core/tunnel/inside.h"
#include "core/tunnel/notches.h"
#include "demo/trials.h"
#include "support/cloud_makers.h"

using namespace pristine;
using demo::Truth;

namespace {

constexpr double kPi = std::numbers::pi;

// A round pipe of radius 2 along a line, without a patch and with a thin rod along it.
struct Pipe {
    std::vector<Vec3> line;
    demo::Trial trial{"pipe", {}, {}};
    std::shared_ptr<const cloud::PointCloud> cloud;
    std::vector<Truth> truth;
    explicit Pipe(std::vector<Vec3> l, bool patch) : line(std::move(l)) {
        const tunnel::Axis axis(line, 0);
        std::mt19937_64 dice(11);
        std::uniform_real_distribution<double> u(0, 1);
        for (int i = 0; i < 60'000; ++i) {
            const double s = axis.length() * u(dice), a = kPi * (2 * u(dice) - 1);
            if (patch && std::fabs(s - 8) < 1.2 && std::fabs(a - 1) < 0.6) continue;
            trial.points.push_back({axis.world(s, a, 2), {}});
            if (i % 8 == 0)
                trial.points.push_back(
                    {axis.world(s, -1 + 0.05 * u(dice), 1.6 + 0.1 * u(dice)), {}, 0, Truth::Object});
        }
        cloud = demo::cloud_of(trial, truth);
        for (Vec3& p : line) p = p + demo::kSiteOrigin;
    }
};

}  // namespace

TEST_CASE("PlacesRoundACentrelineAreFoundAgain") {
    std::mt19937_64 dice(2);
    std::uniform_real_distribution<double> u(0, 1);
    const std::vector<Vec3> line{{0, 0, 0}, {3, 20, 1}, {10, 38, 1.5}, {22, 50, 0}};
    const tunnel::Axis axis(line, 0.5);
    double length = 0;
    for (std::size_t i = 1; i < line.size(); ++i) length += norm(line[i] - line[i - 1]);
    CHECK(axis.length() == Approx(length));
    for (int i = 0; i < 500; ++i) {
        // Close to the line, and away from its bends, where one place may have two names.
        const double s = length * u(dice), a = kPi * (2 * u(dice) - 1), r = 0.5 * u(dice);
        const Vec3 w = axis.world(s, a, r);
        const tunnel::Place p = axis.place(w);
        bool bend = false;
        double at = 0;
        for (std::size_t k = 1; k + 1 < line.size(); ++k)
            bend |= std::fabs((at += norm(line[k] - line[k - 1])) - s) < 1;
        if (bend) continue;
        CHECK(p.chainage == Approx(s).margin(1e-9));
        CHECK(p.radius == Approx(r).margin(1e-9));
        if (r > 0.01) CHECK(std::cos(p.angle - a) == Approx(1).margin(1e-9));
        // Stretches that may be nearest hold the nearest.
        Box3 box;
        box.add(w - Vec3{1, 1, 1});
        box.add(w + Vec3{1, 1, 1});
        const auto near = axis.near(box);
        CHECK(axis.place(w, &near).chainage == p.chainage);
    }
    CHECK_THROWS_AS(tunnel::Axis({{1, 2, 3}, {1, 2, 3}}, 0), Error);
    CHECK(tunnel::Axis({{0, 0, 0}, {0, 0, -30}}, 0).place({0, 1, -10}).radius == Approx(1));  // a shaft
}

TEST_CASE("DepthInARoundPipeIsTheDifferenceOfRadii") {
    const Pipe pipe({{0, 0, 0}, {0, 20, 1}}, false);
    const tunnel::Lining lining(*pipe.cloud, ElementSet::all(pipe.cloud->size()), pipe.line, {});
    const tunnel::Axis axis(pipe.line, 0);
    double worst = 0;
    for (std::uint64_t i = 0; i < pipe.cloud->size(); ++i) {
        const Vec3 w = pipe.cloud->position(i);
        const auto d = lining.depth(w);
        if (!d) continue;  // within rounding of an end
        worst = std::max(worst, std::fabs(*d - (2 - axis.place(w).radius)));
    }
    CHECK(worst < 0.03);
    CHECK(lining.holes().empty());
    const mesh::TriMesh m = lining.mesh(true, true);
    CHECK(mesh::open_edges(m) == 0);
    CHECK(mesh::signed_volume(m) == Approx(kPi * 4 * axis.length()).epsilon(0.004));
    double by_interval = 0;
    for (const auto& i : lining.volumes(3)) by_interval += i.volume;
    CHECK(by_interval ==
          Approx(mesh::signed_volume(m)).epsilon(1e-9));  // a report and the mesh of one run agree
    // Open ends have two rims.
    CHECK(mesh::open_edges(lining.mesh(true, false)) == 4 * lining.columns());
}

TEST_CASE("OpeningsOfATunnelAreListed") {
    const Pipe pipe({{0, 0, 0}, {0, 20, 0}}, true);
    const tunnel::Lining lining(*pipe.cloud, ElementSet::all(pipe.cloud->size()), pipe.line, {});
    const auto holes = lining.holes();
    REQUIRE(holes.size() == 1);
    // Closed over or not, one by one.
    CHECK(mesh::open_edges(lining.mesh(std::vector<char>{1}, true)) == 0);
    CHECK(mesh::open_edges(lining.mesh(std::vector<char>{0}, true)) > 8);
    CHECK(holes[0].chainage == Approx(8).margin(0.3));
    CHECK(holes[0].angle_deg == Approx(180 / kPi).margin(8));
    CHECK(holes[0].area == Approx(2.4 * 1.2 * 2).epsilon(0.35));
    CHECK_FALSE(lining.depth(demo::kSiteOrigin + Vec3{2 * std::sin(1.0), 8, 2 * std::cos(1.0)}));
    CHECK(mesh::open_edges(lining.mesh(false, true)) > 0);
    CHECK(mesh::open_edges(lining.mesh(true, true)) == 0);
}

TEST_CASE("WhatIsInsideATunnelIsToldFromItsLining") {
    std::vector<Truth> truth;
    const auto cloud = demo::cloud_of(demo::make_tunnel(5, 0.3), truth);
    const ElementSet all = ElementSet::all(cloud->size());
    const std::vector<Vec3> line{demo::kSiteOrigin, demo::kSiteOrigin + Vec3{0, demo::kTunnelLength, 0}};
    const score::Score& lining = score::find("lining");
    const score::Column depth = score::compute(lining, {*cloud, all, nullptr, nullptr, &line}, {});
    const ElementSet inside = score::within(depth, all, score::parse_limits(">0.05"));
    double of[6] = {}, taken[6] = {};
    for (std::size_t i = 0; i < truth.size(); ++i) {
        of[static_cast<int>(truth[i])] += 1;
        taken[static_cast<int>(truth[i])] += inside.contains(i) ? 1 : 0;
    }
    CHECK(taken[static_cast<int>(Truth::Object)] > 0.99 * of[static_cast<int>(Truth::Object)]);
    CHECK(taken[static_cast<int>(Truth::Ground)] < 0.005 * of[static_cast<int>(Truth::Ground)]);
    const double volume = mesh::signed_volume(tunnel::Lining(*cloud, all, line, {}).mesh(true, true));
    CHECK(volume == Approx(demo::tunnel_volume()).epsilon(0.005));
    // A line that was drawn too low is raised.
    std::vector<Vec3> low = line;
    for (Vec3& p : low) p.z -= 1;
    const score::Column lifted = score::compute(lining, {*cloud, all, nullptr, nullptr, &low}, {{"lift", 1}});
    CHECK(score::within(lifted, all, score::parse_limits(">0.05")) == inside);
    CHECK_THROWS_AS(score::compute(lining, {*cloud, all}, {}), Error);
    const std::vector<Vec3> elsewhere{{0, 0, 0}, {10, 0, 0}};
    CHECK_THROWS_AS(score::compute(lining, {*cloud, all, nullptr, nullptr, &elsewhere}, {}), Error);
}

TEST_CASE("WhatIsInsideEqualsTheSlowWayAndTheMapHoldsTheDeepestOfEachCell") {
    const Pipe pipe({{0, 0, 0}, {0, 20, 1}}, true);
    const ElementSet all = ElementSet::all(pipe.cloud->size());
    const tunnel::Lining lining(*pipe.cloud, all, pipe.line, {});
    const tunnel::Inside found = tunnel::inside(*pipe.cloud, all, lining, 0.1);
    std::vector<float> deepest(lining.rows() * lining.columns(), NAN);
    std::size_t wrong = 0, inside = 0;
    for (std::uint64_t i = 0; i < pipe.cloud->size(); ++i) {
        const Vec3 w = pipe.cloud->position(i);
        const auto d = lining.depth(w);
        wrong += found.points.contains(i) != (d && *d > 0.1);
        inside += d && *d > 0.1;
        if (!d) continue;
        float& most = deepest[*lining.cell_at(lining.axis().place(w))];
        if (!(static_cast<float>(*d) <= most)) most = static_cast<float>(*d);
    }
    CHECK(wrong == 0);
    CHECK(inside > 1000);
    std::size_t different = 0;
    for (std::size_t k = 0; k < deepest.size(); ++k)
        different +=
            !(deepest[k] == found.deepest[k] || (std::isnan(deepest[k]) && std::isnan(found.deepest[k])));
    CHECK(different == 0);
}

namespace {

// A tunnel with straight walls, a round crown and a flat floor: its corners are what a section by angle
// blurs. Sizes are drawn from the seed.
struct Horseshoe {
    std::vector<Vec3> line;
    std::shared_ptr<const cloud::PointCloud> cloud;
    std::vector<Truth> truth;
    double half, wall, length = 20;
    explicit Horseshoe(std::uint64_t seed) {
        std::mt19937_64 dice(seed);
        std::uniform_real_distribution<double> u(0, 1);
        std::normal_distribution<double> noise(0, 0.004);
        half = 1.2 + 1.8 * u(dice);
        wall = 0.6 + 1.5 * u(dice);
        const double round = kPi * half, all = 2 * half + 2 * wall + round;
        demo::Trial trial{"horseshoe", {}, {}};
        const auto add = [&](double x, double z, Truth t) {
            trial.points.push_back({{x + noise(dice), length * u(dice), z + noise(dice)}, {}, 0, t});
        };
        for (int i = 0; i < 200'000; ++i) {
            const double at = all * u(dice);
            if (at < 2 * half)
                add(at - half, 0, Truth::Ground);
            else if (at < 2 * half + 2 * wall)
                add(at < 2 * half + wall ? half : -half, (at - 2 * half) - (at < 2 * half + wall ? 0 : wall),
                    Truth::Ground);
            else {
                const double a = (at - 2 * half - 2 * wall) / half;
                add(half * std::cos(a), wall + half * std::sin(a), Truth::Ground);
            }
        }
        // A pipe along a corner of the floor, a duct on the wall, and people.
        for (int i = 0; i < 8'000; ++i) {
            const double a = 2 * kPi * u(dice);
            add(-half + 0.35 + 0.1 * std::cos(a), 0.25 + 0.1 * std::sin(a), Truth::Object);
            add(half - 0.1 - 0.1 * u(dice), wall + 0.1 * u(dice), Truth::Object);
        }
        for (int p = 0; p < 3; ++p) {
            const double x = (u(dice) - 0.5) * half, y = 3 + 14 * u(dice);
            for (int i = 0; i < 3'000; ++i) {
                const double a = 2 * kPi * u(dice);
                trial.points.push_back({{x + 0.2 * std::cos(a), y + 0.2 * std::sin(a), 0.06 + 1.6 * u(dice)},
                                        {},
                                        0,
                                        Truth::Object});
            }
        }
        cloud = demo::cloud_of(trial, truth);
        const double height = 0.5 * (wall + half);
        line = {demo::kSiteOrigin + Vec3{0, 0, height}, demo::kSiteOrigin + Vec3{0, length, height}};
    }
};

}  // namespace

// Corners are two planes: neither may lose its lining because the other passes through it.
TEST_CASE("AFlatFloorStaysWithTheLiningUpToItsCorners") {
    std::random_device fresh;
    for (int k = 0; k < 4; ++k) {
        const std::uint64_t seed = fresh();
        CAPTURE(seed);
        const Horseshoe h(seed);
        const ElementSet all = ElementSet::all(h.cloud->size());
        const score::Column depth =
            score::compute(score::find("lining"), {*h.cloud, all, nullptr, nullptr, &h.line}, {});
        const ElementSet inside = score::within(depth, all, score::parse_limits(">0.05"));
        double of[6] = {}, taken[6] = {};
        for (std::size_t i = 0; i < h.truth.size(); ++i) {
            const bool in = inside.contains(i);
            of[static_cast<int>(h.truth[i])] += 1;
            taken[static_cast<int>(h.truth[i])] += in;
        }
        const double volume = mesh::signed_volume(tunnel::Lining(*h.cloud, all, h.line, {}).mesh(true, true));
        const double truth = h.length * (2 * h.half * h.wall + 0.5 * kPi * h.half * h.half);
        std::printf("  seed %lu: half %.2f, wall %.2f; lost %.2f %%, found %.2f %%, volume %+.3f %%\n", seed,
                    h.half, h.wall, 100 * taken[1] / of[1], 100 * taken[2] / of[2],
                    100 * (volume / truth - 1));
        CHECK(taken[static_cast<int>(Truth::Ground)] < 0.005 * of[static_cast<int>(Truth::Ground)]);
        CHECK(taken[static_cast<int>(Truth::Object)] > 0.98 * of[static_cast<int>(Truth::Object)]);
        CHECK(volume == Approx(truth).epsilon(0.005));
    }
}

// A niche where nothing was measured, with a pipe before it: the opening is listed whole, and the pipe is
// content.
TEST_CASE("ANicheThatAPipeCrossesIsAnOpening") {
    std::mt19937_64 dice(std::random_device{}());
    std::uniform_real_distribution<double> u(0, 1);
    const double middle = 6 + 8 * u(dice), at = -1 + 2 * u(dice), width = 1.1 + 0.6 * u(dice);
    CAPTURE(middle, at, width);
    demo::Trial trial{"niche", {}, {}};
    const tunnel::Axis axis({{0, 0, 0}, {0, 20, 0}}, 0);
    for (int i = 0; i < 60'000; ++i) {
        const double s = 20 * u(dice), a = kPi * (2 * u(dice) - 1);
        if (std::fabs(s - middle) < 0.9 && std::fabs(a - at) * 2 < width / 2) continue;
        trial.points.push_back({axis.world(s, a, 2), {}, 0, Truth::Ground});
    }
    for (int i = 0; i < 12'000; ++i)  // along the tunnel, 0.1 m thick, 0.15 m before the lining
        trial.points.push_back({axis.world(20 * u(dice), at + 0.05 * (u(dice) - 0.5), 1.75 + 0.1 * u(dice)),
                                {},
                                0,
                                Truth::Object});
    std::vector<Truth> truth;
    const auto cloud = demo::cloud_of(trial, truth);
    const std::vector<Vec3> line{demo::kSiteOrigin, demo::kSiteOrigin + Vec3{0, 20, 0}};
    const ElementSet all = ElementSet::all(cloud->size());
    const tunnel::Lining lining(*cloud, all, line, {});
    const auto holes = lining.holes();
    REQUIRE(holes.size() == 1);
    CHECK(holes[0].chainage == Approx(middle).margin(0.2));
    CHECK(holes[0].area == Approx(1.8 * width).epsilon(0.35));
    const tunnel::Inside found = tunnel::inside(*cloud, all, lining, 0.05);
    double of[6] = {}, taken[6] = {};
    for (std::size_t i = 0; i < truth.size(); ++i) {
        of[static_cast<int>(truth[i])] += 1;
        taken[static_cast<int>(truth[i])] += found.points.contains(i);
    }
    CHECK(taken[2] > 0.98 * of[2]);
    CHECK(taken[1] < 0.005 * of[1]);
}

// Notches of a row and of a ring, by what they are made for.
TEST_CASE("NotchesAreClosedNoFartherThanAStraightLine") {
    constexpr float kNone = NAN;
    const auto close = [](std::vector<float> v, double delta) { return tunnel::closed_notches(v, 2, delta); };
    // A row: a pipe of two cells goes, a gap of four is closed, one of five stays open in its middle.
    CHECK(close({2, 2, 1, 1, 2, 2, 2}, 0) == std::vector<float>{2, 2, 2, 2, 2, 2, 2});
    CHECK(close({2, 2, kNone, kNone, kNone, kNone, 2, 2}, 0) == std::vector<float>(8, 2));
    CHECK(std::isnan(close({2, 2, kNone, kNone, kNone, kNone, kNone, 2, 2}, 0)[4]));
    // A slope is no notch.
    const std::vector<float> slope{1, 1.25F, 1.5F, 1.75F, 2, 2.25F, 2.5F};
    CHECK(close(slope, 0) == slope);
    // The floor of a square, seen from its middle, is nearest in the middle: no notch either.
    std::vector<float> square;
    constexpr std::size_t kCells = 64;
    const double delta = 2 * kPi / static_cast<double>(kCells);
    for (std::size_t i = 0; i < kCells; ++i) {
        const double a = (static_cast<double>(i) + 0.5) * delta;
        square.push_back(static_cast<float>(1 / std::max(std::fabs(std::cos(a)), std::fabs(std::sin(a)))));
    }
    const std::vector<float> closed = close(square, delta);
    for (std::size_t i = 0; i < kCells; ++i) CHECK(closed[i] == Approx(square[i]).epsilon(1e-5));
    // Strips between gaps, over the seam of a ring too, but not at the ends of a row.
    CHECK(tunnel::strips_between_gaps({1, kNone, 1, 1, kNone, 1}, 2, false) ==
          std::vector<char>{0, 0, 1, 1, 0, 0});
    CHECK(tunnel::strips_between_gaps({1, kNone, 2, 2, 2, 2, kNone, 1}, 2, true) ==
          std::vector<char>{1, 0, 0, 0, 0, 0, 0, 1});
    CHECK(tunnel::lines_over({1, kNone, 0.5F, kNone, 3}, {0, 0, 1, 0, 0}, 0)[2] == Approx(2));
}
