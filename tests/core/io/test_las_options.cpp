// LAS written to another point format or step than its source has, and read back.

#include <catch2/catch.hpp>

#include <random>

#include "core/base/error.h"
#include "core/base/file.h"
#include "core/io/cloud_io.h"
#include "core/io/reference/system.h"
#include "support/cloud_makers.h"

using namespace pristine;

namespace {

// Of each record, as a file says it.
std::vector<double> column(const cloud::PointCloud& c, const std::string& name) {
    const auto records = c.records();
    const cloud::Field* f = records->layout().find(name);
    REQUIRE(f);
    const std::size_t each = records->layout().record_bytes;
    std::vector<std::byte> bytes(records->count() * each);
    records->read(0, bytes);
    std::vector<double> out;
    for (std::uint64_t i = 0; i < records->count(); ++i) out.push_back(value(*f, bytes.data() + i * each));
    return out;
}

std::shared_ptr<const cloud::PointCloud> source(const test::TemporaryFolder& f, int point_format) {
    test::LasSpec spec;
    spec.point_format = point_format;
    spec.minor = point_format < 6 ? 2 : 4;
    spec.points = 3000;
    spec.scan_like = true;
    test::write_file(f / "in.las", test::las_file(spec));
    return io::read_cloud(f / "in.las").cloud;
}

int byte_of(const std::filesystem::path& file, std::uint64_t at) {
    return static_cast<unsigned char>(InputFile(file).read_string(at, 1)[0]);
}

}  // namespace

TEST_CASE("EveryPointFormatKeepsEveryColumn") {
    const test::TemporaryFolder f;
    for (const int from : {1, 3, 6, 7})
        for (const int to : io::kLasPointFormats)
            for (const char* ending : {"las", "laz"}) {
                CAPTURE(from, to, ending);
                const auto in = source(f, from);
                io::WriteOptions how;
                how.replace = true;
                how.las.point_format = to;
                const auto file = f / (std::string("out.") + ending);
                const auto classes = column(*in, "class");
                const auto returns = column(*in, "returns");
                const bool too_high = to < 6 && (*std::max_element(classes.begin(), classes.end()) > 31 ||
                                                 *std::max_element(returns.begin(), returns.end()) > 7);
                if (too_high) {
                    CHECK_THROWS_AS(io::write_cloud({{in}}, file, how), Error);
                    continue;
                }
                CHECK(io::write_cloud({{in}}, file, how) == in->records()->count());
                CHECK(byte_of(file, 25) == (to < 6 ? 2 : 4));
                CHECK((byte_of(file, 104) & 0x3F) == to);
                const auto back = io::read_cloud(file).cloud;
                for (const cloud::Field& field : in->records()->layout().fields) {
                    CAPTURE(field.name);
                    const auto was = column(*in, field.name), now = column(*back, field.name);
                    const double off = field.name == "scan_angle" ? 0.5 : 1e-9;
                    for (std::size_t i = 0; i < was.size(); i += 7)
                        if (std::fabs(was[i] - now[i]) > off) FAIL_CHECK(was[i] << " became " << now[i]);
                }
            }
}

TEST_CASE("ACoarserStepMovesNoCoordinateByMoreThanHalfOfIt") {
    const std::uint64_t seed = test::seed_for("las step");
    CAPTURE(seed);
    std::mt19937_64 dice(seed);
    const test::TemporaryFolder f;
    const auto in = test::random_cloud(5000, test::Shape::Terrain, dice());
    for (const double step : {0.003, 0.01, 0.25}) {
        io::WriteOptions how;
        how.replace = true;
        how.las.step = step;
        io::write_cloud({{in}}, f / "out.las", how);
        const auto back = io::read_cloud(f / "out.las").cloud;
        CHECK(back->records()->layout().find("x")->scale == step);
        for (const char* axis : {"x", "y", "z"}) {
            const auto was = column(*in, axis), now = column(*back, axis);
            double most = 0;
            for (std::size_t i = 0; i < was.size(); ++i) most = std::max(most, std::fabs(was[i] - now[i]));
            CHECK(most <= step / 2 * 1.000001 + 1e-9);
            CHECK(most > step / 4);
        }
    }
    io::WriteOptions how;
    how.las.step = 1e-12;
    CHECK_THROWS_AS(io::write_cloud({{in}}, f / "fine.las", how), Error);
}

TEST_CASE("Las12StatesItsSystemByNumber") {
    const test::TemporaryFolder f;
    const auto in = cloud::with_reference(test::random_cloud(50, test::Shape::Terrain, 2),
                                          {io::system_typed("EPSG:25832"), "m", ""});
    io::WriteOptions how;
    how.las.point_format = 3;
    io::write_cloud({{in}}, f / "out.las", how);
    const auto back = io::read_cloud(f / "out.las").cloud;
    CHECK(io::system_of(back->crs()).code == "EPSG:25832");
    CHECK(back->unit() == "m");
    CHECK(io::lost_in({{in}}, f / "out.las", how).empty());
}

TEST_CASE("WhatOnlyMakersKnowIsSaidToBeLeftBehind") {
    const test::TemporaryFolder f;
    const auto in = source(f, 7);
    io::WriteOptions how;
    CHECK(io::lost_in({{in}}, f / "out.las", how).empty());  // copied as it is
    how.las.step = 0.02;
    const auto said = io::lost_in({{in}}, f / "out.las", how);
    REQUIRE(said.size() == 1);
    CHECK(said.front().find("VLR") != std::string::npos);
    how.las.point_format = 4;
    CHECK_THROWS_AS(io::write_cloud({{in}}, f / "out.las", how), Error);
}
