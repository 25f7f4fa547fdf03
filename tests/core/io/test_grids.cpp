// Grids of heights against their cells, counted one by one.

#include <catch2/catch.hpp>
#include <cmath>
#include <fstream>
#include <random>

#include <gdal_priv.h>
#include <ogr_spatialref.h>

#include "core/base/error.h"
#include "core/io/cloud_io.h"
#include "core/io/grid/grid_io.h"
#include "core/io/reference/system.h"
#include "core/measure/figures.h"
#include "support/cloud_makers.h"

using namespace pristine;

namespace {

struct TestGrid {
    int columns = 0, rows = 0;
    double place[6] = {1000, 1, 0, 2000, 0, -1};
    std::vector<double> z;  // not-a-number: a gap
    double at(int i, int j) const { return z[static_cast<std::size_t>(j * columns + i)]; }
};

TestGrid random_grid(std::mt19937_64& random, int columns, int rows, double gaps) {
    std::uniform_real_distribution<double> unit(0, 1);
    TestGrid g{columns, rows, {}, {}};
    const double turn = unit(random) * 6.28, cell = 0.1 + 5 * unit(random),
                 flip = unit(random) < 0.5 ? -1 : 1;
    g.place[0] = 4e5 * unit(random);
    g.place[1] = cell * std::cos(turn);
    g.place[2] = -flip * cell * std::sin(turn);
    g.place[3] = 5e6 * unit(random);
    g.place[4] = cell * std::sin(turn);
    g.place[5] = flip * cell * std::cos(turn);
    for (int k = 0; k < columns * rows; ++k) g.z.push_back(unit(random) < gaps ? NAN : 50 + 3 * unit(random));
    return g;
}

void write_tiff(const TestGrid& g, const std::filesystem::path& path, bool by_mask, double scale,
                double offset, const char* crs = nullptr) {
    GDALAllRegister();
    GDALDriver* driver = GetGDALDriverManager()->GetDriverByName("GTiff");
    CPLSetConfigOption("GDAL_TIFF_INTERNAL_MASK", "YES");
    const std::unique_ptr<GDALDataset> set(
        driver->Create(path.c_str(), g.columns, g.rows, 1, GDT_Float64, nullptr));
    REQUIRE(set);
    set->SetGeoTransform(const_cast<double*>(g.place));
    if (crs) {
        OGRSpatialReference srs;
        srs.SetFromUserInput(crs);
        set->SetSpatialRef(&srs);
    }
    GDALRasterBand* band = set->GetRasterBand(1);
    std::vector<double> raw;
    std::vector<std::uint8_t> mask;
    for (const double v : g.z) {
        mask.push_back(std::isnan(v) ? 0 : 255);
        raw.push_back(std::isnan(v) ? (by_mask ? 12345 : -32768) : (v - offset) / scale);
    }
    if (scale != 1) band->SetScale(scale);
    if (offset != 0) band->SetOffset(offset);
    if (!by_mask) band->SetNoDataValue(-32768);
    REQUIRE(band->RasterIO(GF_Write, 0, 0, g.columns, g.rows, raw.data(), g.columns, g.rows, GDT_Float64, 0,
                           0) == CE_None);
    if (by_mask) {
        REQUIRE(set->CreateMaskBand(GMF_PER_DATASET) == CE_None);
        REQUIRE(band->GetMaskBand()->RasterIO(GF_Write, 0, 0, g.columns, g.rows, mask.data(), g.columns,
                                              g.rows, GDT_Byte, 0, 0) == CE_None);
    }
}

// Squares between four heights, one by one.
std::size_t whole_squares(const TestGrid& g) {
    std::size_t n = 0;
    for (int j = 0; j + 1 < g.rows; ++j)
        for (int i = 0; i + 1 < g.columns; ++i)
            n += std::isfinite(g.at(i, j) + g.at(i + 1, j) + g.at(i, j + 1) + g.at(i + 1, j + 1));
    return n;
}

}  // namespace

TEST_CASE("AGapInAGridStaysAGap") {
    const test::TemporaryFolder f;
    std::string text = "ncols 21\nnrows 21\nxllcorner 1000\nyllcorner 2000\ncellsize 1\nNODATA_value -9999\n";
    for (int j = 0; j < 21; ++j)
        for (int i = 0; i < 21; ++i)
            text +=
                (i >= 6 && i < 15 && j >= 6 && j < 15 ? "-9999" : "10") + std::string(i == 20 ? "\n" : " ");
    test::write_file(f / "a.asc", text);
    const mesh::TriMesh m = io::read_height_grid(f / "a.asc").mesh;
    CHECK(measure::figures(m).plan_area == Approx(300));
    CHECK(measure::volumes(m, measure::level(0)).above == Approx(3000));
}

