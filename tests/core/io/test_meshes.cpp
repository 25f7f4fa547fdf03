// Meshes in files: written and read back, odd but valid ones, broken ones; triangles as elements of a cloud.

#include <catch2/catch.hpp>

#include <gdal_priv.h>

#include <algorithm>
#include <random>

#include "core/base/error.h"
#include "core/cloud/triangles.h"
#include "core/io/cloud_io.h"
#include "core/io/grid/grid_io.h"
#include "core/io/grid/orthophoto_reader.h"
#include "core/io/keep.h"
#include "core/io/lines/lines.h"
#include "core/io/mesh/mesh_cloud.h"
#include "core/io/mesh/mesh_io.h"
#include "core/measure/solid.h"
#include "core/mesh/polygon_triangles.h"
#include "core/mesh/weld.h"
#include "core/score/score.h"
#include "core/surface/definition.h"
#include "core/surface/thin.h"
#include "core/surface/triangle_values.h"
#include "core/topology/adjacency.h"
#include "demo/solids.h"
#include "support/cloud_makers.h"

using namespace pristine;

namespace {

mesh::TriMesh ground(std::size_t n, const Vec3& at, std::uint64_t seed = 4) {
    std::mt19937_64 dice(seed);
    std::uniform_real_distribution<double> u(0, 1);
    surface::Definition d;
    for (std::size_t i = 0; i < n; ++i) {
        const double x = 40 * u(dice), y = 30 * u(dice);
        d.points.push_back({at.x + x, at.y + y, at.z + std::sin(0.2 * x) + std::cos(0.3 * y)});
    }
    return surface::build(d).mesh;
}

// Corners of all triangles, so that meshes with other numbers of vertices can be compared.
std::vector<std::array<double, 9>> corners_of(const mesh::TriMesh& m) {
    std::vector<std::array<double, 9>> all;
    for (const auto& t : m.triangles) {
        std::array<double, 9> c{};
        for (std::size_t k = 0; k < 3; ++k)
            for (int a = 0; a < 3; ++a) c[3 * k + static_cast<std::size_t>(a)] = m.vertices[t[k]][a];
        all.push_back(c);
    }
    return all;
}

constexpr Vec3 kFar{4'412'300, 5'218'930, 58}, kNear{10, 20, 3};

}  // namespace

TEST_CASE("MeshesComeBackFromEveryFormatAsTheyWere") {
    const test::TemporaryFolder f;
    const mesh::TriMesh m = ground(300, kFar);
    for (const char* name : {"a.ply", "a.obj", "a.off", "a.xml", "a.dxf"}) {
        CAPTURE(name);
        io::write_mesh(m, f / name, false, "ft");
        CHECK(io::is_mesh_file(f / name));
        const io::MeshFile back = io::read_mesh(f / name);
        // Doubles are written so that they read back to the bit. LandXML and DXF may begin a triangle
        // elsewhere.
        CHECK(corners_of(back.mesh) == corners_of(m));
        CHECK(back.mesh.vertices.size() == m.vertices.size());
        CHECK_THROWS_AS(io::write_mesh(m, f / name, false), Error);  // it is there already
    }
    CHECK(io::read_mesh(f / "a.xml").unit == "ft");
    CHECK(io::read_mesh(f / "a.xml").surface);
    // STL: singles, of meshes that are not too wide.
    mesh::TriMesh wide = m;
    wide.vertices.front().x += 300'000;
    CHECK_THROWS_AS(io::write_mesh(wide, f / "far.stl", false), Error);
    const mesh::TriMesh near = ground(200, kNear);
    io::write_mesh(near, f / "a.stl", false);
    const mesh::TriMesh back = io::read_mesh(f / "a.stl").mesh;
    REQUIRE(back.triangles.size() == near.triangles.size());
    CHECK(back.vertices.size() == near.vertices.size());
    for (std::size_t t = 0; t < back.triangles.size(); ++t)
        for (std::size_t k = 0; k < 3; ++k)
            REQUIRE(norm(back.vertices[back.triangles[t][k]] - near.vertices[near.triangles[t][k]]) < 1e-5);
    CHECK_THROWS_AS(io::write_mesh(m, f / "a.doc", false), Error);
}

