// Unit and reference system: from every file that can say them, into every file that can hold them.

#include <catch2/catch.hpp>
#include <cmath>
#include <random>

#include "core/base/bytes.h"
#include "core/base/units.h"
#include "core/cloud/by_records.h"
#include "core/io/lines/lines.h"
#include "core/io/mesh/mesh_cloud.h"
#include "core/io/mesh/mesh_io.h"
#include "core/io/points.h"
#include "core/io/reference/remark.h"
#include "core/io/reference/reproject.h"
#include "core/io/reference/system.h"
#include "core/measure/figures.h"
#include "core/score/score.h"
#include "core/site/history.h"
#include "core/site/site.h"
#include "core/store/project.h"
#include "support/cloud_makers.h"
#include "support/mesh_makers.h"

using namespace pristine;

namespace {

// A LAS 1.2 file of 40 points whose system is told by these keys, or by this WKT.
struct Key {
    std::uint16_t id, place, count, value;
};
std::string las_of(const std::vector<Key>& keys, const std::vector<double>& numbers, const std::string& text,
                   const std::string& wkt = {}) {
    std::string vlrs;
    std::uint32_t count = 0;
    const auto add = [&](std::uint16_t id, const std::string& data) {
        std::string head(54, '\0');
        head.replace(2, 15, "LASF_Projection");
        store_le(head.data() + 18, id);
        store_le(head.data() + 20, static_cast<std::uint16_t>(data.size()));
        vlrs += head + data;
        ++count;
    };
    if (!keys.empty()) {
        std::string directory;
        for (const std::uint16_t v : {1, 1, 0, static_cast<int>(keys.size())})
            append_le(directory, static_cast<std::uint16_t>(v));
        for (const Key& k : keys)
            for (const std::uint16_t v : {k.id, k.place, k.count, k.value}) append_le(directory, v);
        add(34735, directory);
        std::string doubles;
        for (const double d : numbers) append_le(doubles, d);
        if (!numbers.empty()) add(34736, doubles);
        if (!text.empty()) add(34737, text + '\0');
    }
    if (!wkt.empty()) add(2112, wkt + '\0');
    constexpr std::uint32_t kPoints = 40;
    std::string s(227, '\0');
    s.replace(0, 4, "LASF");
    s[24] = 1;
    s[25] = 2;
    store_le(s.data() + 94, std::uint16_t{227});
    store_le(s.data() + 96, static_cast<std::uint32_t>(227 + vlrs.size()));
    store_le(s.data() + 100, count);
    store_le(s.data() + 105, std::uint16_t{20});
    store_le(s.data() + 107, kPoints);
    const double place[6] = {0.01, 0.01, 0.01, 3100000, 10000000, 100};
    for (std::size_t i = 0; i < 6; ++i) store_le(s.data() + 131 + 8 * i, place[i]);
    s += vlrs;
    for (std::uint32_t i = 0; i < kPoints; ++i) {
        std::string r(20, '\0');
        store_le(r.data(), static_cast<std::int32_t>(100 * i));
        store_le(r.data() + 4, static_cast<std::int32_t>(37 * i % 1000));
        store_le(r.data() + 8, static_cast<std::int32_t>(i));
        s += r;
    }
    return s;
}

constexpr const char* kFeetForeignSpelling =
    "PROJCS[\"NAD_1983_StatePlane_Texas_Central_FIPS_4203_Feet\",GEOGCS[\"GCS_North_American_1983\",DATUM["
    "\"D_North_"
    "American_1983\",SPHEROID[\"GRS_1980\",6378137.0,298.257222101]],PRIMEM[\"Greenwich\",0.0],UNIT["
    "\"Degree\",0."
    "0174532925199433]],PROJECTION[\"Lambert_Conformal_Conic\"],PARAMETER[\"False_Easting\",2296583.333],"
    "PARAMETER["
    "\"False_Northing\",9842500.0],PARAMETER[\"Central_Meridian\",-100.333333333333],PARAMETER[\"Standard_"
    "Parallel_1\","
    "31.8833333333333],PARAMETER[\"Standard_Parallel_2\",30.1166666666667],PARAMETER[\"Latitude_Of_Origin\","
    "29."
    "6666666666667],UNIT[\"Foot_US\",0.304800609601219]]";
constexpr const char* kInternationalFeet =
    "PROJCS[\"x\",GEOGCS[\"NAD83\",DATUM[\"North_American_Datum_1983\",SPHEROID[\"GRS "
    "1980\",6378137,298.257222101]],PRIMEM[\"Greenwich\",0],UNIT[\"degree\",0.0174532925199433]],PROJECTION["
    "\"Transverse_Mercator\"],PARAMETER[\"latitude_of_origin\",31],PARAMETER[\"central_meridian\",-110],"
    "PARAMETER["
    "\"scale_factor\",0.9999],PARAMETER[\"false_easting\",700000],PARAMETER[\"false_northing\",0],UNIT["
    "\"international "
    "foot\",0.3048]]";

std::shared_ptr<const cloud::PointCloud> points_in(const cloud::Reference& r) {
    io::PointList list;
    for (int i = 0; i < 60; ++i) list.points.push_back({1000.0 + i % 8, 2000.0 + i / 8, 50 + 0.125 * i});
    return io::cloud_of_points(list, r);
}

}  // namespace