TEST_CASE("TheAreaOfAnyGridIsThatOfItsValidSquares") {
    const std::uint64_t seed = test::seed_for("TheAreaOfAnyGridIsThatOfItsValidSquares");
    CAPTURE(seed);
    std::mt19937_64 random(seed);
    const test::TemporaryFolder f;
    for (int round = 0; round < 40; ++round) {
        const TestGrid g = random_grid(random, 2 + static_cast<int>(random() % 40),
                                       2 + static_cast<int>(random() % 40), round % 4 ? 0.15 : 0);
        const std::size_t squares = whole_squares(g);
        if (squares == 0) continue;
        write_tiff(g, f / "g.tif", round % 2 == 1, round % 3 ? 1 : 0.01, round % 3 ? 0 : 100);
        const io::HeightGrid read = io::read_height_grid(f / "g.tif");
        const double square = std::fabs(g.place[1] * g.place[5] - g.place[2] * g.place[4]);
        CHECK(read.mesh.triangles.size() == 2 * squares);
        CHECK(measure::figures(read.mesh).plan_area ==
              Approx(square * static_cast<double>(squares)).epsilon(1e-6));
        // Every triangle is counter-clockwise in plan, whichever way rows and columns run.
        for (const auto& t : read.mesh.triangles) {
            const Vec3 p = read.mesh.vertices[t[1]] - read.mesh.vertices[t[0]],
                       q = read.mesh.vertices[t[2]] - read.mesh.vertices[t[0]];
            REQUIRE(p.x * q.y - p.y * q.x > 0);
        }
        // Heights are those of the cells, with scale and offset, at their middles.
        std::size_t v = 0;
        for (int j = 0; j < g.rows; ++j)
            for (int i = 0; i < g.columns; ++i) {
                if (std::isnan(g.at(i, j))) continue;
                const Vec3 is = read.mesh.vertices[v++];
                CHECK(is.z == Approx(g.at(i, j)).margin(1e-9));
                CHECK(is.x == Approx(g.place[0] + (i + 0.5) * g.place[1] + (j + 0.5) * g.place[2]));
            }
    }
}

TEST_CASE("AGridWrittenAtItsOwnCellIsTheSameGrid") {
    const test::TemporaryFolder f;
    std::mt19937_64 random(5);
    for (const double cell : {0.5, 2.0, 0.3}) {
        TestGrid g = random_grid(random, 30, 20, 0.1);
        const double place[6] = {431000.25, cell, 0, 5412000.75, 0, -cell};
        std::copy(std::begin(place), std::end(place), std::begin(g.place));
        write_tiff(g, f / "g.tif", false, 1, 0, "EPSG:2277");
        const io::HeightGrid a = io::read_height_grid(f / "g.tif");
        CHECK(a.reference.unit == "usft");
        CHECK(io::suggested_cell(a.mesh) == Approx(cell));
        for (const char* name : {"out.tif", "out.asc"}) {
            CAPTURE(cell, name);
            io::write_grid(a.mesh, {0, -9999, a.reference}, f / name, true);
            const io::HeightGrid b = io::read_height_grid(f / name);
            CHECK(b.reference.unit == "usft");
            CHECK(io::system_of(b.reference.crs).unit == "usft");
            REQUIRE(b.mesh.triangles.size() == a.mesh.triangles.size());
            CHECK(measure::figures(b.mesh).surface_area == Approx(measure::figures(a.mesh).surface_area));
            CHECK(measure::volumes(b.mesh, measure::level(0)).above ==
                  Approx(measure::volumes(a.mesh, measure::level(0)).above).epsilon(1e-6));
        }
    }
}

