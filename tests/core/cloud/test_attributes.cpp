// What meshes carry beside their shape: through files, projects, removals and repairs.

#include <catch2/catch.hpp>

#include <gdal_priv.h>

#include <algorithm>
#include <map>
#include <random>

#include "core/base/error.h"
#include "core/base/parallel.h"
#include "core/cloud/triangle_records.h"
#include "core/io/cloud_io.h"
#include "core/io/grid/picture.h"
#include "core/io/keep.h"
#include "core/io/mesh/mesh_cloud.h"
#include "core/io/mesh/mesh_io.h"
#include "core/mesh/carry.h"
#include "core/repair/patch.h"
#include "core/repair/steps.h"
#include "core/site/history.h"
#include "core/store/project.h"
#include "demo/solids.h"
#include "support/cloud_makers.h"

using namespace pristine;

namespace {

// A PNG of `width` by `height` pixels with these colours row by row.
std::string png(int width, int height, const std::vector<std::uint32_t>& rgb) {
    GDALAllRegister();
    const std::unique_ptr<GDALDataset> data(
        GetGDALDriverManager()->GetDriverByName("MEM")->Create("", width, height, 3, GDT_Byte, nullptr));
    for (int band = 0; band < 3; ++band) {
        std::vector<std::uint8_t> v;
        for (const std::uint32_t c : rgb) v.push_back(static_cast<std::uint8_t>(c >> (16 - 8 * band)));
        REQUIRE(data->GetRasterBand(band + 1)->RasterIO(GF_Write, 0, 0, width, height, v.data(), width,
                                                        height, GDT_Byte, 0, 0) == CE_None);
    }
    const test::TemporaryFolder f;
    const std::string path = (f / "a.png").string();
    GDALClose(GetGDALDriverManager()->GetDriverByName("PNG")->CreateCopy(path.c_str(), data.get(), 0, nullptr,
                                                                         nullptr, nullptr));
    return test::read_file(path);
}

mesh::Material textured(const std::string& name, const std::string& image, std::uint32_t colour) {
    mesh::Material m;
    m.name = name;
    m.colour = colour;
    m.image_name = image;
    m.image = std::make_shared<const std::string>(png(2, 2, {colour, 0x00FF00, 0x0000FF, 0xFFFF00}));
    m.picture = io::decode_picture(*m.image, image);
    return m;
}

// Everything there can be; colours and normals agree at each vertex, as formats of vertices want it.
mesh::Attributes everything(const mesh::TriMesh& m, std::uint64_t seed) {
    std::mt19937_64 dice(seed);
    std::uniform_real_distribution<float> share(0, 1);
    mesh::Attributes a;
    a.groups = {"stone", "foot", "clamp arm"};
    a.materials = {textured("front", "front.png", 0x336699), textured("back", "back.png", 0xCC9933)};
    std::vector<std::uint32_t> colour;
    std::vector<std::array<float, 3>> normal;
    for (std::size_t i = 0; i < m.vertices.size(); ++i) {
        colour.push_back(static_cast<std::uint32_t>(dice()) & 0xFFFFFFu);
        normal.push_back({share(dice), share(dice), share(dice)});
    }
    for (std::size_t t = 0; t < m.triangles.size(); ++t) {
        const auto& c = m.triangles[t];
        a.colours.push_back({colour[c[0]], colour[c[1]], colour[c[2]]});
        a.normals.push_back({normal[c[0]], normal[c[1]], normal[c[2]]});
        a.texture.push_back({std::array{share(dice), share(dice)}, std::array{share(dice), share(dice)},
                             std::array{share(dice), share(dice)}});
        a.group.push_back(static_cast<std::uint16_t>(dice() % 3));
        a.material.push_back(static_cast<std::uint16_t>(dice() % 2));
    }
    return a;
}

// All that is known of one triangle, in words, whatever lists it is kept in.
std::string told(const mesh::Attributes& a, std::size_t t) {
    std::string s;
    for (std::size_t k = 0; k < 3; ++k) {
        if (!a.colours.empty()) s += " c" + std::to_string(a.colours[t][k]);
        if (!a.normals.empty())
            for (const float v : a.normals[t][k]) s += " n" + std::to_string(v);
        if (!a.texture.empty())
            for (const float v : a.texture[t][k]) s += " t" + std::to_string(v);
    }
    if (!a.group.empty()) s += " g " + a.groups.at(a.group[t]);
    if (!a.material.empty()) {
        const mesh::Material& m = a.materials.at(a.material[t]);
        s += " m " + m.name + " " + std::to_string(m.colour) + " " + m.image_name + " " +
             std::to_string(m.image ? std::hash<std::string>()(*m.image) : 0);
    }
    return s;
}

// By the corners of the triangle, so that order does not matter.
std::map<std::array<double, 9>, std::string> by_corners(const mesh::TriMesh& m, const mesh::Attributes& a) {
    std::map<std::array<double, 9>, std::string> out;
    for (std::size_t t = 0; t < m.triangles.size(); ++t) {
        std::array<double, 9> key{};
        for (std::size_t k = 0; k < 3; ++k)
            for (std::size_t i = 0; i < 3; ++i)
                key[3 * k + i] = m.vertices[m.triangles[t][k]][static_cast<int>(i)];
        out[key] = told(a, t);
    }
    return out;
}

}  // namespace

