// Parts of holes filled, and bridges between rims.

#include <catch2/catch.hpp>

#include <cmath>
#include <numbers>
#include <set>

#include "core/base/error.h"
#include "core/repair/check.h"
#include "core/repair/crossings.h"
#include "core/repair/fill.h"
#include "core/repair/rim_pick.h"
#include "core/repair/steps.h"
#include "core/topology/adjacency.h"
#include "demo/solids.h"
#include "support/mesh_makers.h"

using namespace pristine;
using namespace pristine::repair;

namespace {

constexpr Vec3 kAt{412'300, 5'218'930, 58};
constexpr double kRadius = 2;

using Rims = std::vector<std::vector<std::uint32_t>>;
using test::rims_of;

Vec3 middle(const mesh::TriMesh& m, std::size_t t) {
    const auto& c = m.triangles[t];
    return (m.vertices[c[0]] + m.vertices[c[1]] + m.vertices[c[2]]) * (1 / 3.0);
}

// A ball without caps in some directions, each seen from the centre under 60 degrees.
mesh::TriMesh capped(std::initializer_list<Vec3> directions) {
    const mesh::TriMesh m = demo::ball(20, kRadius, kAt);
    std::vector<char> gone(m.triangles.size(), 0);
    for (std::size_t t = 0; t < gone.size(); ++t)
        for (const Vec3& d : directions)
            if (dot(normalized(middle(m, t) - kAt), normalized(d)) > std::cos(std::numbers::pi / 6))
                gone[t] = 1;
    return without(m, gone);
}

double farthest_off(const Fill& f) {
    double off = 0;
    for (const Vec3& v : f.vertices) off = std::max(off, std::fabs(norm(v - kAt) - kRadius));
    return off;
}

// Every edge has one or two triangles, two of opposite ways; every corner one fan; the mesh before is its
// first part.
void require_fit(const mesh::TriMesh& before, const mesh::TriMesh& after) {
    const Check c = check(after);
    for (const Fault f : {Fault::NonManifoldEdge, Fault::NonManifoldVertex, Fault::InconsistentEdge,
                          Fault::SelfIntersection, Fault::Degenerate, Fault::DuplicateFace})
        REQUIRE(c.count(f) == 0);
    REQUIRE(std::equal(before.vertices.begin(), before.vertices.end(), after.vertices.begin()));
    REQUIRE(std::equal(before.triangles.begin(), before.triangles.end(), after.triangles.begin()));
}

}  // namespace

TEST_CASE("APartOfAHoleIsFilledOnTheSideThatWasChosen", "[repair]") {
    const mesh::TriMesh m = capped({{0, 0, 1}});
    const Rims rims = rims_of(m);
    REQUIRE(rims.size() == 1);
    const std::size_t n = rims[0].size();
    for (const FillKind kind : {FillKind::Flat, FillKind::Tangent, FillKind::Curvature})
        for (const Between side : {Between::Shorter, Between::Longer}) {
            CAPTURE(static_cast<int>(kind), static_cast<int>(side));
            const auto parts = stretches(rims, {0, 3}, {0, 3 + n / 3}, side);
            REQUIRE(parts.size() == 1);
            CHECK(parts[0].size() == (side == Between::Shorter ? n / 3 + 1 : n - n / 3 + 1));
            const Fill f = fill_between(m, parts, {kind, 1, true});
            REQUIRE(f.why_not.empty());
            const mesh::TriMesh half = with_fill(m, f);
            require_fit(m, half);
            // What is left of the hole has one rim, which keeps the other way round.
            const Rims left = rims_of(half);
            REQUIRE(left.size() == 1);
            const std::set<std::uint32_t> kept(left[0].begin(), left[0].end());
            const auto other = stretches(rims, {0, 3}, {0, 3 + n / 3},
                                         side == Between::Shorter ? Between::Longer : Between::Shorter);
            for (const std::uint32_t v : other[0]) CHECK(kept.contains(v));
            CHECK_FALSE(kept.contains(parts[0][parts[0].size() / 2]));
            if (kind == FillKind::Curvature) CHECK(farthest_off(f) < 0.02 * kRadius);
            // The rest closes it.
            const Fill rest = fill_boundary(half, left[0], {kind, 1, true});
            REQUIRE(rest.why_not.empty());
            const Check whole = check(with_fill(half, rest));
            CHECK(whole.sound());
            CHECK(whole.genus == 0);
            if (kind == FillKind::Curvature) {
                const double ball = 4.0 / 3 * std::numbers::pi * 8;
                CHECK(mesh::signed_volume(with_fill(half, rest)) == Approx(ball).epsilon(0.02));
            }
        }
    // The order of the two corners makes no difference.
    CHECK(stretches(rims, {0, 3}, {0, 9}, Between::Shorter) ==
          stretches(rims, {0, 9}, {0, 3}, Between::Shorter));
}

TEST_CASE("ABridgeJoinsTwoHolesOrPartsOne", "[repair]") {
    mesh::TriMesh apart = capped({{1, 0, 0}});
    {
        mesh::TriMesh other = capped({{-1, 0, 0}});
        const auto first = static_cast<std::uint32_t>(apart.vertices.size());
        for (const Vec3& v : other.vertices) apart.vertices.push_back(v + Vec3{5, 0, 0});
        for (const auto& t : other.triangles)
            apart.triangles.push_back({t[0] + first, t[1] + first, t[2] + first});
    }
    const Rims two = rims_of(apart);
    REQUIRE(two.size() == 2);
    const auto top = [&](const std::vector<std::uint32_t>& rim) {
        std::size_t k = 0;
        for (std::size_t i = 1; i < rim.size(); ++i)
            if (apart.vertices[rim[i]].z > apart.vertices[rim[k]].z) k = i;
        return k;
    };
    for (const std::size_t width : {std::size_t{1}, std::size_t{4}}) {
        const auto parts = stretches(two, {0, top(two[0])}, {1, top(two[1])}, Between::Shorter, width);
        REQUIRE(parts.size() == 2);
        CHECK(parts[0].size() == width + 1);
        const Fill f = fill_between(apart, parts, {FillKind::Tangent, 1, true});
        REQUIRE(f.why_not.empty());
        const mesh::TriMesh bridged = with_fill(apart, f);
        require_fit(apart, bridged);
        const Rims one = rims_of(bridged);
        REQUIRE(one.size() == 1);  // two holes have become one
        const Fill rest = fill_boundary(bridged, one[0], {FillKind::Flat, 1, true});
        REQUIRE(rest.why_not.empty());
        const Check whole = check(with_fill(bridged, rest));
        CHECK(whole.closed);
        CHECK(whole.components == 1);
        CHECK(whole.genus == 0);
    }

    // Across one hole: it becomes two.
    const mesh::TriMesh alone = capped({{0, 1, 0}});
    const Rims rim = rims_of(alone);
    const std::size_t n = rim[0].size();
    const auto across = stretches(rim, {0, 0}, {0, n / 2}, Between::Bridge, 2);
    const Fill f = fill_between(alone, across);
    REQUIRE(f.why_not.empty());
    CHECK(farthest_off(f) < 0.02 * kRadius);
    const mesh::TriMesh divided = with_fill(alone, f);
    require_fit(alone, divided);
    mesh::TriMesh all = divided;
    const Rims halves = rims_of(divided);
    REQUIRE(halves.size() == 2);
    for (const auto& half : halves) {
        const Fill g = fill_boundary(all, half);
        REQUIRE(g.why_not.empty());
        all = with_fill(all, g);
    }
    CHECK(check(all).sound());
}

TEST_CASE("PicksThatMakeNoSenseAreRefusedWithTheReason", "[repair]") {
    const mesh::TriMesh m = capped({{0, 0, 1}});
    const Rims rims = rims_of(m);
    CHECK_THROWS_WITH(stretches(rims, {0, 4}, {0, 4}, Between::Shorter), Catch::Contains("two corners"));
    CHECK_THROWS_WITH(stretches(rims, {0, 4}, {0, 6}, Between::Bridge, 3), Catch::Contains("too near"));
    CHECK_THROWS_AS(stretches(rims, {0, 9999}, {0, 6}, Between::Shorter), Error);
    CHECK_THROWS_AS(fill_between(m, {{rims[0][0]}}), Error);
    // Neighbours have an edge between them: there is nothing to fill.
    const Fill none = fill_between(m, stretches(rims, {0, 4}, {0, 5}, Between::Shorter));
    CHECK_FALSE(none.why_not.empty());
    CHECK(none.triangles.empty());
}