TEST_CASE("OddButValidMeshFilesAreRead") {
    const auto read = [](const char* ending, const std::string& text) {
        const test::TemporaryFolder f;
        test::write_file(f / (std::string("m") + ending), text);
        return io::read_mesh(f / (std::string("m") + ending)).mesh;
    };
    // Quads, texture and normal numbers, counting backwards, CRLF, groups and what else is passed over.
    const mesh::TriMesh obj =
        read(".obj",
             "mtllib a.mtl\r\n# c\r\nv 0 0 0\r\nv 1 0 0\r\nv 1 1 0\r\nv 0 1 0\r\nvt 0 0\r\nvn 0 0 1\r\n"
             "g part\r\nf 1/1/1 2/1/1 3/1/1 4/1/1\r\nf -4//1 -3//1 -1//1\r\n");
    CHECK(obj.triangles.size() == 3);
    CHECK(obj.triangles[2] == std::array<std::uint32_t, 3>{0, 1, 3});
    const mesh::TriMesh off =
        read(".off", "OFF\n# c\n\n4 1 0\n0 0 0\n2 0 0\n2 2 0 255 0 0\n0 2 0\n\n4 0 1 2 3 0.5\n");
    CHECK(off.triangles.size() == 2);
    const mesh::TriMesh stl = read(".stl",
                                   "solid a\n facet normal 0 0 1\n  outer loop\n   vertex 0 0 0\n   vertex 1 "
                                   "0 0\n   vertex 0 1e0 0\n  endloop\n endfacet\nendsolid a\n");
    CHECK(stl.triangles.size() == 1);
    // PLY with more elements, properties and lists than are needed, faces by shorts.
    const mesh::TriMesh ply = read(".ply",
                                   "ply\nformat ascii 1.0\ncomment c\nelement vertex 4\nproperty float "
                                   "x\nproperty float y\nproperty float z\n"
                                   "property uchar red\nelement face 2\nproperty list uchar float "
                                   "texcoord\nproperty list uchar short vertex_index\n"
                                   "element edge 1\nproperty int a\nend_header\n0 0 0 9\n1 0 0 9\n1 1 0 9\n0 "
                                   "1 0 9\n2 0.5 0.5 3 0 1 2\n0 4 0 1 2 3\n7\n");
    CHECK(ply.triangles.size() == 3);
    // LandXML: other numbers than 1, 2, 3, faces with neighbours, one that is not to be seen, one that faces
    // down.
    const mesh::TriMesh xml =
        read(".xml",
             "<?xml version='1.0'?><LandXML><Units><Metric linearUnit='meter'/></Units><Surfaces><Surface "
             "name='s'><Definition surfType='TIN'><Pnts>"
             "<P id='7'>0 0 5</P><P id='8'>0 1 5</P><P id='11'>1 0 6</P><P id='12'>1 1 7</P></Pnts><Faces><F "
             "n='0 0 2'>7 8 11</F><F i='1'>7 8 12</F>"
             "<F>8 11 12</F></Faces></Definition></Surface></Surfaces></LandXML>");
    CHECK(xml.triangles.size() == 2);
    for (const auto& t : xml.triangles) {
        const Vec3 p = xml.vertices[t[1]] - xml.vertices[t[0]], q = xml.vertices[t[2]] - xml.vertices[t[0]];
        CHECK(p.x * q.y - p.y * q.x > 0);
    }
    CHECK(xml.vertices[1].x == 1);  // northing comes first
    const mesh::TriMesh dxf =
        read(".dxf",
             "0\nSECTION\n2\nENTITIES\n0\nLINE\n10\n5\n0\n3DFACE\n8\n0\n10\n0\n20\n0\n30\n0\n11\n1\n21\n0\n31"
             "\n0\n12\n1\n22\n1\n32\n0\n13\n0\n23\n1\n33\n0\n0\nENDSEC\n0\nEOF\n");
    CHECK(dxf.triangles.size() == 2);
}