TEST_CASE("ObjKeepsColoursTextureNormalsGroupsAndPictures") {
    const test::TemporaryFolder f;
    const mesh::TriMesh m = demo::ball(6, 2, {4'412'300, 5'218'930, 58});
    const mesh::Attributes a = everything(m, 5);
    io::write_mesh(m, f / "stone.obj", false, {}, a);
    const io::MeshFile back = io::read_mesh(f / "stone.obj");
    CHECK(back.warnings.empty());
    CHECK(by_corners(back.mesh, back.attributes) == by_corners(m, a));
    REQUIRE(back.attributes.materials.size() == 2);
    REQUIRE(back.attributes.materials[0].picture);
    CHECK(back.attributes.materials[0].picture->width() == 2);
    // What is there already is not written over unasked, be it only a picture.
    std::filesystem::remove(f / "stone.obj");
    std::filesystem::remove(f / "stone.mtl");
    io::write_mesh(m, f / "stone.obj", false, {}, a);  // the same pictures stay
    std::filesystem::remove(f / "stone.obj");
    std::filesystem::remove(f / "stone.mtl");
    test::write_file(f / "back.png", "something else");
    CHECK_THROWS_AS(io::write_mesh(m, f / "stone.obj", false, {}, a), Error);
    CHECK_FALSE(std::filesystem::exists(f / "stone.mtl"));
    CHECK(test::read_file(f / "back.png") == "something else");
}

TEST_CASE("PlyKeepsColoursOfVerticesOrFacesNormalsAndTexture") {
    const test::TemporaryFolder f;
    const mesh::TriMesh m = demo::ball(5, 1);
    mesh::Attributes a = everything(m, 6);
    a.group.clear(), a.groups.clear();  // PLY has none
    for (auto& corners : a.normals)
        for (auto& n : corners) {
            const float l = std::sqrt(n[0] * n[0] + n[1] * n[1] + n[2] * n[2]);
            for (float& v : n) v /= l;
        }
    io::write_mesh(m, f / "a.ply", false, {}, a);
    const io::MeshFile back = io::read_mesh(f / "a.ply");
    REQUIRE(back.attributes.colours == a.colours);
    REQUIRE(back.attributes.texture == a.texture);
    CHECK(back.attributes.material == a.material);
    CHECK(*back.attributes.materials[1].image == *a.materials[1].image);
    for (std::size_t t = 0; t < m.triangles.size(); ++t)
        for (std::size_t k = 0; k < 3; ++k)
            for (std::size_t i = 0; i < 3; ++i)
                CHECK(back.attributes.normals[t][k][i] == Approx(a.normals[t][k][i]).margin(1e-6));

    mesh::Attributes faces;
    for (std::uint32_t t = 0; t < m.triangles.size(); ++t) faces.colours.push_back({t * 7, t * 7, t * 7});
    io::write_mesh(m, f / "faces.ply", false, {}, faces);
    CHECK(io::read_mesh(f / "faces.ply").attributes.colours == faces.colours);
    // Colours of materials without a texture are better than none.
    mesh::Attributes plain;
    plain.materials.resize(2);
    plain.materials[0].colour = 0x112233;
    plain.materials[1].colour = 0x445566;
    for (std::size_t t = 0; t < m.triangles.size(); ++t) plain.material.push_back(t % 2 ? 1 : 0);
    io::write_mesh(m, f / "plain.ply", false, {}, plain);
    const auto colours = io::read_mesh(f / "plain.ply").attributes.colours;
    REQUIRE(colours.size() == m.triangles.size());
    CHECK(colours[0][0] == 0x112233);
    CHECK(colours[1][2] == 0x445566);
}

