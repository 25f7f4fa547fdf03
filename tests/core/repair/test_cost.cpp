// What faults cost, on bodies whose measures are known.

#include <catch2/catch.hpp>

#include <cmath>
#include <numbers>
#include <random>

#include "core/repair/cost.h"
#include "core/repair/steps.h"
#include "demo/solids.h"
#include "support/cloud_makers.h"
#include "support/mesh_makers.h"

using namespace pristine;
using namespace pristine::repair;
using test::kSite;

namespace {

const Cost& cost(const std::array<Cost, kFaults>& all, Fault f) {
    return all[static_cast<std::size_t>(f)];
}

}  // namespace

TEST_CASE("WhatFaultsCostIsMeasured", "[repair]") {
    // A block of 4 by 4 by 4 with a small one in it, one beside it, and its lid of 2 by 2 cells gone.
    mesh::TriMesh m = demo::block(4, kSite, kSite + Vec3{4, 4, 4});
    test::add(m, demo::block(1, kSite + Vec3{1, 1, 1}, kSite + Vec3{1.5, 1.5, 1.5}));
    test::add(m, demo::block(1, kSite + Vec3{9, 0, 0}, kSite + Vec3{9.2, 0.2, 0.2}));
    std::vector<char> gone(m.triangles.size(), 0);
    for (std::size_t t = 0; t < gone.size(); ++t) {
        const auto& c = m.triangles[t];
        const Vec3 p = (m.vertices[c[0]] + m.vertices[c[1]] + m.vertices[c[2]]) * (1 / 3.0) - kSite;
        gone[t] = p.z > 3.99 && p.x > 1 && p.x < 3 && p.y > 1 && p.y < 3;
    }
    m = without(m, gone);
    m.triangles.push_back(m.triangles[0]);
    CheckOptions options;
    options.small_piece = 13;
    const Check c = check(m, options);
    REQUIRE(c.count(Fault::Hole) == 1);
    REQUIRE(c.count(Fault::InnerShell) == 1);
    REQUIRE(c.count(Fault::SmallPiece) == 2);
    REQUIRE(c.count(Fault::DuplicateFace) == 1);
    const auto costs = costs_of(m, c);
    CHECK(cost(costs, Fault::Hole).length == Approx(8));
    CHECK(cost(costs, Fault::Hole).area == Approx(4));
    CHECK(cost(costs, Fault::InnerShell).volume == Approx(0.125));
    CHECK(cost(costs, Fault::InnerShell).area == Approx(1.5));
    CHECK(cost(costs, Fault::SmallPiece).volume == Approx(0.125 + 0.008));
    CHECK(cost(costs, Fault::DuplicateFace).area == Approx(0.5));
    CHECK(cost(costs, Fault::TinyEdge).length == 0);
    // Two blocks through each other: the stretch where they meet is a square of 1 by 1, with its corners.
    mesh::TriMesh two = demo::block(1, kSite, kSite + Vec3{4, 4, 4});
    test::add(two, demo::block(1, kSite + Vec3{1.3, 1.4, 3}, kSite + Vec3{2.3, 2.4, 6}));
    const Check crossed = check(two);
    REQUIRE(crossed.count(Fault::SelfIntersection) > 0);
    CHECK(cost(costs_of(two, crossed), Fault::SelfIntersection).length == Approx(4));
}

TEST_CASE("AreaAcrossARimIsThatOfItsShadow", "[repair]") {
    std::mt19937_64 dice(test::seed_for("AreaAcross"));
    std::uniform_real_distribution<double> u(-1, 1);
    for (int round = 0; round < 50; ++round) {
        // A ring of any heights over a circle: its shadow along the axis is that of the flat ring.
        mesh::TriMesh m;
        std::vector<std::uint32_t> rim;
        const std::uint32_t n = 24;
        for (std::uint32_t k = 0; k < n; ++k) {
            const double a = 2 * std::numbers::pi * k / n, z = 0.2 * std::cos(2 * a);
            m.vertices.push_back(kSite + Vec3{std::cos(a), std::sin(a), z});
            rim.push_back(k);
        }
        const double flat = 0.5 * n * std::sin(2 * std::numbers::pi / n);
        CHECK(area_across(m, rim) == Approx(flat));
        // The place where it begins, and the direction, do not matter.
        std::rotate(rim.begin(), rim.begin() + static_cast<std::ptrdiff_t>(dice() % n), rim.end());
        std::reverse(rim.begin(), rim.end());
        CHECK(area_across(m, rim) == Approx(flat));
        // No surface over it is smaller: that of a fan from any place.
        const Vec3 tip = kSite + Vec3{u(dice), u(dice), u(dice)};
        double fan = 0;
        for (std::uint32_t k = 0; k < n; ++k)
            fan += 0.5 * norm(cross(m.vertices[rim[k]] - tip, m.vertices[rim[(k + 1) % n]] - tip));
        CHECK(fan >= area_across(m, rim) * (1 - 1e-12));
    }
}

// The law of the groups: closed is what has no fault that keeps it open.
TEST_CASE("WhatKeepsAMeshOpenIsWhatClosedMeans", "[repair]") {
    std::mt19937_64 dice(test::seed_for("KeepsOpen"));
    int closed = 0, open = 0;
    for (int round = 0; round < 60; ++round) {
        mesh::TriMesh m = demo::ball(12, 1, kSite);
        if (round % 4 == 1) m = test::bitten(m, m.vertices[dice() % m.vertices.size()], 0.3);
        if (round % 4 == 2) m.triangles.push_back(m.triangles[dice() % m.triangles.size()]);
        if (round % 4 == 3) {
            auto& t = m.triangles[dice() % m.triangles.size()];
            std::swap(t[0], t[1]);
        }
        if (dice() % 2 == 0) test::add(m, demo::block(1, kSite, kSite + Vec3{0.1, 0.1, 0.1}));
        const Check c = check(m);
        if (!c.outer.empty()) continue;
        bool kept_open = false;
        for (std::size_t k = 0; k < kFaults; ++k)
            kept_open |= harm_of(static_cast<Fault>(k)) == Harm::KeepsOpen && !c.findings[k].empty();
        CHECK(kept_open != c.closed);
        ++(c.closed ? closed : open);
    }
    CHECK(closed > 10);
    CHECK(open > 20);
}
