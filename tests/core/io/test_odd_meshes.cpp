#include <catch2/catch.hpp>

#include <fmt/format.h>

#include "core/base/bytes.h"
#include "core/io/grid/grid_io.h"
#include "core/io/lines/lines.h"
#include "core/io/mesh/mesh_io.h"
#include "support/cloud_makers.h"

using namespace pristine;
namespace fs = std::filesystem;

namespace {

io::MeshFile read_mesh_text(const test::TemporaryFolder& f, const std::string& name,
                            const std::string& text) {
    test::write_file(f / name, text);
    return io::read_mesh(f / name);
}

std::string utf16(const std::string& text, bool big) {
    std::string s = big ? "\xFE\xFF" : "\xFF\xFE";
    for (const char c : text) big ? (s += '\0', s += c) : (s += c, s += '\0');
    return s;
}

std::string facet() {
    std::string s(12, '\0');
    for (const float v : {0.f, 0.f, 0.f, 1.f, 0.f, 0.f, 0.f, 1.f, 0.f}) append_le(s, v);
    return s + std::string(2, '\0');
}

std::string dxf(const std::string& entities, const std::string& blocks = {}) {
    return (blocks.empty() ? "" : "0\nSECTION\n2\nBLOCKS\n" + blocks + "0\nENDSEC\n") +
           "0\nSECTION\n2\nENTITIES\n" + entities + "0\nENDSEC\n0\nEOF\n";
}

std::string face(const std::vector<Vec3>& corners) {
    std::string s = "0\n3DFACE\n8\nA\n";
    for (std::size_t k = 0; k < corners.size(); ++k)
        s += fmt::format("{}\n{}\n{}\n{}\n{}\n{}\n", 10 + k, corners[k].x, 20 + k, corners[k].y, 30 + k,
                         corners[k].z);
    return s;
}

std::string vertex(const Vec3& p, int flags, const std::vector<int>& corners = {}) {
    std::string s = fmt::format("0\nVERTEX\n8\nA\n10\n{}\n20\n{}\n30\n{}\n70\n{}\n", p.x, p.y, p.z, flags);
    for (std::size_t k = 0; k < corners.size(); ++k) s += fmt::format("{}\n{}\n", 71 + k, corners[k]);
    return s;
}

double area_of_all(const mesh::TriMesh& m) {
    double sum = 0;
    for (const auto& t : m.triangles)
        sum += norm(cross(m.vertices[t[1]] - m.vertices[t[0]], m.vertices[t[2]] - m.vertices[t[0]])) / 2;
    return sum;
}

}  // namespace

TEST_CASE("FilesWithoutTrianglesAreNoMeshes") {
    const test::TemporaryFolder f;
    for (const char* text : {"", "hello world\nnothing here\n", "# only a remark\n"})
        CHECK_THROWS_WITH(read_mesh_text(f, "a.obj", text), Catch::Contains("holds no triangles"));
    CHECK_THROWS_WITH(read_mesh_text(f, "a.obj", "v 0 0 0\nv 1 0 0\nv 0 1 0\n"),
                      Catch::Contains("3 vertices and no triangles"));
    CHECK_THROWS_AS(read_mesh_text(f, "a.stl", "solid a\nendsolid a\n"), Error);
}

TEST_CASE("ObjWithRemarksContinuedLinesAndUtf16") {
    const test::TemporaryFolder f;
    const std::string plain = "v 0 0 0\nv 1 0 0\nv 0 1 0\nf 1 2 3\n";
    for (const std::string& text :
         {plain, std::string("v 0 0 0 # first\nv 1 0 0#second\nv 0 1 0\nf 1 2 3 # face\n"),
          std::string("v 0 0 \\\n0\nv 1 0 0\nv 0 1 0\nf 1 \\\n 2 \\\n 3\n"), utf16(plain, false),
          utf16(plain, true), "\xEF\xBB\xBF" + plain}) {
        const auto m = read_mesh_text(f, "a.obj", text);
        CHECK(m.mesh.triangles.size() == 1);
        CHECK(area_of_all(m.mesh) == Approx(0.5));
    }
}

