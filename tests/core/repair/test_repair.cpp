// Meshes repaired: what was at fault goes, everything else stays.

#include <catch2/catch.hpp>

#include <algorithm>
#include <cmath>
#include <numbers>
#include <random>
#include <set>

#include "core/base/error.h"
#include "core/io/markers/markers.h"
#include "core/mesh/winding.h"
#include "core/repair/check.h"
#include "core/repair/one.h"
#include "core/repair/patch.h"
#include "core/repair/repair.h"
#include "core/repair/wrap.h"
#include "demo/milestone.h"
#include "demo/solids.h"
#include "support/mesh_makers.h"

using namespace pristine;
using namespace pristine::repair;
using namespace pristine::test;

TEST_CASE("BrokenMeshesBecomeSoundAndWhatWasNotAtFaultStaysToTheBit", "[repair][property]") {
    int faults = 0;
    std::size_t kept = 0;
    for (int seed = 0; seed < 24; ++seed) {
        std::mt19937_64 dice(static_cast<std::uint64_t>(9000 + seed));
        const mesh::TriMesh whole = seed % 3 == 0   ? demo::ball(20, 1, kSite)
                                    : seed % 3 == 1 ? demo::block(12, {0, 0, 0}, {1, 1.2, 0.8})
                                                    : demo::ring(75, 1, 0.3);
        mesh::TriMesh m = whole;
        std::vector<Vec3> where;
        int made = 0;
        for (int k = 0; k < 14 && made < 4; ++k) {
            mesh::TriMesh next = m;
            auto places = where;
            if (!demo::break_mesh(next, static_cast<demo::Break>((seed + 3 * k) % demo::kBreaks), dice,
                                  places))
                continue;
            m = std::move(next);
            where = std::move(places);
            ++made;
        }
        const Repaired r = repair::repair(m);
        for (const auto n : counts(r.before)) faults += n > 0;
        INFO("seed " << seed);
        CHECK(r.after.sound());
        CHECK(r.unrepaired.empty());
        // Euler: V - E + F = 2 (C - g), counted here on its own.
        std::set<std::pair<std::uint32_t, std::uint32_t>> edges;
        for (const auto& t : r.mesh.triangles)
            for (std::size_t k = 0; k < 3; ++k) edges.insert(std::minmax(t[k], t[(k + 1) % 3]));
        CHECK(static_cast<std::int64_t>(r.mesh.vertices.size()) - static_cast<std::int64_t>(edges.size()) +
                  static_cast<std::int64_t>(r.mesh.triangles.size()) ==
              2 * (static_cast<std::int64_t>(r.after.components) - r.after.genus));
        CHECK(mesh::signed_volume(r.mesh) > 0.9 * mesh::signed_volume(whole));
        // Triangles of the sound mesh that are still in the broken one and far from every break are still
        // there.
        const auto before = places(m), now = places(r.mesh);
        const double edge =
            norm(whole.vertices[whole.triangles[0][1]] - whole.vertices[whole.triangles[0][0]]);
        for (const auto& t : whole.triangles) {
            mesh::TriMesh one;
            for (const std::uint32_t v : t) one.vertices.push_back(whole.vertices[v]);
            one.triangles = {{0, 1, 2}};
            bool far = true;
            for (const Vec3& w : where) far &= norm(one.vertices[0] - w) > 9 * edge;
            if (!far || !before.contains(*places(one).begin())) continue;
            ++kept;
            CHECK(now.contains(*places(one).begin()));
        }
    }
    CHECK(faults > 60);
    CHECK(kept > 10000);
}

TEST_CASE("OnlyWhatIsAskedForIsRepairedAndTheRestIsLeft", "[repair]") {
    mesh::TriMesh m = bitten(demo::ball(16, 1), {0, 0, 1}, 0.3);
    m.triangles.push_back(m.triangles[40]);
    RepairOptions o;
    o.only = {Fault::DuplicateFace};
    const Repaired r = repair::repair(m, o);
    CHECK(r.after.count(Fault::DuplicateFace) == 0);
    CHECK(r.after.count(Fault::Hole) == 1);
    CHECK(r.unrepaired.empty());
    CHECK(r.mesh.triangles.size() == m.triangles.size() - 1);
    // A hole above the limit stays open, and is listed with the reason.
    RepairOptions small;
    small.max_hole = 5;
    const Repaired open = repair::repair(m, small);
    REQUIRE(open.unrepaired.size() == 1);
    CHECK_THAT(open.unrepaired[0].why, Catch::Contains("more than the limit of 5"));
    // A band that is twisted once has no two sides.
    mesh::TriMesh band;
    constexpr int n = 30;
    for (int i = 0; i < n; ++i) {
        const double a = 2 * std::numbers::pi * i / n, h = a / 2;
        for (const double w : {-0.3, 0.3})
            band.vertices.push_back(
                {(1 + w * std::cos(h)) * std::cos(a), (1 + w * std::cos(h)) * std::sin(a), w * std::sin(h)});
    }
    for (std::uint32_t i = 0; i < n; ++i) {
        const bool last = i + 1 == n;
        const std::uint32_t a = 2 * i, b = a + 1, c = last ? 1 : a + 2, d = last ? 0 : a + 3;
        band.triangles.push_back({a, c, b});
        band.triangles.push_back({b, c, d});
    }
    RepairOptions turn;
    turn.only = {Fault::InconsistentEdge};
    const Repaired twisted = repair::repair(band, turn);
    REQUIRE(!twisted.unrepaired.empty());
    CHECK_THAT(twisted.unrepaired[0].why, Catch::Contains("only one side"));
}

