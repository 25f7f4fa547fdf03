// What a trial says of a file, against the file as it is then written.

#include <catch2/catch.hpp>

#include <cmath>
#include <random>

#include "core/base/error.h"
#include "core/cloud/triangles.h"
#include "core/io/keep.h"
#include "core/io/mesh/mesh_cloud.h"
#include "core/io/mesh/mesh_io.h"
#include "core/io/trial.h"
#include "support/cloud_makers.h"

using namespace pristine;

namespace {

mesh::TriMesh hills(std::mt19937_64& dice, std::size_t side, const Vec3& at) {
    std::uniform_real_distribution<double> up(0, 0.3);
    mesh::TriMesh m;
    for (std::size_t i = 0; i < side * side; ++i)
        m.vertices.push_back({at.x + 0.5 * static_cast<double>(i % side),
                              at.y + 0.5 * static_cast<double>(i / side), at.z + up(dice)});
    for (std::uint32_t r = 0; r + 1 < side; ++r)
        for (std::uint32_t c = 0; c + 1 < side; ++c) {
            const auto s = static_cast<std::uint32_t>(side), a = r * s + c;
            m.triangles.push_back({a, a + 1, a + s});
            m.triangles.push_back({a + 1, a + s + 1, a + s});
        }
    return m;
}

std::uint64_t files_in(const std::filesystem::path& folder) {
    std::uint64_t n = 0;
    for (const auto& e : std::filesystem::directory_iterator(folder)) n += e.is_regular_file();
    return n;
}

}  // namespace