TEST_CASE("EverySpellingOfASystemInALasFileTellsItsUnit") {
    struct Case {
        const char* what;
        std::string file;
        std::string unit, height_unit;
    };
    const Case cases[] = {
        {"a code that counts in US feet", las_of({{1024, 0, 1, 1}, {3072, 0, 1, 2277}}, {}, {}), "usft", ""},
        {"a code that counts in metres", las_of({{1024, 0, 1, 1}, {3072, 0, 1, 32632}}, {}, {}), "m", ""},
        {"plan and heights in feet",
         las_of({{1024, 0, 1, 1}, {3072, 0, 1, 2277}, {4096, 0, 1, 6360}}, {}, {}), "usft", ""},
        {"plan in feet, heights in metres",
         las_of({{1024, 0, 1, 1}, {3072, 0, 1, 2277}, {4096, 0, 1, 5703}, {4099, 0, 1, 9001}}, {}, {}),
         "usft", "m"},
        {"a system of its own",
         las_of({{1024, 0, 1, 1},
                 {1026, 34737, 5, 0},
                 {2048, 0, 1, 4269},
                 {3072, 0, 1, 32767},
                 {3074, 0, 1, 32767},
                 {3075, 0, 1, 8},
                 {3076, 0, 1, 9003},
                 {3078, 34736, 1, 0},
                 {3079, 34736, 1, 1},
                 {3084, 34736, 1, 2},
                 {3085, 34736, 1, 3},
                 {3086, 34736, 1, 4},
                 {3087, 34736, 1, 5}},
                {30.1166667, 31.8833333, -100.333333, 29.6666666, 2296583.333, 9842500.0}, "Own|"),
         "usft", ""},
        {"the spelling of .prj files", las_of({}, {}, {}, kFeetForeignSpelling), "usft", ""},
        {"international feet", las_of({}, {}, {}, kInternationalFeet), "ft", ""},
        {"degrees", las_of({{1024, 0, 1, 2}, {2048, 0, 1, 4326}}, {}, {}), "deg", "m"},
        {"nothing", las_of({}, {}, {}), "", ""}};
    const test::TemporaryFolder f;
    for (const Case& c : cases) {
        CAPTURE(c.what);
        test::write_file(f / "a.las", c.file);
        const auto read = io::read_cloud(f / "a.las").cloud;
        CHECK(read->unit() == c.unit);
        CHECK(read->height_unit() == c.height_unit);
        CHECK(read->crs().empty() == (c.unit.empty()));
        // Written into a file of its own and read again it is the same, also as LAZ.
        for (const char* name : {"b.las", "b.laz", "b.ply"}) {
            CAPTURE(name);
            io::write_cloud({{read}, {read}}, f / name, {true});
            const auto back = io::read_cloud(f / name).cloud;
            CHECK(back->unit() == c.unit);
            CHECK(back->height_unit() == c.height_unit);
            CHECK(io::system_of(back->crs()).name == io::system_of(read->crs()).name);
        }
    }
}

