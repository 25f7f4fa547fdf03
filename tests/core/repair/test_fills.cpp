// Holes: their rims, what closes them, and what is no hole.

#include <catch2/catch.hpp>

#include <algorithm>
#include <cmath>
#include <numbers>
#include <random>

#include "core/mesh/winding.h"
#include "core/mesh/winding_tree.h"
#include "core/repair/check.h"
#include "core/repair/inside.h"
#include "core/repair/one.h"
#include "core/repair/repair.h"
#include "core/repair/steps.h"
#include "core/topology/adjacency.h"
#include "demo/milestone.h"
#include "demo/solids.h"
#include "support/cloud_makers.h"
#include "support/mesh_makers.h"

using namespace pristine;
using namespace pristine::repair;
using namespace pristine::test;

TEST_CASE("CurvatureFillsFollowASphereTangentOnesLeaveItAndFlatOnesAreFlat", "[repair]") {
    // The rim is seen from the centre under an angle of 60 degrees, and of 120.
    for (const double half : {30.0, 60.0}) {
        mesh::TriMesh m = demo::ball(24, 2, kSite);
        std::vector<char> gone(m.triangles.size(), 0);
        for (std::size_t t = 0; t < gone.size(); ++t) {
            const auto& c = m.triangles[t];
            const Vec3 d = (m.vertices[c[0]] + m.vertices[c[1]] + m.vertices[c[2]]) * (1 / 3.0) - kSite;
            gone[t] = d.z > norm(d) * std::cos(half * std::numbers::pi / 180);
        }
        m = without(m, gone);
        const auto rims = rims_of(m);
        REQUIRE(rims.size() == 1);
        const auto worst = [&](FillKind k) {
            const Fill f = fill_boundary(m, rims[0], {k, 1, true});
            REQUIRE(f.why_not.empty());
            const Check c = check(with_fill(m, f));
            CHECK(c.sound());
            CHECK(c.genus == 0);
            double off = 0;
            for (const Vec3& v : f.vertices) off = std::max(off, std::fabs(norm(v - kSite) - 2));
            return off;
        };
        const double flat = worst(FillKind::Flat), tangent = worst(FillKind::Tangent),
                     curved = worst(FillKind::Curvature);
        CHECK(curved < 0.01 * 2);
        CHECK(curved < tangent);
        CHECK(tangent < 0.1 * 2);
        CHECK(flat > 0.8 * 2 * (1 - std::cos(half * std::numbers::pi / 180)));
    }
    // In a plane all of them are the plane, and the area is that of the hole.
    const mesh::TriMesh slab = demo::block(20, {0, 0, 0}, {1, 1, 0.5});
    const mesh::TriMesh open = bitten(slab, {0.5, 0.5, 0.5}, 0.2);
    for (const FillKind k : {FillKind::Flat, FillKind::Tangent, FillKind::Curvature}) {
        const Fill f = fill_boundary(open, rims_of(open)[0], {k, 1, true});
        for (const Vec3& v : f.vertices) CHECK(v.z == Approx(0.5).margin(1e-9));
        CHECK(mesh::signed_volume(with_fill(open, f)) == Approx(0.5).epsilon(1e-9));
        // As dense as what surrounds it.
        const auto gone = static_cast<double>(slab.triangles.size() - open.triangles.size());
        CHECK(static_cast<double>(f.triangles.size()) > 0.5 * gone);
        CHECK(static_cast<double>(f.triangles.size()) < 2 * gone);
    }
}

TEST_CASE("RimsThatAreNotFitSayWhyAndWhatHelps", "[repair]") {
    // Two holes that touch in a corner, as one walk round both.
    mesh::TriMesh m;
    for (int y = 0; y <= 6; ++y)
        for (int x = 0; x <= 6; ++x) m.vertices.push_back({double(x), double(y), 0});
    const auto v = [](int x, int y) { return static_cast<std::uint32_t>(7 * y + x); };
    for (int y = 0; y < 6; ++y)
        for (int x = 0; x < 6; ++x) {
            if ((x == 2 && y == 2) || (x == 3 && y == 3)) continue;
            m.triangles.push_back({v(x, y), v(x + 1, y), v(x + 1, y + 1)});
            m.triangles.push_back({v(x, y), v(x + 1, y + 1), v(x, y + 1)});
        }
    const std::vector<std::uint32_t> both{v(3, 3), v(3, 2), v(2, 2), v(2, 3),
                                          v(3, 3), v(3, 4), v(4, 4), v(4, 3)};
    const Fill pinched = fill_boundary(m, {both.rbegin(), both.rend()});
    CHECK_THAT(pinched.why_not, Catch::Contains("pinched"));
    CHECK(pinched.where == Vec3{3, 3, 0});
    CHECK(pinched.triangles.empty());
    const Fill wrong = fill_boundary(m, {v(0, 0), v(1, 1), v(0, 1)});
    CHECK_THAT(wrong.why_not, Catch::Contains("does not belong to one triangle"));
    CHECK_THAT(fill_boundary(m, {v(0, 0), v(1, 0)}).why_not, Catch::Contains("fewer than three"));
}

