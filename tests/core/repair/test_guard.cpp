// Repairs never make a mesh worse: closed bodies, and open scans with many holes and ragged edges.

#include <catch2/catch.hpp>

#include <algorithm>
#include <cmath>
#include <random>

#include "core/repair/check.h"
#include "core/repair/guard.h"
#include "core/repair/repair.h"
#include "demo/solids.h"
#include "support/cloud_makers.h"
#include "support/mesh_makers.h"

using namespace pristine;
using namespace pristine::repair;
using namespace pristine::test;

namespace {

double area_of(const mesh::TriMesh& m, std::uint32_t t) {
    const auto& c = m.triangles[t];
    return 0.5 * norm(cross(m.vertices[c[1]] - m.vertices[c[0]], m.vertices[c[2]] - m.vertices[c[0]]));
}

// A bumpy sheet of n x n squares with discs bitten out, a ragged edge, strips one triangle wide, islands in
// the holes, and faults.
mesh::TriMesh open_scan(std::mt19937_64& dice, int n, int rims, bool faults, bool ragged = true) {
    std::uniform_real_distribution<double> unit(0, 1);
    mesh::TriMesh m;
    for (int j = 0; j <= n; ++j)
        for (int i = 0; i <= n; ++i)
            m.vertices.push_back({static_cast<double>(i), static_cast<double>(j),
                                  0.8 * std::sin(0.5 * i) * std::cos(0.4 * j) + 0.05 * unit(dice)});
    const auto at = [&](int i, int j) { return static_cast<std::uint32_t>(j * (n + 1) + i); };
    struct Disc {
        double x, y, r;
        bool island;
    };
    std::vector<Disc> discs;
    for (int k = 0; k < rims; ++k)
        discs.push_back({n * unit(dice), n * unit(dice), 0.6 + 1.6 * unit(dice), unit(dice) < 0.3});
    for (int j = 0; j < n; ++j)
        for (int i = 0; i < n; ++i)
            for (int half = 0; half < 2; ++half) {
                const double x = i + (half ? 0.33 : 0.67), y = j + (half ? 0.67 : 0.33);
                bool gone = false;
                for (const Disc& d : discs) {
                    const double away = std::hypot(x - d.x, y - d.y);
                    gone |= away < d.r && !(d.island && away < 0.4 * d.r);
                }
                const bool edge = i == 0 || j == 0 || i == n - 1 || j == n - 1;
                if (gone || (ragged && edge && unit(dice) < 0.3)) continue;
                if (half)
                    m.triangles.push_back({at(i, j), at(i + 1, j + 1), at(i, j + 1)});
                else
                    m.triangles.push_back({at(i, j), at(i + 1, j), at(i + 1, j + 1)});
            }
    if (!faults || m.triangles.empty()) return m;
    const auto any = [&] { return static_cast<std::size_t>(dice() % m.triangles.size()); };
    for (int k = 0; k < 4; ++k) m.triangles.push_back(m.triangles[any()]);  // doubled
    for (int k = 0; k < 4; ++k) std::swap(m.triangles[any()][0], m.triangles[any()][1]);
    for (int k = 0; k < 3; ++k) m.vertices[m.triangles[any()][0]].z += 4;  // needles
    for (int k = 0; k < 3; ++k) {                                          // flaps that cross
        const Vec3 p = m.vertices[m.triangles[any()][0]];
        const auto first = static_cast<std::uint32_t>(m.vertices.size());
        m.vertices.insert(m.vertices.end(),
                          {p + Vec3{0.3, 0.2, -1}, p + Vec3{1.3, 0.4, 1}, p + Vec3{0.4, 1.2, 1}});
        m.triangles.push_back({first, first + 1, first + 2});
    }
    return m;
}

// What the law says of a repair, against a check of its own of both meshes.
void require_no_worse(const mesh::TriMesh& m, const Repaired& r, const RepairOptions& o) {
    CheckOptions c = o.check;
    c.tiny_edge = r.before.tiny_edge;
    c.small_piece = std::max<std::uint64_t>(r.before.small_piece, 1);
    const Check before = check(m, c), after = check(r.mesh, c);
    for (std::size_t k = 0; k < kFaults; ++k) {
        CAPTURE(id_of(static_cast<Fault>(k)));
        REQUIRE(after.findings[k].size() <= before.findings[k].size());
    }
    // No more surface goes than the faulty triangles have, half as much again, and a hundredth at each place.
    double named = 0, whole = 0;
    std::vector<char> is_named(m.triangles.size(), 0);
    for (std::size_t k = 0; k < kFaults; ++k)
        if (static_cast<Fault>(k) != Fault::Hole)
            for (const Finding& f : before.findings[k])
                for (const std::uint32_t t : f.triangles) is_named[t] = 1;
    for (std::uint32_t t = 0; t < m.triangles.size(); ++t) {
        whole += area_of(m, t);
        if (is_named[t]) named += area_of(m, t);
    }
    const auto places = static_cast<double>(r.before.findings.size() + r.steps.size() + 40);
    CHECK(r.area_taken - r.area_made <= 1.5 * named + o.most_loss * whole * places);
    CHECK(r.area_before == Approx(whole));
    for (const Unrepaired& u : r.unrepaired) CHECK_FALSE(u.why.empty());
}

}  // namespace