TEST_CASE("StlAsWritersLayItOut") {
    const test::TemporaryFolder f;
    const std::string one =
        "solid a facet normal 0 0 1 outer loop vertex 0 0 0 vertex 1 0 0 vertex 0 1 0 endloop "
        "endfacet endsolid a";
    std::string upper = one;
    upper.replace(0, 5, "SOLID");
    for (const std::string& text : {one, upper, "  \n\t" + one})
        CHECK(read_mesh_text(f, "a.stl", text).mesh.triangles.size() == 1);
    for (const std::string& head : {std::string("solid"), std::string("made by a scanner")}) {
        std::string s = head + std::string(80 - head.size(), ' ');
        append_le(s, std::uint32_t{1});
        s += facet();
        CHECK(read_mesh_text(f, "b.stl", s).warnings.empty());
        const auto tail = read_mesh_text(f, "b.stl", s + "ten bytes.");
        CHECK(tail.mesh.triangles.size() == 1);
        REQUIRE(tail.warnings.size() == 1);
        CHECK_THAT(tail.warnings[0], Catch::StartsWith("10 bytes"));
        CHECK_THROWS_AS(read_mesh_text(f, "b.stl", s.substr(0, s.size() - 1)), Error);
    }
}

TEST_CASE("PlyWithFacesFirstAndOffInOneLine") {
    const test::TemporaryFolder f;
    const auto ply =
        read_mesh_text(f, "a.ply",
                       "ply\nformat ascii 1.0\nelement face 2\nproperty list uchar int vertex_indices\n"
                       "property uchar red\nproperty uchar green\nproperty uchar blue\nelement vertex 5\n"
                       "property float x\nproperty float y\nproperty float z\nend_header\n"
                       "4 0 1 2 3 10 20 30\n3 0 1 4 40 50 60\n0 0 0\n2 0 0\n2 2 0\n0 2 0\n1 -1 0\n");
    CHECK(ply.mesh.triangles.size() == 3);
    CHECK(area_of_all(ply.mesh) == Approx(5));
    const auto off = read_mesh_text(f, "a.off", "OFF 4 2 5 0 0 0 1 0 0 1 1 0 0 1 0 3 0 1 2 3 0 2 3");
    CHECK(area_of_all(off.mesh) == Approx(1));
    CHECK_THROWS_AS(read_mesh_text(f, "a.off", "OFF 4 2 5 0 0 0 1 0 0 1 1 0 0 1 0 3 0 1 2 3 0 2"), Error);
}

