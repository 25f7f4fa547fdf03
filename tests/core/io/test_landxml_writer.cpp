// LandXML as we write it: read back by our own readers, and looked at with a parser of XML alone.

#include <catch2/catch.hpp>

#include <cmath>
#include <pugixml.hpp>
#include <random>

#include "core/base/error.h"
#include "core/cloud/triangles.h"
#include "core/io/cloud_io.h"
#include "core/io/landxml_writer.h"
#include "core/io/lines/lines.h"
#include "core/measure/figures.h"
#include "core/surface/definition.h"
#include "support/cloud_makers.h"

using namespace pristine;

namespace {

std::shared_ptr<const cloud::PointCloud> slope(double height, const std::string& unit) {
    surface::Definition d;
    for (int i = 0; i <= 10; ++i)
        for (int k = 0; k <= 5; ++k) d.points.push_back({i * 2.0, k * 2.0, height + 0.1 * i});
    cloud::TriangleParts parts{unit, "EPSG:2277", true, {}, {}, {}};
    return cloud::cloud_of_triangles(surface::build(d).mesh, parts);
}

bool same(const io::MapLine& a, const std::vector<Vec3>& points) {
    if (a.points.size() != points.size()) return false;
    for (std::size_t i = 0; i < points.size(); ++i)
        if (!(a.points[i] == points[i])) return false;
    return true;
}

}  // namespace

// Two surfaces on top of each other stay two: joined, their area would be doubled.
TEST_CASE("SeveralSurfacesInOneLandXmlStaySeveral") {
    const test::TemporaryFolder f;
    const std::vector<Vec3> toe{{0, 1, 5}, {4.1, 1, 5.25}, {20, 1, 6}},
        rim{{0, 0, 5}, {20, 0, 6}, {20, 10, 6}, {0, 10, 5}}, pond{{4, 4, 5}, {6, 4, 5}, {6, 6, 5}};
    io::WriteItem lower{slope(5, "usft")}, upper{slope(9, "usft")};
    lower.name = "Bank <2> & \"Höhe\"";
    lower.breaklines = {{"toe", toe, false}};
    lower.boundaries = {{"boundary", rim, true}, {"boundary", pond, true}};
    upper.name = "Design";
    CHECK(io::write_cloud({lower, upper}, f / "two.xml") == 200);

    const auto items = io::read_items(f / "two.xml");
    REQUIRE(items.size() == 2);
    CHECK(items[0].name == lower.name);
    CHECK(items[1].name == "Design");
    for (const auto& item : items) {
        CHECK(item.cloud->size() == 100);
        CHECK(item.cloud->unit() == "usft");
        CHECK(measure::figures(*item.cloud->triangles()).plan_area == Approx(200));
    }
    const auto lines = io::read_lines(f / "two.xml");
    REQUIRE(lines.size() == 3);
    CHECK(same(lines[0], rim));
    CHECK(lines[0].closed);
    CHECK(same(lines[1], pond));
    CHECK(same(lines[2], toe));
    CHECK_FALSE(lines[2].closed);
    CHECK(lines[2].layer.find("toe") != std::string::npos);

    pugi::xml_document doc;
    REQUIRE(doc.load_file((f / "two.xml").c_str()));
    const auto surface = doc.child("LandXML").child("Surfaces").child("Surface");
    CHECK(surface.attribute("name").value() == lower.name);
    const auto ring = surface.child("SourceData").child("Boundaries").child("Boundary");
    CHECK(std::string(ring.attribute("bndType").value()) == "outer");
    CHECK(std::string(ring.next_sibling().attribute("bndType").value()) == "void");
    CHECK(std::string(ring.child("PntList3D").text().get()) == "0 0 5 0 20 6 10 20 6 10 0 5 0 0 5");
}

