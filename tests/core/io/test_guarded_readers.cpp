// What another process reads is what this one would have read, and a file that leads it astray ends with a
// sentence.

#include <gdal_priv.h>
#include <catch2/catch.hpp>

#include <bit>
#include <cmath>
#include <random>

#include "core/base/error.h"
#include "core/io/foreign/guarded.h"
#include "core/io/grid/grid_rows.h"
#include "core/io/grid/orthophoto_reader.h"
#include "core/io/grid/picture.h"
#include "support/cloud_makers.h"

using namespace pristine;

namespace {

GDALDriver& driver(const char* name) {
    GDALAllRegister();
    return *GetGDALDriverManager()->GetDriverByName(name);
}

// Any grid: of whole numbers or not, with gaps, a scale, a unit.
void write_any_grid(const std::filesystem::path& path, GDALDataType type, std::mt19937_64& random) {
    const int columns = 1 + static_cast<int>(random() % 40), rows = 1 + static_cast<int>(random() % 40);
    const std::unique_ptr<GDALDataset> set(
        driver("GTiff").Create(path.c_str(), columns, rows, 1, type, nullptr));
    double place[6] = {4e5, 0.5, 0.01, 5e6, 0.02, -0.5};
    set->SetGeoTransform(place);
    GDALRasterBand* band = set->GetRasterBand(1);
    band->SetNoDataValue(7);
    if (random() % 2 == 0) band->SetScale(0.01);
    if (random() % 2 == 0) band->SetUnitType("ft");
    std::vector<double> z;
    for (int k = 0; k < columns * rows; ++k)
        z.push_back(random() % 4 == 0 ? 7 : 0.1 * static_cast<double>(random() % 1000));
    for (int i = 0; i < columns; ++i) z[static_cast<std::size_t>(i)] = 7;  // a row without any height
    REQUIRE(band->RasterIO(GF_Write, 0, 0, columns, rows, z.data(), columns, rows, GDT_Float64, 0, 0) ==
            CE_None);
}

void check_alike(io::GridRows& other, io::GridRows& here) {
    const io::GridFacts &a = other.facts(), &b = here.facts();
    REQUIRE(a.columns == b.columns);
    REQUIRE(a.rows == b.rows);
    CHECK(std::equal(a.place, a.place + 6, b.place));
    CHECK(a.picture == b.picture);
    CHECK(a.format == b.format);
    CHECK(a.reference == b.reference);
    if (a.picture) return;  // bytes without a scale: no heights
    std::vector<double> z, expected;
    std::size_t different = 0;
    for (int j = 0; j < a.rows; ++j) {
        other.next(z);
        here.next(expected);
        REQUIRE(z.size() == expected.size());
        for (std::size_t i = 0; i < z.size(); ++i)
            different += !(z[i] == expected[i] || (std::isnan(z[i]) && std::isnan(expected[i])));
    }
    CHECK(different == 0);
    CHECK_THROWS_AS(other.next(z), Error);
}

// A picture with this many bands, packed by the driver.
std::string packed_picture(const char* format, int bands, GDALDataType type, int width, int height,
                           const std::filesystem::path& folder, std::mt19937_64& random) {
    GDALDriver& memory = driver("MEM");
    const std::unique_ptr<GDALDataset> set(memory.Create("", width, height, bands, type, nullptr));
    for (int b = 1; b <= bands; ++b) {
        std::vector<double> v;
        for (int k = 0; k < width * height; ++k)
            v.push_back(static_cast<double>(random() % (type == GDT_Byte ? 256 : 65536)));
        GDALRasterBand* band = set->GetRasterBand(b);
        REQUIRE(band->RasterIO(GF_Write, 0, 0, width, height, v.data(), width, height, GDT_Float64, 0, 0) ==
                CE_None);
        if (bands == 4) band->SetColorInterpretation(static_cast<GDALColorInterp>(GCI_RedBand + b - 1));
    }
    const auto path = folder / "picture";
    GDALClose(driver(format).CreateCopy(path.c_str(), set.get(), FALSE, nullptr, nullptr, nullptr));
    return test::read_file(path);
}

}  // namespace

