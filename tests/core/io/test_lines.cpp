#include <catch2/catch.hpp>

#include <gdal_priv.h>
#include <gdal_utils.h>
#include <ogrsf_frmts.h>

#include "core/base/error.h"
#include "core/io/fence_file.h"
#include "core/io/lines/lines.h"
#include "support/cloud_makers.h"

using namespace pristine;

namespace {

// Two closed yards and an open line, as GeoJSON.
const char* kYards = R"({"type":"FeatureCollection","features":[
 {"type":"Feature","properties":{"Layer":"yard"},"geometry":{"type":"LineString","coordinates":[[0,0,1],[10,0,1],[10,5,2],[0,5,2],[0,0,1]]}},
 {"type":"Feature","properties":{"Layer":"yard"},"geometry":{"type":"LineString","coordinates":[[20,0,1],[30,0,1],[25,8,1],[20,0,1]]}},
 {"type":"Feature","properties":{"Layer":"edge"},"geometry":{"type":"LineString","coordinates":[[0,-5,3],[30,-5,4]]}}]})";

std::string line_error(const std::filesystem::path& file) {
    try {
        io::read_lines(file);
    } catch (const Error& e) {
        return e.what();
    }
    return {};
}

}  // namespace

TEST_CASE("DxfLinesKeepLayersAndHeights") {
    const test::TemporaryFolder folder;
    // A closed polyline, written by hand as the format's description has it, and a line.
    test::write_file(folder / "yard.dxf",
                     "0\nSECTION\n2\nENTITIES\n"
                     "0\nLWPOLYLINE\n8\nyard\n90\n4\n70\n1\n38\n58."
                     "5\n10\n0\n20\n0\n10\n10\n20\n0\n10\n10\n20\n5\n10\n0\n20\n5\n"
                     "0\nLINE\n8\nedge\n10\n0\n20\n-5\n30\n3\n11\n30\n21\n-5\n31\n4\n"
                     "0\nENDSEC\n0\nEOF\n");
    const auto lines = io::read_lines(folder / "yard.dxf");
    REQUIRE(lines.size() == 2);
    CHECK(lines[0].layer == "yard");
    CHECK(lines[0].closed);
    REQUIRE(lines[0].points.size() == 4);
    CHECK(lines[0].points[2].x == 10);
    CHECK(lines[0].points[2].z == 58.5);
    CHECK_FALSE(lines[1].closed);
    CHECK(lines[1].points[1].z == 4);
    const auto rings = io::read_rings(folder / "yard.dxf");
    REQUIRE(rings.size() == 1);
    CHECK(rings[0].size() == 4);
}

TEST_CASE("LandXmlBoundariesBreaklinesAndParcelsAreRead") {
    const test::TemporaryFolder folder;
    test::write_file(folder / "bank.xml",
                     R"(<?xml version="1.0"?><LandXML version="1.2"><Surfaces><Surface name="Spoil bank">
<SourceData><Boundaries><Boundary bndType="outer"><PntList3D>0 0 58 0 10 58 5 10 59 5 0 59</PntList3D></Boundary></Boundaries>
<Breaklines><Breakline><PntList3D>1 1 58 4 9 60</PntList3D></Breakline></Breaklines></SourceData></Surface></Surfaces>
<Parcels><Parcel name="Yard"><CoordGeom><Line><Start>0 20</Start><End>0 30</End></Line><Line><Start>0 30</Start><End>8 25</End></Line>
<Line><Start>8 25</Start><End>0 20</End></Line></CoordGeom></Parcel></Parcels></LandXML>)");
    const auto lines = io::read_lines(folder / "bank.xml");
    REQUIRE(lines.size() == 3);
    CHECK(lines[0].layer == "boundary of Spoil bank");
    CHECK(lines[0].closed);
    REQUIRE(lines[0].points.size() == 4);
    CHECK(lines[0].points[1].x == 10);  // northing comes first in the file
    CHECK(lines[0].points[1].y == 0);
    CHECK_FALSE(lines[1].closed);
    CHECK(lines[1].points[1].z == 60);
    CHECK(lines[2].layer == "parcel, Yard");
    CHECK(lines[2].points.size() == 3);
    CHECK(io::read_rings(folder / "bank.xml").size() == 2);
    test::write_file(folder / "odd.xml",
                     "<LandXML><Breakline><PntList3D>1 2 3 4</PntList3D></Breakline></LandXML>");
    CHECK(line_error(folder / "odd.xml").find("4 numbers") != std::string::npos);
    test::write_file(folder / "no.xml", "<Other/>");
    CHECK(line_error(folder / "no.xml").find("no LandXML") != std::string::npos);
    test::write_file(folder / "cut.xml", "<LandXML><Break");
    CHECK(line_error(folder / "cut.xml").find("cannot be read") != std::string::npos);
}

