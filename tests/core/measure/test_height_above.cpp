// What lies below a place, against scenes of which that is known.

#include "core/measure/height_above.h"

#include <catch2/catch.hpp>

#include <cmath>
#include <random>

#include "core/cloud/builder.h"
#include "core/cloud/triangles.h"
#include "core/mesh/tri_mesh.h"
#include "support/cloud_makers.h"

using namespace pristine;

namespace {

std::shared_ptr<const cloud::PointCloud> cloud_of(const std::vector<Vec3>& places) {
    std::vector<cloud::PointBatch> batches(1);
    for (const Vec3& p : places) {
        batches[0].x.push_back(static_cast<std::int32_t>(std::lround(p.x * 1000)));
        batches[0].y.push_back(static_cast<std::int32_t>(std::lround(p.y * 1000)));
        batches[0].z.push_back(static_cast<std::int32_t>(std::lround(p.z * 1000)));
    }
    cloud::PointCloud::Parts parts;
    parts.grid.scale = {1e-3, 1e-3, 1e-3};
    cloud::RecordLayout layout;
    layout.record_bytes = 1;
    parts.records = std::make_shared<cloud::MemoryRecords>(layout, std::string(places.size(), '\0'));
    return cloud::build(std::move(batches), std::move(parts));
}

}  // namespace

TEST_CASE("TheGroundIsFoundUnderWhatStandsOnIt") {
    const auto seed = test::seed_for("ground below");
    CAPTURE(seed);
    std::mt19937_64 dice(seed);
    std::uniform_real_distribution<double> any(-10, 10);
    std::normal_distribution<double> noise(0, 0.005);
    for (const double metre : {1.0, 1 / 0.3048}) {
        std::vector<Vec3> places;
        const double bx = 0.05 * any(dice) / 10, by = 0.05 * any(dice) / 10;
        const auto ground = [&](double x, double y) { return 58 + bx * x + by * y; };
        for (int k = 0; k < 40'000; ++k) {
            const double x = any(dice), y = any(dice);
            // A post of 0.5 m is scanned instead of the ground below it.
            const bool post = std::hypot(x, y) < 0.25;
            places.push_back({x * metre, y * metre, (post ? 59.7 : ground(x, y) + noise(dice)) * metre});
        }
        for (int k = 0; k < 2000; ++k)
            places.push_back(
                {0.25 * std::cos(k) * metre, 0.25 * std::sin(k) * metre, (58.2 + 1.5 * k / 2000) * metre});
        const auto cloud = cloud_of(places);
        const ElementSet all = ElementSet::all(cloud->size());
        const auto z = measure::ground_below(*cloud, all, {0, 0, 59.75 * metre}, metre);
        REQUIRE(z);
        CHECK(*z / metre == Approx(58).margin(0.02));
        // Below all points there is none; nor far away.
        CHECK_FALSE(measure::ground_below(*cloud, all, {0, 0, 40 * metre}, metre));
        CHECK_FALSE(measure::ground_below(*cloud, all, {200 * metre, 0, 60 * metre}, metre));
        // What is not shown does not count.
        CHECK_FALSE(measure::ground_below(*cloud, ElementSet(cloud->size()), {0, 0, 60 * metre}, metre));
    }
}

TEST_CASE("TheSurfaceBelowIsTheNextOneDown") {
    mesh::TriMesh m;
    for (const double z : {0.0, 3.0, 6.0}) {
        const auto n = static_cast<std::uint32_t>(m.vertices.size());
        m.vertices.insert(m.vertices.end(), {{0, 0, z}, {10, 0, z + 1}, {10, 10, z + 1}, {0, 10, z}});
        m.triangles.push_back({n, n + 1, n + 2});
        m.triangles.push_back({n, n + 2, n + 3});
    }
    const auto cloud = cloud::cloud_of_triangles(m, {"m", {}});
    const ElementSet all = ElementSet::all(cloud->size());
    CHECK(*measure::surface_below(*cloud, all, {5, 2, 5}) == Approx(3.5));
    CHECK(*measure::surface_below(*cloud, all, {5, 5, 100}) == Approx(6.5));
    CHECK(*measure::surface_below(*cloud, all, {5, 2, -4}) == Approx(0.5));  // all are above
    CHECK_FALSE(measure::surface_below(*cloud, all, {11, 2, 5}));
    CHECK_FALSE(measure::surface_below(*cloud, ElementSet(cloud->size()), {5, 2, 5}));
}