TEST_CASE("WhatAPersonStatesIsWrittenAndTheRecordsStayAsTheyWere") {
    const test::TemporaryFolder f;
    test::write_file(f / "a.las", las_of({{1024, 0, 1, 1}, {3072, 0, 1, 32632}}, {}, {}));
    const auto read = io::read_cloud(f / "a.las").cloud;
    const auto stated = cloud::with_reference(read, {"EPSG:2277", "usft", ""});
    CHECK(stated->base() == read);
    CHECK(stated->positions(0).x.data() == read->positions(0).x.data());  // shared, not copied
    CHECK(cloud::with_reference(stated, read->reference()) == read);
    io::write_cloud({{stated}}, f / "b.las");
    const auto back = io::read_cloud(f / "b.las").cloud;
    CHECK(back->unit() == "usft");
    CHECK(io::system_of(back->crs()).name == "NAD83 / Texas Central (ftUS)");
    const std::string a = test::read_file(f / "a.las"), b = test::read_file(f / "b.las");
    CHECK(a.substr(a.size() - 40 * 20) == b.substr(b.size() - 40 * 20));
}

TEST_CASE("LengthsInE57AreMetresWhateverTheDataCountIn") {
    const test::TemporaryFolder f;
    for (const char* unit : {"m", "usft", "ft", "mm"}) {
        CAPTURE(unit);
        const auto c = points_in({"", unit, ""});
        io::write_cloud({{c}}, f / "a.e57", {true});
        const auto back = io::read_cloud(f / "a.e57").cloud;
        CHECK(back->unit() == "m");
        const double k = length_unit(unit).metres;
        const Box3 was = c->bounds(), is = back->bounds();
        for (int a = 0; a < 3; ++a) {
            CHECK(is.lo[a] == Approx(was.lo[a] * k).margin(2e-7));
            CHECK(is.hi[a] == Approx(was.hi[a] * k).margin(2e-7));  // the grid of positions
        }
    }
    // A system in feet is written as the same system in metres.
    const auto c = points_in({"EPSG:2277", "usft", ""});
    io::write_cloud({{c}}, f / "a.e57", {true});
    const io::System s = io::system_of(io::read_cloud(f / "a.e57").cloud->crs());
    CHECK(s.unit == "m");
    CHECK(s.name == "NAD83 / Texas Central (ftUS)");
}

TEST_CASE("EveryMeshFormatWithAPlaceForItKeepsUnitAndSystem") {
    const test::TemporaryFolder f;
    const mesh::TriMesh m{{{0, 0, 0}, {1, 0, 0}, {1, 1, 0.5}, {0, 1, 0}}, {{0, 1, 2}, {0, 2, 3}}};
    for (const char* unit : {"m", "usft", "ft", "mm"})
        for (const char* name : {"a.ply", "a.obj", "a.off", "a.xml", "a.dxf"}) {
            CAPTURE(unit, name);
            io::write_mesh(m, f / name, true, unit);
            CHECK(io::read_mesh(f / name).unit == unit);
        }
    for (const char* name : {"a.ply", "a.obj", "a.off", "a.xml"}) {
        CAPTURE(name);
        io::write_mesh(m, f / name, true, "usft", {}, "EPSG:2277");
        const io::MeshFile back = io::read_mesh(f / name);
        CHECK(io::system_of(back.crs).name == "NAD83 / Texas Central (ftUS)");
        CHECK(back.unit == "usft");
        io::write_mesh(m, f / name, true);
        CHECK(io::read_mesh(f / name).unit.empty());  // what is not known is not made up
    }
    // A .prj file beside it speaks for what cannot.
    io::write_mesh(m, f / "s.stl", true);
    io::write_sidecar(f / "s.stl", {"EPSG:2277", "usft", ""}, false);
    CHECK(io::read_mesh(f / "s.stl").unit == "usft");
}

TEST_CASE("LinesKeepTheirSystem") {
    const test::TemporaryFolder f;
    const std::vector<io::MapLine> lines{{"toe", {{0, 0, 1}, {5, 0, 1}, {5, 5, 1}}, true}};
    for (const char* name : {"a.geojson", "a.gpkg", "a.shp"}) {
        CAPTURE(name);
        io::write_lines(lines, f / name, false, {"EPSG:2277", "usft", ""});
        CHECK(io::reference_of_lines(f / name).unit == "usft");
        io::write_lines(lines, f / name, true);
        CHECK(io::reference_of_lines(f / name).unit.empty());
    }
}