TEST_CASE("BrokenLineFilesSayWhat") {
    const test::TemporaryFolder folder;
    test::write_file(folder / "bad.shp", "nothing of the kind");
    CHECK(line_error(folder / "bad.shp").find("bad.shp") != std::string::npos);
    CHECK(line_error(folder / "missing.gpkg").find("missing.gpkg") != std::string::npos);
    CHECK(io::is_line_file("A.SHP"));
    CHECK_FALSE(io::is_line_file("a.geojson"));  // read without GDAL
    test::write_file(folder / "yards.json", kYards);
    CHECK_THROWS_AS(io::read_rings(folder / "yards.json"), Error);  // one of its lines is open
}

TEST_CASE("ShapefileAndGeoPackageLinesAreRead") {
    const test::TemporaryFolder folder;
    test::write_file(folder / "yards.geojson", kYards);
    GDALAllRegister();
    for (const auto& [format, name] :
         {std::pair{"GPKG", "yards.gpkg"}, std::pair{"ESRI Shapefile", "yards.shp"}}) {
        // GDAL writes what we then read.
        GDALDatasetH in =
            GDALOpenEx((folder / "yards.geojson").c_str(), GDAL_OF_VECTOR, nullptr, nullptr, nullptr);
        REQUIRE(in);
        char f[] = "-f";
        std::string kind = format;
        char* arguments[] = {f, kind.data(), nullptr};
        GDALVectorTranslateOptions* options = GDALVectorTranslateOptionsNew(arguments, nullptr);
        GDALDatasetH out = GDALVectorTranslate((folder / name).c_str(), nullptr, 1, &in, options, nullptr);
        REQUIRE(out);
        GDALVectorTranslateOptionsFree(options);
        GDALClose(out);
        GDALClose(in);
        CAPTURE(name);
        const auto lines = io::read_lines(folder / name);
        REQUIRE(lines.size() == 3);
        CHECK(lines[0].closed);
        REQUIRE(lines[0].points.size() == 4);
        CHECK(lines[0].points[2].y == 5);
        CHECK(lines[0].points[2].z == 2);
        CHECK_FALSE(lines[2].closed);
        CHECK(io::read_rings(folder / name).size() == 2);
    }
}

namespace {

// How far chords leave a circle, and whether they reach it: places lie on it.
double worst_sagitta(const std::vector<Vec3>& p, Vec3 centre, double r, bool closed) {
    double worst = 0;
    for (std::size_t i = 0; i + (closed ? 0 : 1) < p.size(); ++i) {
        const Vec3 &a = p[i], &b = p[(i + 1) % p.size()];
        CHECK(std::hypot(a.x - centre.x, a.y - centre.y) == Approx(r).epsilon(1e-6));
        const Vec3 m = (a + b) * 0.5;
        worst = std::max(worst, r - std::hypot(m.x - centre.x, m.y - centre.y));
    }
    return worst;
}

}  // namespace