TEST_CASE("AGridIsTheSameThroughAnotherProcess") {
    const auto seed = std::random_device{}();
    CAPTURE(seed);
    std::mt19937_64 random(seed);
    const test::TemporaryFolder f;
    for (const GDALDataType type : {GDT_Byte, GDT_Int16, GDT_Int32, GDT_Float32, GDT_Float64})
        for (int k = 0; k < 4; ++k) {
            const auto path = f / ("gelände " + std::to_string(k) + ".tif");
            write_any_grid(path, type, random);
            check_alike(*io::open_grid(path), *io::open_grid_here(path));
        }
}

TEST_CASE("APictureIsTheSameThroughAnotherProcess") {
    const auto seed = std::random_device{}();
    CAPTURE(seed);
    std::mt19937_64 random(seed);
    const test::TemporaryFolder f;
    const auto check = [&](const char* format, int bands, GDALDataType type) {
        CAPTURE(format, bands);
        const int width = 1 + static_cast<int>(random() % 900), height = 1 + static_cast<int>(random() % 900);
        const std::string bytes = packed_picture(format, bands, type, width, height, f / "", random);
        const io::Pixels here = io::decode_picture_here(bytes, "picture");
        const auto other = io::decode_picture(bytes, "picture");
        CHECK(other->width() == width);
        CHECK(other->height() == height);
        CHECK(other->pixels() == here.argb);
    };
    for (const int bands : {1, 2, 3, 4}) check("PNG", bands, GDT_Byte);
    check("PNG", 3, GDT_UInt16);
    check("JPEG", 3, GDT_Byte);
    check("GTiff", 3, GDT_Byte);
}

TEST_CASE("AFileThatIsCutEndsWithASentenceThatNamesIt") {
    std::mt19937_64 random(7);
    const test::TemporaryFolder f;
    const std::string picture = packed_picture("PNG", 3, GDT_Byte, 300, 300, f / "", random);
    CHECK_THROWS_WITH(io::decode_picture(picture.substr(0, picture.size() / 2), "wall.png"),
                      Catch::Contains("wall.png"));
    CHECK_THROWS_WITH(io::decode_picture("no picture", "wall.png"), Catch::Contains("wall.png"));
    write_any_grid(f / "whole.tif", GDT_Float64, random);
    const std::string grid = test::read_file(f / "whole.tif");
    std::size_t refused = 0;
    for (std::size_t n = 0; n < grid.size(); n += 1 + grid.size() / 23) {
        test::write_file(f / "cut.tif", grid.substr(0, n));
        try {
            const auto rows = io::open_grid(f / "cut.tif");
            std::vector<double> z;
            for (int j = 0; j < rows->facts().rows; ++j) rows->next(z);
        } catch (const Error& e) {
            ++refused;
            CHECK_THAT(e.what(), Catch::Contains("cut.tif"));
        }
    }
    CHECK(refused > 0);
}

TEST_CASE("AReaderThatNeedsTooMuchIsEnded") {
    const test::TemporaryFolder f;
    std::mt19937_64 random(11);
    write_any_grid(f / "a.tif", GDT_Float64, random);
    const std::string path = (f / "a.tif").string();
    // No memory at all, and an order that is none.
    CHECK_THROWS_AS(io::run_guarded({"grid", path}, {4, 1u << 12}, "a.tif"), Error);
    CHECK_THROWS_AS(io::run_guarded({"dance", path}, {}, "a.tif"), Error);
    // It is ended when nobody wants the rest.
    for (int k = 0; k < 20; ++k) {
        io::GuardedReader reader({"grid", path}, {}, "a.tif");
        std::string frame;
        CHECK(reader.next(frame));
    }
}
