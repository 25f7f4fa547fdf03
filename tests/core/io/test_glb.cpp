// glTF in its binary form: what goes out comes back, and what others write is understood.

#include <catch2/catch.hpp>

#include <cmath>
#include <nlohmann/json.hpp>
#include <numeric>
#include <random>
#include <set>

#include "core/base/bytes.h"
#include "core/base/error.h"
#include "core/io/cloud_io.h"
#include "core/io/format.h"
#include "core/io/glb/glb.h"
#include "core/io/glb/srgb.h"
#include "support/cloud_makers.h"

using namespace pristine;
using nlohmann::json;

namespace {

// A container from its two parts.
std::string glb_of(json j, std::string binary) {
    j["asset"] = {{"version", "2.0"}};
    std::string text = j.dump();
    while (text.size() % 4 != 0) text += ' ';
    while (binary.size() % 4 != 0) binary += '\0';
    std::string out = "glTF";
    append_le(out, std::uint32_t{2});
    append_le(out, static_cast<std::uint32_t>(12 + 8 + text.size() + 8 + binary.size()));
    append_le(out, static_cast<std::uint32_t>(text.size()));
    out += "JSON" + text;
    append_le(out, static_cast<std::uint32_t>(binary.size()));
    out += std::string("BIN\0", 4) + binary;
    return out;
}

// Five corners on a strip, and what is named of them.
std::string floats(std::initializer_list<float> v) {
    std::string s;
    for (const float f : v) append_le(s, f);
    return s;
}

const std::string kStrip = floats({0, 0, 0, 1, 0, 0, 0, 1, 0, 1, 1, 0, 0, 2, 0});

json strip_model(int mode) {
    return {{"scene", 0},
            {"scenes", {{{"nodes", {0}}}}},
            {"nodes", {{{"mesh", 0}}}},
            {"meshes", {{{"primitives", {{{"mode", mode}, {"attributes", {{"POSITION", 0}}}}}}}}},
            {"buffers", {{{"byteLength", kStrip.size()}}}},
            {"bufferViews", {{{"buffer", 0}, {"byteLength", kStrip.size()}}}},
            {"accessors", {{{"bufferView", 0}, {"componentType", 5126}, {"type", "VEC3"}, {"count", 5}}}}};
}

io::MeshFile read_bytes(const std::filesystem::path& file, const std::string& bytes) {
    test::write_file(file, bytes);
    return io::read_mesh(file);
}

double area(const mesh::TriMesh& m) {
    double sum = 0;
    for (const auto& t : m.triangles)
        sum += 0.5 * norm(cross(m.vertices[t[1]] - m.vertices[t[0]], m.vertices[t[2]] - m.vertices[t[0]]));
    return sum;
}

// Sheets with everything that a mesh can carry, far from the origin.
struct Rich {
    mesh::TriMesh mesh;
    mesh::Attributes attributes;
    Rich(std::mt19937_64& random, const std::string& png) {
        std::uniform_real_distribution<double> unit(0, 1);
        for (int i = 0; i < 40; ++i)
            mesh.vertices.push_back(
                {412300 + 50 * unit(random), 5250100 + 50 * unit(random), 80 + 9 * unit(random)});
        attributes.groups = {"Pier 1", "Gräting"};
        attributes.materials = {{"Concrete", 0x9A8F7C},
                                {"Wall", 0xFFFFFF, "wall.png", std::make_shared<const std::string>(png)}};
        for (int t = 0; t < 90; ++t) {
            const auto v = [&] { return static_cast<std::uint32_t>(random() % 40); };
            mesh.triangles.push_back({v(), v(), v()});
            auto& c = attributes.colours.emplace_back();
            auto& n = attributes.normals.emplace_back();
            auto& uv = attributes.texture.emplace_back();
            for (std::size_t k = 0; k < 3; ++k) {
                c[k] = static_cast<std::uint32_t>(random() & 0xFFFFFFu);
                const Vec3 d = normalized(Vec3{unit(random) - 0.5, unit(random) - 0.5, unit(random) - 0.5});
                n[k] = {static_cast<float>(d.x), static_cast<float>(d.y), static_cast<float>(d.z)};
                uv[k] = {static_cast<float>(unit(random)), static_cast<float>(unit(random))};
            }
            attributes.group.push_back(static_cast<std::uint16_t>(random() % 2));
            attributes.material.push_back(static_cast<std::uint16_t>(random() % 2));
        }
    }
};

// A file holds them by group, then by material.
std::vector<std::size_t> order_in_file(const mesh::Attributes& a) {
    std::vector<std::size_t> order(a.group.size());
    std::iota(order.begin(), order.end(), std::size_t{0});
    std::stable_sort(order.begin(), order.end(), [&](std::size_t i, std::size_t j) {
        return std::pair(a.group[i], a.material[i]) < std::pair(a.group[j], a.material[j]);
    });
    return order;
}

template <std::size_t N>
double farthest(const std::array<float, N>& a, const std::array<float, N>& b) {
    double most = 0;
    for (std::size_t i = 0; i < N; ++i)
        most = std::max(most, std::fabs(static_cast<double>(a[i]) - static_cast<double>(b[i])));
    return most;
}

}  // namespace

