// Bodies that pass through each other made one, against closed forms and against counting places.

#include <catch2/catch.hpp>

#include <cmath>
#include <numbers>
#include <random>
#include <set>

#include "core/mesh/winding.h"
#include "core/repair/check.h"
#include "core/repair/repair.h"
#include "core/repair/steps.h"
#include "demo/solids.h"
#include "support/cloud_makers.h"
#include "support/mesh_makers.h"

using namespace pristine;
using namespace pristine::repair;

namespace {

using test::add;

std::set<std::array<double, 9>> corner_places(const mesh::TriMesh& m) {
    std::set<std::array<double, 9>> out;
    for (const auto& t : m.triangles) {
        std::array<double, 9> c{};
        for (std::size_t k = 0; k < 3; ++k)
            for (int a = 0; a < 3; ++a) c[3 * k + static_cast<std::size_t>(a)] = m.vertices[t[k]][a];
        out.insert(c);
    }
    return out;
}

}  // namespace

TEST_CASE("TwoBlocksThatPassThroughEachOtherHaveTheVolumeOfTheirUnion", "[repair]") {
    // Nothing of the one lies in a plane or on an edge of the other.
    mesh::TriMesh m = demo::block(6, {0, 0, 0}, {1, 1, 1});
    add(m, demo::block(5, {0.313, 0.287, 0.571}, {0.717, 0.683, 1.829}));
    const Check before = check(m);
    REQUIRE(before.count(Fault::SelfIntersection) > 20);
    const Step s = self_union(m, Progress::none());
    const Check after = check(s.mesh);
    CHECK(after.sound());
    CHECK(after.components == 1);
    CHECK(after.genus == 0);
    const double inner = 0.404 * 0.396 * (1 - 0.571), second = 0.404 * 0.396 * 1.258;
    CHECK(mesh::signed_volume(s.mesh) == Approx(1 + second - inner).epsilon(1e-12));
    // What was not cut is there to the bit, and counted so.
    const auto was = corner_places(m), now = corner_places(s.mesh);
    std::size_t kept = 0;
    for (const auto& t : now) kept += was.contains(t);
    CHECK(s.made == now.size() - kept);
    CHECK(s.removed == was.size() - kept);
    CHECK(kept > 250);
}