TEST_CASE("BrokenMeshFilesAreRefusedWithTheirPlace") {
    const test::TemporaryFolder f;
    const auto refused = [&](const char* name, const std::string& text) {
        CAPTURE(name);
        test::write_file(f / name, text);
        try {
            io::read_mesh(f / name);
            FAIL("It was read");
        } catch (const Error& e) {
            CHECK(std::string(e.what()).find(f.path().string()) != std::string::npos);
        }
    };
    refused("a.obj", "v 0 0 0\nv 1 0 0\nf 1 2 3\n");
    refused("b.obj", "v 0 0 x\n");
    refused("c.obj", "v 0 0 0\nv 1 0 0\nv 1 1 0\nf 1 2\n");
    refused("a.off", "OFF\n3 1 0\n0 0 0\n1 0 0\n0 1 0\n3 0 1 5\n");
    refused("b.off", "OFF\n900000000 1 0\n0 0 0\n");
    refused("c.off", "NOT\n");
    refused("a.stl", std::string(90, 'x'));
    refused("b.stl", "solid\nvertex 0 0 0\nvertex 1 1 1\n");
    refused("a.xml",
            "<LandXML><Surfaces><Surface><Definition><Pnts><P id='1'>0 0 0</P></Pnts><Faces><F>1 2 "
            "3</F></Faces></Definition></Surface></Surfaces></LandXML>");
    refused("b.xml", "<LandXML><Faces");
    refused("c.xml",
            "<LandXML><Surfaces><Surface><Definition><Pnts><P id='1'>0 "
            "0</P></Pnts><Faces/></Definition></Surface></Surfaces></LandXML>");
    refused("a.ply",
            "ply\nformat ascii 1.0\nelement vertex 1\nproperty float x\nproperty float y\nproperty float "
            "z\nelement face 1\nproperty list uchar int vertex_indices\nend_header\n0 0 0\n3 0 1 2\n");
    refused("b.ply",
            "ply\nformat ascii 1.0\nelement vertex 3\nproperty float x\nproperty float y\nproperty float "
            "z\nelement face 1\nproperty list uchar int vertex_indices\nend_header\n0 0 0\n1 0 0\n");
    refused("c.ply",
            "ply\nformat binary_little_endian 1.0\nelement vertex 0\nproperty float x\nelement face "
            "1\nproperty list uint int vertex_indices\nend_header\n\xff\xff\xff\x7f");
    // Cut anywhere, a written file is read or refused, never more.
    const mesh::TriMesh m = ground(20, kNear);
    for (const char* ending : {".ply", ".obj", ".off", ".stl", ".xml", ".dxf"}) {
        const std::string name = std::string("whole") + ending;
        io::write_mesh(m, f / name, true);
        const std::string whole = test::read_file(f / name);
        for (std::size_t n = 0; n < whole.size(); n += 1 + whole.size() / 60) {
            test::write_file(f / name, whole.substr(0, n));
            std::size_t read = 0;
            try {
                read = io::read_mesh(f / name).mesh.triangles.size();
            } catch (const Error&) {
            }
            CHECK(read <= m.triangles.size());
        }
    }
}

TEST_CASE("PolygonsAreCutIntoTrianglesThatCoverThem") {
    std::mt19937_64 dice(8);
    std::uniform_real_distribution<double> u(0, 1);
    for (int round = 0; round < 300; ++round) {
        // A star-shaped polygon in a tilted plane: simple, mostly not convex.
        const std::size_t n = 3 + dice() % 12;
        std::vector<Vec3> v;
        std::vector<std::uint32_t> corners;
        const Vec3 e1 = normalized({u(dice), u(dice), u(dice)}),
                   e2 = normalized(cross(e1, {u(dice), -u(dice), 1}));
        Vec3 area;
        for (std::size_t i = 0; i < n; ++i) {
            const double a = 6.283185307 * static_cast<double>(i) / static_cast<double>(n), r = 0.3 + u(dice);
            v.push_back(e1 * (r * std::cos(a)) + e2 * (r * std::sin(a)));
            corners.push_back(static_cast<std::uint32_t>(i));
        }
        for (std::size_t i = 0; i < n; ++i) area = area + cross(v[i], v[(i + 1) % n]);
        std::vector<std::array<std::uint32_t, 3>> out;
        mesh::triangulate_polygon(v, corners, out);
        REQUIRE(out.size() == n - 2);
        double sum = 0, turned = 0;
        for (const auto& t : out) {
            const Vec3 c = cross(v[t[1]] - v[t[0]], v[t[2]] - v[t[0]]);
            sum += norm(c);
            turned += dot(c, normalized(area));
        }
        REQUIRE(sum == Approx(norm(area)).epsilon(1e-9));  // no overlap
        REQUIRE(turned == Approx(norm(area)).epsilon(1e-9));
    }
}

