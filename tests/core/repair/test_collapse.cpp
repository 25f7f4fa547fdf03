// Edges closed up one by one: the kind of the surface never changes, and nothing folds.

#include <catch2/catch.hpp>
#include <cmath>
#include <map>
#include <random>
#include <set>

#include "core/base/error.h"
#include "core/mesh/tri_mesh.h"
#include "core/repair/check.h"
#include "core/repair/collapse.h"
#include "core/repair/deviation.h"
#include "core/repair/reduce.h"
#include "demo/solids.h"
#include "support/cloud_makers.h"
#include "support/mesh_makers.h"

using namespace pristine;
using namespace pristine::repair;

namespace {

using Corner = std::array<double, 3>;
Corner corner(const Vec3& v) {
    return {v.x, v.y, v.z};
}

std::set<Corner> corner_set(const mesh::TriMesh& m) {
    std::set<Corner> all;
    for (const auto& t : m.triangles)
        for (const std::uint32_t v : t) all.insert(corner(m.vertices[v]));
    return all;
}

std::multiset<std::array<Corner, 3>> triangles(const mesh::TriMesh& m) {
    std::multiset<std::array<Corner, 3>> all;
    for (const auto& t : m.triangles) {
        std::array<Corner, 3> c{corner(m.vertices[t[0]]), corner(m.vertices[t[1]]), corner(m.vertices[t[2]])};
        std::sort(c.begin(), c.end());
        all.insert(c);
    }
    return all;
}

// Vertices less edges and triangles: what no closing up of an edge may change.
long euler(const mesh::TriMesh& m) {
    std::set<std::uint32_t> used;
    std::set<std::pair<std::uint32_t, std::uint32_t>> edges;
    for (const auto& t : m.triangles)
        for (std::size_t k = 0; k < 3; ++k) {
            used.insert(t[k]);
            edges.insert(std::minmax(t[k], t[(k + 1) % 3]));
        }
    return static_cast<long>(used.size()) - static_cast<long>(edges.size()) +
           static_cast<long>(m.triangles.size());
}

// A solid with some patches taken out of it, a little rough.
mesh::TriMesh some_solid(std::mt19937& dice, bool rough) {
    mesh::TriMesh m = dice() % 3 == 0   ? demo::ball(20, 1)
                      : dice() % 2 == 0 ? demo::block(8, {0, 0, 0}, {1, 1.2, 0.8})
                                        : demo::ring(30, 1, 0.3);
    std::uniform_real_distribution<double> u(-1, 1);
    for (int hole = static_cast<int>(dice() % 3); hole > 0; --hole) {
        const Vec3 at = m.vertices[dice() % m.vertices.size()];
        std::erase_if(m.triangles, [&](const auto& t) { return norm(m.vertices[t[0]] - at) < 0.25; });
    }
    if (rough)
        for (Vec3& v : m.vertices) v = v + Vec3{u(dice), u(dice), u(dice)} * 0.005;
    return m;
}

}  // namespace

TEST_CASE("ClosingEdgesUpKeepsTheKindOfTheSurface", "[repair]") {
    const auto seed = static_cast<unsigned>(test::seed_for("Collapses"));
    CAPTURE(seed);
    std::mt19937 dice(seed);
    for (int round = 0; round < 40; ++round) {
        CAPTURE(round);
        const mesh::TriMesh m = some_solid(dice, round % 2 == 1);
        const std::size_t wanted = 20 + dice() % m.triangles.size();
        const bool lock = dice() % 2 == 0;
        const mesh::TriMesh out = collapsed(m, {wanted, lock, {}});
        CHECK(out.triangles.size() <= m.triangles.size());
        CHECK(euler(out) == euler(m));
        CHECK(test::rims_of(out).size() == test::rims_of(m).size());
        const std::set<Corner> before = corner_set(m), after = corner_set(out);
        CHECK(std::includes(before.begin(), before.end(), after.begin(), after.end()));
        if (lock)
            for (const auto& rim : test::rims_of(m))
                for (const std::uint32_t v : rim) CHECK(after.contains(corner(m.vertices[v])));
        const Check was = check(m), is = check(out);
        CHECK(is.components == was.components);
        CHECK(is.count(Fault::Degenerate) == 0);
        CHECK(is.count(Fault::DuplicateFace) == 0);
        CHECK(is.count(Fault::NonManifoldEdge) == was.count(Fault::NonManifoldEdge));
        CHECK(is.count(Fault::Spike) <= was.count(Fault::Spike));
        CHECK(triangles(collapsed(m, {wanted, lock, {}})) == triangles(out));
    }
}