TEST_CASE("DxfFacesOfThreeCornersPolyfacesMeshesAndBlocks") {
    const test::TemporaryFolder f;
    const std::vector<Vec3> three{{10, 10, 0}, {11, 10, 0}, {10, 11, 0}};
    const Vec3 origin{};
    // A fourth corner that was not given is no corner at 0,0,0 …
    CHECK(read_mesh_text(f, "a.dxf", dxf(face(three) + face({three[0], three[1], three[2], origin})))
              .mesh.triangles.size() == 2);
    // … unless the drawing reaches the origin.
    CHECK(area_of_all(read_mesh_text(f, "a.dxf",
                                     dxf(face({{1, 0, 0}, {1, 1, 0}, {0, 1, 0}, origin}) +
                                         face({origin, {-1, 0, 0}, {0, -1, 0}})))
                          .mesh) == Approx(1.5));
    const std::string square =
        vertex({0, 0, 0}, 192) + vertex({1, 0, 0}, 192) + vertex({1, 1, 0}, 192) + vertex({0, 1, 0}, 192);
    const auto poly =
        read_mesh_text(f, "a.dxf",
                       dxf("0\nPOLYLINE\n8\nA\n70\n64\n71\n4\n72\n1\n" + square +
                           vertex({}, 128, {1, 2, 3, -4}) + vertex({}, 128, {1, 2}) + "0\nSEQEND\n"));
    CHECK(area_of_all(poly.mesh) == Approx(1));
    CHECK_THROWS_AS(
        read_mesh_text(f, "a.dxf",
                       dxf("0\nPOLYLINE\n70\n64\n" + square + vertex({}, 128, {1, 2, 9}) + "0\nSEQEND\n")),
        Error);
    std::string grid = "0\nPOLYLINE\n8\nA\n70\n16\n71\n3\n72\n2\n";
    for (int i = 0; i < 3; ++i)
        for (int j = 0; j < 2; ++j) grid += vertex({double(i), double(j), 0}, 64);
    CHECK(area_of_all(read_mesh_text(f, "a.dxf", dxf(grid + "0\nSEQEND\n")).mesh) == Approx(2));
    const std::string block =
        "0\nBLOCK\n2\nB\n10\n1\n20\n0\n30\n0\n" + face({{1, 0, 0}, {2, 0, 0}, {1, 1, 0}}) + "0\nENDBLK\n";
    const std::string insert =
        "0\nINSERT\n2\nB\n10\n5\n20\n5\n30\n7\n41\n2\n42\n3\n0\nINSERT\n2\nB\n10\n0\n20\n0\n"
        "30\n0\n50\n90\n70\n2\n71\n3\n44\n10\n45\n10\n0\nINSERT\n2\nnone\n10\n0\n20\n0\n30\n0\n";
    const auto inserted = read_mesh_text(f, "a.dxf", dxf(insert, block));
    CHECK(inserted.mesh.triangles.size() == 7);
    CHECK(area_of_all(inserted.mesh) == Approx(3 + 6 * 0.5));
    Box3 box;
    for (const Vec3& v : inserted.mesh.vertices) box.add(v);
    CHECK(box.hi.z == Approx(7));
    CHECK(box.lo.x == Approx(-21));  // the second column and third row, turned by 90 degrees
    REQUIRE(inserted.warnings.size() == 1);
    // Blocks that hold themselves end with a sentence.
    CHECK_THROWS_AS(read_mesh_text(f, "a.dxf",
                                   dxf("0\nINSERT\n2\nB\n",
                                       "0\nBLOCK\n2\nB\n" + face(three) + "0\nINSERT\n2\nB\n0\nENDBLK\n")),
                    Error);
    CHECK_THROWS_AS(read_mesh_text(f, "a.dxf", dxf("0\nINSERT\n2\nB\n70\n30000\n71\n30000\n", block)), Error);
}

TEST_CASE("AMeshReadsNothingOutsideItsFolder") {
    const test::TemporaryFolder f;
    fs::create_directories(f / "job/textures");
    // A picture of one pixel.
    const std::string bmp = [] {
        std::string s = "BM";
        append_le(s, std::uint32_t{58});
        append_le(s, std::uint32_t{0});
        append_le(s, std::uint32_t{54});
        append_le(s, std::uint32_t{40});
        append_le(s, std::int32_t{1});
        append_le(s, std::int32_t{1});
        append_le(s, std::uint16_t{1});
        append_le(s, std::uint16_t{24});
        return s + std::string(24, '\0') + std::string("\x10\x20\x30\0", 4);
    }();
    test::write_file(f / "secret", "a key");
    test::write_file(f / "secret.bmp", bmp);
    test::write_file(f / "job/fake.png", "no picture at all");
    test::write_file(f / "job/textures/stone.bmp", bmp);
    fs::create_symlink(f / "secret.bmp", f / "job/link.bmp");
    const std::string faces = "v 0 0 0\nv 1 0 0\nv 0 1 0\nvt 0 0\nvt 1 0\nvt 0 1\nusemtl m\nf 1/1 2/2 3/3\n";
    int copied = 0;
    const std::vector<std::string> names{"../secret",
                                         "../secret.bmp",
                                         (f / "secret.bmp").string(),
                                         "link.bmp",
                                         "textures/../../secret.bmp",
                                         "..\\secret.bmp",
                                         "fake.png",
                                         "textures/stone.bmp"};
    for (const std::string& name : names) {
        CAPTURE(name);
        test::write_file(f / "job/a.mtl", "newmtl m\nmap_Kd " + name + "\n");
        test::write_file(f / "job/a.obj", "mtllib a.mtl\n" + faces);
        const auto m = io::read_mesh(f / "job/a.obj");
        const bool good = name == "textures/stone.bmp";
        CHECK(m.warnings.empty() == good);
        fs::remove_all(f / "out");
        fs::create_directory(f / "out");
        io::write_mesh(m.mesh, f / "out/b.obj", false, "m", m.attributes, "");
        for (const auto& e : fs::directory_iterator(f / "out")) {
            const std::string out = e.path().filename().string();
            CHECK((out == "b.obj" || out == "b.mtl" || (good && out == "stone.bmp")));
            copied += out == "stone.bmp";
        }
    }
    CHECK(copied == 1);
    // Nor do the materials of the mesh come from elsewhere.
    test::write_file(f / "other.mtl", "newmtl m\nKd 1 0 0\n");
    test::write_file(f / "job/c.obj", "mtllib ../other.mtl\n" + faces);
    CHECK(io::read_mesh(f / "job/c.obj").warnings.size() == 1);
}