TEST_CASE("LinesBecomeAlignmentsAndPlanFeatures") {
    const test::TemporaryFolder f;
    const auto seed = std::random_device{}();
    CAPTURE(seed);
    std::mt19937_64 random(seed);
    std::uniform_real_distribution<double> place(-1e7, 1e7);
    std::vector<io::MapLine> lines;
    for (int i = 0; i < 20; ++i) {
        lines.push_back({"line " + std::to_string(i), {}, i % 3 == 0});
        for (int k = 0; k < 3 + i % 5; ++k)
            lines.back().points.push_back({place(random), place(random), place(random)});
    }
    io::write_lines(lines, f / "lines.xml", false, {"", "m", ""});
    CHECK_THROWS_AS(io::write_lines(lines, f / "lines.xml", false), Error);  // it is there already
    CHECK(io::reference_of_lines(f / "lines.xml").unit == "m");
    const auto back = io::read_lines(f / "lines.xml");
    REQUIRE(back.size() == lines.size());
    std::size_t found = 0;
    for (const io::MapLine& b : back)
        for (const io::MapLine& l : lines) found += same(b, l.points) && b.closed == l.closed;
    CHECK(found == lines.size());
    pugi::xml_document doc;
    REQUIRE(doc.load_file((f / "lines.xml").c_str()));
    const auto alignment = doc.child("LandXML").child("Alignments").child("Alignment");
    CHECK(std::string(alignment.attribute("name").value()) == "line 1");
    double length = 0;
    for (std::size_t i = 1; i < lines[1].points.size(); ++i)
        length += norm(lines[1].points[i] - lines[1].points[i - 1]);
    CHECK(alignment.attribute("length").as_double() == Approx(length));
}

TEST_CASE("SurveyPointsKeepNamesAndCodesInLandXml") {
    const test::TemporaryFolder f;
    io::PointList list{
        "Ashmere", {{1.5, 2.25, 3}, {4, 5, 6}, {7, 8, 9.125}}, {"P1", "", "Ü&3"}, {"TOE", "", "SP"}};
    const auto cloud = io::cloud_of_points(list, {"EPSG:25832", "m", ""});
    io::WriteItem item{cloud};
    item.name = "Ashmere";
    CHECK(io::write_cloud({item}, f / "p.xml") == 3);
    const auto read = io::read_cloud(f / "p.xml");
    REQUIRE(read.cloud->size() == 3);
    CHECK(read.cloud->unit() == "m");
    CHECK(read.cloud->crs() == "EPSG:25832");
    pugi::xml_document doc;
    REQUIRE(doc.load_file((f / "p.xml").c_str()));
    const auto first = doc.child("LandXML").child("CgPoints").child("CgPoint");
    CHECK(std::string(first.attribute("name").value()) == "P1");
    CHECK(std::string(first.attribute("code").value()) == "TOE");
    CHECK(std::string(first.text().get()) == "2.25 1.5 3");
    const auto second = first.next_sibling();
    CHECK(std::string(second.attribute("name").value()) == "2");
    CHECK_FALSE(second.attribute("code"));
    CHECK(std::string(second.next_sibling().attribute("name").value()) == "Ü&3");
}

// What cannot be in it is said or refused: marks of removed points, columns of words other than name and
// code.
TEST_CASE("LandXmlSaysWhatItCannotHold") {
    const test::TemporaryFolder f;
    const auto cloud = io::cloud_of_points({"A", {{1, 2, 3}, {4, 5, 6}}, {"P1", "P2"}, {"TOE", "SP"}}, {});
    for (const io::Dropped mark : {io::Dropped::Withheld, io::Dropped::Noise, io::Dropped::HighNoise}) {
        io::WriteItem marked{cloud};
        marked.dropped = mark;
        CHECK_THROWS_WITH(io::write_cloud({marked}, f / "m.xml"), Catch::Contains("Only LAS and LAZ"));
        CHECK_FALSE(std::filesystem::exists(f / "m.xml"));
    }
    CHECK(io::lost_in({{cloud}}, f / "p.xml").empty());
    CHECK(io::lost_in({{cloud}}, f / "p.las").size() == 1);
}

// A closed body would come back without its underside: it is refused, not cut in half.
TEST_CASE("LandXmlRefusesWhatFacesDownwards") {
    const test::TemporaryFolder f;
    mesh::TriMesh tetrahedron{{{0, 0, 0}, {1, 0, 0}, {0, 1, 0}, {0, 0, 1}},
                              {{0, 2, 1}, {0, 1, 3}, {1, 2, 3}, {0, 3, 2}}};
    cloud::TriangleParts parts{"m", "", false, {}, {}, {}};
    CHECK_THROWS_WITH(io::write_cloud({{cloud::cloud_of_triangles(tetrahedron, parts)}}, f / "t.xml"),
                      Catch::Contains("face downwards"));
    CHECK_FALSE(std::filesystem::exists(f / "t.xml"));
}