TEST_CASE("WhatLiesInPlanesIsClosedUpWithoutAnyLoss", "[repair]") {
    // Down to the twelve triangles of a block; to those of an open box whose rim may go.
    const mesh::TriMesh block = demo::block(16, {0, 0, 0}, {1, 1.2, 0.8});
    const mesh::TriMesh twelve = collapsed(block, {12, true, {}});
    CHECK(twelve.triangles.size() == 12);
    CHECK(mesh::signed_volume(twelve) == Approx(0.96).epsilon(1e-12));
    mesh::TriMesh open = block;
    std::erase_if(open.triangles, [&](const auto& t) {
        return std::all_of(t.begin(), t.end(),
                           [&](std::uint32_t v) { return open.vertices[v].z > 0.8 - 1e-9; });
    });
    const mesh::TriMesh ten = collapsed(open, {10, false, {}});
    CHECK(ten.triangles.size() == 10);
    CHECK(deviation(open, ten).max < 1e-12);
    // Held, the rim keeps all its places.
    CHECK(test::rims_of(collapsed(open, {10, true, {}})).at(0).size() == test::rims_of(open).at(0).size());
    // Nothing is left to close up, whatever is wanted.
    CHECK(collapsed(twelve, {1, true, {}}).triangles.size() >= 4);
    CHECK(collapsed({}, {1, true, {}}).triangles.empty());
}

TEST_CASE("TrianglesThatMustStayStayToTheBit", "[repair]") {
    std::mt19937 dice(7);
    for (int round = 0; round < 10; ++round) {
        const mesh::TriMesh m = some_solid(dice, true);
        std::vector<char> only(m.triangles.size(), 0);
        const Vec3 at = m.vertices[m.triangles[dice() % m.triangles.size()][0]];
        mesh::TriMesh held;
        held.vertices = m.vertices;
        for (std::size_t t = 0; t < only.size(); ++t) {
            only[t] = norm(m.vertices[m.triangles[t][0]] - at) < 0.9;
            if (!only[t]) held.triangles.push_back(m.triangles[t]);
        }
        const mesh::TriMesh out = collapsed(m, {held.triangles.size() + 40, true, only});
        CHECK(out.triangles.size() < m.triangles.size());
        const auto all = triangles(out), stay = triangles(held);
        CHECK(std::includes(all.begin(), all.end(), stay.begin(), stay.end()));
        CHECK(euler(out) == euler(m));
    }
}

TEST_CASE("BrokenMeshesAreNotMadeWorse", "[repair]") {
    std::mt19937 dice(11);
    for (int round = 0; round < 20; ++round) {
        CAPTURE(round);
        mesh::TriMesh m = some_solid(dice, true);
        const auto any = [&] { return m.triangles[dice() % m.triangles.size()]; };
        // A fin on an edge, a triangle twice, one without area, one that names a corner twice, two bodies
        // that touch.
        const auto e = any();
        m.vertices.push_back(m.vertices[e[0]] + Vec3{0, 0, 0.3});
        m.triangles.push_back({e[0], e[1], static_cast<std::uint32_t>(m.vertices.size() - 1)});
        m.triangles.push_back(any());
        const auto d = any();
        m.vertices.push_back((m.vertices[d[0]] + m.vertices[d[1]]) * 0.5);
        m.triangles.push_back({d[0], d[1], static_cast<std::uint32_t>(m.vertices.size() - 1)});
        m.triangles.push_back({d[0], d[0], d[2]});
        const auto touch = any()[0];
        const auto first = static_cast<std::uint32_t>(m.vertices.size());
        for (const Vec3& off : {Vec3{2, 0, 0}, Vec3{2, 1, 0}, Vec3{2, 0, 1}})
            m.vertices.push_back(m.vertices[touch] + off);
        m.triangles.push_back({touch, first, first + 1});
        m.triangles.push_back({touch, first + 1, first + 2});
        m.triangles.push_back({touch, first + 2, first});
        const Check was = check(m);
        const mesh::TriMesh out = collapsed(m, {50, round % 2 == 0, {}});
        const Check is = check(out);
        CHECK(out.triangles.size() < m.triangles.size());
        CHECK(is.components == was.components);
        CHECK(is.count(Fault::NonManifoldEdge) <= was.count(Fault::NonManifoldEdge));
        CHECK(is.count(Fault::NonManifoldVertex) <= was.count(Fault::NonManifoldVertex));
        CHECK(is.count(Fault::DuplicateFace) <= was.count(Fault::DuplicateFace));
        CHECK(is.count(Fault::Degenerate) <= was.count(Fault::Degenerate));
    }
}

TEST_CASE("LargeMeshesAreSoundAfterAReduction", "[repair]") {
    // More than is mended afterwards.
    const mesh::TriMesh block = demo::block(110, {0, 0, 0}, {1, 1, 1}), ball = demo::ball(130, 1);
    REQUIRE(block.triangles.size() > kMostMended);
    REQUIRE(ball.triangles.size() > kMostMended);
    for (const mesh::TriMesh* m : {&block, &ball}) {
        const mesh::TriMesh out = collapsed(*m, {5000, true, {}});
        CHECK(out.triangles.size() == 5000);
        CHECK(check(out).sound());
        CHECK(mesh::signed_volume(out) == Approx(mesh::signed_volume(*m)).epsilon(3e-3));
    }
    Progress cancelled;
    cancelled.cancel();
    CHECK_THROWS_AS(collapsed(ball, {100, true, {}}, cancelled), Cancelled);
}
