// Closed solids round whatever there is.

#include <catch2/catch.hpp>

#include <algorithm>
#include <cmath>
#include <cstdio>
#include <numbers>
#include <random>

#include "core/base/error.h"
#include "core/repair/check.h"
#include "core/repair/crossings.h"
#include "core/repair/deviation.h"
#include "core/repair/wrap.h"
#include "demo/solids.h"
#include "support/mesh_makers.h"

using namespace pristine;
using namespace pristine::repair;
using namespace pristine::test;

TEST_CASE("WrapsAreClosedManifoldAndNearWhateverTheyAreRound", "[repair][property]") {
    std::mt19937_64 dice(5);
    std::uniform_real_distribution<double> u(-1, 1);
    mesh::TriMesh soup;  // triangles anywhere, crossing each other
    for (std::uint32_t t = 0; t < 60; ++t) {
        const Vec3 at = kSite + Vec3{u(dice), u(dice), u(dice)};
        for (int k = 0; k < 3; ++k) soup.vertices.push_back(at + Vec3{u(dice), u(dice), u(dice)} * 0.4);
        soup.triangles.push_back({3 * t, 3 * t + 1, 3 * t + 2});
    }
    const mesh::TriMesh sheet = bitten(demo::block(8, {0, 0, 0}, {1, 1, 0.001}), {0.5, 0.5, -1}, 1.02);
    const mesh::TriMesh crumbs = bitten(demo::block(8, {0, 0, 0}, {1, 1, 0.001}), {0.5, 0.5, -1}, 1.2);
    const mesh::TriMesh all[] = {crumbs,
                                 demo::ball(20, 1, kSite),
                                 bitten(demo::ball(20, 1, kSite), kSite + Vec3{0, 0, 1}, 0.5),
                                 demo::ring(60, 1, 0.3),
                                 soup,
                                 sheet};
    for (const mesh::TriMesh& m : all)
        for (const double detail : {0.2, 0.09}) {
            const Wrapped w = wrap(m, {detail, 0});
            const Check c = check(w.mesh);
            CHECK(c.closed);
            CHECK(c.count(Fault::NonManifoldVertex) == 0);
            CHECK(c.count(Fault::SelfIntersection) == 0);
            CHECK(mesh::signed_volume(w.mesh) > 0);
            // Crevices between triangles anywhere are closed over, which is twice the detail at most.
            CHECK(w.deviation.p95 <= (&m == &all[4] ? 2 * detail : detail));
        }
    // A hole narrower than the gap is closed over: the ball is full. A wider one lets the outside in.
    const mesh::TriMesh cup = bitten(demo::ball(40, 1), {0, 0, 1}, 0.3);
    CHECK(mesh::signed_volume(wrap(cup, {0.08, 0.8}).mesh) == Approx(4.18).epsilon(0.05));
    CHECK(mesh::signed_volume(wrap(cup, {0.08, 0.25}).mesh) < 1.5);
    CHECK_THROWS_AS(wrap(cup, {0, 0}), Error);
    CHECK_THROWS_AS(wrap(cup, {1e-5, 0}), Error);
    CHECK_THROWS_AS(wrap({}, {1, 0}), Error);
}

TEST_CASE("TheFlatFacesOfAWrapLieOnTheMesh", "[repair][property]") {
    // Boxes of any sides: but for their edges, which the skin rounds off, the wrap is the box. What lies
    // outside all over is a volume that nobody measured.
    const auto seed = std::random_device{}();
    CAPTURE(seed);
    std::mt19937_64 dice(seed);
    std::uniform_real_distribution<double> side(0.6, 2);
    for (int round = 0; round < 4; ++round) {
        const Vec3 size{side(dice), side(dice), side(dice)};
        const mesh::TriMesh box = demo::block(8, kSite, kSite + size);
        constexpr double kDetail = 0.04;
        const Wrapped w = wrap(box, {kDetail, 0});
        std::vector<double> off = distances(w.mesh, box, Progress::none());
        std::nth_element(off.begin(), off.begin() + static_cast<std::ptrdiff_t>(off.size() / 2), off.end());
        CHECK(off[off.size() / 2] < 0.01 * kDetail);
        CHECK(check(w.mesh).sound());
    }
}

// Of blocks and of bodies with concave edges, turned any way: what a lattice cuts is full of slivers, and
// they are closed up.
TEST_CASE("AWrapHasHardlyAnyTinyEdges", "[repair][property]") {
    const auto seed = std::random_device{}();
    CAPTURE(seed);
    std::mt19937_64 dice(seed);
    std::uniform_real_distribution<double> side(0.6, 2), turn(0, 2 * std::numbers::pi);
    for (int round = 0; round < 6; ++round) {
        // Two blocks that meet in an L; every other time upright, where whole rows of slivers arise.
        mesh::TriMesh m = demo::block(4, {0, 0, 0}, {side(dice), 1, 0.5});
        const mesh::TriMesh foot = demo::block(4, {0, 0, 0}, {0.5, 1, side(dice)});
        const auto n = static_cast<std::uint32_t>(m.vertices.size());
        m.vertices.insert(m.vertices.end(), foot.vertices.begin(), foot.vertices.end());
        for (const auto& t : foot.triangles) m.triangles.push_back({t[0] + n, t[1] + n, t[2] + n});
        const double a = round % 2 == 0 ? 0 : turn(dice), b = round % 2 == 0 ? 0 : turn(dice);
        for (Vec3& p : m.vertices) {
            p = {p.x * std::cos(a) - p.y * std::sin(a), p.x * std::sin(a) + p.y * std::cos(a), p.z};
            p = kSite +
                Vec3{p.x * std::cos(b) - p.z * std::sin(b), p.y, p.x * std::sin(b) + p.z * std::cos(b)};
        }
        constexpr double kDetail = 0.04;
        const Wrapped w = wrap(m, {kDetail, 0});
        CheckOptions options;
        options.tiny_edge = 0.1 * kDetail;
        const Check c = check(w.mesh, options);
        std::printf("  seed %u, round %d: %zu edges under a tenth of the detail of %zu\n", seed, round,
                    static_cast<std::size_t>(c.count(Fault::TinyEdge)), w.mesh.triangles.size() * 3 / 2);
        CHECK(static_cast<double>(c.count(Fault::TinyEdge)) <
              0.01 * static_cast<double>(w.mesh.triangles.size() * 3 / 2));
        CHECK(c.closed);
        CHECK(c.count(Fault::SelfIntersection) == 0);
        CHECK(c.count(Fault::Degenerate) == 0);
        CHECK(w.deviation.p95 < 0.1 * kDetail);
    }
}

TEST_CASE("AWrapOfSheetsAnywhereHasNoCrossings", "[repair][property]") {
    const auto seed = std::random_device{}();
    CAPTURE(seed);
    std::mt19937_64 dice(seed);
    std::uniform_real_distribution<double> u(-1, 1);
    for (int round = 0; round < 5; ++round) {
        mesh::TriMesh sheets;  // without any thickness: the skin comes from both sides
        for (std::uint32_t t = 0; t < 12; ++t) {
            const Vec3 at = kSite + Vec3{u(dice), u(dice), u(dice)};
            for (int k = 0; k < 3; ++k) sheets.vertices.push_back(at + Vec3{u(dice), u(dice), u(dice)});
            sheets.triangles.push_back({3 * t, 3 * t + 1, 3 * t + 2});
        }
        const Check c = check(wrap(sheets, {0.1, 0}).mesh);
        CHECK(c.closed);
        CHECK(c.count(Fault::NonManifoldVertex) == 0);
        CHECK(c.count(Fault::SelfIntersection) == 0);
    }
}
