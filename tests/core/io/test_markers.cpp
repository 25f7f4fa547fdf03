// Coded markers and their places, from files.

#include <catch2/catch.hpp>

#include "core/base/error.h"
#include "core/io/markers/markers.h"
#include "core/repair/check.h"
#include "core/repair/one.h"
#include "core/repair/patch.h"
#include "demo/milestone.h"
#include "support/cloud_makers.h"

using namespace pristine;
using namespace pristine::repair;

TEST_CASE("MarkersAreReadInAnyOrderAndFaultsNamedByLine", "[io]") {
    const test::TemporaryFolder folder;
    test::write_file(folder / "stone-markers.csv",
                     "Kind;Radius;Z;Y;X;Name;note\r\ntarget;0.01;3;2;1;M1;a\r\n\r\nsphere;0.02;6;5;4;;b\r\n");
    const auto m = io::read_markers(folder / "stone-markers.csv");
    REQUIRE(m.size() == 2);
    CHECK(m[0].name == "M1");
    CHECK(m[0].place == Vec3{1, 2, 3});
    CHECK(m[0].radius == 0.01);
    CHECK(m[1].name == "marker 2");
    CHECK(m[1].kind == "sphere");
    CHECK(io::markers_beside(folder / "stone-scan.ply") == folder / "stone-markers.csv");
    CHECK(io::markers_beside(folder / "stone.ply") == folder / "stone-markers.csv");
    CHECK(io::markers_beside(folder / "other.ply").empty());
    const auto fault = [&](const char* text) {
        test::write_file(folder / "bad.csv", text);
        try {
            io::read_markers(folder / "bad.csv");
        } catch (const Error& e) {
            return std::string(e.what());
        }
        return std::string();
    };
    CHECK_THAT(fault("name,x,y,radius\n"), Catch::Contains("no column 'z'"));
    CHECK_THAT(fault("x,y,z,radius\n1,2,3,0.1\n1,2,x3,0.1\n"), Catch::Contains("line 3"));
    CHECK_THAT(fault("x,y,z,radius\n1,2,3,-1\n"), Catch::Contains("larger than 0"));
    CHECK_THAT(fault("x,y,z,radius\n1,2\n"), Catch::Contains("no number"));
    CHECK_THAT(fault("x,y,z,radius\n"), Catch::Contains("no markers"));
    // Any other table, its columns named: diameters, decimal commas, words where numbers belong.
    test::write_file(
        folder / "list.txt",
        "Survey of the stone\nno E N H size code\n7 1,5 2 3 0,02 dot\n8 4 5 6 x dot\n9 4 5 6 0,04 "
        "cross\n");
    io::TextReading said{2, 0, true, {"point", "x", "y", "z", "diameter", "code"}, {}};
    std::vector<std::string> left_out;
    const auto table = io::read_marker_table(folder / "list.txt", said, 0, left_out);
    REQUIRE(table.size() == 2);
    CHECK(table[0].name == "7");
    CHECK(table[0].place == Vec3{1.5, 2, 3});
    CHECK(table[0].radius == Approx(0.01));
    CHECK(table[1].kind == "cross");
    CHECK(left_out == std::vector<std::string>{"line 2: no radius above 0"});
    said.columns = {"point", "x", "y", "z", "note", "code"};
    CHECK_THROWS_WITH(io::read_marker_table(folder / "list.txt", said, 0, left_out),
                      Catch::Contains("how large the markers are"));
    CHECK(io::read_marker_table(folder / "list.txt", said, 0.005, left_out).size() == 3);
    said.columns[3] = "height";
    CHECK_THROWS_AS(io::read_marker_table(folder / "list.txt", said, 0.005, left_out), Error);
    // Those of the demo site lie on the stone.
    demo::write_milestone(folder.path(), false);
    const auto stone = demo::milestone();
    for (const io::Marker& k : io::read_markers(folder / "milestone-markers.csv")) {
        std::vector<char> met(stone.triangles.size(), 0);
        mark_round(stone, k.place, k.radius, met);
        CHECK(std::count(met.begin(), met.end(), 1) > 0);
    }
}