TEST_CASE("UnitsAreFoundByTheirLengthAndFeetAreToldApart") {
    for (const LengthUnit& u : known_units()) {
        CAPTURE(u.id);
        CHECK(unit_of_metres(u.metres) == u.id);
        CHECK(unit_of_metres(u.metres * (1 + 1e-10)) == u.id);
        CHECK(is_length(u.id));
    }
    CHECK(unit_of_metres(0.31).empty());
    CHECK_FALSE(is_length(""));
    CHECK_FALSE(is_length(kDegrees));
    CHECK(io::system_typed(" epsg:25832 ") == "EPSG:25832");
    CHECK(io::system_typed("2277+6360") == "EPSG:2277+6360");
    CHECK_THROWS_AS(io::system_typed("EPSG:999999"), Error);
    CHECK_THROWS_AS(io::system_typed("/etc/passwd"), Error);
    CHECK_THROWS_AS(io::system_typed("http://localhost/x"), Error);
}

TEST_CASE("AConvertedItemLiesWhereTheFormulaSays") {
    // Transverse Mercator by its series (Snyder 1987, 8-9 ff.) at the middle of a zone: northing is the arc
    // of the meridian.
    io::PointList list;
    for (int i = 0; i < 50; ++i) list.points.push_back({9.0, 48 + 0.001 * i, 300});
    const auto degrees = io::cloud_of_points(list, {"EPSG:4326", "deg", "m"});
    CHECK(io::fitting_zone(*degrees) == "EPSG:32632");
    const auto metres = io::reprojected(degrees, "EPSG:32632");
    CHECK(metres->unit() == "m");
    const double a = 6378137, e2 = 0.00669437999014, rad = 3.14159265358979323846 / 180;
    for (std::size_t i = 0; i < 50; ++i) {
        const double p = (48 + 0.001 * static_cast<double>(i)) * rad;
        const double arc = a * ((1 - e2 / 4 - 3 * e2 * e2 / 64 - 5 * e2 * e2 * e2 / 256) * p -
                                (3 * e2 / 8 + 3 * e2 * e2 / 32 + 45 * e2 * e2 * e2 / 1024) * std::sin(2 * p) +
                                (15 * e2 * e2 / 256 + 45 * e2 * e2 * e2 / 1024) * std::sin(4 * p) -
                                35 * e2 * e2 * e2 / 3072 * std::sin(6 * p));
        double nearest = 1e9;
        for (std::size_t k = 0; k < 50; ++k)
            nearest = std::min(nearest, std::fabs(metres->position(k).y - 0.9996 * arc));
        CHECK(nearest < 0.002);
    }
    CHECK(metres->bounds().lo.x == Approx(500000).margin(0.001));
    CHECK_THROWS_AS(io::reprojected(points_in({"", "m", ""}), "EPSG:32632"), Error);
    // Heights change their unit and nothing else.
    const auto feet = io::reprojected(points_in({"EPSG:32614", "m", ""}), "EPSG:2277");
    CHECK(feet->bounds().lo.z == Approx(50 / length_unit("usft").metres));
}

TEST_CASE("ThereAndBackIsTheSamePlaceAndTheSameRecord") {
    const std::uint64_t seed = test::seed_for("ThereAndBackIsTheSamePlaceAndTheSameRecord");
    CAPTURE(seed);
    std::mt19937_64 random(seed);
    std::uniform_real_distribution<double> away(-20000, 20000);
    io::PointList list;
    for (int i = 0; i < 3000; ++i) {
        list.points.push_back({500000 + away(random), 5300000 + away(random), away(random) / 100});
        list.names.push_back("P" + std::to_string(i));
        list.codes.push_back(i % 3 ? "TOE" : "CREST");
    }
    const auto a = io::cloud_of_points(list, {"EPSG:25832", "m", ""});
    const auto b = io::reprojected(a, "EPSG:4258"), c = io::reprojected(b, "EPSG:25832");
    for (std::uint64_t e = 0; e < a->size(); e += 7) {
        ElementSet one(a->size());
        one.insert(e);
        const ElementSet there = cloud::moved_by_records(one, *a, *b),
                         back = cloud::moved_by_records(there, *b, *c);
        REQUIRE(back.count() == 1);
        back.for_each([&](std::uint64_t k) { CHECK(norm(c->position(k) - a->position(e)) < 0.002); });
    }
    CHECK(c->records()->layout().find("point")->words->size() == 3000);
}

