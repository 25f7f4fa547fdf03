// Meshes that were cut are put together again as what they were.

#include "core/mesh/merge.h"

#include <catch2/catch.hpp>

#include <algorithm>
#include <array>
#include <cmath>
#include <map>
#include <random>

#include "core/base/error.h"
#include "core/mesh/weld.h"
#include "support/cloud_makers.h"

using namespace pristine;
using mesh::TriMesh;

namespace {

// A ball of so many rings, closed.
TriMesh ball(int rings, double radius, Vec3 centre) {
    TriMesh m;
    const int around = 2 * rings;
    for (int i = 0; i <= rings; ++i)
        for (int k = 0; k < (i == 0 || i == rings ? 1 : around); ++k) {
            const double a = M_PI * i / rings, b = 2 * M_PI * k / around;
            const Vec3 out{std::sin(a) * std::cos(b), std::sin(a) * std::sin(b), std::cos(a)};
            m.vertices.push_back(centre + out * radius);
        }
    const auto at = [&](int i, int k) {
        if (i == 0) return std::uint32_t{0};
        if (i == rings) return static_cast<std::uint32_t>(m.vertices.size() - 1);
        return static_cast<std::uint32_t>(1 + (i - 1) * around + (k % around));
    };
    for (int i = 0; i < rings; ++i)
        for (int k = 0; k < around; ++k) {
            if (i > 0) m.triangles.push_back({at(i, k), at(i + 1, k), at(i, k + 1)});
            if (i + 1 < rings) m.triangles.push_back({at(i, k + 1), at(i + 1, k), at(i + 1, k + 1)});
        }
    return m;
}

std::size_t single_edges(const TriMesh& m) {
    std::map<std::array<std::uint32_t, 2>, int> edges;
    for (const auto& t : m.triangles)
        for (std::size_t k = 0; k < 3; ++k) {
            const std::uint32_t a = t[k], b = t[(k + 1) % 3];
            edges[{std::min(a, b), std::max(a, b)}] += 1;
        }
    return static_cast<std::size_t>(
        std::count_if(edges.begin(), edges.end(), [](const auto& e) { return e.second == 1; }));
}

double area(const TriMesh& m) {
    double sum = 0;
    for (const auto& t : m.triangles)
        sum += 0.5 * norm(cross(m.vertices[t[1]] - m.vertices[t[0]], m.vertices[t[2]] - m.vertices[t[0]]));
    return sum;
}

// Bands, by the height of the middle of each triangle.
std::vector<TriMesh> cut(const TriMesh& m, const std::vector<double>& heights) {
    std::vector<std::vector<std::uint32_t>> in(heights.size() + 1);
    for (std::uint32_t t = 0; t < m.triangles.size(); ++t) {
        double z = 0;
        for (const std::uint32_t v : m.triangles[t]) z += m.vertices[v].z / 3;
        const auto band = std::count_if(heights.begin(), heights.end(), [&](double h) { return h < z; });
        in[static_cast<std::size_t>(band)].push_back(t);
    }
    std::vector<TriMesh> parts;
    for (const auto& list : in)
        if (!list.empty()) parts.push_back(mesh::part_of(m, list));
    return parts;
}

// A strip along x = 0..12 in so many steps.
TriMesh strip(int steps, double y0, double y1) {
    TriMesh m;
    for (int i = 0; i <= steps; ++i) {
        m.vertices.push_back({12.0 * i / steps, y0, 0});
        m.vertices.push_back({12.0 * i / steps, y1, 0});
    }
    for (int i = 0; i < steps; ++i) {
        const auto a = static_cast<std::uint32_t>(2 * i);
        m.triangles.push_back({a, a + 2, a + 1});
        m.triangles.push_back({a + 1, a + 2, a + 3});
    }
    return m;
}

}  // namespace

