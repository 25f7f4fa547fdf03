// What is wrong with a mesh: each fault is found, and none where there is none.

#include <catch2/catch.hpp>

#include <algorithm>

#include "core/base/error.h"
#include "core/mesh/weld.h"
#include "core/repair/check.h"
#include "core/repair/crossings.h"
#include "demo/solids.h"
#include "support/mesh_makers.h"

using namespace pristine;
using namespace pristine::repair;
using namespace pristine::test;

TEST_CASE("SoundMeshesHaveNoFindingsAndTheirGenusIsKnown", "[repair]") {
    const Check ball = check(demo::ball(12, 1, kSite)), ring = check(demo::ring(48, 1, 0.3));
    CHECK(counts(ball) == std::vector<std::uint64_t>(kFaults, 0));
    CHECK(ball.sound());
    CHECK(ball.genus == 0);
    CHECK(ring.sound());
    CHECK(ring.genus == 1);
    mesh::TriMesh two = demo::ball(8, 1);
    add(two, demo::ring(30, 5, 0.5));
    const Check both = check(two);
    CHECK(both.components == 2);
    CHECK(both.genus == 1);
    // A hole does not change the genus; the mesh is then open.
    const Check open = check(bitten(demo::ring(48, 1, 0.3), {1.3, 0, 0}, 0.2));
    CHECK(open.genus == 1);
    CHECK_FALSE(open.closed);
    CHECK(open.count(Fault::Hole) == 1);
    CHECK_FALSE(check({}).closed);
}

TEST_CASE("EachFaultIsFoundWhereItIs", "[repair]") {
    const mesh::TriMesh ball = demo::ball(12, 1);
    const auto found = [](const mesh::TriMesh& m, Fault f) { return check(m).count(f); };
    mesh::TriMesh m = ball;
    const auto top = m.triangles[0];
    m.vertices.push_back(m.vertices[top[0]] * 1.5);
    m.triangles.push_back({top[0], top[1], static_cast<std::uint32_t>(m.vertices.size() - 1)});
    CHECK(found(m, Fault::NonManifoldEdge) == 1);
    CHECK(check(m).genus == -1);

    m = ball;
    std::swap(m.triangles[5][0], m.triangles[5][1]);
    CHECK(found(m, Fault::InconsistentEdge) == 3);
    CHECK_FALSE(check(m).closed);

    m = ball;
    m.triangles.push_back(m.triangles[7]);
    m.triangles.push_back({m.triangles[9][1], m.triangles[9][0], m.triangles[9][2]});
    CHECK(found(m, Fault::DuplicateFace) == 2);

    m = ball;
    m.vertices[m.triangles[3][1]] = m.vertices[m.triangles[3][0]] + Vec3{1e-9, 0, 0};
    CHECK(found(m, Fault::TinyEdge) == 1);

    m = ball;
    m.vertices[top[0]] = m.vertices[top[0]] * 3;
    CHECK(found(m, Fault::Spike) == 1);
    CHECK(check(m).of(Fault::Spike)[0].where == m.vertices[top[0]]);

    m = ball;
    add(m, demo::block(1, {3, 3, 3}, {3.1, 3.1, 3.1}));
    CHECK(found(m, Fault::SmallPiece) == 1);
    CheckOptions few;
    few.small_piece = 12;
    CHECK(check(m, few).count(Fault::SmallPiece) == 0);

    // Two blocks that share a corner, and two that share an edge.
    m = demo::block(2, {0, 0, 0}, {1, 1, 1});
    const auto corner = [&](mesh::TriMesh& a, const mesh::TriMesh& b) {
        add(a, b);
        std::vector<Vec3> all;
        for (const auto& t : a.triangles)
            for (const std::uint32_t v : t) all.push_back(a.vertices[v]);
        a = mesh::weld(all);
    };
    corner(m, demo::block(2, {1, 1, 1}, {2, 2, 2}));
    CHECK(found(m, Fault::NonManifoldVertex) == 1);
    m = demo::block(2, {0, 0, 0}, {1, 1, 1});
    corner(m, demo::block(2, {1, 1, 0}, {2, 2, 1}));
    CHECK(found(m, Fault::NonManifoldEdge) == 2);
    CHECK_THROWS_AS(fault_of("rust"), Error);
    CHECK(fault_of("holes") == Fault::Hole);
}

TEST_CASE("TrianglesWithACornerTwiceCrossNothing", "[repair]") {
    mesh::TriMesh m;
    m.vertices = {{0, 0, 0}, {1, 0, 0}, {0, 1, 0}, {0.2, 0.2, -1}, {0.2, 0.2, 1}};
    m.triangles = {{0, 1, 2}, {0, 0, 1}, {1, 2, 2}, {2, 1, 2}, {3, 4, 3}};
    CHECK(crossings(m).empty());
    m.triangles.push_back({3, 4, 0});
    CHECK(crossings(m) == std::vector<Pair>{{0, 5}});
    CHECK(check(m).count(Fault::Degenerate) == 4);
}
