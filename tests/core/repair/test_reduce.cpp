// Fewer triangles, and how far they lie from those that were there.

#include <catch2/catch.hpp>

#include <algorithm>
#include <cmath>
#include <random>
#include <set>

#include "core/base/error.h"
#include "core/geometry/triangle.h"
#include "core/repair/check.h"
#include "core/repair/crossings.h"
#include "core/repair/deviation.h"
#include "core/repair/one.h"
#include "core/repair/reduce.h"
#include "demo/milestone.h"
#include "demo/solids.h"
#include "support/mesh_makers.h"

using namespace pristine;
using namespace pristine::repair;
using namespace pristine::test;

TEST_CASE("ReducingKeepsRimsAndPlacesAndMeasuresWhatItCosts", "[repair]") {
    const mesh::TriMesh open = bitten(demo::ball(40, 1, kSite), kSite + Vec3{0, 0, 1}, 0.4);
    const Reduced r = reduce(open, {2000, true, {}});
    CHECK(r.mesh.triangles.size() <= 2000);
    CHECK(r.mesh.triangles.size() > 1000);
    const auto rim = [](const mesh::TriMesh& m) {
        std::set<Corner> all;
        for (const auto& loop : rims_of(m))
            for (const std::uint32_t v : loop)
                all.insert({m.vertices[v].x, m.vertices[v].y, m.vertices[v].z});
        return all;
    };
    CHECK(rim(r.mesh) == rim(open));
    std::set<Corner> known;
    for (const Vec3& v : open.vertices) known.insert({v.x, v.y, v.z});
    for (const Vec3& v : r.mesh.vertices) CHECK(known.contains({v.x, v.y, v.z}));
    CHECK(r.deviation.max < 0.03);
    CHECK(r.deviation.max > 0);
    CHECK(deviation(open, open).max < 1e-8);
    CHECK_THROWS_AS(reduce(open, {0, true, {}}), Error);
}

TEST_CASE("DeviationIsThatOfTheSlowWay", "[repair]") {
    std::mt19937_64 dice(9);
    std::uniform_real_distribution<double> u(-1, 1);
    for (int round = 0; round < 6; ++round) {
        CAPTURE(round);
        mesh::TriMesh a = demo::ball(7, 1, kSite),
                      b = demo::block(3, kSite - Vec3{1, 1, 1}, kSite + Vec3{1, 1, 1});
        for (Vec3& v : a.vertices) v = v + Vec3{u(dice), u(dice), u(dice)} * 0.1;
        // Holes, a triangle twice, one the other way round, and vertices that nobody uses.
        a.triangles.resize(a.triangles.size() - 5);
        a.triangles.push_back(a.triangles[3]);
        a.triangles.push_back({a.triangles[7][0], a.triangles[7][2], a.triangles[7][1]});
        a.vertices.push_back(kSite + Vec3{50, 0, 0});
        std::vector<std::pair<double, double>> all;
        double area = 0, sum = 0;
        for (const auto& t : a.triangles) {
            const Vec3 c[3] = {a.vertices[t[0]], a.vertices[t[1]], a.vertices[t[2]]};
            const double own = 0.5 * norm(cross(c[1] - c[0], c[2] - c[0]));
            for (const Vec3& p : {c[0], c[1], c[2], (c[0] + c[1]) * 0.5, (c[1] + c[2]) * 0.5,
                                  (c[2] + c[0]) * 0.5, (c[0] + c[1] + c[2]) * (1 / 3.)}) {
                double least = INFINITY;
                for (const auto& o : b.triangles)
                    least =
                        std::min(least, norm(p - closest_on_triangle(p, b.vertices[o[0]], b.vertices[o[1]],
                                                                     b.vertices[o[2]])));
                all.push_back({least, own / 7});
                area += own / 7, sum += least * own / 7;
            }
        }
        std::sort(all.begin(), all.end());
        double below = 0, p95 = 0;
        for (const auto& [distance, own] : all) {
            p95 = distance;
            if ((below += own) >= 0.95 * area) break;
        }
        const Deviation d = deviation(a, b);
        CHECK(d.mean == Approx(sum / area).epsilon(1e-7));
        CHECK(d.max == Approx(all.back().first).epsilon(1e-7));  // a step of doubles out there
        CHECK(d.p95 == Approx(p95).epsilon(1e-3));
    }
}

TEST_CASE("SoundMeshesStaySoundWhenTheyAreReduced", "[repair]") {
    // Much of them lies in planes, where every collapse costs nothing and triangles fold over unseen.
    struct Case {
        mesh::TriMesh mesh;
        std::size_t to;
        double share;  // of the volume that may be lost
    };
    const Case cases[] = {{demo::block(24, {0, 0, 0}, {1, 1.2, 0.8}), 1500, 1e-6},
                          {demo::block(24, {0, 0, 0}, {1, 1.2, 0.8}), 200, 1e-3},
                          {demo::milestone(), 6'000, 1e-3},
                          {demo::ring(90, 1, 0.3), 1200, 3e-2}};
    for (const Case& c : cases) {
        CAPTURE(c.mesh.triangles.size(), c.to);
        const Check before = check(c.mesh);
        REQUIRE(before.sound());
        const Reduced r = reduce(c.mesh, {c.to, true, {}});
        const Check after = check(r.mesh);
        CHECK(after.sound());
        CHECK(after.components == 1);
        CHECK(after.genus == before.genus);
        CHECK(std::fabs(static_cast<double>(r.mesh.triangles.size()) / static_cast<double>(c.to) - 1) < 0.1);
        CHECK(mesh::signed_volume(r.mesh) == Approx(mesh::signed_volume(c.mesh)).epsilon(c.share));
    }
}