TEST_CASE("TrianglesAreElementsOfACloud") {
    const test::TemporaryFolder f;
    const mesh::TriMesh m = ground(3000, kFar);
    io::write_mesh(m, f / "g.xml", false);
    const io::ReadResult read = io::read_cloud(f / "g.xml");
    const cloud::PointCloud& c = *read.cloud;
    REQUIRE(c.size() == m.triangles.size());
    REQUIRE(c.triangles());
    CHECK(cloud::is_surface(c));
    CHECK(c.triangles()->vertices.size() == m.vertices.size());
    // Each element stands at the middle of its triangle.
    double worst = 0;
    for (std::uint64_t e = 0; e < c.size(); ++e) {
        Vec3 middle;
        for (const std::uint32_t v : c.triangles()->triangles[e])
            middle = middle + (c.triangles()->vertices[v] - kFar) * (1 / 3.0);
        worst = std::max(worst, norm(c.position(e) - kFar - middle));
    }
    CHECK(worst < 1e-6);
    // A part goes; the rest is written in the order of the file, bit for bit.
    ElementSet gone(c.size());
    PageBits bits;
    for (std::size_t i = 0; i < 500; ++i) bits.set(3 * i);
    gone.set_page(0, bits);
    CHECK(io::write_cloud({{read.cloud, io::keep_all_but(c, gone)}}, f / "rest.ply") ==
          c.size() - gone.count());
    const auto rest = corners_of(io::read_mesh(f / "rest.ply").mesh);
    std::vector<std::array<double, 9>> wanted;
    std::vector<char> out(c.size(), 0);
    for (std::size_t p = 0; p < c.page_count(); ++p) {
        const auto original = c.order()->page(p);
        for (std::size_t i = 0; i < original.size(); ++i) out[original[i]] = gone.contains(p * kPageSize + i);
    }
    const auto all = corners_of(m);
    for (std::size_t t = 0; t < all.size(); ++t)
        if (!out[t]) wanted.push_back(all[t]);
    CHECK(rest == wanted);
    CHECK(io::mesh_of(c, gone).triangles.size() == gone.count());
    CHECK_THROWS_AS(io::write_cloud({{read.cloud}}, f / "a.las"), Error);
    // Grids: a surface from one, and one from a surface.
    io::write_grid(m, {0.5, -9999, {}}, f / "g.asc", false);
    io::write_grid(m, {0.5, -9999, {}}, f / "g.tif", false);
    const auto asc = io::read_grid(f / "g.asc"), tif = io::read_grid(f / "g.tif");
    REQUIRE(asc.size() == tif.size());
    CHECK(asc.size() > 3000);
    for (std::size_t i = 0; i < asc.size(); ++i) REQUIRE(norm(asc[i] - tif[i]) < 1e-5);
    const Vec3 p = tif[tif.size() / 2] - kFar;
    CHECK(p.z == Approx(std::sin(0.2 * p.x) + std::cos(0.3 * p.y)).margin(0.05));
    CHECK(io::read_cloud(f / "g.tif").cloud->triangles());
}

