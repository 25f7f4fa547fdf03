// All figures of a surface at once, on surfaces whose figures are known from their shape.

#include "core/measure/board.h"

#include <catch2/catch.hpp>

#include "core/base/error.h"
#include "support/wkt.h"

using namespace pristine;
using measure::BoardRequest;
using measure::CountedFrom;

namespace {

// Squares of 1 x 1 of a field of 10 x 10, at heights z(x, y) of their corners.
template <class Height>
mesh::TriMesh field(int columns, Height&& z) {
    mesh::TriMesh m;
    for (int y = 0; y <= 10; ++y)
        for (int x = 0; x <= columns; ++x)
            m.vertices.push_back({412300.0 + x, 5218930.0 + y, z(static_cast<double>(x))});
    const auto at = [&](int x, int y) { return static_cast<std::uint32_t>(y * (columns + 1) + x); };
    for (int y = 0; y < 10; ++y)
        for (int x = 0; x < columns; ++x) {
            m.triangles.push_back({at(x, y), at(x + 1, y), at(x + 1, y + 1)});
            m.triangles.push_back({at(x, y), at(x + 1, y + 1), at(x, y + 1)});
        }
    return m;
}

mesh::TriMesh level_field(double z, int columns = 10) {
    return field(columns, [z](double) { return z; });
}

}  // namespace

TEST_CASE("TheBoardCountsFromALevel") {
    const mesh::TriMesh m = level_field(52);
    BoardRequest r;
    r.level = 50;
    const measure::Board b = measure::board(m, nullptr, nullptr, r);
    CHECK(b.now.plan_area == Approx(100));
    CHECK(b.before.plan_area == b.now.plan_area);
    REQUIRE(b.volumes);
    CHECK(b.volumes->above == Approx(200));
    CHECK(b.volumes->below == 0);
    CHECK_FALSE(b.volumes_before);
    CHECK_FALSE(b.difference);
}

TEST_CASE("TheBoardSaysWhatWasThereBefore") {
    const mesh::TriMesh now = level_field(52, 6), before = level_field(52);
    BoardRequest r;
    r.level = 50;
    measure::Board b = measure::board(now, &before, nullptr, r);
    CHECK(b.now.plan_area == Approx(60));
    CHECK(b.before.plan_area == Approx(100));
    REQUIRE(b.volumes_before);
    CHECK(b.volumes->above == Approx(120));
    CHECK(b.volumes_before->above == Approx(200));
    // The same surface twice: nothing to say of before.
    b = measure::board(before, &before, nullptr, r);
    CHECK_FALSE(b.volumes_before);
}

TEST_CASE("TheBoardCutsAtALineFirst") {
    const mesh::TriMesh m = level_field(52);
    BoardRequest r;
    r.level = 50;
    r.within = test::places_of(
        "POLYGON((412302.5 5218930, 412307 5218930, 412307 5218935.5, 412302.5 5218935.5, "
        "412302.5 5218930))");
    measure::Board b = measure::board(m, nullptr, nullptr, r);
    CHECK(b.volumes->above == Approx(2 * 4.5 * 5.5));
    CHECK(b.now.plan_area == Approx(100));  // of the whole
    r.within = test::places_of("POLYGON((0 0, 1 0, 1 1, 0 0))");
    b = measure::board(m, nullptr, nullptr, r);
    CHECK_FALSE(b.volumes);
}

TEST_CASE("TheBoardComparesEitherWayRound") {
    const mesh::TriMesh later = level_field(53), earlier = level_field(51);
    BoardRequest r;
    r.from = CountedFrom::OtherSurface;
    r.own = {.noise = 0.01, .systematic = 0.002};
    r.other = {.noise = 0.03};
    measure::Board b = measure::board(later, nullptr, &earlier, r);
    REQUIRE(b.difference);
    CHECK(b.difference->fill == Approx(200));
    CHECK(b.difference->cut == 0);
    CHECK_FALSE(b.volumes);
    CHECK(b.earlier.noise == 0.03);
    CHECK(b.later.noise == 0.01);
    CHECK(b.later.systematic == 0.002);
    CHECK(b.difference->sigma_net > 0.002 * 100);  // at least what they all share
    r.swapped = true;
    b = measure::board(later, nullptr, &earlier, r);
    CHECK(b.difference->cut == Approx(200));
    CHECK(b.difference->fill == 0);
    CHECK(b.earlier.noise == 0.01);
    // Nothing to compare with: no figures of a comparison, and no volumes from anything else.
    b = measure::board(later, nullptr, nullptr, r);
    CHECK_FALSE(b.difference);
    CHECK_FALSE(b.volumes);
}

TEST_CASE("TheBoardCountsFromRimsAndPlanes") {
    // A tent: 0 at both sides, 5 along the middle.
    const mesh::TriMesh tent = field(10, [](double x) { return 50 + (x < 5 ? x : 10 - x); });
    BoardRequest r;
    const auto above = [&](CountedFrom from) {
        r.from = from;
        const measure::Board b = measure::board(tent, nullptr, nullptr, r);
        return b.volumes ? b.volumes->above : NAN;
    };
    CHECK(above(CountedFrom::LowestOfRim) == Approx(250));
    // The rim runs over the ridge, so a surface from rim to rim is the tent itself.
    CHECK(above(CountedFrom::TriangulatedRim) == Approx(0).margin(1e-6));
    r.plane = test::places_of("LINESTRING Z (412300 5218930 49, 412310 5218930 49, 412300 5218940 49)");
    CHECK(above(CountedFrom::Plane) == Approx(350));
    r.plane.pop_back();
    CHECK(std::isnan(above(CountedFrom::Plane)));
    r.plane = test::places_of("LINESTRING Z (412300 5218930 49, 412301 5218930 49, 412302 5218930 49)");
    CHECK_THROWS_AS(above(CountedFrom::Plane), Error);
    CHECK(measure::board({}, nullptr, nullptr, {}).now.plan_area == 0);
}
