// Brushes that move corners, and refining.

#include <catch2/catch.hpp>

#include <algorithm>
#include <cmath>
#include <random>

#include "core/base/error.h"
#include "core/repair/check.h"
#include "core/repair/refine.h"
#include "core/repair/smooth.h"
#include "core/repair/steps.h"
#include "core/topology/adjacency.h"
#include "demo/solids.h"
#include "support/cloud_makers.h"

using namespace pristine;
using namespace pristine::repair;

namespace {

constexpr Vec3 kAt{412'300, 5'218'930, 58};

// A ball with noise along its radius.
mesh::TriMesh rough(std::uint64_t seed, double noise) {
    std::mt19937_64 dice(seed);
    std::normal_distribution<double> n(0, noise);
    mesh::TriMesh m = demo::ball(24, 1, kAt);
    for (Vec3& v : m.vertices) v = v + normalized(v - kAt) * n(dice);
    return m;
}

double roughness(const mesh::TriMesh& m, const Vec3& place, double radius) {
    double sum = 0, n = 0;
    for (const Vec3& v : m.vertices)
        if (norm(v - place) < radius) sum += std::pow(norm(v - kAt) - 1, 2), ++n;
    return std::sqrt(sum / n);
}

}  // namespace

TEST_CASE("RelaxingTakesNoiseAwayAndKeepsTheShape", "[repair]") {
    const std::uint64_t seed = test::seed_for("relax");
    CAPTURE(seed);
    const mesh::TriMesh m = rough(seed, 0.01);
    const Vec3 top = kAt + Vec3{0, 0, 1};
    BrushStroke s{BrushKind::Relax, 0.5, 1, {}};
    for (int i = 0; i < 12; ++i) s.places.push_back(top);
    const mesh::TriMesh out = brushed(m, s);
    CHECK(roughness(out, top, 0.25) < 0.55 * roughness(m, top, 0.25));
    // The same triangles; what lies outside is the same to the bit.
    CHECK(out.triangles == m.triangles);
    for (std::size_t v = 0; v < m.vertices.size(); ++v)
        if (norm(m.vertices[v] - top) >= 0.5) REQUIRE(out.vertices[v] == m.vertices[v]);
    // A smooth ball hardly shrinks under many strokes.
    const mesh::TriMesh smooth = demo::ball(24, 1, kAt);
    BrushStroke often = s;
    for (int i = 0; i < 40; ++i) often.places.push_back(top);
    CHECK(std::fabs(mesh::signed_volume(brushed(smooth, often)) / mesh::signed_volume(smooth) - 1) < 0.002);
    // Without strength nothing moves.
    BrushStroke none = s;
    none.strength = 0;
    CHECK(brushed(m, none).vertices == m.vertices);
}

TEST_CASE("FlatteningBringsTheMiddleOfTheBrushIntoAPlane", "[repair]") {
    mesh::TriMesh m = demo::block(40, {0, 0, 0}, {4, 4, 1});
    for (Vec3& v : m.vertices)
        if (v.z == 1) v.z += 0.03 * std::sin(9 * v.x) * std::sin(7 * v.y);
    BrushStroke s{BrushKind::Flatten, 1, 1, {}};
    for (int i = 0; i < 10; ++i) s.places.push_back({2, 2, 1});
    const mesh::TriMesh out = brushed(m, s);
    double before = 0, after = 0, least = 1e9, most = -1e9;
    for (std::size_t v = 0; v < m.vertices.size(); ++v) {
        if (!(norm(m.vertices[v] - Vec3{2, 2, 1}) < 0.4)) continue;
        before = std::max(before, std::fabs(m.vertices[v].z - 1));
        least = std::min(least, out.vertices[v].z);
        most = std::max(most, out.vertices[v].z);
    }
    after = most - least;
    CHECK(before > 0.02);
    CHECK(after < 0.1 * before);
}

TEST_CASE("RimsAndGuardedTrianglesStayUnderTheBrush", "[repair]") {
    mesh::TriMesh m = rough(3, 0.02);
    std::vector<char> gone(m.triangles.size(), 0);
    for (std::size_t t = 0; t < gone.size(); ++t) {
        const auto& c = m.triangles[t];
        gone[t] = (m.vertices[c[0]] + m.vertices[c[1]] + m.vertices[c[2]]).z > 3 * (kAt.z + 0.9);
    }
    m = without(m, gone);
    auto rims = topology::boundary_loops(m.triangles, topology::adjacency(m.triangles));
    std::sort(rims.begin(), rims.end(), [](const auto& a, const auto& b) { return a.size() > b.size(); });
    REQUIRE(rims[0].size() > 10);
    BrushStroke s{BrushKind::Relax, 0.8, 0.8, {kAt + Vec3{0, 0, 0.9}, kAt + Vec3{0.4, 0, 0.9}}};
    const mesh::TriMesh out = brushed(m, s);
    CHECK(out.vertices != m.vertices);
    for (const std::uint32_t v : rims[0]) CHECK(out.vertices[v] == m.vertices[v]);
    CHECK(brushed(m, s, {}, true).vertices[rims[0][0]] != m.vertices[rims[0][0]]);
    std::vector<char> may(m.triangles.size(), 1);
    for (std::size_t t = 0; t < may.size(); ++t) may[t] = m.vertices[m.triangles[t][0]].x < kAt.x;
    const mesh::TriMesh half = brushed(m, s, may);
    CHECK(half.vertices != m.vertices);
    for (std::size_t t = 0; t < may.size(); ++t)
        if (!may[t])
            for (const std::uint32_t v : m.triangles[t]) REQUIRE(half.vertices[v] == m.vertices[v]);
    BrushStroke bad = s;
    bad.radius = 0;
    CHECK_THROWS_AS(brushed(m, bad), Error);
    bad = s;
    bad.strength = 1.5;
    CHECK_THROWS_AS(brushed(m, bad), Error);
}

TEST_CASE("RefiningKeepsTheShapeAndLeavesNoLongEdge", "[repair][property]") {
    const std::uint64_t seed = test::seed_for("refine");
    CAPTURE(seed);
    std::mt19937_64 dice(seed);
    for (int round = 0; round < 6; ++round) {
        const mesh::TriMesh m = round % 2 ? demo::ring(18, 2, 0.6) : demo::ball(6, 1, kAt);
        const double edge = 0.04 + 0.02 * round;
        const Vec3 at = m.vertices[dice() % m.vertices.size()];
        std::vector<char> chosen(m.triangles.size(), 0);
        for (std::size_t t = 0; t < chosen.size(); ++t)
            chosen[t] = norm(m.vertices[m.triangles[t][0]] - at) < 0.5;
        const mesh::TriMesh out = refine(m, chosen, edge);
        CHECK(out.triangles.size() > m.triangles.size());
        // As closed, as sound, and with the same holes through it as before; volume and area to rounding.
        const Check a = check(m), b = check(out);
        CHECK(b.closed == a.closed);
        CHECK(b.genus == a.genus);
        CHECK(b.count(Fault::NonManifoldEdge) == 0);
        CHECK(b.count(Fault::NonManifoldVertex) == 0);
        CHECK(b.count(Fault::InconsistentEdge) == 0);
        CHECK(mesh::signed_volume(out) == Approx(mesh::signed_volume(m)).epsilon(1e-9));
        // What was chosen, by its area: no edge of it is longer now.
        for (const auto& t : out.triangles) {
            const Vec3 mid = (out.vertices[t[0]] + out.vertices[t[1]] + out.vertices[t[2]]) * (1 / 3.0);
            if (norm(mid - at) > 0.15) continue;
            for (std::size_t k = 0; k < 3; ++k)
                CHECK(norm(out.vertices[t[k]] - out.vertices[t[(k + 1) % 3]]) <= edge * (1 + 1e-12));
        }
        // Nothing chosen, nothing cut.
        CHECK(refine(m, std::vector<char>(m.triangles.size(), 0), edge).triangles == m.triangles);
    }
    const mesh::TriMesh m = demo::ball(2, 1);
    CHECK_THROWS_AS(refine(m, std::vector<char>(m.triangles.size(), 1), 0), Error);
    CHECK_THROWS_WITH(refine(demo::ball(2, 1e6), std::vector<char>(m.triangles.size(), 1), 100),
                      Catch::Contains("20 million"));
}
