// What a line is for is a value: it comes back from a project and from the files that can hold it.

#include <catch2/catch.hpp>

#include "core/io/lines/lines.h"
#include "core/site/site.h"
#include "core/store/project.h"
#include "support/cloud_makers.h"

using namespace pristine;

namespace {

std::vector<io::MapLine> one_of_each() {
    std::vector<io::MapLine> lines;
    for (int k = 0; k < kLineRoles; ++k) {
        const double x = 100 + 20 * k;
        // The names say something else on purpose.
        lines.push_back({"contour of a breakline " + std::to_string(k),
                         {{x, 0, 1}, {x + 9, 0, 2}, {x + 9, 9, 3}},
                         true,
                         static_cast<LineRole>(k)});
    }
    return lines;
}

}  // namespace

TEST_CASE("RolesOfLinesComeBackFromFilesThatHoldThem", "[lines]") {
    const test::TemporaryFolder f;
    const auto lines = one_of_each();
    for (const char* name : {"l.gpkg", "l.geojson", "l.shp", "l.xml"}) {
        CAPTURE(name);
        io::write_lines(lines, f / name, false, {"EPSG:25832", "m", ""});
        const auto back = io::read_lines(f / name);
        REQUIRE(back.size() == lines.size());
        for (std::size_t k = 0; k < lines.size(); ++k) {
            CHECK(back[k].role == lines[k].role);
        }
    }
}

TEST_CASE("RolesOfLinesAreKeptInTheProject", "[lines][store]") {
    const test::TemporaryFolder f;
    site::SitePtr s = std::make_shared<site::Site>();
    std::vector<site::Line> lines;
    for (const io::MapLine& l : one_of_each()) {
        lines.push_back({0, l.layer, l.points, l.closed, true});
        lines.back().role = *l.role;
    }
    s = site::put_lines(*s, lines);
    store::Project::create(f / "p.pristine")->write({1, "lines", s}, Progress::none());
    const site::SitePtr back = store::Project::open(f / "p.pristine")->load_commit(1);
    REQUIRE(back->lines.size() == lines.size());
    for (std::size_t k = 0; k < lines.size(); ++k) CHECK(back->lines[k]->role == lines[k].role);
}

TEST_CASE("TheNameOfALayerIsAskedOnlyWhereNothingElseSpeaks", "[lines]") {
    CHECK(role_in_name("Breaklines 2025", false) == LineRole::Breakline);
    CHECK(role_in_name("BREAK of slope", true) == LineRole::Breakline);
    CHECK(role_in_name("site boundary", true) == LineRole::Boundary);
    CHECK(role_in_name("site boundary", false) == LineRole::Free);  // an open line bounds nothing
    CHECK(role_in_name("void 3", true) == LineRole::Hole);
    CHECK(role_in_name("Centreline", false) == LineRole::Axis);
    CHECK(role_in_name("Contours 0.5", false) == LineRole::Contour);
    CHECK(role_in_name("kerb", true) == LineRole::Free);
    for (int k = 0; k < kLineRoles; ++k)
        CHECK(role_of_word(name_of(static_cast<LineRole>(k))) == static_cast<LineRole>(k));
    CHECK(role_of_word("Breakline") == LineRole::Free);
    CHECK(role_of_word("") == LineRole::Free);
    // A surface of a LandXML file says what its lines are.
    const test::TemporaryFolder f;
    test::write_file(f / "s.xml",
                     "<LandXML><Surfaces><Surface name=\"contour\"><SourceData><Breaklines><Breakline>"
                     "<PntList3D>0 0 0 1 1 1</PntList3D></Breakline></Breaklines><Boundaries>"
                     "<Boundary bndType=\"outer\"><PntList3D>0 0 0 9 0 0 9 9 0</PntList3D></Boundary>"
                     "<Boundary bndType=\"void\"><PntList3D>1 1 0 2 1 0 2 2 0</PntList3D></Boundary>"
                     "</Boundaries></SourceData></Surface></Surfaces></LandXML>");
    const auto lines = io::read_lines(f / "s.xml");
    REQUIRE(lines.size() == 3);
    CHECK(lines[0].role == LineRole::Breakline);
    CHECK(lines[1].role == LineRole::Boundary);
    CHECK(lines[2].role == LineRole::Hole);
}
