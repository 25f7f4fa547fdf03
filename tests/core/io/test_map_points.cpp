#include <catch2/catch.hpp>

#include <cmath>
#include <random>

#include "core/base/bytes.h"
#include "core/base/error.h"
#include "core/io/cloud_io.h"
#include "core/io/lines/map_points.h"
#include "core/io/lines/ogr_writer.h"
#include "support/cloud_makers.h"

using namespace pristine;

namespace {

std::vector<io::MapFeature> random_points(std::mt19937_64& dice, std::size_t n) {
    std::uniform_real_distribution<double> u(0, 1000);
    std::vector<io::MapFeature> all;
    for (std::size_t i = 0; i < n; ++i) {
        io::MapFeature f{io::MapFeature::Shape::Point, {{u(dice) + 5e5, u(dice), u(dice) / 10}}, "points"};
        f.fields = {{"name", "P" + std::to_string(i)},
                    {"code", i % 3 == 0 ? "Böschung" : "kerb"},
                    {"sigma", 0.001 * static_cast<double>(i)}};
        all.push_back(std::move(f));
    }
    return all;
}

std::string map_error(const std::filesystem::path& file) {
    try {
        io::read_items(file);
    } catch (const Error& e) {
        return e.what();
    }
    return {};
}

}  // namespace

TEST_CASE("PointsOfMapsComeInWithTheirFields", "[io]") {
    const test::TemporaryFolder folder;
    const auto seed = std::random_device{}();
    CAPTURE(seed);
    std::mt19937_64 dice(seed);
    const auto all = random_points(dice, 200);
    for (const char* ending : {"gpkg", "geojson", "shp"}) {
        CAPTURE(ending);
        const auto file = folder / (std::string("spots.") + ending);
        io::write_features(all, {"spots", nullptr}, file, false, {"EPSG:25832", "m", ""});
        const auto items = io::read_items(file);
        REQUIRE(items.size() == 1);
        const cloud::PointCloud& c = *items[0].cloud;
        REQUIRE(c.size() == all.size());
        const cloud::RecordLayout& layout = c.records()->layout();
        const cloud::Field *name = layout.find("point"), *code = layout.find("code"),
                           *sigma = layout.find("sigma");
        REQUIRE((name && code && sigma));
        REQUIRE((name->words && code->words));
        std::vector<std::byte> bytes(layout.record_bytes * all.size());
        c.records()->read(0, bytes);
        for (std::size_t i = 0; i < all.size(); ++i) {
            const char* r = reinterpret_cast<const char*>(bytes.data()) + i * layout.record_bytes;
            for (int a = 0; a < 3; ++a)
                CHECK(load_le<double>(r + 8 * a) == Approx(all[i].points[0][a]).margin(1e-6));
            CHECK((*name->words)[load_le<std::uint32_t>(r + name->offset)] == "P" + std::to_string(i));
            CHECK((*code->words)[load_le<std::uint32_t>(r + code->offset)] ==
                  (i % 3 == 0 ? "Böschung" : "kerb"));
            CHECK(load_le<double>(r + sigma->offset) == Approx(0.001 * static_cast<double>(i)).margin(1e-9));
        }
        CHECK(c.unit() == "m");
    }
}

TEST_CASE("HeightsOfFlatMapPointsComeFromTheirField", "[io]") {
    const test::TemporaryFolder folder;
    const auto file = [&](const char* name, const std::string& features) {
        test::write_file(folder / name, R"({"type":"FeatureCollection","features":[)" + features + "]}");
        return folder / name;
    };
    const std::string
        a = R"({"type":"Feature","properties":{"Elev":12.5,"x":3,"class":"kerb"},"geometry":{"type":"Point","coordinates":[1,2]}})",
        b = R"({"type":"Feature","properties":{"Elev":null},"geometry":{"type":"MultiPoint","coordinates":[[3,4],[5,6]]}})",
        line =
            R"({"type":"Feature","properties":{},"geometry":{"type":"LineString","coordinates":[[0,0],[9,9]]}})";
    const auto layers = io::read_map_points(file("heights.geojson", a + "," + b + "," + line));
    REQUIRE(layers.size() == 1);
    CHECK_FALSE(layers[0].flat);
    REQUIRE(layers[0].list.points.size() == 3);
    CHECK(layers[0].list.points[0] == Vec3{1, 2, 12.5});
    CHECK(layers[0].list.points[2] == Vec3{5, 6, 0});
    // What means something to the program is named as of the map.
    const auto items = io::read_items(folder / "heights.geojson");
    CHECK(items.at(0).cloud->records()->layout().find("x of the map"));
    CHECK(items.at(0).cloud->records()->layout().find("class of the map"));
    // A place with a height has it, whatever a field says.
    const std::string solid =
        R"({"type":"Feature","properties":{"z":99},"geometry":{"type":"Point","coordinates":[1,2,7]}})";
    CHECK(io::read_map_points(file("solid.geojson", solid)).at(0).list.points.at(0).z == 7);
    // None at all: said.
    const std::string flat =
        R"({"type":"Feature","properties":{"note":"a"},"geometry":{"type":"Point","coordinates":[1,2]}})";
    CHECK(io::read_map_points(file("flat.geojson", flat)).at(0).flat);
    CHECK(io::read_items(folder / "flat.geojson").at(0).warnings.at(0).find("no heights") !=
          std::string::npos);
    CHECK(io::read_map_points(file("lines.geojson", line)).empty());
    CHECK(map_error(folder / "lines.geojson").find("holds no points") != std::string::npos);
}

TEST_CASE("PointsOfADxfAreItsPointsAndNoTexts", "[io]") {
    const test::TemporaryFolder folder;
    const auto file = folder / "spots.dxf";
    test::write_file(file,
                     "0\nSECTION\n2\nENTITIES\n"
                     "0\nPOINT\n8\nkerb\n10\n4\n20\n5\n30\n6.5\n"
                     "0\nTEXT\n8\nnotes\n10\n1\n20\n1\n30\n0\n40\n1\n1\nnot a point\n"
                     "0\nLINE\n8\nedge\n10\n0\n20\n0\n30\n0\n11\n9\n21\n9\n31\n0\n"
                     "0\nENDSEC\n0\nEOF\n");
    const auto layers = io::read_map_points(file);
    REQUIRE(layers.size() == 1);
    REQUIRE(layers[0].list.points.size() == 1);
    CHECK(layers[0].list.points[0] == Vec3{4, 5, 6.5});
    CHECK(layers[0].list.codes.at(0) == "kerb");
}