TEST_CASE("ATrialFindsTheSizeOfEveryFormatOfPoints") {
    const std::uint64_t seed = test::seed_for("trial sizes");
    CAPTURE(seed);
    std::mt19937_64 dice(seed);
    const test::TemporaryFolder f;
    const auto cloud = test::random_cloud(60'000, test::Shape::Terrain, dice());
    for (const char* ending : {"las", "laz", "ply", "e57", "xyz", "pts", "ptx"}) {
        CAPTURE(ending);
        const auto file = f / (std::string("out.") + ending);
        const io::Trial t = io::try_write({{cloud}}, file);
        CHECK(files_in(f.path()) == 0);  // nothing was left where the file will be
        CHECK(t.elements == 60'000);
        const std::uint64_t written = io::write_cloud({{cloud}}, file);
        CHECK(t.elements == written);
        const auto size = static_cast<double>(std::filesystem::file_size(file));
        CHECK(static_cast<double>(t.bytes) ==
              Approx(size).epsilon(std::string(ending) == "laz" ? 0.15 : 0.02));
        if (std::string(ending) == "las") CHECK(t.bytes == std::filesystem::file_size(file));
        CHECK_FALSE(t.format.empty());
        std::filesystem::remove(file);
    }
}

TEST_CASE("ATrialMeasuresWhatAStepMoves") {
    const test::TemporaryFolder f;
    const auto cloud = test::random_cloud(9000, test::Shape::Terrain, 8);
    io::WriteOptions how;
    for (const double step : {0.01, 0.5}) {
        how.las.step = step;
        const io::Trial t = io::try_write({{cloud}}, f / "out.laz", how);
        CHECK(t.moved > step / 4);
        CHECK(t.moved <= step / 2 * 1.001);
    }
    how.las.step = 0;
    CHECK(io::try_write({{cloud}}, f / "out.las", how).moved <= 0.0001);
}

TEST_CASE("ATrialNamesTheColumnsThatDoNotComeBack") {
    const test::TemporaryFolder f;
    test::LasSpec spec;
    spec.points = 2000;
    spec.scan_like = true;
    test::write_file(f / "in.las", test::las_file(spec));
    const auto cloud = io::read_cloud(f / "in.las").cloud;
    CHECK(io::try_write({{cloud}}, f / "out.laz").columns.empty());
    const auto lost = io::try_write({{cloud}}, f / "out.pts").columns;
    for (const char* name : {"time", "returns", "class"})
        CHECK(std::find(lost.begin(), lost.end(), name) != lost.end());
    // A column without a value is named by itself.
    auto zero = std::make_shared<std::vector<std::uint8_t>>(cloud->records()->count(), std::uint8_t{0});
    const io::Trial t = io::try_write({{.cloud = cloud, .classes = zero}}, f / "out.pts");
    CHECK(std::find(t.columns.begin(), t.columns.end(), "class") == t.columns.end());
    CHECK(std::find(t.empty_columns.begin(), t.empty_columns.end(), "class") != t.empty_columns.end());
    CHECK(std::find(lost.begin(), lost.end(), "intensity") == lost.end());
}

TEST_CASE("ATrialCountsWhatIsKeptOnly") {
    const test::TemporaryFolder f;
    const auto cloud = test::random_cloud(50'000, test::Shape::Clusters, 4);
    auto keep = std::make_shared<io::KeepBits>(cloud->records()->count(), false);
    for (std::uint64_t i = 30'000; i < 31'234; ++i) keep->keep(i);
    const io::Trial t = io::try_write({{cloud, keep}}, f / "out.las");
    CHECK(t.elements == 1234);
    CHECK(io::write_cloud({{cloud, keep}}, f / "out.las") == 1234);
    CHECK(t.bytes == std::filesystem::file_size(f / "out.las"));
    const auto none = std::make_shared<io::KeepBits>(cloud->records()->count(), false);
    CHECK_THROWS_AS(io::try_write({{cloud, none}}, f / "none.las"), Error);
}

TEST_CASE("ATrialSaysThatE57IsInMetres") {
    const test::TemporaryFolder f;
    const auto feet =
        cloud::with_reference(test::random_cloud(4000, test::Shape::Terrain, 5), {"", "usft", ""});
    const io::Trial t = io::try_write({{feet}}, f / "out.e57");
    CHECK(t.unit == "m");
    CHECK(t.moved < 0.001);
    CHECK(io::try_write({{feet}}, f / "out.las").unit.empty());
}

TEST_CASE("AnStlFarFromZeroKeepsItsPlaceInAFileBeside") {
    const std::uint64_t seed = test::seed_for("stl origin");
    CAPTURE(seed);
    std::mt19937_64 dice(seed);
    const test::TemporaryFolder f;
    const mesh::TriMesh far = hills(dice, 40, {4'412'300, 5'218'930, 58}), near = hills(dice, 40, {3, 4, 5});
    io::write_mesh(far, f / "far.stl", false, "m", {}, "EPSG:25832");
    CHECK(std::filesystem::exists(f / "far.origin.txt"));
    const io::MeshFile back = io::read_mesh(f / "far.stl");
    CHECK(back.unit == "m");
    CHECK(back.crs == "EPSG:25832");
    REQUIRE(back.mesh.triangles.size() == far.triangles.size());
    double most = 0;
    for (std::size_t t = 0; t < far.triangles.size(); ++t)
        for (std::size_t k = 0; k < 3; ++k)
            most = std::max(most, norm(back.mesh.vertices[back.mesh.triangles[t][k]] -
                                       far.vertices[far.triangles[t][k]]));
    CHECK(most < 1e-5);
    // A mesh near zero needs none; one that spoke for the file before states zero.
    io::write_mesh(near, f / "near.stl", false);
    CHECK_FALSE(std::filesystem::exists(f / "near.origin.txt"));
    io::write_mesh(near, f / "far.stl", true);
    CHECK(norm(io::read_mesh(f / "far.stl").mesh.vertices.front() - near.vertices.front()) < 30);
    // Without leave to replace, an origin that lies there is no reason to read the new file wrongly.
    test::write_file(f / "new.origin.txt", "east 1\nnorth 2\nheight 3\n");
    CHECK_THROWS_AS(io::write_mesh(near, f / "new.stl", false), Error);
    CHECK_FALSE(std::filesystem::exists(f / "new.stl"));
    // What cannot be read is said.
    io::write_mesh(far, f / "odd.stl", false);
    test::write_file(f / "odd.origin.txt", "east 1\nnorth two\nheight 3\n");
    CHECK_THROWS_AS(io::read_mesh(f / "odd.stl"), Error);
    test::write_file(f / "odd.origin.txt", "east 1\n");
    CHECK_THROWS_AS(io::read_mesh(f / "odd.stl"), Error);
}

TEST_CASE("ATrialOfAMeshNamesTheFilesBesideIt") {
    std::mt19937_64 dice(11);
    const test::TemporaryFolder f;
    const auto cloud =
        cloud::cloud_of_triangles(hills(dice, 60, {4'412'300, 5'218'930, 58}), {"m", "EPSG:25832", true});
    const io::Trial stl = io::try_write({{cloud}}, f / "bank.stl");
    CHECK(stl.beside == std::vector<std::string>{"bank.origin.txt"});
    CHECK(stl.moved < 1e-5);
    CHECK(stl.elements == 2 * 59 * 59);
    const std::uint64_t written = io::write_cloud({{cloud}}, f / "bank.stl");
    CHECK(written == stl.elements);
    const auto size =
        std::filesystem::file_size(f / "bank.stl") + std::filesystem::file_size(f / "bank.origin.txt");
    CHECK(static_cast<double>(stl.bytes) == Approx(static_cast<double>(size)).epsilon(0.01));
    CHECK(io::try_write({{cloud}}, f / "bank.ply").moved == 0);
}
