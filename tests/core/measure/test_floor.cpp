// What one stands on: floors under ceilings, stairs, strays, holes; of points and of triangles.

#include <catch2/catch.hpp>
#include <cmath>
#include <random>

#include "core/cloud/builder.h"
#include "core/cloud/triangles.h"
#include "core/measure/floor.h"
#include "support/cloud_makers.h"

using namespace pristine;

namespace {

// Two storeys of 3 m with a hole in the upper floor, noise of a centimetre, and strays between.
struct House {
    std::vector<Vec3> points;
    explicit House(std::mt19937_64& dice) {
        std::uniform_real_distribution<double> along(0, 10);
        std::normal_distribution<double> noise(0, 0.01);
        for (int i = 0; i < 60'000; ++i) {
            const double x = along(dice), y = along(dice), level = i % 3 * 3.0;
            if (level == 3 && std::hypot(x - 5, y - 5) < 1.2) continue;
            points.push_back({x, y, level + noise(dice)});
        }
        for (int i = 0; i < 150; ++i) points.push_back({along(dice), along(dice), 0.6 * along(dice)});
    }
    std::shared_ptr<const cloud::PointCloud> cloud(double unit) const {
        cloud::PointBatch b;
        for (const Vec3& p : points) {
            b.x.push_back(static_cast<std::int32_t>(std::lround(p.x * unit * 1000)));
            b.y.push_back(static_cast<std::int32_t>(std::lround(p.y * unit * 1000)));
            b.z.push_back(static_cast<std::int32_t>(std::lround(p.z * unit * 1000)));
        }
        cloud::PointCloud::Parts parts;
        parts.grid = {{0.001, 0.001, 0.001}, {4e5, 5e6, 100}};
        return cloud::build({b}, std::move(parts));
    }
};

}  // namespace

TEST_CASE("SomeoneStandsOnTheFloorOfTheStoreyWhereTheEyesAre") {
    const std::uint64_t seed = test::seed_for("Floor");
    CAPTURE(seed);
    std::mt19937_64 dice(seed);
    std::uniform_real_distribution<double> along(0.5, 9.5);
    for (const double unit : {1.0, 1 / 0.3048}) {
        const House house(dice);
        const auto c = house.cloud(unit);
        const ElementSet all = ElementSet::all(c->size());
        const measure::FloorReach reach{1.05 * unit, 2.65 * unit, 0.3 * unit};
        for (int round = 0; round < 200; ++round) {
            const double x = along(dice), y = along(dice);
            const int storey = round % 2;
            const Vec3 eye{4e5 + x * unit, 5e6 + y * unit, 100 + (storey * 3 + 1.65) * unit};
            const auto z = measure::floor_below(*c, all, eye, reach);
            CAPTURE(unit, round, x, y, storey);
            const double to_hole = std::hypot(x - 5, y - 5);
            if (storey == 1 && to_hole < 0.9) {
                CHECK_FALSE(z);  // the floor below the hole is 4.65 m under the eyes
            } else if (storey == 0 || to_hole > 1.2) {
                REQUIRE(z);
                CHECK(std::fabs((*z - 100) / unit - storey * 3) < 0.03);
            }
            ElementSet upper(c->size());
            for (std::uint64_t e = 0; e < c->size(); ++e)
                if ((c->position(e).z - 100) / unit > 1.5) upper.insert(e);
            if (round == 0) CHECK_FALSE(measure::floor_below(*c, upper, eye, reach));  // hidden
        }
        CHECK_FALSE(measure::floor_below(*c, all, {4e5 - 5, 5e6, 101.65}, reach));
    }
}

TEST_CASE("StairsOfTrianglesAreClimbedStepByStep") {
    mesh::TriMesh m;
    for (int step = 0; step < 8; ++step) {
        const double x = step * 0.3, z = step * 0.18;
        const auto first = static_cast<std::uint32_t>(m.vertices.size());
        for (const Vec3& v : {Vec3{x, 0, z}, Vec3{x + 0.3, 0, z}, Vec3{x + 0.3, 1, z}, Vec3{x, 1, z}})
            m.vertices.push_back(v);
        m.triangles.push_back({first, first + 1, first + 2});
        m.triangles.push_back({first, first + 2, first + 3});
    }
    const auto c = cloud::cloud_of_triangles(m, {"m", ""});
    const ElementSet all = ElementSet::all(c->size());
    for (int step = 0; step < 8; ++step) {
        const double floor = step * 0.18;
        const auto z =
            measure::floor_below(*c, all, {step * 0.3 + 0.15, 0.4, floor + 1.65}, {1.05, 2.65, 0.3});
        REQUIRE(z);
        CHECK(*z == Approx(floor).margin(1e-9));
    }
    CHECK_FALSE(measure::floor_below(*c, all, {0.15, 0.4, 9}, {1.05, 2.65, 0.3}));
    CHECK_FALSE(measure::floor_below(*c, all, {0.15, 0.4, -1}, {1.05, 2.65, 0.3}));
}