TEST_CASE("ScoresOfTrianglesEqualTheSlowWay") {
    const mesh::TriMesh m = ground(800, kFar);
    const auto c = cloud::cloud_of_triangles(m, {"m", "", true, "", {}});
    const ElementSet all = ElementSet::all(c->size());
    const mesh::TriMesh& own = *c->triangles();
    const auto column = [&](const char* id) { return score::compute(score::find(id), {*c, all}, {}); };
    const score::Column edge = column("edge"), slope = column("slope"), least = column("min_angle"),
                        most = column("max_angle"), rim = column("rim"), piece = column("piece"),
                        area = column("area"), ratio = column("ratio"), facing = column("facing"),
                        up = column("elevation");
    const topology::Adjacency adjacency = topology::adjacency(own.triangles);
    for (std::size_t t = 0; t < own.triangles.size(); t += 7) {
        std::array<Vec3, 3> v;
        for (std::size_t k = 0; k < 3; ++k) v[k] = own.vertices[own.triangles[t][k]];
        double longest = 0, shortest = 1e9, lo = 180, hi = 0;
        for (std::size_t k = 0; k < 3; ++k) {
            const Vec3 a = v[(k + 1) % 3] - v[k], b = v[(k + 2) % 3] - v[k];
            longest = std::max(longest, std::hypot(a.x, a.y));
            shortest = std::min(shortest, std::hypot(a.x, a.y));
            const double angle =
                std::fabs(std::atan2(a.x * b.y - a.y * b.x, a.x * b.x + a.y * b.y)) * 57.29577951308232;
            lo = std::min(lo, angle), hi = std::max(hi, angle);
        }
        const Vec3 n = cross(v[1] - v[0], v[2] - v[0]);
        const auto at = [&](const score::Column& k) { return k.base + static_cast<double>(k.values[t]); };
        REQUIRE(at(edge) == Approx(longest).epsilon(1e-5));
        REQUIRE(at(ratio) == Approx(longest / shortest).epsilon(1e-4));
        REQUIRE(at(least) == Approx(lo).margin(0.01));
        REQUIRE(at(most) == Approx(hi).margin(0.01));
        REQUIRE(at(area) == Approx(norm(n) / 2).epsilon(1e-5));
        REQUIRE(at(slope) == Approx(std::acos(n.z / norm(n)) * 57.29577951308232).margin(0.01));
        REQUIRE(at(up) == Approx((v[0].z + v[1].z + v[2].z) / 3).margin(1e-4));
        // It falls towards where its normal leans.
        const double a = at(facing) / 57.29577951308232;
        REQUIRE(n.x * std::sin(a) + n.y * std::cos(a) == Approx(std::hypot(n.x, n.y)).epsilon(1e-4));
        REQUIRE(at(piece) == static_cast<double>(own.triangles.size()));
        double nearest = 1e9;
        const Vec3 middle = (v[0] + v[1] + v[2]) * (1 / 3.0);
        for (std::size_t s = 0; s < own.triangles.size(); ++s)
            for (std::size_t k = 0; k < 3; ++k)
                if (adjacency.across[s][k] == topology::kNone) {
                    const Vec3 p = own.vertices[own.triangles[s][(k + 1) % 3]],
                               q = own.vertices[own.triangles[s][(k + 2) % 3]];
                    for (int i = 0; i <= 200; ++i) {
                        const Vec3 w = p + (q - p) * (i / 200.0);
                        nearest = std::min(nearest, std::hypot(w.x - middle.x, w.y - middle.y));
                    }
                }
        REQUIRE(at(rim) == Approx(nearest).margin(0.05));
    }
    CHECK_THROWS_AS(
        score::compute(score::find("edge"),
                       {*test::random_cloud(100, test::Shape::Terrain, 1), ElementSet::all(100)}, {}),
        Error);
}

TEST_CASE("AThinnedSurfaceIsNowhereFartherOffThanTheTolerance") {
    std::mt19937_64 dice(2);
    std::uniform_real_distribution<double> u(0, 1);
    std::vector<Vec3> p;
    for (int i = 0; i < 20'000; ++i) {
        const double x = 40 * u(dice), y = 30 * u(dice);
        p.push_back(kFar + Vec3{x, y, std::sin(0.2 * x) + std::fabs(y - 15) * 0.3});
    }
    const auto kept = surface::thinned(p, 0.05);
    CHECK(kept.size() < p.size() / 10);
    surface::Definition d;
    for (const std::uint32_t i : kept) d.points.push_back(p[i]);
    const mesh::TriMesh m = surface::build(d).mesh;
    double worst = 0;
    for (std::size_t i = 0; i < p.size(); i += 17) {
        for (const auto& t : m.triangles) {
            const Vec3 a = m.vertices[t[0]], b = m.vertices[t[1]] - a, c = m.vertices[t[2]] - a, q = p[i] - a;
            const double w = b.x * c.y - b.y * c.x, s = (q.x * c.y - q.y * c.x) / w,
                         r = (b.x * q.y - b.y * q.x) / w;
            if (s >= 0 && r >= 0 && s + r <= 1) worst = std::max(worst, std::fabs(q.z - s * b.z - r * c.z));
        }
    }
    CHECK(worst <= 0.05 + 1e-9);
    CHECK(worst > 0.02);
    CHECK_THROWS_AS(surface::thinned(p, 0), Error);
}