TEST_CASE("OffKeepsColoursOfVertices") {
    const test::TemporaryFolder f;
    const mesh::TriMesh m = demo::ball(4, 1);
    mesh::Attributes a;
    a.colours = everything(m, 7).colours;
    io::write_mesh(m, f / "a.off", false, {}, a);
    CHECK(io::read_mesh(f / "a.off").attributes.colours == a.colours);
    // Others write shares of 1, normals, and colours of faces.
    test::write_file(
        f / "b.off",
        "CNOFF\n3 1 0\n0 0 0 0 0 1 1.0 0.5 0.0 1.0\n1 0 0 0 0 1 0.0 0.0 1.0 1.0\n0 1 0 0 0 1 0.0 "
        "1.0 0.0 1.0\n3 0 1 2\n");
    const io::MeshFile b = io::read_mesh(f / "b.off");
    REQUIRE(b.attributes.colours.size() == 1);
    CHECK(b.attributes.colours[0] == std::array<std::uint32_t, 3>{0xFF8000, 0x0000FF, 0x00FF00});
    CHECK(b.attributes.normals[0][0] == std::array<float, 3>{0, 0, 1});
    test::write_file(f / "c.off", "OFF\n3 1 0\n0 0 0\n1 0 0\n0 1 0\n3 0 1 2 255 0 16\n");
    CHECK(io::read_mesh(f / "c.off").attributes.colours.at(0)[1] == 0xFF0010);
}

TEST_CASE("ObjOddities") {
    const test::TemporaryFolder f;
    // A polygon that is not convex, indices from behind, a picture with options and blanks in its name in a
    // folder of its own, material before any library line, faces before any group.
    std::filesystem::create_directory(f / "maps");
    test::write_file(f / "maps/old stone.png", png(1, 1, {0x102030}));
    test::write_file(
        f / "m.mtl",
        "# by hand\nnewmtl unused\nKd 1 1 1\nnewmtl stone\nKd 0.5 0.25 0\nmap_Kd -s 1 1 1 -clamp "
        "on maps\\old stone.png\n");
    test::write_file(
        f / "a.obj",
        "mtllib m.mtl\nv 0 0 0\nv 4 0 0\nv 4 4 0\nv 2 1 0\nv 0 4 0\nvt 0 0\nvt 1 0\nvt 1 1\nvt .5 "
        ".25\nvt 0 1\nf 1/1 2/2 3/3\ng wall\nusemtl stone\nf -5/-5 -4/-4 -3/-3 -2/-2 -1/-1\n");
    const io::MeshFile m = io::read_mesh(f / "a.obj");
    CHECK(m.warnings.empty());
    REQUIRE(m.mesh.triangles.size() == 4);
    const mesh::Attributes& a = m.attributes;
    for (std::size_t t = 0; t < 4; ++t)
        for (std::size_t k = 0; k < 3; ++k) {
            // The texture lies like the polygon itself.
            const Vec3& p = m.mesh.vertices[m.mesh.triangles[t][k]];
            CHECK(a.texture[t][k][0] == Approx(p.x / 4));
            CHECK(a.texture[t][k][1] == Approx(p.y / 4));
        }
    CHECK(a.groups == std::vector<std::string>{"", "wall"});
    CHECK(a.group == std::vector<std::uint16_t>{0, 1, 1, 1});
    CHECK(a.materials[a.material[0]].name.empty());
    const mesh::Material& stone = a.materials[a.material[1]];
    CHECK(stone.colour == 0x804000);
    CHECK(stone.image_name == "old stone.png");
    REQUIRE(stone.picture);
    CHECK(stone.picture->colour(0.5, 0.5, 0) == 0xFF102030);

    // What lies beside the mesh and is missing or damaged is said, and the mesh is read.
    test::write_file(f / "maps/old stone.png", "no picture");
    CHECK(io::read_mesh(f / "a.obj").warnings.size() == 1);
    std::filesystem::remove(f / "maps/old stone.png");
    CHECK(io::read_mesh(f / "a.obj").warnings.size() == 1);
    std::filesystem::remove(f / "m.mtl");
    const io::MeshFile bare = io::read_mesh(f / "a.obj");
    CHECK(bare.warnings.size() == 1);
    CHECK(bare.mesh.triangles.size() == 4);
    test::write_file(f / "bad.obj", "v 0 0 0\nv 1 0 0\nv 0 1 0\nf 1/1 2/1 3/1\n");
    CHECK_THROWS_AS(io::read_mesh(f / "bad.obj"), Error);
}

