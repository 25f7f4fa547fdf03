// Smoothing and flattening what is chosen: everything else stays to the bit.

#include <catch2/catch.hpp>
#include <cmath>
#include <random>

#include "core/base/error.h"
#include "core/mesh/tri_mesh.h"
#include "core/repair/smooth.h"
#include "support/cloud_makers.h"

using namespace pristine;

namespace {

// A sheet of 40 by 40 squares with noise on a slope.
mesh::TriMesh sheet(std::mt19937_64& dice, double noise) {
    std::normal_distribution<double> n(0, noise > 0 ? noise : 1);
    mesh::TriMesh m;
    for (int y = 0; y <= 40; ++y)
        for (int x = 0; x <= 40; ++x)
            m.vertices.push_back({0.1 * x, 0.1 * y, 0.02 * x + (noise > 0 ? n(dice) : 0)});
    for (std::uint32_t y = 0; y < 40; ++y)
        for (std::uint32_t x = 0; x < 40; ++x) {
            const std::uint32_t a = 41 * y + x;
            m.triangles.push_back({a, a + 1, a + 42});
            m.triangles.push_back({a, a + 42, a + 41});
        }
    return m;
}

double roughness(const mesh::TriMesh& m, const std::vector<char>& chosen) {
    double sum = 0;
    std::size_t n = 0;
    for (std::size_t t = 0; t < m.triangles.size(); ++t)
        if (chosen[t])
            for (const std::uint32_t v : m.triangles[t]) {
                const Vec3& p = m.vertices[v];
                sum += std::pow(p.z - 0.2 * p.x, 2);
                ++n;
            }
    return std::sqrt(sum / static_cast<double>(n));
}

std::vector<char> middle_of(const mesh::TriMesh& m) {
    std::vector<char> chosen;
    for (const auto& t : m.triangles) {
        const Vec3& p = m.vertices[t[0]];
        chosen.push_back(p.x > 0.95 && p.x < 3 && p.y > 0.95 && p.y < 3);
    }
    return chosen;
}

// Corners outside, on the edge of what is chosen and on rims.
void check_untouched(const mesh::TriMesh& before, const mesh::TriMesh& after,
                     const std::vector<char>& chosen) {
    REQUIRE(after.triangles == before.triangles);
    for (std::size_t t = 0; t < before.triangles.size(); ++t)
        if (!chosen[t])
            for (const std::uint32_t v : before.triangles[t])
                REQUIRE(after.vertices[v] == before.vertices[v]);
}

}  // namespace

TEST_CASE("SmoothingEvensOutWhatIsChosenAndNothingElse") {
    const std::uint64_t seed = test::seed_for("smooth");
    CAPTURE(seed);
    std::mt19937_64 dice(seed);
    const mesh::TriMesh m = sheet(dice, 0.01);
    const std::vector<char> chosen = middle_of(m);
    const repair::Moved once = repair::smoothed(m, chosen);
    check_untouched(m, once.mesh, chosen);
    CHECK(once.corners > 300);
    CHECK(once.farthest > 0.005);
    CHECK(once.farthest < 0.05);
    CHECK(roughness(once.mesh, chosen) < 0.6 * roughness(m, chosen));
    const repair::Moved more = repair::smoothed(m, chosen, 60);
    CHECK(roughness(more.mesh, chosen) < roughness(once.mesh, chosen));
    // All of it: rims stay.
    const repair::Moved all = repair::smoothed(m, {});
    for (std::size_t v = 0; v < 41; ++v) CHECK(all.mesh.vertices[v] == m.vertices[v]);
    CHECK(all.corners == 39 * 39);
    CHECK(repair::smoothed(m, std::vector<char>(m.triangles.size(), 0)).corners == 0);
    CHECK_THROWS_AS(repair::smoothed(m, chosen, 10, 0), Error);
    CHECK_THROWS_AS(repair::smoothed(m, chosen, 10, 1.5), Error);
    Progress stopped;
    stopped.cancel();
    CHECK_THROWS_AS(repair::smoothed(m, chosen, 10, 1, stopped), Cancelled);
}

TEST_CASE("FlatteningBringsTheInsideOntoItsPlane") {
    std::mt19937_64 dice(9);
    mesh::TriMesh m = sheet(dice, 0.002);
    const std::vector<char> chosen = middle_of(m);
    // A bump on it does not lift the plane.
    for (Vec3& v : m.vertices)
        if (std::hypot(v.x - 2, v.y - 2) < 0.35) v.z += 0.3;
    const repair::Moved flat = repair::flattened(m, chosen);
    check_untouched(m, flat.mesh, chosen);
    CHECK(flat.farthest == Approx(0.3 / std::sqrt(1.04)).margin(0.02));
    for (std::size_t v = 0; v < m.vertices.size(); ++v) {
        if (flat.mesh.vertices[v] == m.vertices[v]) continue;
        const Vec3& p = flat.mesh.vertices[v];
        CHECK(std::fabs(p.z - 0.2 * p.x) < 0.004);
    }
    std::vector<char> two(m.triangles.size(), 0);
    two[0] = 1;
    CHECK(repair::flattened(m, two).corners == 0);  // three corners make a plane; none is inside
    CHECK_THROWS_AS(repair::flattened(m, std::vector<char>(m.triangles.size(), 0)), Error);
}