TEST_CASE("LinesAreWrittenAndReadBack") {
    const test::TemporaryFolder f;
    const std::vector<io::MapLine> lines{{"toe", {kFar, kFar + Vec3{5, 1, 0.5}, kFar + Vec3{9, 2, 1}}, false},
                                         {"pond", {kFar, kFar + Vec3{5, 0, 0}, kFar + Vec3{5, 5, 0}}, true}};
    for (const char* name : {"l.geojson", "l.dxf", "l.gpkg", "l.shp"}) {
        CAPTURE(name);
        io::write_lines(lines, f / name, false);
        const auto back = io::read_lines(f / name);
        REQUIRE(back.size() == 2);
        for (std::size_t k = 0; k < 2; ++k) {
            REQUIRE(back[k].points.size() == lines[k].points.size());
            CHECK(back[k].closed == lines[k].closed);
            CHECK(back[k].layer == lines[k].layer);
            for (std::size_t i = 0; i < 3; ++i) CHECK(norm(back[k].points[i] - lines[k].points[i]) < 1e-6);
        }
        CHECK_THROWS_AS(io::write_lines(lines, f / name, false), Error);
        CHECK_NOTHROW(io::write_lines(lines, f / name, true));
    }
    test::write_file(f / "t.txt", "# breakline\n1 2 3\n4,5,6\n\n7 8 9\n9 9 9\n");
    const auto text = io::read_lines(f / "t.txt");
    REQUIRE(text.size() == 2);
    CHECK(text[0].points[1] == Vec3{4, 5, 6});
    test::write_file(f / "b.txt", "1 2 3\n4 x 6\n");
    CHECK_THROWS_AS(io::read_lines(f / "b.txt"), Error);
}

TEST_CASE("OrthophotosAreReadWithTheirPlaceAndSampledWithoutFlicker") {
    const test::TemporaryFolder folder;
    const std::string file = folder / "ground.tif";
    GDALAllRegister();
    {
        // 40 by 30 pixels of half a metre: a chessboard of single pixels, its lower right corner transparent.
        const std::unique_ptr<GDALDataset> set(GetGDALDriverManager()->GetDriverByName("GTiff")->Create(
            file.c_str(), 40, 30, 4, GDT_Byte, nullptr));
        double to_world[6] = {412300, 0.5, 0, 5218960, 0, -0.5};
        set->SetGeoTransform(to_world);
        set->GetRasterBand(4)->SetColorInterpretation(GCI_AlphaBand);
        for (int band = 1; band <= 4; ++band) {
            std::vector<std::uint8_t> v(40 * 30);
            for (int y = 0; y < 30; ++y)
                for (int x = 0; x < 40; ++x)
                    v[std::size_t(y * 40 + x)] =
                        static_cast<std::uint8_t>(band == 4     ? (x > 30 && y > 20 ? 0 : 255)
                                                  : (x + y) % 2 ? 200
                                                                : band * 10);
            REQUIRE(set->GetRasterBand(band)->RasterIO(GF_Write, 0, 0, 40, 30, v.data(), 40, 30, GDT_Byte, 0,
                                                       0, nullptr) == CE_None);
        }
    }
    const auto picture = io::read_orthophoto(file);
    CHECK(picture->width() == 40);
    CHECK(picture->colour(412300.25, 5218959.75, 0.1) == 0xFF0A141Eu);
    CHECK(picture->colour(412300.75, 5218959.75, 0.1) == 0xFFC8C8C8u);
    CHECK(picture->colour(412319.9, 5218945.1, 0.1) == 0);      // transparent
    CHECK(picture->colour(412299.9, 5218950, 0.1) == 0);        // beside it
    CHECK(picture->colour(412305, 5218950, 4) == 0xFF696E73u);  // from afar: the mean of both colours
    const auto back = surface::Orthophoto::unpacked(picture->packed());
    CHECK(back.name() == "ground.tif");
    for (double x = 412299; x < 412321; x += 0.37)
        for (double y = 5218944; y < 5218961; y += 0.41)
            REQUIRE(back.colour(x, y, 0.3) == picture->colour(x, y, 0.3));
    CHECK(io::read_orthophoto(file, 300)->width() == 20);
    CHECK_THROWS_AS(surface::Orthophoto::unpacked("nonsense"), Error);
    test::write_file(folder / "no.tif", "nothing");
    CHECK_THROWS_AS(io::read_orthophoto(folder / "no.tif"), Error);
}