TEST_CASE("ABlockRightThroughABallLeavesOneBody", "[repair]") {
    const Vec3 at{412'300, 5'218'930, 58};
    mesh::TriMesh m = demo::ball(14, 1, at);
    add(m, demo::block(7, {-0.213, -0.307, -1.611}, {0.329, 0.271, 1.733}), at);
    const Step s = self_union(m, Progress::none());
    const Check c = check(s.mesh);
    CHECK(c.sound());
    CHECK(c.components == 1);
    CHECK(c.genus == 0);
    // The block sticks out at both ends: its volume beyond the ball, counted by places.
    std::mt19937_64 dice(5);
    std::uniform_real_distribution<double> u(-1.8, 1.8);
    int inside = 0;
    constexpr int kTries = 4000;
    const mesh::TriMesh ball = demo::ball(14, 1),
                        block = demo::block(7, {-0.213, -0.307, -1.611}, {0.329, 0.271, 1.733});
    mesh::TriMesh moved = s.mesh;
    for (Vec3& v : moved.vertices) v = v - at;
    int differ = 0;
    for (int i = 0; i < kTries; ++i) {
        const Vec3 p{u(dice), u(dice), u(dice)};
        const bool in = mesh::winding(ball, p) > 0.5 || mesh::winding(block, p) > 0.5;
        inside += in;
        differ += in != (mesh::winding(moved, p) > 0.5);
    }
    CHECK(inside > 300);
    CHECK(differ == 0);
}

TEST_CASE("RandomBodiesBecomeTheirUnion", "[repair][property]") {
    const std::uint64_t seed = test::seed_for("unite");
    CAPTURE(seed);
    std::mt19937_64 dice(seed);
    std::uniform_real_distribution<double> u(-0.9, 0.9), size(0.4, 1);
    int done = 0;
    for (int round = 0; round < 12; ++round) {
        std::vector<mesh::TriMesh> bodies;
        mesh::TriMesh m;
        for (int k = 0; k < 3; ++k) {
            const Vec3 at{u(dice), u(dice), u(dice)};
            bodies.push_back(k == 1 ? demo::block(5, at, at + Vec3{size(dice), size(dice), size(dice)})
                                    : demo::ball(9, size(dice), at));
            add(m, bodies.back());
        }
        if (check(m).count(Fault::SelfIntersection) == 0) continue;
        const Step s = self_union(m, Progress::none());
        const Check c = check(s.mesh);
        if (c.count(Fault::SelfIntersection) > 0) {
            // Not in general position: three sheets in one triangle. Then those bodies are as they were.
            continue;
        }
        ++done;
        CHECK(c.closed);
        CHECK(c.count(Fault::NonManifoldEdge) == 0);
        CHECK(c.count(Fault::InconsistentEdge) == 0);
        for (int i = 0; i < 300; ++i) {
            const Vec3 p{2 * u(dice), 2 * u(dice), 2 * u(dice)};
            bool in = false;
            for (const mesh::TriMesh& b : bodies) in |= mesh::winding(b, p) > 0.5;
            CHECK(in == (mesh::winding(s.mesh, p) > 0.5));
        }
    }
    CHECK(done >= 6);
}

TEST_CASE("BodiesThatTouchOrLieInAPlaneAreUnitedAfterANudgeThatNobodySees", "[repair]") {
    // Two equal blocks, half in each other: faces lie in one plane, edges on edges.
    mesh::TriMesh m = demo::block(4, {0, 0, 0}, {1, 1, 1});
    add(m, demo::block(4, {0.5, 0, 0}, {1.5, 1, 1}));
    REQUIRE(check(m).count(Fault::SelfIntersection) > 20);
    const Repaired r = repair::repair(m);
    CHECK(r.after.sound());
    CHECK(r.after.components == 1);
    CHECK(mesh::signed_volume(r.mesh) == Approx(1.5).epsilon(1e-4));
    // A block whose foot stands in the plane of the other's top is not through it: nothing is counted twice.
    mesh::TriMesh touching = demo::block(4, {0, 0, 0}, {1, 1, 1});
    add(touching, demo::block(3, {0.2, 0.2, 0.5}, {0.8, 0.8, 1}));
    const Repaired t = repair::repair(touching);
    CHECK(t.after.sound());
    CHECK(mesh::signed_volume(t.mesh) == Approx(1).epsilon(1e-4));
}

TEST_CASE("ABodyThatRunsIntoItselfIsCutAlongTheCrossing", "[repair]") {
    // A bar bent round by more than a turn: its ends lie in each other, one a little higher.
    mesh::TriMesh m = demo::block(24, {0, -0.2, -0.2}, {1, 0.2, 0.2});
    for (Vec3& v : m.vertices) {
        const double angle = -6.9 * v.x, r = 1 + v.y + 0.06 * v.x;
        v = {r * std::cos(angle), r * std::sin(angle), v.z + 0.083 * v.x};
    }
    const Check before = check(m);
    REQUIRE(before.count(Fault::SelfIntersection) > 20);
    REQUIRE(before.components == 1);
    const Step s = self_union(m, Progress::none());
    const Check after = check(s.mesh);
    CHECK(after.sound());
    CHECK(after.components == 1);
    CHECK(after.genus == 1);  // it closed to a ring
    std::mt19937_64 dice(11);
    std::uniform_real_distribution<double> u(-1.4, 1.4), z(-0.3, 0.4);
    int twice = 0;
    for (int i = 0; i < 3000; ++i) {
        const Vec3 p{u(dice), u(dice), z(dice)};
        const double w = mesh::winding(m, p);
        twice += w > 1.5;
        CHECK((w > 0.5) == (mesh::winding(s.mesh, p) > 0.5));
    }
    CHECK(twice > 20);
}

TEST_CASE("CrumpledBodiesBecomeWhatTheyWindRound", "[repair][property]") {
    const std::uint64_t seed = test::seed_for("crumple");
    CAPTURE(seed);
    std::mt19937_64 dice(seed);
    std::uniform_real_distribution<double> u(-1.5, 1.5), phase(0, 6.28), much(0.5, 0.9);
    int done = 0;
    for (int round = 0; round < 10; ++round) {
        // Folds so deep that places are covered more than once, or inside out.
        mesh::TriMesh m = demo::ball(14, 1);
        const double a = much(dice), p = phase(dice), q = phase(dice);
        for (Vec3& v : m.vertices)
            v = {v.x + a * std::sin(3 * v.x + v.y + p), v.y + 0.3 * std::sin(3 * v.z + q), v.z};
        const Check before = check(m);
        if (before.count(Fault::SelfIntersection) == 0) continue;
        const Step s = self_union(m, Progress::none());
        const Check after = check(s.mesh);
        if (after.count(Fault::SelfIntersection) > 0) continue;  // nothing better was found: it is as it was
        ++done;
        CHECK(after.closed);
        for (int i = 0; i < 300; ++i) {
            const Vec3 at{u(dice), u(dice), u(dice)};
            CHECK((mesh::winding(m, at) > 0.5) == (mesh::winding(s.mesh, at) > 0.5));
        }
    }
    CHECK(done >= 4);
}

TEST_CASE("WhatDoesNotCrossIsLeftAndTheWholeRepairUnitesToo", "[repair]") {
    mesh::TriMesh apart = demo::ball(6, 1);
    add(apart, demo::ball(6, 1), {5, 0, 0});
    CHECK(self_union(apart, Progress::none()).mesh.triangles == apart.triangles);
    // The whole repair makes a body of a cut pair: still the union, not a filled wound.
    mesh::TriMesh pair = demo::block(6, {0, 0, 0}, {1, 1, 1});
    add(pair, demo::block(5, {0.313, 0.287, 0.571}, {0.717, 0.683, 1.829}));
    const Repaired r = repair::repair(pair);
    CHECK(r.after.sound());
    CHECK(mesh::signed_volume(r.mesh) == Approx(1 + 0.404 * 0.396 * 0.829).epsilon(1e-6));
}