TEST_CASE("PicturesOfAbsurdSizesAreRefused") {
    const test::TemporaryFolder f;
    std::string s = "BM";
    append_le(s, std::uint32_t{58});
    append_le(s, std::uint32_t{0});
    append_le(s, std::uint32_t{54});
    append_le(s, std::uint32_t{40});
    append_le(s, std::int32_t{30000});
    append_le(s, std::int32_t{30000});
    append_le(s, std::uint16_t{1});
    append_le(s, std::uint16_t{24});
    s += std::string(24, '\0');
    test::write_file(f / "large.bmp", s);
    test::write_file(f / "a.mtl", "newmtl m\nmap_Kd large.bmp\n");
    const auto m = read_mesh_text(
        f, "a.obj", "mtllib a.mtl\nv 0 0 0\nv 1 0 0\nv 0 1 0\nvt 0 0\nusemtl m\nf 1/1 2/1 3/1\n");
    REQUIRE(m.warnings.size() == 1);
}

TEST_CASE("ReadersThatAreNotOursEndInTimeAndAskNobody") {
    const test::TemporaryFolder f;
    // A block that is inserted 900 million times: the reader would never come to an end.
    std::string s =
        "0\nSECTION\n2\nBLOCKS\n0\nBLOCK\n8\n0\n2\nB\n70\n0\n10\n0\n20\n0\n30\n0\n0\nLINE\n8\n0\n10\n0\n20\n0"
        "\n"
        "11\n1\n21\n1\n0\nENDBLK\n0\nENDSEC\n0\nSECTION\n2\nENTITIES\n0\nINSERT\n8\n0\n2\nB\n10\n0\n20\n0\n"
        "70\n30000\n71\n30000\n44\n1\n45\n1\n0\nENDSEC\n0\nEOF\n";
    test::write_file(f / "endless.dxf", s);
    CHECK_THROWS_AS(io::read_lines(f / "endless.dxf"), Error);
    // Files of other drivers under our endings, which would ask the net or other files.
    test::write_file(f / "good.geojson", R"({"type":"LineString","coordinates":[[0,0],[1,0],[1,1]]})");
    REQUIRE(io::read_lines(f / "good.geojson").size() == 1);
    const std::string vrt = "<OGRVRTDataSource><OGRVRTLayer name=\"good\"><SrcDataSource>" +
                            (f / "good.geojson").string() +
                            "</SrcDataSource></OGRVRTLayer></OGRVRTDataSource>";
    for (const char* name : {"a.shp", "a.gpkg", "a.dxf", "a.geojson", "a.json"}) {
        CAPTURE(name);
        test::write_file(f / name, vrt);
        CHECK_THROWS_AS(io::read_lines(f / name), Error);
        test::write_file(f / name, "http://127.0.0.1:9/lines.geojson");
        CHECK_THROWS_AS(io::read_lines(f / name), Error);
        std::string deep;
        for (int i = 0; i < 40'000; ++i) deep += R"({"type":"GeometryCollection","geometries":[)";
        for (int i = 0; i < 40'000; ++i) deep += "]}";
        test::write_file(f / name, deep);
        CHECK_THROWS_AS(io::read_lines(f / name), Error);
    }
}

TEST_CASE("AFewTrianglesMakeNoGigabytes") {
    const test::TemporaryFolder f;
    // One short edge in a field of three kilometres.
    mesh::TriMesh m;
    m.vertices = {{0, 0, 0},   {3'000, 0, 1}, {3'000, 3'000, 2}, {0, 3'000, 1},
                  {10, 10, 0}, {10.5, 10, 0}, {10, 10.5, 0}};
    m.triangles = {{4, 5, 6}, {0, 1, 2}, {4, 5, 6}, {4, 5, 6}};
    CHECK_THROWS_WITH(io::write_grid(m, {}, f / "a.tif", false), Catch::Contains("--cell"));
    io::GridWriting said;
    said.cell = 10;
    CHECK(io::write_grid(m, said, f / "a.tif", false).columns == 300);
}

TEST_CASE("ColoursOfMeshesMeanWhatTheirNumbersSay", "[mesh]") {
    // One triangle of red, green and half grey, told in every way that programs tell it.
    const test::TemporaryFolder f;
    const auto colours = [&](const char* name, const std::string& text) {
        const io::MeshFile m = read_mesh_text(f, name, text);
        REQUIRE(m.attributes.colours.size() == 1);
        return m.attributes.colours[0];
    };
    const std::array<std::uint32_t, 3> wanted{0xFF0000, 0x00FF00, 0x808080};
    const auto same = [&](const std::array<std::uint32_t, 3>& got) {
        for (std::size_t k = 0; k < 3; ++k)
            for (const int shift : {16, 8, 0}) {
                const int a = static_cast<int>(got[k] >> shift & 255u),
                          b = static_cast<int>(wanted[k] >> shift & 255u);
                if (std::abs(a - b) > 1) return false;
            }
        return true;
    };
    for (const auto& [type, most] : std::vector<std::pair<std::string, double>>{{"uchar", 255},
                                                                                {"ushort", 65535},
                                                                                {"ushort", 255},
                                                                                {"float", 1},
                                                                                {"float", 255},
                                                                                {"double", 65535}}) {
        const double full = most;
        CAPTURE(type, full);
        const bool whole = type[0] == 'u';
        const auto v = [&](double share) {
            return whole ? std::to_string(std::lround(share * full)) : std::to_string(share * full);
        };
        const std::string one = v(1), none = v(0), half = v(0.5);
        std::string ply = "ply\nformat ascii 1.0\nelement vertex 3\n";
        for (const char* axis : {"x", "y", "z"}) ply += std::string("property float ") + axis + "\n";
        for (const char* c : {"red", "green", "blue"}) ply += "property " + type + " " + c + "\n";
        ply += "element face 1\nproperty list uchar int vertex_indices\nend_header\n";
        ply += "0 0 0 " + one + " " + none + " " + none + "\n1 0 0 " + none + " " + one + " " + none +
               "\n0 1 0 " + half + " " + half + " " + half + "\n3 0 1 2\n";
        CHECK(same(colours("a.ply", ply)));
        if (whole && type != "uchar") continue;
        const std::string obj = "v 0 0 0 " + one + " " + none + " " + none + "\nv 1 0 0 " + none + " " + one +
                                " " + none + "\nv 0 1 0 " + half + " " + half + " " + half + "\nf 1 2 3\n";
        CHECK(same(colours("a.obj", obj)));
    }
}