TEST_CASE("RemovingTrianglesAndProjectsLeaveTheRestAsItWas") {
    const test::TemporaryFolder f;
    const mesh::TriMesh m = demo::ball(40, 3);
    const mesh::Attributes a = everything(m, 8);
    const auto before = by_corners(m, a);
    io::write_mesh(m, f / "in.obj", false, {}, a);
    const auto cloud = io::read_cloud(f / "in.obj").cloud;
    REQUIRE(cloud->attributes());
    CHECK(by_corners(*cloud->triangles(), *cloud->attributes()) == before);
    REQUIRE(cloud->colour());

    std::mt19937_64 dice(9);
    ElementSet gone(cloud->size());
    for (int i = 0; i < 900; ++i) gone.insert(dice() % cloud->size());
    site::SitePtr s = site::add_cloud(site::Site{}, cloud, "Stone", "in.obj");
    s = site::select(*s, gone, site::Combine::New);
    s = site::remove_selection(*s, {"by hand", site::said("test"), {}, nullptr});
    site::History h(std::make_shared<const site::Site>());
    {
        const auto project = store::Project::create(f / "a.pristine");
        project->write(h.current());
        h.commit(s, "Remove");
        project->write(h.current());
    }
    const auto stored = store::Project::open(f / "a.pristine");
    const site::SitePtr opened = stored->load().now();
    const site::ItemPtr item = opened->items.at(0);
    REQUIRE(item->cloud->attributes());
    REQUIRE(item->cloud->attributes()->materials.at(0).picture);
    io::write_cloud({{item->cloud, io::keep_all_but(*item->cloud, *item->absent)}}, f / "out.obj", {},
                    Progress::none());
    const io::MeshFile out = io::read_mesh(f / "out.obj");
    CHECK(out.mesh.triangles.size() == cloud->size() - gone.count());
    for (const auto& [corners, words] : by_corners(out.mesh, out.attributes)) {
        const auto was = before.find(corners);
        REQUIRE(was != before.end());
        REQUIRE(words == was->second);
    }
}