TEST_CASE("AThinnedGridTellsItsLargestErrorOfHeight") {
    const test::TemporaryFolder f;
    TestGrid g{301, 201, {0, 1, 0, 0, 0, -1}, {}};
    for (int j = 0; j < g.rows; ++j)
        for (int i = 0; i < g.columns; ++i) g.z.push_back(20 + 2 * std::sin(0.11 * i) * std::cos(0.07 * j));
    for (int j = 90; j < 110; ++j)
        for (int i = 140; i < 160; ++i) g.z[static_cast<std::size_t>(j * g.columns + i)] = NAN;
    write_tiff(g, f / "g.tif", false, 1, 0);
    const io::HeightGrid full = io::read_height_grid(f / "g.tif");
    CHECK(full.step == 1);
    CHECK(full.error == 0);
    const io::HeightGrid thin = io::read_height_grid(f / "g.tif", {5000, 0});
    CHECK(thin.step == 4);
    CHECK(thin.mesh.vertices.size() <= 5000);
    CHECK(thin.warnings.size() == 1);
    CHECK(thin.error > 0.005);
    CHECK(thin.error < 0.2);
    // No height of the file is farther from the surface than was told: looked up the slow way.
    double worst = 0;
    for (int j = 0; j < g.rows; j += 3)
        for (int i = 0; i < g.columns; i += 3) {
            const double x = i + 0.5, y = -(j + 0.5), z = g.at(i, j);
            if (std::isnan(z)) continue;
            for (const auto& t : thin.mesh.triangles) {
                const Vec3 &a = thin.mesh.vertices[t[0]], &b = thin.mesh.vertices[t[1]],
                           &c = thin.mesh.vertices[t[2]];
                if (std::min({a.x, b.x, c.x}) > x || std::max({a.x, b.x, c.x}) < x ||
                    std::min({a.y, b.y, c.y}) > y || std::max({a.y, b.y, c.y}) < y)
                    continue;
                const double w = (b.x - a.x) * (c.y - a.y) - (b.y - a.y) * (c.x - a.x);
                const double u = ((x - a.x) * (c.y - a.y) - (y - a.y) * (c.x - a.x)) / w,
                             v = ((b.x - a.x) * (y - a.y) - (b.y - a.y) * (x - a.x)) / w;
                if (u < -1e-9 || v < -1e-9 || u + v > 1 + 1e-9) continue;
                worst = std::max(worst, std::fabs(a.z + u * (b.z - a.z) + v * (c.z - a.z) - z));
                break;
            }
        }
    CHECK(worst <= thin.error + 1e-9);
    CHECK(worst > 0.5 * thin.error);
    // No triangle covers the gap.
    for (const auto& t : thin.mesh.triangles) {
        Vec3 middle;
        for (const std::uint32_t v : t) middle = middle + thin.mesh.vertices[v] * (1 / 3.0);
        CHECK_FALSE((middle.x > 140.5 && middle.x < 159.5 && middle.y < -90.5 && middle.y > -109.5));
    }
    // Asked for an error it is thinned as far as that allows.
    const io::HeightGrid by_error = io::read_height_grid(f / "g.tif", {4'000'000, 0.1});
    CHECK(by_error.step == 4);
    CHECK(by_error.error <= 0.1);
    CHECK(io::read_height_grid(f / "g.tif", {4'000'000, 1e-6}).step == 1);
}

TEST_CASE("APictureIsNoTerrain") {
    const test::TemporaryFolder f;
    GDALAllRegister();
    GDALDriver* driver = GetGDALDriverManager()->GetDriverByName("GTiff");
    char* rgb[] = {const_cast<char*>("PHOTOMETRIC=RGB"), nullptr};
    driver->Create((f / "photo.tif").c_str(), 30, 20, 3, GDT_Byte, rgb)->Release();
    driver->Create((f / "grey.tif").c_str(), 30, 20, 1, GDT_Byte, nullptr)->Release();
    driver->Create((f / "heights.tif").c_str(), 30, 20, 1, GDT_Float32, nullptr)->Release();
    CHECK(io::is_picture(f / "photo.tif"));
    CHECK(io::is_picture(f / "grey.tif"));
    CHECK_FALSE(io::is_picture(f / "heights.tif"));
    CHECK_THROWS_AS(io::read_cloud(f / "photo.tif"), Error);
    CHECK_NOTHROW(io::read_cloud(f / "heights.tif"));
}

TEST_CASE("AnAscFileOfPointsIsNoGrid") {
    const test::TemporaryFolder f;
    test::write_file(f / "a.asc", "1000.0 2000.0 10.0\n1001.0 2000.0 10.1\n1002.0 2001.0 10.2\n");
    CHECK_FALSE(io::is_grid_file(f / "a.asc"));
    CHECK(io::read_cloud(f / "a.asc").cloud->size() == 3);
    test::write_file(f / "b.asc", "NCOLS 2\nNROWS 2\nXLLCENTER 0\nYLLCENTER 0\nCELLSIZE 2\n1 2\n3 4\n");
    CHECK(io::is_grid_file(f / "b.asc"));
    const io::HeightGrid g = io::read_height_grid(f / "b.asc");
    CHECK(g.mesh.vertices[2].x ==
          Approx(0).margin(1e-9));  // the corner given is the middle of the first cell
    CHECK(measure::figures(g.mesh).plan_area == Approx(4));
}

TEST_CASE("AGridThatSaysNothingIsNotWritten") {
    const test::TemporaryFolder f;
    const mesh::TriMesh m{{{0, 0, 1}, {10, 0, 1}, {10, 10, 2}, {0, 10, 1}}, {{0, 1, 2}, {0, 2, 3}}};
    CHECK_THROWS_AS(io::write_grid(m, {100, -9999, {}}, f / "a.tif", false), Error);
    CHECK_THROWS_AS(io::write_grid(m, {1e-9, -9999, {}}, f / "a.tif", false), Error);
    CHECK_THROWS_AS(io::grid_size({}, 1), Error);
    CHECK_FALSE(std::filesystem::exists(f / "a.tif"));
    const io::GridSize s = io::grid_size(m, 0.5);
    CHECK(s.columns * s.rows == s.bytes / 8);
    CHECK(s.columns >= 20);
}
