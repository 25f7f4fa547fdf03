// A surface in one call: the window and the command line make the same from the same.

#include "core/surface/make.h"

#include <catch2/catch.hpp>

#include <cmath>

#include "core/base/error.h"
#include "core/measure/figures.h"
#include "support/cloud_makers.h"
#include "support/wkt.h"

using namespace pristine;

namespace {

// Gentle waves, a point every metre.
surface::Definition waves() {
    surface::Definition d;
    for (int y = 0; y <= 30; ++y)
        for (int x = 0; x <= 30; ++x)
            d.points.push_back({412300.0 + x, 5218930.0 + y, 58 + std::sin(0.2 * x) * std::cos(0.15 * y)});
    return d;
}

}  // namespace

TEST_CASE("ASurfaceIsMadeOfAllPointsOrOfEnough") {
    const surface::Made all = surface::make(waves(), 0);
    CHECK(all.given == 961);
    CHECK(all.definition.points.size() == 961);
    CHECK(all.built.report.points == 961);
    for (const double tolerance : {0.01, 0.05, 0.2}) {
        const surface::Made thin = surface::make(waves(), tolerance);
        CAPTURE(tolerance);
        CHECK(thin.given == 961);
        CHECK(thin.definition.points.size() < all.definition.points.size());
        CHECK(thin.built.report.points == thin.definition.points.size());
        CHECK(measure::figures(thin.built.mesh).plan_area == Approx(900));
        // None of the points that were left out lies farther off than allowed.
        const measure::Volumes v = measure::volumes(thin.built.mesh, measure::level(50));
        CHECK(std::abs(v.above - measure::volumes(all.built.mesh, measure::level(50)).above) < 900 * tolerance);
        // Built from what is left it is the same surface.
        CHECK(surface::build(thin.definition).mesh.vertices == thin.built.mesh.vertices);
    }
}

TEST_CASE("ASurfaceOfNothingIsRefused") {
    surface::Definition d = waves();
    d.limits.longest_edge = 0.1;
    CHECK_THROWS_AS(surface::make(d, 0), Error);
    d = waves();
    d.boundary = {test::places_of("POLYGON((0 0, 1 0, 1 1, 0 1, 0 0))")};
    try {
        surface::make(d, 0);
        CHECK(false);
    } catch (const Error& e) {
        CHECK(e.code() == ErrorCode::Empty);
    }
    CHECK_THROWS_AS(surface::make({}, 0.1), Error);
}

TEST_CASE("PlacesOfASetAreThoseOfItsMembers") {
    const auto cloud = test::random_cloud(70'000, test::Shape::Terrain, test::seed_for("PlacesOfASet"));
    ElementSet some(cloud->size());
    for (std::uint64_t e = 3; e < cloud->size(); e += 7) some.insert(e);
    std::vector<Vec3> wanted;
    some.for_each([&](std::uint64_t e) { wanted.push_back(cloud->position(e)); });
    CHECK(surface::places_of(*cloud, some) == wanted);
    CHECK(surface::places_of(*cloud, ElementSet(cloud->size())).empty());
}