TEST_CASE("InsideOutMeshesTurnOutwardsAndCavitiesStayInwards", "[repair]") {
    mesh::TriMesh m = demo::ball(10, 2);
    mesh::TriMesh cavity = demo::ball(10, 1);
    for (auto& t : cavity.triangles) std::swap(t[1], t[2]);
    add(m, cavity);
    const double volume = mesh::signed_volume(m);
    CHECK(orient_consistently(m).removed == 0);
    for (auto& t : m.triangles)
        if (t[0] < demo::ball(10, 2).vertices.size()) std::swap(t[1], t[2]);
    const Step s = orient_consistently(m);
    CHECK(mesh::signed_volume(s.mesh) == Approx(volume));
    CHECK(mesh::winding(s.mesh, {1.5, 0.1, 0}) == Approx(1).margin(1e-6));
    CHECK(mesh::winding(s.mesh, {0.3, 0.1, 0}) == Approx(0).margin(1e-6));
}

TEST_CASE("TheMilestoneIsRepairedToItsVolume", "[repair]") {
    mesh::TriMesh scan = demo::milestone_scan();
    const Check raw = check(scan);
    for (const Fault f : {Fault::NonManifoldVertex, Fault::SelfIntersection, Fault::Degenerate,
                          Fault::SmallPiece, Fault::Hole, Fault::InnerShell})
        CHECK(raw.count(f) > 0);
    CHECK(demo::milestone_markers().size() == 6);
    // The table by a plane, the clamp as a piece beside the stone.
    std::erase_if(scan.triangles, [&](const auto& t) {
        double top = -1, left = 1;
        for (const std::uint32_t v : t)
            top = std::max(top, scan.vertices[v].z), left = std::min(left, scan.vertices[v].x);
        return top < -1e-4 || left > 0.2025;
    });
    const Repaired r = repair::repair(scan);
    CHECK(r.after.sound());
    CHECK(r.after.components == 1);
    CHECK(r.after.genus == 0);
    CHECK(r.unrepaired.empty());
    CHECK(mesh::signed_volume(r.mesh) == Approx(mesh::signed_volume(demo::milestone())).epsilon(0.001));
}

TEST_CASE("ShellsInsideGoUnlessTheyAreCavities", "[repair]") {
    mesh::TriMesh m = demo::ball(16, 1);
    mesh::TriMesh inner = demo::ball(12, 0.5, {0.1, 0, 0});
    add(m, inner);
    CHECK(check(m).count(Fault::InnerShell) == 1);
    CHECK(repair::repair(m).mesh.triangles.size() == demo::ball(16, 1).triangles.size());
    for (auto& t : m.triangles)
        if (t[0] >= demo::ball(16, 1).vertices.size()) std::swap(t[1], t[2]);
    const Repaired kept = repair::repair(m);
    CHECK(kept.mesh.triangles.size() == m.triangles.size());
    REQUIRE(kept.unrepaired.size() == 1);
    CHECK_THAT(kept.unrepaired[0].why, Catch::Contains("cavity"));
}