TEST_CASE("AGlbHoldsAllThatAMeshCarries", "[property]") {
    const auto seed = std::random_device{}();
    CAPTURE(seed);
    std::mt19937_64 random(seed);
    const test::TemporaryFolder f;
    const Rich r(random, std::string("\x89PNG\r\n\x1a\n and more"));
    io::write_mesh(r.mesh, f / "schleuse.glb", false, "m", r.attributes);
    const io::MeshFile back = io::read_mesh(f / "schleuse.glb");
    CHECK(back.unit == "m");
    CHECK(back.mesh.triangles.size() == r.mesh.triangles.size());
    const mesh::Attributes &in = r.attributes, &out = back.attributes;
    const std::vector<std::size_t> order = order_in_file(in);
    double place = 0, normal = 0, texture = 0;
    std::size_t wrong = 0;
    for (std::size_t t = 0; t < order.size(); ++t) {
        const std::size_t from = order[t];
        wrong += out.groups.at(out.group[t]) != in.groups[in.group[from]];
        wrong += out.materials.at(out.material[t]).name != in.materials[in.material[from]].name;
        const bool pictured = in.materials[in.material[from]].image != nullptr;
        for (std::size_t k = 0; k < 3; ++k) {
            place = std::max(place, norm(back.mesh.vertices[back.mesh.triangles[t][k]] -
                                         r.mesh.vertices[r.mesh.triangles[from][k]]));
            normal = std::max(normal, farthest(out.normals[t][k], in.normals[from][k]));
            if (pictured) texture = std::max(texture, farthest(out.texture[t][k], in.texture[from][k]));
            if (!pictured) wrong += out.colours[t][k] != in.colours[from][k];
        }
    }
    CHECK(wrong == 0);
    CHECK(place < 1e-5);  // singles, counted from near by
    CHECK(normal < 1e-6);
    CHECK(texture < 1e-6);
    REQUIRE(back.attributes.materials.size() == 2);
    CHECK(back.attributes.materials[0].colour == 0x9A8F7C);
    REQUIRE(back.attributes.materials[1].image);
    CHECK(*back.attributes.materials[1].image == *r.attributes.materials[1].image);
    CHECK(back.attributes.materials[1].image_name == "wall.png");
    // A bare mesh stays one.
    io::write_mesh(r.mesh, f / "bare.glb", false, "m");
    CHECK(io::read_mesh(f / "bare.glb").attributes.empty());
    CHECK_THROWS_AS(io::write_mesh(r.mesh, f / "bare.glb", false, "m"), Error);
}

TEST_CASE("EveryByteOfAColourSurvivesItsWayThroughLight") {
    for (std::uint32_t b = 0; b < 256; ++b)
        CHECK(io::srgb_byte(std::lround(65535 * io::light_of(b)) / 65535.0) == b);
}

TEST_CASE("LengthsInAGlbAreMetres") {
    const test::TemporaryFolder f;
    mesh::TriMesh m;
    m.vertices = {{1000, 2000, 10}, {1100, 2000, 10}, {1000, 2100, 30}};
    m.triangles = {{0, 1, 2}};
    io::write_mesh(m, f / "feet.glb", false, "ft");
    const io::MeshFile back = io::read_mesh(f / "feet.glb");
    CHECK(back.unit == "m");
    const Vec3 at = back.mesh.vertices[back.mesh.triangles[0][2]];
    CHECK(at.x == Approx(304.8).margin(1e-4));
    CHECK(at.y == Approx(2100 * 0.3048).margin(1e-4));
    CHECK(at.z == Approx(30 * 0.3048).margin(1e-4));
}

