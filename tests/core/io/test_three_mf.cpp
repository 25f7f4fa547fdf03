// 3MF: what goes out comes back, and what others write is understood.

#include <cpl_vsi.h>
#include <catch2/catch.hpp>

#include <random>

#include "core/base/error.h"
#include "core/io/3mf/three_mf.h"
#include "core/io/mesh/mesh_io.h"
#include "core/measure/figures.h"
#include "support/cloud_makers.h"

using namespace pristine;

namespace {

void into_package(const std::filesystem::path& package, const std::string& name, const std::string& text) {
    VSILFILE* file = VSIFOpenL(("/vsizip/" + package.string() + "/" + name).c_str(), "wb");
    REQUIRE(file);
    REQUIRE(VSIFWriteL(text.data(), 1, text.size(), file) == text.size());
    VSIFCloseL(file);
}

// A package as other programs write it, with this model in it.
std::filesystem::path package_of(const std::filesystem::path& file, const std::string& model) {
    std::filesystem::remove(file);
    const std::filesystem::path zip = file.string() + ".zip";
    std::filesystem::remove(zip);
    into_package(
        zip, "[Content_Types].xml",
        R"(<?xml version="1.0" encoding="UTF-8"?><Types xmlns="http://schemas.openxmlformats.org/package/2006/content-types"><Default Extension="rels" ContentType="application/vnd.openxmlformats-package.relationships+xml"/><Default Extension="model" ContentType="application/vnd.ms-package.3dmanufacturing-3dmodel+xml"/></Types>)");
    into_package(
        zip, "_rels/.rels",
        R"(<?xml version="1.0" encoding="UTF-8"?><Relationships xmlns="http://schemas.openxmlformats.org/package/2006/relationships"><Relationship Target="/3D/3dmodel.model" Id="rel0" Type="http://schemas.microsoft.com/3dmanufacturing/2013/01/3dmodel"/></Relationships>)");
    into_package(zip, "3D/3dmodel.model", R"(<?xml version="1.0" encoding="UTF-8"?>)" + model);
    std::filesystem::rename(zip, file);
    return file;
}

const std::string kTetrahedron =
    R"(<mesh><vertices><vertex x="0" y="0" z="0"/><vertex x="1" y="0" z="0"/><vertex x="0" y="1" z="0"/><vertex x="0" y="0" z="1"/></vertices>)"
    R"(<triangles><triangle v1="0" v2="2" v3="1"/><triangle v1="0" v2="1" v3="3"/><triangle v1="1" v2="2" v3="3"/><triangle v1="2" v2="0" v3="3"/></triangles></mesh>)";

std::string model(const std::string& unit, const std::string& resources, const std::string& build) {
    return "<model unit=\"" + unit +
           "\" xml:lang=\"en-US\" "
           "xmlns=\"http://schemas.microsoft.com/3dmanufacturing/core/2015/02\"><resources>" +
           resources + "</resources><build>" + build + "</build></model>";
}

double volume(const mesh::TriMesh& m) {
    double v = 0;
    for (const auto& t : m.triangles)
        v += dot(m.vertices[t[0]], cross(m.vertices[t[1]], m.vertices[t[2]])) / 6;
    return v;
}

}  // namespace

TEST_CASE("A3mfHoldsAMeshAndTheColoursOfItsCorners", "[property]") {
    const auto seed = std::random_device{}();
    CAPTURE(seed);
    std::mt19937_64 random(seed);
    std::uniform_real_distribution<double> unit(-50, 50);
    const test::TemporaryFolder f;
    mesh::TriMesh m;
    mesh::Attributes a;
    for (int i = 0; i < 60; ++i) m.vertices.push_back({unit(random), unit(random), unit(random)});
    while (m.triangles.size() < 100) {
        const auto v = [&] { return static_cast<std::uint32_t>(random() % 60); };
        const std::array<std::uint32_t, 3> t{v(), v(), v()};
        if (t[0] == t[1] || t[1] == t[2] || t[2] == t[0]) continue;
        m.triangles.push_back(t);
        auto& c = a.colours.emplace_back();
        for (auto& one : c) one = static_cast<std::uint32_t>(random() & 0xFFFFFFu);
    }
    for (const char* u : {"mm", "cm", "in", "ft", "m"}) {
        CAPTURE(u);
        io::write_mesh(m, f / "körper.3mf", true, u, a);
        const io::MeshFile back = io::read_mesh(f / "körper.3mf");
        CHECK(back.unit == u);
        REQUIRE(back.mesh.triangles.size() == m.triangles.size());
        double worst = 0;
        std::size_t wrong = 0;
        for (std::size_t t = 0; t < m.triangles.size(); ++t)
            for (std::size_t k = 0; k < 3; ++k) {
                worst = std::max(worst, norm(back.mesh.vertices[back.mesh.triangles[t][k]] -
                                             m.vertices[m.triangles[t][k]]));
                wrong += back.attributes.colours[t][k] != a.colours[t][k];
            }
        CHECK(worst < 1e-4);
        CHECK(wrong == 0);
    }
    io::write_mesh(m, f / "bare.3mf", false, "mm");
    CHECK(io::read_mesh(f / "bare.3mf").attributes.empty());
    // Survey feet are none of its units: converted.
    io::write_mesh(m, f / "usft.3mf", false, "usft");
    const io::MeshFile metres = io::read_mesh(f / "usft.3mf");
    CHECK(metres.unit == "m");
    CHECK(metres.mesh.vertices[metres.mesh.triangles[0][0]].x ==
          Approx(m.vertices[m.triangles[0][0]].x * 1200 / 3937).margin(1e-4));
}

TEST_CASE("WhatDoesNotFitInto3mfIsRefused") {
    const test::TemporaryFolder f;
    mesh::TriMesh m;
    m.vertices = {{0, 0, 0}, {1, 0, 0}, {0, 1, 0}};
    m.triangles = {{0, 1, 2}};
    CHECK_THROWS_WITH(io::write_mesh(m, f / "a.3mf", false), Catch::Contains("unit"));
    m.triangles.push_back({0, 1, 1});
    CHECK_THROWS_AS(io::write_mesh(m, f / "a.3mf", false, "mm"), Error);
    m.triangles.pop_back();
    m.vertices[0].x = 412'300;
    CHECK_THROWS_AS(io::write_mesh(m, f / "a.3mf", false, "m"), Error);
    CHECK_FALSE(std::filesystem::exists(f / "a.3mf"));
}

TEST_CASE("A3mfOfOthersIsUnderstood") {
    const test::TemporaryFolder f;
    const std::string object =
        "<object id=\"1\" type=\"model\" name=\"Anchor\">" + kTetrahedron + "</object>";
    const io::MeshFile plain =
        io::read_mesh(package_of(f / "a.3mf", model("inch", object, "<item objectid=\"1\"/>")));
    CHECK(plain.unit == "in");
    CHECK(volume(plain.mesh) == Approx(1.0 / 6));
    // Twice, moved, scaled, and mirrored inside another object: no body is turned inside out.
    const std::string both = object +
                             "<object id=\"2\" type=\"model\" name=\"Pair\"><components><component "
                             "objectid=\"1\"/><component objectid=\"1\" "
                             "transform=\"-2 0 0 0 2 0 0 0 2 10 0 0\"/></components></object>";
    const io::MeshFile pair = io::read_mesh(package_of(
        f / "b.3mf",
        model("millimeter", both, "<item objectid=\"2\" transform=\"1 0 0 0 1 0 0 0 1 0 0 100\"/>")));
    CHECK(pair.mesh.triangles.size() == 8);
    double lo = 1e9, hi = -1e9, east = -1e9;
    for (const Vec3& v : pair.mesh.vertices) {
        lo = std::min(lo, v.z);
        hi = std::max(hi, v.z);
        east = std::max(east, v.x);
    }
    CHECK(lo == Approx(100));
    CHECK(hi == Approx(102));
    CHECK(east == Approx(10));
    CHECK(volume(pair.mesh) == Approx((1 + 8) / 6.0).margin(1e-3));
    const io::MeshFile tiny =
        io::read_mesh(package_of(f / "c.3mf", model("micron", object, "<item objectid=\"1\"/>")));
    CHECK(tiny.unit == "mm");
    CHECK(volume(tiny.mesh) == Approx(1e-9 / 6));
}

TEST_CASE("ADamaged3mfEndsWithASentence", "[property]") {
    const auto seed = std::random_device{}();
    CAPTURE(seed);
    std::mt19937_64 random(seed);
    const test::TemporaryFolder f;
    mesh::TriMesh m;
    m.vertices = {{0, 0, 0}, {1, 0, 0}, {0, 1, 0}};
    m.triangles = {{0, 1, 2}};
    io::write_mesh(m, f / "whole.3mf", false, "mm");
    const std::string whole = test::read_file(f / "whole.3mf");
    for (int k = 0; k < 40; ++k) {
        std::string bad = whole;
        if (k % 2 == 0)
            bad.resize(random() % whole.size());
        else
            for (int n = 0; n < 4; ++n) bad[random() % whole.size()] = static_cast<char>(random());
        test::write_file(f / "bad.3mf", bad);
        try {
            (void)io::read_mesh(f / "bad.3mf");
        } catch (const Error& e) {
            CHECK_THAT(e.what(), Catch::Contains("bad.3mf"));
        }
    }
}