TEST_CASE("ArcsBecomeChordsWithinTheSagitta") {
    const test::TemporaryFolder folder;
    // A yard with a round end: LandXML, northing first. The arc turns right round (20, 5).
    test::write_file(folder / "yard.xml",
                     R"(<?xml version="1.0"?><LandXML version="1.2"><PlanFeatures><PlanFeature><CoordGeom>
<Line><Start>10 0</Start><End>10 20</End></Line>
<Curve rot="cw"><Start>10 20</Start><Center>5 20</Center><End>0 20</End></Curve>
<Line><Start>0 20</Start><End>0 0</End></Line></CoordGeom></PlanFeature></PlanFeatures></LandXML>)");
    for (const double sagitta : {0.5, 0.01, 0.0005}) {
        const auto lines = io::read_lines(folder / "yard.xml", sagitta);
        REQUIRE(lines.size() == 1);
        std::vector<Vec3> arc(lines[0].points.begin() + 1, lines[0].points.end() - 1);
        const double worst = worst_sagitta(arc, {20, 5, 0}, 5, false);
        CHECK(worst <= sagitta * (1 + 1e-9));
        CHECK(worst > 0.3 * sagitta);  // no more chords than it needs
        for (const Vec3& p : arc) CHECK(p.x >= 20 - 1e-9);
    }
    // A circle and a bulge of DXF.
    test::write_file(folder / "yard.dxf",
                     "0\nSECTION\n2\nENTITIES\n0\nCIRCLE\n8\ntank\n10\n100\n20\n50\n30\n58\n40\n900\n"
                     "0\nENDSEC\n0\nEOF\n");
    const auto tank = io::read_lines(folder / "yard.dxf", 0.01);
    REQUIRE(tank.size() == 1);
    CHECK(tank[0].closed);
    CHECK(worst_sagitta(tank[0].points, {100, 50, 0}, 900, true) <= 0.0101);
    // Arcs as flat as those of a railway, in one file with a small one; a bulge; a line that is no arc.
    test::write_file(folder / "rail.dxf",
                     "0\nSECTION\n2\nENTITIES\n"
                     "0\nARC\n8\nrail\n10\n0\n20\n0\n30\n58\n40\n250000\n50\n80\n51\n80.1\n"
                     "0\nCIRCLE\n8\npost\n10\n5\n20\n5\n30\n58\n40\n0.25\n"
                     "0\nLWPOLYLINE\n8\nkerb\n90\n2\n70\n0\n38\n58\n10\n0\n20\n0\n42\n0.005\n10\n800\n20\n0\n"
                     "0\nLINE\n8\nfence\n10\n0\n20\n0\n30\n0\n11\n9\n21\n9\n31\n0\n"
                     "0\nENDSEC\n0\nEOF\n");
    for (const double sagitta : {0.02, 0.001}) {
        const auto rail = io::read_lines(folder / "rail.dxf", sagitta);
        REQUIRE(rail.size() == 4);
        const double flat = worst_sagitta(rail[0].points, {0, 0, 0}, 250'000, false);
        CHECK(flat <= sagitta);
        CHECK(flat > 0.2 * sagitta);
        CHECK(rail[0].points.size() >= 4);
        CHECK(rail[1].points.size() < 200);  // the flat one does not ask more of the small one
        CHECK(worst_sagitta(rail[1].points, {5, 5, 0}, 0.25, true) <= sagitta);
        // tan of a quarter of the angle is 0.005: radius 800 / (2 sin 2 atan 0.005 ...) = 40,001.
        const double r = 400 * (1 + 0.005 * 0.005) / (2 * 0.005);
        CHECK(worst_sagitta(rail[2].points, {400, r - 400 * 0.005, 0}, r, false) <= sagitta);
        CHECK(rail[3].points.size() == 2);
    }
    // A circular string of GeoPackage.
    const std::string gpkg = folder / "arc.gpkg";
    {
        GDALAllRegister();
        auto* set = GetGDALDriverManager()->GetDriverByName("GPKG")->Create(gpkg.c_str(), 0, 0, 0,
                                                                            GDT_Unknown, nullptr);
        OGRLayer* layer = set->CreateLayer("arc", nullptr, wkbCompoundCurveZ, nullptr);
        OGRFeature* f = OGRFeature::CreateFeature(layer->GetLayerDefn());
        OGRGeometry* g = nullptr;
        REQUIRE(OGRGeometryFactory::createFromWkt(
                    "COMPOUNDCURVE Z ((0 0 1, 10 0 1), CIRCULARSTRING Z (10 0 1, 15 5 2, 10 10 3))", nullptr,
                    &g) == OGRERR_NONE);
        f->SetGeometryDirectly(g);
        REQUIRE(layer->CreateFeature(f) == OGRERR_NONE);
        OGRFeature::DestroyFeature(f);
        GDALClose(set);
    }
    const auto curve = io::read_lines(gpkg, 0.01);
    REQUIRE(curve.size() == 1);
    CHECK(curve[0].points.front() == Vec3{0, 0, 1});
    CHECK(curve[0].points.back() == Vec3{10, 10, 3});
    std::vector<Vec3> arc(curve[0].points.begin() + 1, curve[0].points.end());
    CHECK(worst_sagitta(arc, {10, 5, 0}, 5, false) <= 0.01);
    CHECK(arc.size() > 10);
    CHECK_THROWS_AS(io::read_lines(gpkg, 0), Error);
}