TEST_CASE("AGlbOfOthersIsUnderstood") {
    const test::TemporaryFolder f;
    // Theirs y is up: the strip in x and y stands upright here.
    const io::MeshFile strip = read_bytes(f / "a.glb", glb_of(strip_model(5), kStrip));
    CHECK(strip.mesh.triangles.size() == 3);
    CHECK(area(strip.mesh) == Approx(1.5));
    CHECK(strip.mesh.vertices[4].z == Approx(2));
    // All faces of a strip look the same way.
    for (const auto& t : strip.mesh.triangles)
        CHECK(cross(strip.mesh.vertices[t[1]] - strip.mesh.vertices[t[0]],
                    strip.mesh.vertices[t[2]] - strip.mesh.vertices[t[0]])
                  .y < 0);
    CHECK(read_bytes(f / "b.glb", glb_of(strip_model(6), kStrip)).mesh.triangles.size() == 3);
    CHECK(read_bytes(f / "c.glb", glb_of(strip_model(4), kStrip)).mesh.triangles.size() == 1);
    CHECK_THROWS_AS(read_bytes(f / "d.glb", glb_of(strip_model(1), kStrip)), Error);  // lines

    // Nodes inside nodes: scaled by two, turned by a quarter about the upright, moved.
    json nested = strip_model(5);
    nested["nodes"] = {{{"children", {1}}, {"scale", {2, 2, 2}}, {"translation", {10, 0, 0}}},
                       {{"mesh", 0}, {"rotation", {0, std::sqrt(0.5), 0, std::sqrt(0.5)}}, {"name", "Gate"}}};
    const io::MeshFile moved = read_bytes(f / "e.glb", glb_of(nested, kStrip));
    CHECK(area(moved.mesh) == Approx(6));
    // Their x becomes their -z, which is our y.
    CHECK(moved.mesh.vertices[1].x == Approx(10).margin(1e-6));
    CHECK(moved.mesh.vertices[1].y == Approx(2));
    CHECK(moved.attributes.groups == std::vector<std::string>{"Gate"});

    // Whole numbers that stand for -1..1.
    std::string shorts;
    for (const int v : {-32767, 0, 0, 0, 32767, 0, 0, 0, 0, 32767, 0, 0})
        append_le(shorts, static_cast<std::int16_t>(v));
    json small = strip_model(4);
    small["extensionsRequired"] = {"KHR_mesh_quantization"};
    small["extensionsUsed"] = {"KHR_mesh_quantization"};
    small["buffers"][0]["byteLength"] = shorts.size();
    small["bufferViews"][0] = {{"buffer", 0}, {"byteLength", shorts.size()}, {"byteStride", 8}};
    small["accessors"][0] = {
        {"bufferView", 0}, {"componentType", 5122}, {"type", "VEC3"}, {"count", 3}, {"normalized", true}};
    const io::MeshFile quantized = read_bytes(f / "g.glb", glb_of(small, shorts));
    CHECK(quantized.mesh.vertices[0].x == Approx(-1));
    CHECK(quantized.mesh.vertices[2].z == Approx(1));

    json packed = strip_model(5);
    packed["extensionsRequired"] = {"KHR_draco_mesh_compression"};
    CHECK_THROWS_WITH(read_bytes(f / "h.glb", glb_of(packed, kStrip)),
                      Catch::Contains("KHR_draco_mesh_compression"));
}

TEST_CASE("AGlbReadsNothingBesideItself") {
    const test::TemporaryFolder f;
    test::write_file(f / "secret.bin", kStrip);
    json j = strip_model(5);
    j["buffers"] = {{{"byteLength", kStrip.size()}, {"uri", "secret.bin"}}};
    CHECK_THROWS_AS(read_bytes(f / "a.glb", glb_of(j, kStrip)), Error);
}

TEST_CASE("ADamagedGlbEndsWithASentence", "[property]") {
    const auto seed = std::random_device{}();
    CAPTURE(seed);
    std::mt19937_64 random(seed);
    const test::TemporaryFolder f;
    const Rich r(random, std::string("\x89PNG\r\n\x1a\n"));
    io::write_mesh(r.mesh, f / "whole.glb", false, "m", r.attributes);
    const std::string whole = test::read_file(f / "whole.glb");
    for (int k = 0; k < 60; ++k) {
        std::string bad = whole;
        if (k % 3 == 0)
            bad.resize(random() % whole.size());
        else
            for (int n = 0; n < 6; ++n)
                bad[random() % (k % 3 == 1 ? whole.size() : 3000)] = static_cast<char>(random());
        test::write_file(f / "bad.glb", bad);
        try {
            const io::MeshFile m = io::read_mesh(f / "bad.glb");
            for (const auto& t : m.mesh.triangles)
                for (const std::uint32_t v : t) REQUIRE(v < m.mesh.vertices.size());
        } catch (const Error& e) {
            CHECK_THAT(e.what(), Catch::Contains("bad.glb"));
        }
    }
    // Accessors that reach too far, in every way.
    for (const auto& [key, value] :
         std::vector<std::pair<std::string, std::uint64_t>>{{"count", 6},
                                                            {"count", 4'000'000'000},
                                                            {"byteOffset", 60},
                                                            {"byteOffset", UINT32_MAX},
                                                            {"bufferView", 7}}) {
        json j = strip_model(5);
        j["accessors"][0][key] = value;
        CHECK_THROWS_AS(read_bytes(f / "far.glb", glb_of(j, kStrip)), Error);
    }
    json circle = strip_model(5);
    circle["nodes"] = {{{"children", {0}}, {"mesh", 0}}};
    CHECK_THROWS_AS(read_bytes(f / "circle.glb", glb_of(circle, kStrip)), Error);
}

TEST_CASE("EveryFormatIsInTheRegisterOnce") {
    std::set<std::pair<int, std::string>> seen;
    for (const io::Format& f : io::formats()) {
        CHECK_FALSE(f.title.empty());
        CHECK((f.reads || f.writes));
        for (const std::string& e : f.endings) CHECK(seen.insert({static_cast<int>(f.holds), e}).second);
    }
    CHECK(io::format_list(io::Format::Holds::Triangles, true).find("glTF 2.0, binary (.glb)") !=
          std::string::npos);
    const std::vector<std::string> read = io::endings_read();
    for (const char* e : {"las", "laz", "e57", "ptx", "ply", "glb", "tif", "shp", "xml"})
        CHECK(std::find(read.begin(), read.end(), e) != read.end());
}