TEST_CASE("WhatAMeshCarriesGoesOverToWhatWasMadeFromIt") {
    const std::uint64_t seed = test::seed_for("carried");
    CAPTURE(seed);
    std::mt19937_64 dice(seed);
    const mesh::TriMesh m = demo::ball(12, 2, {412'300, 5'218'930, 58});
    const mesh::Attributes a = everything(m, seed);
    // The same triangles in another order, beginning at other corners, some turned round.
    mesh::TriMesh other = m;
    std::shuffle(other.triangles.begin(), other.triangles.end(), dice);
    for (auto& t : other.triangles) {
        std::rotate(t.begin(), t.begin() + static_cast<int>(dice() % 3), t.end());
        if (dice() % 4 == 0) std::swap(t[0], t[1]);
    }
    const mesh::Attributes b = mesh::carried(m, a, other);
    const auto find = [&](const std::array<std::uint32_t, 3>& wanted) {
        for (std::size_t t = 0; t < m.triangles.size(); ++t)
            if (std::is_permutation(wanted.begin(), wanted.end(), m.triangles[t].begin())) return t;
        FAIL("not there");
        return std::size_t{0};
    };
    for (std::size_t t = 0; t < other.triangles.size(); t += 7) {
        const std::size_t was = find(other.triangles[t]);
        CHECK(b.group[t] == a.group[was]);
        CHECK(b.material[t] == a.material[was]);
        for (std::size_t k = 0; k < 3; ++k) {
            const auto& c = m.triangles[was];
            const auto j =
                static_cast<std::size_t>(std::find(c.begin(), c.end(), other.triangles[t][k]) - c.begin());
            CHECK(b.colours[t][k] == a.colours[was][j]);
            CHECK(b.texture[t][k] == a.texture[was][j]);
            CHECK(std::fabs(b.normals[t][k][0]) == std::fabs(a.normals[was][j][0]));
        }
    }
    CHECK(mesh::carried(m, {}, other).empty());
    const parallel::WorkerLimit one(1);
    const mesh::Attributes alone = mesh::carried(m, a, other);
    CHECK(alone.colours == b.colours);
}

TEST_CASE("AFillTakesTheColoursOfItsSurroundings") {
    // A plane in colours that change evenly: what grows in the hole must go on so. In the middle of a block's
    // face, so that the mesh is closed but for the hole.
    const mesh::TriMesh m = demo::block(24, {0, 0, 0}, {24, 24, 24});
    mesh::Attributes a;
    a.groups = {"top", "rest"};
    const auto ramp = [](const Vec3& p) {
        const auto channel = [](double v) { return static_cast<std::uint32_t>(std::lround(v)); };
        return channel(10 * p.x) << 16 | channel(10 * p.y) << 8 | 77u;
    };
    std::vector<char> gone(m.triangles.size(), 0);
    for (std::size_t t = 0; t < m.triangles.size(); ++t) {
        std::array<std::uint32_t, 3> c{};
        Vec3 middle;
        bool top = true;
        for (std::size_t k = 0; k < 3; ++k) {
            const Vec3& p = m.vertices[m.triangles[t][k]];
            c[k] = ramp(p);
            middle = middle + p * (1 / 3.0);
            top &= p.z == 24;
        }
        a.colours.push_back(c);
        a.texture.push_back({});
        for (std::size_t k = 0; k < 3; ++k) {
            const Vec3& p = m.vertices[m.triangles[t][k]];
            a.texture.back()[k] = {static_cast<float>(p.x / 24), static_cast<float>(p.y / 24)};
        }
        a.group.push_back(top ? 0 : 1);
        gone[t] = top && norm(middle - Vec3{12, 11, 24}) < 5;
    }
    const repair::Step healed = repair::replace_patch(m, gone, {repair::FillKind::Flat, 1, true});
    REQUIRE(healed.unrepaired.empty());
    REQUIRE(healed.made > 20);
    const mesh::TriMesh rest = repair::without(m, gone);
    std::vector<std::uint32_t> kept;
    for (std::uint32_t t = 0; t < gone.size(); ++t)
        if (!gone[t]) kept.push_back(t);
    const mesh::Attributes b = mesh::carried(rest, mesh::part_of(a, kept), healed.mesh);
    int inside = 0;
    for (std::size_t t = 0; t < healed.mesh.triangles.size(); ++t)
        for (std::size_t k = 0; k < 3; ++k) {
            const Vec3& p = healed.mesh.vertices[healed.mesh.triangles[t][k]];
            if (!(norm(p - Vec3{12, 11, 24}) < 4.5)) continue;
            ++inside;
            for (const int shift : {16, 8, 0}) {
                const auto is = static_cast<int>(b.colours[t][k] >> shift & 255u),
                           should = static_cast<int>(ramp(p) >> shift & 255u);
                CHECK(std::abs(is - should) <= 14);
            }
            CHECK(b.group[t] == 0);
            // A texture is stretched from the rim, never from elsewhere.
            CHECK(norm(Vec3{24 * static_cast<double>(b.texture[t][k][0]),
                            24 * static_cast<double>(b.texture[t][k][1]), 24} -
                       p) < 6);
        }
    CHECK(inside > 50);
}

TEST_CASE("ColoursAtPlacesOfATriangle") {
    mesh::Attributes a;
    a.colours = {{0xFF0000, 0x00FF00, 0x0000FF}};
    CHECK(mesh::colour_at(a, 0, {1, 0, 0}, 0) == 0xFF0000);
    CHECK(mesh::colour_at(a, 0, {0, 0.5, 0.5}, 0) == 0x008080);
    // A texture of two by two: first pixel upper left, while v runs upwards; it goes on by beginning anew.
    a.materials = {textured("front", "front.png", 0x336699)};
    a.material = {0};
    a.texture = {{std::array{0.25F, 0.75F}, std::array{1.75F, 0.75F}, std::array{0.25F, -0.75F}}};
    CHECK(mesh::colour_at(a, 0, {1, 0, 0}, 0) == 0x336699);
    CHECK(mesh::colour_at(a, 0, {0, 1, 0}, 0) == 0x00FF00);
    CHECK(mesh::colour_at(a, 0, {0, 0, 1}, 0) == 0x0000FF);
    // Seen from afar: the mean of all four.
    const std::uint32_t mean = mesh::colour_at(a, 0, {1, 0, 0}, 1.1);
    CHECK((mean >> 16) == (0x33 + 0x00 + 0x00 + 0xFF + 2) / 4);
    // Without a picture that can be read, what else there is.
    a.materials[0].picture = nullptr;
    CHECK(mesh::colour_at(a, 0, {1, 0, 0}, 0) == 0xFF0000);
    a.colours.clear();
    CHECK(mesh::colour_at(a, 0, {1, 0, 0}, 0) == 0x336699);
}

TEST_CASE("MeshesOfSeveralItemsKeepWhatEachCarries") {
    const mesh::TriMesh m = demo::ball(3, 1), n = demo::ball(2, 1, {5, 0, 0});
    const mesh::Attributes a = everything(m, 11);
    mesh::Attributes both = a, coloured;
    coloured.colours.assign(n.triangles.size(), {1, 2, 3});
    mesh::append(both, m.triangles.size(), coloured, n.triangles.size());
    REQUIRE(both.colours.size() == m.triangles.size() + n.triangles.size());
    for (std::size_t t = 0; t < m.triangles.size(); ++t) REQUIRE(told(both, t) == told(a, t));
    CHECK(both.colours.back() == std::array<std::uint32_t, 3>{1, 2, 3});
    CHECK(both.groups[both.group.back()].empty());
    CHECK(both.materials[both.material.back()].image_name.empty());
    // The same names again are the same groups.
    mesh::append(both, both.colours.size(), a, m.triangles.size());
    CHECK(both.groups.size() == 4);
    CHECK(both.materials.size() == 3);
    CHECK(told(both, both.colours.size() - 1) == told(a, m.triangles.size() - 1));
    // The other way round: what was there first gets what it lacked.
    mesh::Attributes late = coloured;
    mesh::append(late, n.triangles.size(), a, m.triangles.size());
    CHECK(late.texture.size() == n.triangles.size() + m.triangles.size());
    CHECK(told(late, n.triangles.size()) == told(a, 0));
}

TEST_CASE("DamagedMeshRecordsAreRefused") {
    const mesh::TriMesh m = demo::ball(2, 1);
    cloud::TriangleParts parts;
    parts.attributes = everything(m, 12);
    const auto whole = cloud::records_of(m, parts);
    const auto order = cloud::cloud_of_triangles(m, parts)->order();
    const auto with = [&](cloud::RecordLayout layout, const std::function<void(std::string&)>& edit) {
        std::string bytes(whole->count() * layout.record_bytes, '\0');
        whole->read(0, std::as_writable_bytes(std::span(bytes)));
        edit(bytes);
        return cloud::MemoryRecords(std::move(layout), std::move(bytes));
    };
    const cloud::RecordLayout& good = whole->layout();
    CHECK(cloud::triangles_of(with(good, [](std::string&) {}), *order, 1).attributes);
    for (std::size_t cut = 5; cut < good.head.size(); cut += 13) {
        cloud::RecordLayout l = good;
        l.head.resize(cut);
        CHECK_THROWS_AS(cloud::triangles_of(with(l, [](std::string&) {}), *order, 1), Error);
    }
    const std::size_t at = good.find("group")->offset;
    CHECK_THROWS_AS(cloud::triangles_of(with(good, [&](std::string& b) { b[at + 1] = '\x7f'; }), *order, 1),
                    Error);
}