TEST_CASE("RepairsOfOpenScansNeverMakeThemWorse", "[repair][property]") {
    const std::uint64_t seed = test::seed_for("RepairsOfOpenScansNeverMakeThemWorse");
    CAPTURE(seed);
    std::mt19937_64 dice(seed);
    for (int round = 0; round < 24; ++round) {
        CAPTURE(round);
        const int rims = 1 + static_cast<int>(dice() % 80);
        const mesh::TriMesh m = open_scan(dice, 18 + static_cast<int>(dice() % 30), rims, round % 2 == 1);
        RepairOptions o;
        if (round % 4 == 2) o.only = {static_cast<Fault>(dice() % kFaults)};
        const Repaired r = repair::repair(m, o);
        require_no_worse(m, r, o);
        // An open scan stays open: the corners of its edge are still those of an edge.
        if (!r.before.outer.empty()) CHECK_FALSE(r.after.outer.empty());
    }
}

TEST_CASE("RepairsOfBrokenBodiesNeverMakeThemWorse", "[repair][property]") {
    const std::uint64_t seed = test::seed_for("RepairsOfBrokenBodiesNeverMakeThemWorse");
    CAPTURE(seed);
    std::mt19937_64 dice(seed);
    for (int round = 0; round < 24; ++round) {
        CAPTURE(round);
        mesh::TriMesh m = round % 2 ? demo::ball(14, 1) : demo::block(8, {0, 0, 0}, {1, 1.2, 0.8});
        std::vector<Vec3> where;
        for (int k = 0; k < 5; ++k)
            demo::break_mesh(m, static_cast<demo::Break>(dice() % demo::kBreaks), dice, where);
        RepairOptions o;
        if (round % 3 == 0) o.only = {static_cast<Fault>(dice() % kFaults)};
        require_no_worse(m, repair::repair(m, o), o);
    }
}

TEST_CASE("TheEdgeOfAnOpenScanIsNoHole", "[repair]") {
    std::mt19937_64 dice(4);
    const mesh::TriMesh m = open_scan(dice, 24, 0, false, false);
    const Check c = check(m);
    CHECK(c.outer.size() == 1);
    CHECK(c.count(Fault::Hole) == 0);
    CHECK_FALSE(c.closed);
    const Repaired left = repair::repair(m);
    CHECK(places(left.mesh) == places(m));
    CHECK(left.unrepaired.empty());
    // A ball with a bite has a hole; so has a box without its lid; half a ball is an open scan.
    CHECK(check(bitten(demo::ball(20, 1), {0, 0, 1}, 0.4)).count(Fault::Hole) == 1);
    const auto cut = [](mesh::TriMesh whole, double z) {
        std::erase_if(whole.triangles, [&](const auto& t) {
            return std::all_of(t.begin(), t.end(),
                               [&](std::uint32_t v) { return whole.vertices[v].z > z - 1e-9; });
        });
        return whole;
    };
    CHECK(check(cut(demo::block(6, {0, 0, 0}, {1, 1, 1}), 1)).count(Fault::Hole) == 1);
    const mesh::TriMesh half = cut(demo::ball(20, 1), 0);
    CHECK(check(half).outer.size() == 1);
    CHECK(places(repair::repair(half).mesh) == places(half));
    RepairOptions asked;
    asked.fill_outer = true;
    CHECK(repair::repair(half, asked).after.closed);
}

TEST_CASE("WhatCannotBeBetteredStaysToTheLastTriangle", "[repair]") {
    // A rim that no fill fits into: a strip runs through the hole.
    mesh::TriMesh m = bitten(demo::ball(20, 1), {0, 0, 1}, 0.5);
    const auto first = static_cast<std::uint32_t>(m.vertices.size());
    for (const Vec3& p : {Vec3{-0.02, 0, 0.2}, Vec3{0.02, 0, 0.2}, Vec3{0, 0.02, 3}}) m.vertices.push_back(p);
    m.triangles.push_back({first, first + 1, first + 2});
    RepairOptions o;
    o.only = {Fault::Hole};
    const Repaired r = repair::repair(m, o);
    require_no_worse(m, r, o);
    const auto stays = still_there(m, r.mesh);
    CHECK(std::count(stays.begin(), stays.end(), 0) == 0);  // nothing was taken to make room
}

TEST_CASE("ALargeMeshIsRepairedOnlyWhereItsFaultsAre", "[repair]") {
    std::mt19937_64 dice(11);
    mesh::TriMesh m = open_scan(dice, 330, 12, false, false);  // more triangles than are repaired as a whole
    REQUIRE(m.triangles.size() >= 200'000);
    for (int k = 0; k < 5; ++k) m.triangles.push_back(m.triangles[dice() % 100'000]);
    for (int k = 0; k < 3; ++k) m.vertices[m.triangles[dice() % 100'000][0]].z += 4;
    const Repaired r = repair::repair(m);
    for (std::size_t k = 0; k < kFaults; ++k) {
        CAPTURE(id_of(static_cast<Fault>(k)));
        CHECK(r.after.findings[k].size() <= r.before.findings[k].size());
    }
    CHECK(r.before.count(Fault::DuplicateFace) == 5);
    CHECK(r.after.count(Fault::DuplicateFace) == 0);
    CHECK(r.after.count(Fault::Spike) == 0);
    CHECK(r.after.count(Fault::Hole) < r.before.count(Fault::Hole));
    CHECK(r.after.outer.size() == 1);
    // What was told of surface is what there is.
    double area = 0;
    for (std::uint32_t t = 0; t < r.mesh.triangles.size(); ++t) area += area_of(r.mesh, t);
    CHECK(r.area_after == Approx(area));
    const auto stays = still_there(m, r.mesh);
    CHECK(static_cast<std::uint64_t>(std::count(stays.begin(), stays.end(), 0)) == r.taken);
}