TEST_CASE("ARimThatJoinsTheOutsideToASheetInsideIsNotAHole", "[repair]") {
    // A ball without its cap; from a quarter of the rim a flap hangs down into it.
    constexpr double kRound = 0.5;
    mesh::TriMesh m = demo::ball(16, 1);
    std::vector<char> gone(m.triangles.size(), 0);
    for (std::size_t t = 0; t < gone.size(); ++t)
        for (const std::uint32_t v : m.triangles[t]) gone[t] |= m.vertices[v].z > std::cos(kRound);
    m = without(m, gone);
    const auto rims = topology::boundary_loops(m.triangles, topology::adjacency(m.triangles));
    REQUIRE(rims.size() == 1);
    const mesh::TriMesh open = m;
    CHECK(!joins_inner_sheet(mesh::WindingTree(open), Incidence(open), rims[0]));
    std::vector<std::uint32_t> upper(rims[0].begin(), rims[0].begin() + 6);
    for (int ring = 0; ring < 8; ++ring) {
        std::vector<std::uint32_t> lower;
        for (const std::uint32_t v : upper) {
            lower.push_back(static_cast<std::uint32_t>(m.vertices.size()));
            m.vertices.push_back(m.vertices[v] * 0.97 - Vec3{0, 0, 0.13});
        }
        for (std::size_t i = 0; i + 1 < upper.size(); ++i) {
            // A rim runs as its triangles do; what hangs on it runs against it.
            m.triangles.push_back({upper[i + 1], upper[i], lower[i]});
            m.triangles.push_back({upper[i + 1], lower[i], lower[i + 1]});
        }
        upper = lower;
    }
    const Check c = check(m);
    REQUIRE(c.count(Fault::Hole) == 1);
    REQUIRE(c.count(Fault::InconsistentEdge) == 0);
    REQUIRE(c.count(Fault::SelfIntersection) == 0);
    const auto where = joins_inner_sheet(mesh::WindingTree(m), Incidence(m), c.of(Fault::Hole)[0].vertices);
    REQUIRE(where);
    CHECK(where->z < 0.4);  // down on the flap
    // Neither repair closes it; both say why, and nothing is taken.
    const Step one = repair_one(m, c.of(Fault::Hole)[0], {});
    REQUIRE(one.unrepaired.size() == 1);
    CHECK(one.unrepaired[0].why == kJoinsInnerSheet);
    const Repaired all = repair::repair(m);
    REQUIRE(all.unrepaired.size() == 1);
    CHECK(all.unrepaired[0].why == kJoinsInnerSheet);
    CHECK(all.mesh.triangles.size() == m.triangles.size());
    // Without the flap it is a hole like others.
    std::vector<char> flap(m.triangles.size(), 0);
    std::fill(flap.begin() + static_cast<std::ptrdiff_t>(open.triangles.size()), flap.end(), 1);
    CHECK(repair::repair(without(m, flap)).after.sound());
}

TEST_CASE("WindingsTakenTogetherAreThoseOfEveryTriangle", "[repair][property]") {
    const std::uint64_t seed = test::seed_for("winding tree");
    CAPTURE(seed);
    std::mt19937_64 dice(seed);
    std::uniform_real_distribution<double> u(-1.6, 1.6);
    const Vec3 at{412'300, 5'218'930, 58};
    mesh::TriMesh m = demo::ring(60, 1, 0.3);
    for (Vec3& v : m.vertices) v = v + at;
    std::vector<char> gone(m.triangles.size(), 0);
    for (std::size_t t = 0; t < 90; ++t) gone[t] = 1;
    const mesh::TriMesh open = without(m, gone);
    for (const mesh::TriMesh* of : std::initializer_list<const mesh::TriMesh*>{&m, &open}) {
        const mesh::WindingTree tree(*of);
        double worst = 0;
        for (int i = 0; i < 1000; ++i) {
            const Vec3 p = at + Vec3{u(dice), u(dice), 0.3 * u(dice)};
            worst = std::max(worst, std::fabs(tree.at(p) - mesh::winding(*of, p)));
        }
        CHECK(worst < 0.02);
        CHECK(worst > 0);  // it does take triangles together
    }
    const mesh::WindingTree tree(m);
    for (std::uint32_t t = 0; t < m.triangles.size(); t += 7)
        CHECK(tree.round(t) == Approx(0.5).margin(0.03));
    CHECK(mesh::WindingTree(mesh::TriMesh{}).at({1, 2, 3}) == 0);
}

TEST_CASE("WhatAPlaneCutIsClosedByThatPlaneWhateverTheFill", "[repair]") {
    mesh::TriMesh m = demo::milestone(30);
    const double volume = mesh::signed_volume(m);
    std::erase_if(m.triangles, [&](const auto& t) {
        return m.vertices[t[0]].z < 1e-9 && m.vertices[t[1]].z < 1e-9 && m.vertices[t[2]].z < 1e-9;
    });
    for (const FillKind k : {FillKind::Flat, FillKind::Tangent, FillKind::Curvature}) {
        const Fill f = fill_boundary(m, rims_of(m)[0], {k, 1, true});
        for (const Vec3& v : f.vertices) CHECK(v.z == Approx(0).margin(1e-12));
        CHECK(mesh::signed_volume(with_fill(m, f)) == Approx(volume).epsilon(1e-9));
    }
}