TEST_CASE("DegreesAndMixedUnitsHaveNoFigures") {
    CHECK_THROWS_AS(measure::require_lengths({"EPSG:4326", "deg", "m"}), Error);
    CHECK_THROWS_AS(measure::require_lengths({"", "usft", "m"}), Error);
    CHECK_NOTHROW(measure::require_lengths({"", "usft", ""}));
    CHECK_NOTHROW(measure::require_lengths({}));
    const auto c = points_in({"EPSG:4326", "deg", "m"});
    CHECK_THROWS_AS(score::compute(score::find("stray"), {*c, ElementSet::all(c->size())}, {}), Error);
}

TEST_CASE("ItemsOfDifferentUnitsDoNotGoIntoOneFile") {
    const test::TemporaryFolder f;
    const auto metres = points_in({"", "m", ""}), feet = points_in({"", "usft", ""}), none = points_in({});
    CHECK_THROWS_AS(io::write_cloud({{metres}, {feet}}, f / "a.las"), Error);
    CHECK_FALSE(std::filesystem::exists(f / "a.las"));
    CHECK_NOTHROW(io::write_cloud({{metres}, {none}}, f / "b.las"));
    const auto east = points_in({"EPSG:32632", "m", ""}), west = points_in({"EPSG:32631", "m", ""});
    CHECK_THROWS_AS(io::write_cloud({{east}, {west}}, f / "c.las"), Error);
}

TEST_CASE("AStatedUnitIsUndoneStoredAndSharedByPieces") {
    const test::TemporaryFolder f;
    const auto c = points_in({});
    site::SitePtr s = site::add_cloud(site::Site{}, c, "Bank", "");
    ElementSet some(c->size());
    for (std::uint64_t e = 0; e < 20; ++e) some.insert(e);
    s = site::set_apart(*site::select(*s, some, site::Combine::New), "Piece", true);
    const std::uint64_t bank = s->items[0]->id;
    CHECK(site::reference_of(*s) == cloud::Reference{});
    const site::SitePtr stated = site::set_reference(*s, bank, {"EPSG:2277", "usft", ""});
    CHECK(stated->items[0]->cloud == stated->items[1]->cloud);  // still pieces of one cloud
    CHECK(stated->items[1]->cloud->unit() == "usft");
    CHECK(s->items[0]->cloud->unit().empty());
    CHECK_THROWS_AS(site::set_reference(*s, bank, {"", "furlong", ""}), Error);
    site::History history(s);
    {
        auto project = store::Project::create(f / "a.pristine");
        project->write(history.current(), Progress::none());
        project->write(history.commit(stated, "State the unit"), Progress::none());
    }
    auto project = store::Project::open(f / "a.pristine");
    site::History back = project->load(Progress::none());
    const site::SitePtr now = back.now();
    CHECK(now->items[0]->cloud->reference() == cloud::Reference{"EPSG:2277", "usft", ""});
    CHECK(now->items[0]->cloud == now->items[1]->cloud);
    back.go_to(back.cursor() - 1);
    CHECK(back.now()->items[0]->cloud->unit().empty());
    CHECK(back.now()->items[0]->cloud == now->items[0]->cloud->base());
}

TEST_CASE("AConvertedItemKeepsItsLedger") {
    const auto c = points_in({"EPSG:32632", "m", ""});
    site::SitePtr s = site::add_cloud(site::Site{}, c, "Bank", "");
    ElementSet some(c->size());
    for (std::uint64_t e = 5; e < 25; ++e) some.insert(e);
    s = site::remove_selection(*site::select(*s, some, site::Combine::New),
                               {"Person", site::said("fence"), {}, nullptr});
    const auto made = io::reprojected(c, "EPSG:32633");
    const site::SitePtr next = site::add_converted(*s, s->active, made, "Bank in EPSG:32633");
    const site::Item& item = *next->active_item();
    REQUIRE(item.ledger.size() == 1);
    CHECK(item.ledger[0].reason == "Person");
    CHECK(item.shown() == 40);
    // Of each removed point the place in the new system is removed.
    const io::ReadResult ignored;
    item.ledger[0].elements->for_each([&](std::uint64_t e) {
        ElementSet one(made->size());
        one.insert(e);
        cloud::moved_by_records(one, *made, *c).for_each([&](std::uint64_t k) { CHECK(some.contains(k)); });
    });
    CHECK_FALSE(next->items[0]->visible);
    CHECK(site::differs_from_site(*next, item));
}
