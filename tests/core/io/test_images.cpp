// Pictures of meshes: found beside the mesh and nowhere else, written beside it and over nothing.

#include "core/io/mesh/images.h"

#include <sys/resource.h>
#include <catch2/catch.hpp>

#include <csignal>
#include <filesystem>

#include "core/base/error.h"
#include "support/cloud_makers.h"

using namespace pristine;
namespace fs = std::filesystem;

namespace {

// A picture of 2 x 1 pixels, red and green.
std::string tiny_bmp() {
    const auto le = [](std::uint32_t v, int bytes) {
        std::string out;
        for (int k = 0; k < bytes; ++k) out += static_cast<char>(v >> (8 * k));
        return out;
    };
    const std::string pixels("\x00\x00\xff\x00\xff\x00\x00\x00", 8);  // blue, green, red; a row is 4 n bytes
    return "BM" + le(62, 4) + le(0, 4) + le(54, 4) + le(40, 4) + le(2, 4) + le(1, 4) + le(1, 2) + le(24, 2) +
           le(0, 4) + le(8, 4) + le(2835, 4) + le(2835, 4) + le(0, 4) + le(0, 4) + pixels;
}

mesh::Attributes with_image(const std::string& name, const std::string& bytes) {
    mesh::Attributes a;
    a.materials.push_back({"wall", 0xCCCCCC, name, std::make_shared<const std::string>(bytes), nullptr});
    a.material = {0};
    return a;
}

}  // namespace

TEST_CASE("APictureIsNotLostBecauseTheMachineIsFull") {
    const test::TemporaryFolder f;
    test::write_file(f / "wall.bmp", tiny_bmp());
    test::write_file(f / "mesh.mtl", "newmtl wall\nmap_Kd wall.bmp\n");
    mesh::Material m;
    std::vector<std::string> warnings;
    rlimit before{};
    REQUIRE(::getrlimit(RLIMIT_FSIZE, &before) == 0);
    const auto handler = std::signal(SIGXFSZ, SIG_IGN);
    // Nothing can be written, so the process that decodes pictures cannot be given its bytes.
    const rlimit none{0, before.rlim_max};
    REQUIRE(::setrlimit(RLIMIT_FSIZE, &none) == 0);
    ErrorCode code = ErrorCode::Empty;
    try {
        io::load_image(m, f / "mesh.obj", "wall.bmp", warnings);
    } catch (const Error& e) {
        code = e.code();
    }
    REQUIRE(::setrlimit(RLIMIT_FSIZE, &before) == 0);
    std::signal(SIGXFSZ, handler);
    CHECK(code == ErrorCode::Io);
    CHECK(warnings.empty());
    // With room again it is there; one that is broken itself is left out with a sentence.
    io::load_image(m, f / "mesh.obj", "wall.bmp", warnings);
    CHECK(m.picture);
    CHECK(warnings.empty());
    test::write_file(f / "broken.bmp", "BM and nothing else");
    io::load_image(m, f / "mesh.obj", "broken.bmp", warnings);
    CHECK(warnings.size() == 1);
}

TEST_CASE("PicturesAreFoundBesideTheMeshOnly") {
    const test::TemporaryFolder f;
    fs::create_directories(f / "job/textures");
    fs::create_directories(f / "elsewhere");
    test::write_file(f / "job/wall.png", "a");
    test::write_file(f / "job/textures/türe.png", "b");
    test::write_file(f / "elsewhere/secret.png", "c");
    fs::create_symlink(f / "elsewhere/secret.png", f / "job/link.png");
    fs::create_symlink(f / "job/wall.png", f / "job/inside.png");
    const fs::path mesh = f / "job/mesh.obj";
    const auto found = [&](const std::string& named) {
        return io::file_beside(mesh, named).filename().string();
    };
    CHECK(found("wall.png") == "wall.png");
    CHECK(found("textures/türe.png") == "türe.png");
    CHECK(found("textures\\türe.png") == "türe.png");
    CHECK(found("C:\\jobs\\wall.png") == "wall.png");
    CHECK(found("/home/somebody/wall.png") == "wall.png");
    CHECK(found("old/place/wall.png") == "wall.png");
    CHECK(found("inside.png") == "wall.png");
    for (const char* no :
         {"link.png", "../elsewhere/secret.png", "/elsewhere/secret.png", "nothing.png", "textures", ""})
        CHECK(found(no).empty());
}

TEST_CASE("AMissingOrBrokenPictureIsToldAndLeftOut") {
    const test::TemporaryFolder f;
    test::write_file(f / "broken.png", "this is no picture");
    test::write_file(f / "tiny.bmp", tiny_bmp());
    std::vector<std::string> warnings;
    mesh::Material m;
    io::load_image(m, f / "mesh.obj", "nowhere\\missing.png", warnings);
    REQUIRE(warnings.size() == 1);
    CHECK(warnings[0].find("missing.png") != std::string::npos);
    CHECK(m.image_name == "missing.png");
    CHECK_FALSE(m.picture);
    io::load_image(m, f / "mesh.obj", "broken.png", warnings);
    REQUIRE(warnings.size() == 2);
    CHECK_FALSE(m.picture);
    io::load_image(m, f / "mesh.obj", "tiny.bmp", warnings);
    CHECK(warnings.size() == 2);
    REQUIRE(m.picture);
    CHECK(m.picture->width() == 2);
    CHECK((m.picture->pixels()[0] & 0xFFFFFFu) == 0xFF0000u);
    CHECK((m.picture->pixels()[1] & 0xFFFFFFu) == 0x00FF00u);
}

TEST_CASE("PicturesAreDecodedAgainFromTheirBytes") {
    mesh::Attributes a = with_image("tiny.bmp", tiny_bmp());
    a.materials.push_back({"bad", 0, "bad.png", std::make_shared<const std::string>("no picture"), nullptr});
    a.materials.push_back({"plain"});
    io::decode_images(a);
    REQUIRE(a.materials[0].picture);
    CHECK(a.materials[0].picture->height() == 1);
    CHECK_FALSE(a.materials[1].picture);
    CHECK_FALSE(a.materials[2].picture);
}

TEST_CASE("PicturesAreWrittenBesideTheMeshAndOverNothing") {
    const test::TemporaryFolder f;
    const auto wall = with_image("wall.bmp", tiny_bmp());
    CHECK(io::write_images(wall, f / "a.obj", false) == std::vector<std::string>{"wall.bmp"});
    CHECK(test::read_file(f / "wall.bmp") == tiny_bmp());
    // The same bytes again: nothing to do. Others: refused, unless they may replace what is there.
    CHECK_NOTHROW(io::write_images(wall, f / "b.obj", false));
    const auto other = with_image("wall.bmp", "other bytes");
    CHECK_THROWS_AS(io::write_images(other, f / "c.obj", false), Error);
    CHECK(test::read_file(f / "wall.bmp") == tiny_bmp());
    io::write_images(other, f / "c.obj", true);
    CHECK(test::read_file(f / "wall.bmp") == "other bytes");
    mesh::Attributes none;
    none.materials.push_back({"plain"});
    CHECK(io::write_images(none, f / "d.obj", false) == std::vector<std::string>{""});
}