TEST_CASE("APatchIsReplacedInOneStepAndOpenRimsAreLeftAlone", "[repair]") {
    const mesh::TriMesh ball = demo::ball(24, 1);
    std::vector<char> gone(ball.triangles.size(), 0);
    mark_round(ball, {0, 0, 1}, 0.2, gone);
    const Step s = replace_patch(ball, gone, {});
    CHECK(s.unrepaired.empty());
    CHECK(s.removed > 20);
    CHECK(check(s.mesh).sound());
    CHECK(mesh::signed_volume(s.mesh) == Approx(mesh::signed_volume(ball)).epsilon(1e-3));
    // Nothing else was touched.
    const auto before = places(ball), now = places(s.mesh);
    for (std::size_t t = 0; t < ball.triangles.size(); ++t) {
        if (gone[t]) continue;
        mesh::TriMesh one;
        for (const std::uint32_t v : ball.triangles[t]) one.vertices.push_back(ball.vertices[v]);
        one.triangles = {{0, 1, 2}};
        CHECK(now.contains(*places(one).begin()));
    }
    // At an open rim it says so.
    const mesh::TriMesh open = bitten(ball, {0, 0, 1}, 0.3);
    std::vector<char> rim(open.triangles.size(), 0);
    mark_round(open, {0.3, 0, 0.95}, 0.1, rim);
    const Step left = replace_patch(open, rim, {});
    REQUIRE(!left.unrepaired.empty());
    CHECK_THAT(left.unrepaired[0].why, Catch::Contains("open before"));
}

TEST_CASE("NoMeshIsSoBrokenThatARepairOrAWrapFails", "[repair][property]") {
    for (int seed = 0; seed < 16; ++seed) {
        std::mt19937_64 dice(static_cast<std::uint64_t>(seed));
        std::uniform_real_distribution<double> u(-1, 1);
        mesh::TriMesh m;
        const auto vertices = static_cast<std::uint32_t>(4 + dice() % 40),
                   triangles = 1 + static_cast<std::uint32_t>(dice() % 120);
        for (std::uint32_t i = 0; i < vertices; ++i) {
            Vec3 p{u(dice), u(dice), u(dice)};
            if (seed % 3 == 0) p = {std::round(2 * p.x), std::round(2 * p.y), std::round(2 * p.z)};
            m.vertices.push_back(p);
        }
        const auto any = [&] { return static_cast<std::uint32_t>(dice() % vertices); };
        for (std::uint32_t i = 0; i < triangles; ++i) m.triangles.push_back({any(), any(), any()});
        INFO("seed " << seed);
        const Repaired r = repair::repair(m);
        CHECK(
            (r.mesh.triangles.empty() || r.after.sound() || !r.unrepaired.empty() || !r.after.outer.empty()));
        try {
            const Check c = check(wrap(m, {0.2, 0}).mesh);
            CHECK(c.closed);
            CHECK(c.count(Fault::NonManifoldVertex) + c.count(Fault::SelfIntersection) == 0);
        } catch (const Error& e) {
            FAIL(e.what());
        }
    }
}

TEST_CASE("OneFindingIsRepairedAndTheOthersAreLeft", "[repair]") {
    mesh::TriMesh m = bitten(bitten(demo::ball(24, 1), {0, 0, 1}, 0.2), {1, 0, 0}, 0.2);
    const auto far = [&](std::size_t from) {
        std::size_t t = from;
        while (m.vertices[m.triangles[t][0]].z > -0.4 || std::fabs(m.vertices[m.triangles[t][0]].x) > 0.3)
            ++t;
        return t;
    };
    m.triangles.push_back(m.triangles[far(0)]);
    std::swap(m.triangles[far(far(0) + 40)][0], m.triangles[far(far(0) + 40)][1]);
    const Check before = check(m);
    REQUIRE(before.count(Fault::Hole) == 2);
    REQUIRE(before.count(Fault::DuplicateFace) == 1);
    const Step filled = repair_one(m, before.of(Fault::Hole)[0], {});
    const Check after = check(filled.mesh);
    CHECK(after.count(Fault::Hole) == 1);
    CHECK(after.count(Fault::DuplicateFace) == 1);
    CHECK(after.count(Fault::InconsistentEdge) == before.count(Fault::InconsistentEdge));
    const Step single = repair_one(m, before.of(Fault::DuplicateFace)[0], {});
    CHECK(single.removed == 1);
    CHECK(check(single.mesh).count(Fault::DuplicateFace) == 0);
    CHECK(check(single.mesh).count(Fault::Hole) == 2);
    CHECK(check(single.mesh).count(Fault::InconsistentEdge) == before.count(Fault::InconsistentEdge));
    // One that cannot be done leaves the mesh as it was, and says why.
    Finding nonsense = before.of(Fault::Hole)[0];
    std::reverse(nonsense.vertices.begin(), nonsense.vertices.end());
    const Step refused = repair_one(m, nonsense, {});
    CHECK(refused.mesh.triangles == m.triangles);
    REQUIRE(refused.unrepaired.size() == 1);
    CHECK_THAT(refused.unrepaired[0].why, Catch::Contains("does not belong to one triangle"));
}