TEST_CASE("SolidFiguresSayWhetherThereIsAVolume", "[measure]") {
    const Vec3 at{412'300, 5'218'930, 58};
    mesh::TriMesh m = demo::block(4, at, at + Vec3{2, 3, 0.5});
    measure::SolidFigures f = measure::solid(m);
    CHECK(f.closed);
    CHECK(f.volume == Approx(3).epsilon(1e-9));
    CHECK(f.area == Approx(2 * (6 + 1 + 1.5)).epsilon(1e-9));
    CHECK_FALSE(f.inwards);
    CHECK(f.crossings == 0);
    // Inside out it counts positive, and is told.
    mesh::TriMesh turned = m;
    for (auto& t : turned.triangles) std::swap(t[0], t[1]);
    f = measure::solid(turned);
    CHECK(f.inwards);
    CHECK(f.volume == Approx(3).epsilon(1e-9));
    // One triangle turned, one gone, one doubled: no volume, and why.
    mesh::TriMesh one = m;
    std::swap(one.triangles[5][0], one.triangles[5][1]);
    f = measure::solid(one);
    CHECK_FALSE(f.closed);
    CHECK(f.inconsistent_edges == 3);
    CHECK(f.volume == 0);
    one = m;
    one.triangles.pop_back();
    f = measure::solid(one);
    CHECK_FALSE(f.closed);
    CHECK(f.boundary_edges == 3);
    one = m;
    one.triangles.push_back(m.triangles[0]);
    f = measure::solid(one);
    CHECK_FALSE(f.closed);
    CHECK(f.non_manifold_edges == 3);
    CHECK_FALSE(measure::solid({}).closed);
}

TEST_CASE("ReadersOfMeshesSayHowFarTheyAreAndStopWhenAsked") {
    std::string obj, off = "OFF\n40000 40000 0\n", stl = "solid a\n",
                     ply =
                         "ply\nformat ascii 1.0\nelement vertex 70000\nproperty float x\nproperty float "
                         "y\nproperty float z\nelement face 70000\nproperty list uchar int "
                         "vertex_indices\nend_header\n",
                     dxf = "0\nSECTION\n2\nENTITIES\n";
    for (int i = 0; i < 70000; ++i) {
        const std::string place =
            std::to_string(i) + " " + std::to_string(i % 7) + " " + std::to_string(i % 5);
        obj += "v " + place + "\n";
        ply += place + "\n";
        if (i < 40000) off += place + "\n";
        if (i < 30000) {
            stl += "facet\nouter loop\nvertex " + place + "\nvertex 0 0 0\nvertex 1 1 1\nendloop\nendfacet\n";
            dxf += "0\n3DFACE\n8\nA\n10\n1\n20\n2\n30\n3\n11\n" + std::to_string(i) +
                   "\n21\n3\n31\n4\n12\n7\n22\n8\n32\n9\n13\n7\n23\n8\n33\n9\n";
        }
    }
    for (int i = 0; i < 70000; ++i) {
        obj += "f 1 2 " + std::to_string(i % 60000 + 3) + "\n";
        ply += "3 0 1 " + std::to_string(i % 60000 + 2) + "\n";
        if (i < 40000) off += "3 0 1 " + std::to_string(i % 30000 + 2) + "\n";
    }
    stl += "endsolid a\n";
    dxf += "0\nENDSEC\n0\nEOF\n";
    const struct {
        const char* name;
        io::MeshFile (*read)(const std::string&, const std::string&, Progress&);
        const std::string& text;
    } all[] = {{"obj", io::read_obj, obj},
               {"off", io::read_off, off},
               {"stl", io::read_stl, stl},
               {"ply", io::read_ply_mesh, ply},
               {"dxf", io::read_dxf_faces, dxf}};
    for (const auto& one : all) {
        CAPTURE(one.name);
        Progress p;
        p.stretch(0, 1, "Reading");
        CHECK(one.read(one.text, "test", p).mesh.triangles.size() > 20000);
        CHECK(p.fraction() > 0.5);
        CHECK(p.fraction() <= 1);
        Progress stopped;
        stopped.stretch(0, 1, "Reading");
        stopped.cancel();
        CHECK_THROWS_AS(one.read(one.text, "test", stopped), Cancelled);
    }
}
