// Triangles that are peeled off the rim: as a value of each triangle, against peeling itself.

#include <catch2/catch.hpp>
#include <cmath>
#include <random>

#include "core/surface/definition.h"
#include "core/surface/triangle_values.h"
#include "support/cloud_makers.h"

using namespace pristine;
using namespace pristine::surface;

TEST_CASE("AValueOfTheRimSaysBelowWhichLimitATriangleIsPeeled") {
    const std::uint64_t seed = test::seed_for("Peel");
    CAPTURE(seed);
    std::mt19937_64 dice(seed);
    std::uniform_real_distribution<double> u(0, 1);
    for (int round = 0; round < 25; ++round) {
        Definition d;
        // A bent band of points, so that there are bays, and now and then a hole.
        for (int i = 0; i < 300; ++i) {
            const double a = 4.5 * u(dice), r = 20 + 8 * u(dice);
            if (round % 3 == 0 && std::hypot(r - 24, 10 * (a - 2)) < 3) continue;
            d.points.push_back({4e5 + r * std::cos(a), 5e6 + r * std::sin(a), u(dice)});
        }
        const mesh::TriMesh m = build(d).mesh;
        const std::vector<double> edges = triangle_values(m, TriangleValue::RimEdge);
        const std::vector<double> angles = triangle_values(m, TriangleValue::RimAngle);
        std::size_t peeled = 0;
        for (int limit = 0; limit < 12; ++limit) {
            const double edge = 0.5 + 20 * u(dice) * u(dice), angle = 60 + 119 * u(dice);
            std::vector<char> by_edge(m.triangles.size(), 0), by_angle = by_edge;
            for (const std::uint32_t t : within_limits(m, {0, edge, 0}, {})) by_edge[t] = 1;
            for (const std::uint32_t t : within_limits(m, {0, 0, angle}, {})) by_angle[t] = 1;
            for (std::size_t t = 0; t < m.triangles.size(); ++t) {
                CAPTURE(round, edge, angle, t, edges[t], angles[t]);
                REQUIRE((edges[t] > edge) == !by_edge[t]);
                REQUIRE((angles[t] > angle) == !by_angle[t]);
                peeled += by_edge[t] == 0;
            }
        }
        CHECK(peeled > 50);
    }
}

TEST_CASE("WhereNoRimIsNothingIsPeeled") {
    mesh::TriMesh m;  // a closed body
    m.vertices = {{0, 0, 0}, {1, 0, 0}, {0, 1, 0}, {0, 0, 1}};
    m.triangles = {{0, 2, 1}, {0, 1, 3}, {1, 2, 3}, {2, 0, 3}};
    for (const double v : triangle_values(m, TriangleValue::RimEdge)) CHECK(std::isnan(v));
    CHECK(triangle_values({}, TriangleValue::RimAngle).empty());
}