TEST_CASE("ACutMeshIsPutTogetherAsItWas") {
    const auto seed = test::seed_for("meshes merged");
    CAPTURE(seed);
    std::mt19937_64 dice(seed);
    std::uniform_real_distribution<double> any(-1, 1);
    for (int trial = 0; trial < 12; ++trial) {
        const TriMesh whole = ball(6 + static_cast<int>(dice() % 20), 2, {412300, 5218930, 58});
        std::vector<double> heights{58 + 1.5 * any(dice), 58 + 1.5 * any(dice)};
        std::sort(heights.begin(), heights.end());
        std::vector<TriMesh> parts = cut(whole, heights);
        REQUIRE(single_edges(whole) == 0);
        const mesh::Merged exact = mesh::merged(parts, 0);
        CHECK(single_edges(exact.mesh) == 0);
        CHECK(exact.mesh.vertices.size() == whole.vertices.size());
        CHECK(exact.mesh.triangles.size() == whole.triangles.size());
        CHECK(exact.split == 0);
        CHECK(exact.farthest == 0);
        // Moved apart by less than a millimetre.
        const double tolerance = 0.002;
        for (TriMesh& p : parts)
            for (Vec3& v : p.vertices) v = v + Vec3{any(dice), any(dice), any(dice)} * 0.0005;
        if (parts.size() > 1) CHECK(single_edges(mesh::merged(parts, 0).mesh) > 0);
        const mesh::Merged near = mesh::merged(parts, tolerance);
        CHECK(single_edges(near.mesh) == 0);
        CHECK(near.mesh.vertices.size() == whole.vertices.size());
        CHECK(near.farthest <= tolerance);
        CHECK(near.dropped == 0);
        CHECK(area(near.mesh) == Approx(area(whole)).epsilon(1e-3));
    }
}

TEST_CASE("AFinerMeshPutsItsVerticesIntoTheEdgesOfACoarserOne") {
    for (const bool coarse_first : {true, false}) {
        CAPTURE(coarse_first);
        std::vector<TriMesh> two{strip(4, 0, 2), strip(12, 2.004, 4)};
        if (!coarse_first) std::swap(two[0], two[1]);
        const mesh::Merged m = mesh::merged(two, 0.01);
        CHECK(m.joined == 5);
        CHECK(m.split == 8);
        CHECK(m.farthest == Approx(0.004));
        CHECK(m.mesh.triangles.size() == two[0].triangles.size() + two[1].triangles.size() + 8);
        // Only the outside is open: 4 and 12 edges along, and 4 at the ends... of each strip one.
        CHECK(single_edges(m.mesh) == 4 + 12 + 2 + 2);
        CHECK(area(m.mesh) == Approx(48).margin(0.06));
        for (const auto& t : m.mesh.triangles) {
            const auto& v = m.mesh.vertices;
            CHECK(cross(v[t[1]] - v[t[0]], v[t[2]] - v[t[0]]).z > 0);
        }
        // Beyond the tolerance they stay apart.
        CHECK(single_edges(mesh::merged(two, 0.001).mesh) == 2 * 4 + 2 * 12 + 4);
    }
}

TEST_CASE("AToleranceThatWouldEatDetailsIsRefused") {
    const std::vector<TriMesh> parts = cut(ball(8, 1, {}), {0.1});
    CHECK_THROWS_AS(mesh::merged(parts, -1), Error);
    CHECK_THROWS_AS(mesh::merged(parts, 0.5), Error);
    CHECK(mesh::merged(std::vector<TriMesh>{}, 0).mesh.triangles.empty());
    // Two of one mesh never become one: a slit of a millimetre inside one stays.
    TriMesh slit;
    slit.vertices = {{0, 0, 0}, {1, 0, 0}, {0.5, 1, 0}, {0, -0.001, 0}, {1, -0.001, 0}, {0.5, -1, 0}};
    slit.triangles = {{0, 1, 2}, {4, 3, 5}};
    CHECK(single_edges(mesh::merged(std::vector<TriMesh>{slit}, 0.01).mesh) == 6);
}

TEST_CASE("SurfacesThatLieOverEachOtherAreNoOneSurface") {
    const auto square = [](double x, double y, double z) {
        TriMesh m;
        m.vertices = {{x, y, z}, {x + 2, y, z}, {x + 2, y + 2, z}, {x, y + 2, z}};
        m.triangles = {{0, 1, 2}, {0, 2, 3}};
        return m;
    };
    CHECK(mesh::overlapping(std::vector<TriMesh>{square(0, 0, 0), square(2, 0, 5)}) == 0);  // side by side
    CHECK(mesh::overlapping(std::vector<TriMesh>{square(0, 0, 0), square(1, 0, 5)}) > 0);
    CHECK(mesh::overlapping(std::vector<TriMesh>{square(0, 0, 0), square(0, 0, 0)}) > 0);
}
