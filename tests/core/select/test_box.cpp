// Boxes that are turned in all three ways.

#include <catch2/catch.hpp>

#include <cmath>
#include <random>

#include "core/select/solid.h"
#include "core/site/site.h"
#include "core/store/project.h"
#include "support/cloud_makers.h"

using namespace pristine;

namespace {

bool is_inside(const select::Box& b, Vec3 p) {
    const auto a = select::axes(b);
    for (int k = 0; k < 3; ++k)
        if (std::fabs(dot(p - b.centre, a[static_cast<std::size_t>(k)])) > b.half[k]) return false;
    return true;
}

}  // namespace

TEST_CASE("ABoxTurnsAboutItsOwnAxes") {
    const auto seed = test::seed_for("boxes turned");
    CAPTURE(seed);
    std::mt19937_64 dice(seed);
    std::uniform_real_distribution<double> any(-180, 180);
    for (int trial = 0; trial < 300; ++trial) {
        const select::Box b{{1, 2, 3}, {2, 1, 0.5}, any(dice), any(dice) / 2, any(dice)};
        const auto a = select::axes(b);
        for (int i = 0; i < 3; ++i)
            for (int j = 0; j < 3; ++j)
                REQUIRE(dot(a[static_cast<std::size_t>(i)], a[static_cast<std::size_t>(j)]) ==
                        Approx(i == j ? 1 : 0).margin(1e-12));
        REQUIRE(norm(cross(a[0], a[1]) - a[2]) < 1e-12);  // right-handed
        const int k = static_cast<int>(dice() % 3);
        const double by = any(dice);
        const select::Box t = select::turned(b, k, by);
        const auto c = select::axes(t);
        // The axis that it turns about stays; the next goes by the angle towards the one after.
        const auto axis = [&](const auto& of, int i) { return of[static_cast<std::size_t>(i % 3)]; };
        REQUIRE(norm(axis(c, k) - axis(a, k)) < 1e-9);
        const double rad = by * M_PI / 180;
        const Vec3 want = axis(a, k + 1) * std::cos(rad) + axis(a, k + 2) * std::sin(rad);
        REQUIRE(norm(axis(c, k + 1) - want) < 1e-9);
        CHECK(t.half.x == b.half.x);
    }
    // Straight up there is no yaw; it turns all the same.
    const select::Box up = select::turned({{}, {1, 1, 1}, 30, 0, 0}, 1, -90);
    CHECK(select::axes(up)[0].z == Approx(1));
    CHECK(norm(select::axes(select::turned(up, 2, 90))[1] + select::axes(up)[0]) < 1e-9);
}

TEST_CASE("WhatLiesInATurnedBoxEqualsTheSlowWay") {
    const auto seed = test::seed_for("inside turned boxes");
    CAPTURE(seed);
    std::mt19937_64 dice(seed);
    const auto c = test::random_cloud(60'000, test::Shape::Clusters, dice());
    std::uniform_real_distribution<double> any(-180, 180);
    const Box3 all = c->robust_bounds();
    for (int trial = 0; trial < 6; ++trial) {
        const select::Box b{all.centre(), (all.hi - all.lo) * 0.3, any(dice), any(dice) / 2, any(dice)};
        const ElementSet in = select::inside(*c, select::half_spaces(b), ElementSet::all(c->size()));
        std::uint64_t differ = 0;
        for (std::uint64_t e = 0; e < c->size(); ++e)
            differ += in.contains(e) != is_inside(b, c->position(e));
        CHECK(differ <= 2);  // on a face
    }
}

TEST_CASE("ABoxLiesAgainstAWall") {
    const select::Box b{{0, 0, 0}, {4, 2, 1}, 10, 0, 0};
    // A wall 3 m north that runs by 20 degrees and leans a little: the box stays upright.
    const Vec3 n = normalized({-std::sin(20 * M_PI / 180), std::cos(20 * M_PI / 180), 0.03});
    const select::Box w = select::against(b, {{0, 3, 0}, n, 0.01});
    CHECK(w.yaw_deg == Approx(20));
    CHECK(w.pitch_deg == Approx(0).margin(1e-9));
    CHECK(w.roll_deg == Approx(0).margin(1e-9));
    CHECK(w.half.x == 4);
    // One face on the wall; the opposite one as far from the middle that was as before.
    const Vec3 out = select::axes(w)[1];
    CHECK(dot(w.centre + out * w.half.y - Vec3{0, 3, 0}, out) == Approx(0).margin(1e-9));
    CHECK(dot(w.centre - out * w.half.y, out) == Approx(-2));
    // A slope of 30 degrees: the floor of the box lies on it.
    const Vec3 slope = normalized({0.5, 0, std::cos(M_PI / 6)});
    const select::Box s = select::against(b, {{0, 0, -3}, slope, 0.01});
    CHECK(std::fabs(dot(select::axes(s)[2], slope)) == Approx(1));
    CHECK(dot(s.centre - select::axes(s)[2] * s.half.z - Vec3{0, 0, -3}, slope) == Approx(0).margin(1e-9));
}

TEST_CASE("AnOpenClipBoxLetsToolsReachBeyondIt") {
    const auto cloud = test::random_cloud(20'000, test::Shape::Clusters, test::seed_for("open clip"));
    site::SitePtr s = site::add_cloud(site::Site{}, cloud, "Basin", "basin.las");
    const Box3 all = cloud->robust_bounds();
    s = site::use_clip(*s, {0, "Half", {all.centre(), (all.hi - all.lo) * 0.2, 15, 5, -3}});
    const std::uint64_t shown = s->items[0]->shown();
    REQUIRE(shown < cloud->size());
    CHECK(site::eligible(*s->items[0]).count() == shown);
    const site::SitePtr open = site::open_clip(*s, true);
    CHECK(open->items[0]->shown() == shown);  // it hides as before
    CHECK(site::eligible(*open->items[0]).count() == cloud->size());
    // What was taken outside is let go when the box closes.
    const site::SitePtr taken = site::select(*open, ElementSet::all(cloud->size()), site::Combine::New);
    CHECK(taken->selected() == cloud->size());
    CHECK(site::open_clip(*taken, false)->selected() == shown);
    // An item that comes later obeys too, and the project keeps all of it.
    const site::SitePtr more = site::add_cloud(*open, cloud, "Basin 2", "basin.las");
    CHECK(site::eligible(*more->items[1]).count() == cloud->size());
    const test::TemporaryFolder f;
    site::History h(std::make_shared<const site::Site>());
    h.commit(more, "Open");
    {
        const auto project = store::Project::create(f / "a.pristine");
        for (const site::Commit& c : h.commits()) project->write(c);
    }
    const auto project = store::Project::open(f / "a.pristine");
    const site::History read = project->load();
    REQUIRE(read.now()->clip_in_force());
    CHECK(read.now()->clip_in_force()->open);
    CHECK(read.now()->clip_in_force()->box.pitch_deg == 5);
    CHECK(read.now()->clip_in_force()->box.roll_deg == -3);
    CHECK(site::eligible(*read.now()->items[1]).count() == cloud->size());
    CHECK(read.now()->items[1]->shown() == shown);
    CHECK_THROWS(site::open_clip(*site::clear_clip(*open), true));
    CHECK(site::eligible(*site::clear_clip(*open)->items[0]).count() == cloud->size());
}
