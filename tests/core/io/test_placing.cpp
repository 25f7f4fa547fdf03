// Lines and fences in another unit or system than the data that they are used with.

#include <catch2/catch.hpp>

#include <cmath>
#include <random>

#include "core/base/error.h"
#include "core/io/fence_file.h"
#include "core/io/lines/lines.h"
#include "core/io/reference/placing.h"
#include "support/cloud_makers.h"

using namespace pristine;

namespace {

constexpr double kFoot = 1200.0 / 3937;  // US survey foot

std::vector<io::MapLine> square(double x, double y, double side) {
    return {{"yard", {{x, y, 10}, {x + side, y, 10}, {x + side, y + side, 10}, {x, y + side, 10}}, true}};
}

}  // namespace

TEST_CASE("LinesOfOtherUnitsOrSystemsAreBroughtToTheData") {
    const test::TemporaryFolder folder;
    const auto file = folder / "yard.gpkg";
    // Texas, by zone in US survey feet and by zone in metres.
    io::write_lines(square(3100000, 10000000, 100), file, false, {"EPSG:2277", "usft", ""});
    const io::PlacedLines same = io::read_lines_in(file, {"EPSG:2277", "usft", ""});
    CHECK(same.note.empty());
    CHECK(same.lines[0].points[0].x == 3100000);

    // The same grid in metres has another code: the corner by the foot's own definition.
    const io::PlacedLines metres = io::read_lines_in(file, {"EPSG:32139", "m", ""});
    CHECK(metres.note.find("converted from") == 0);
    CHECK(metres.note.find("US survey feet") != std::string::npos);
    REQUIRE(metres.lines[0].points.size() == 4);
    CHECK(metres.lines[0].points[0].x == Approx(3100000 * kFoot).margin(0.001));
    CHECK(metres.lines[0].points[0].y == Approx(10000000 * kFoot).margin(0.001));
    CHECK(metres.lines[0].points[0].z == Approx(10 * kFoot));
    CHECK(metres.lines[0].closed);

    // Data that state their unit only: by the factor of the units.
    const io::PlacedLines factor = io::read_lines_in(file, {"", "m", ""});
    CHECK(factor.lines[0].points[2].x == Approx(3100100 * kFoot).margin(1e-6));
    // Data in a unit that is not that of their system.
    const io::PlacedLines millimetres = io::read_lines_in(file, {"EPSG:32139", "mm", ""});
    CHECK(millimetres.lines[0].points[0].x == Approx(3100000 * kFoot * 1000).margin(1));
    // Nothing is known of the data: as the file has them.
    CHECK(io::read_lines_in(file, {}).lines[0].points[0].x == 3100000);

    // Rings likewise, in plan.
    const io::PlacedRings rings = io::read_rings_in(file, {"", "m", ""});
    CHECK(rings.rings[0][0].x == Approx(3100000 * kFoot).margin(1e-6));
    CHECK_FALSE(rings.note.empty());
}

TEST_CASE("LinesInDegreesFitOnlyWhereTheSystemOfTheDataIsKnown") {
    const test::TemporaryFolder folder;
    const auto file = folder / "site.gpkg";
    io::write_lines(square(9, 48, 0.001), file, false, {"EPSG:4326", "deg", ""});
    const io::PlacedLines zone = io::read_lines_in(file, {"EPSG:32632", "m", ""});
    CHECK(zone.lines[0].points[0].x == Approx(500000).margin(1e-3));  // the middle meridian of the zone
    CHECK(zone.lines[0].points[0].z == Approx(10));
    CHECK_THROWS_AS(io::read_lines_in(file, {"", "m", ""}), Error);
    CHECK_THROWS_AS(io::read_rings_in(file, {"", "ft", ""}), Error);
}

// There and back, for places of the whole zone, drawn anew at each run.
TEST_CASE("PlacesComeBackFromAnotherSystemAndUnit") {
    const auto seed = std::random_device{}();
    CAPTURE(seed);
    std::mt19937_64 random(seed);
    std::uniform_real_distribution<double> east(250000, 750000), north(1000000, 8000000), up(-100, 4000);
    const cloud::Reference metres{"EPSG:32632", "m", ""}, feet{"EPSG:25832", "ft", ""};
    io::Placing there(metres, feet), back(feet, metres);
    std::vector<Vec3> places, moved;
    for (int i = 0; i < 2000; ++i) places.push_back({east(random), north(random), up(random)});
    moved = places;
    there.apply(moved);
    for (std::size_t i = 0; i < places.size(); ++i) {
        REQUIRE(moved[i].x == Approx(places[i].x / 0.3048).margin(5));  // datums a metre apart
        REQUIRE(moved[i].z == Approx(places[i].z / 0.3048).margin(1e-9));
    }
    back.apply(moved);
    for (std::size_t i = 0; i < places.size(); ++i)
        for (int a = 0; a < 3; ++a) REQUIRE(moved[i][a] == Approx(places[i][a]).margin(1e-3));
}
