// Pictures inside E57 files: found, brought onto the points, and refused where they make no sense.

#include <catch2/catch.hpp>
#include <cmath>
#include <numbers>
#include <random>

#include "core/base/error.h"
#include "core/io/cloud_io.h"
#include "core/io/coloured_cloud.h"
#include "core/io/e57/picture.h"
#include "support/cloud_makers.h"
#include "support/e57_pictures.h"

using namespace pristine;
using io::ScanPicture;

namespace {

ScanPicture picture(ScanPicture::Kind kind) {
    ScanPicture p;
    p.kind = kind;
    p.width = 400;
    p.height = 200;
    p.principal_x = 200;
    p.principal_y = 100;
    p.focal = 0.02;
    p.pixel_width = p.pixel_height = 1e-4;
    p.radius = 1;
    if (kind != ScanPicture::Kind::Pinhole) {
        p.pixel_width = 2 * std::numbers::pi / p.width;
        p.pixel_height = kind == ScanPicture::Kind::Spherical ? std::numbers::pi / p.height : 0.01;
    }
    return p;
}

}  // namespace

TEST_CASE("PlacesComeOntoPicturesAsTheStandardSays") {
    ScanPicture hole = picture(ScanPicture::Kind::Pinhole);
    // Ahead is -z; a tenth to the right of two metres away is 0.05 focal lengths, ten pixels.
    auto at = io::pixel_of(hole, {0.1, 0, -2});
    REQUIRE(at);
    CHECK(at->x == Approx(210));
    CHECK(at->y == Approx(100));
    at = io::pixel_of(hole, {0, 0.1, -2});
    REQUIRE(at);
    CHECK(at->y == Approx(90));                   // up is up
    CHECK_FALSE(io::pixel_of(hole, {0, 0, 2}));   // behind
    CHECK_FALSE(io::pixel_of(hole, {5, 0, -2}));  // beside
    // Turned a quarter about z, and moved: right is now +y of the world.
    hole.pose = {std::sqrt(0.5), 0, 0, std::sqrt(0.5), {10, 20, 30}};
    at = io::pixel_of(hole, {10, 20.1, 28});
    REQUIRE(at);
    CHECK(at->x == Approx(210));
    CHECK(at->y == Approx(100));
    const ScanPicture ball = picture(ScanPicture::Kind::Spherical);
    at = io::pixel_of(ball, {3, 0, 0});
    REQUIRE(at);
    CHECK(at->x == Approx(200));
    CHECK(at->y == Approx(100));
    at = io::pixel_of(ball, {0, 3, 3});  // a quarter to the left, half-way up
    REQUIRE(at);
    CHECK(at->x == Approx(100));
    CHECK(at->y == Approx(50));
    CHECK_FALSE(io::pixel_of(ball, {0, 0, 0}));
    const ScanPicture drum = picture(ScanPicture::Kind::Cylindrical);
    at = io::pixel_of(drum, {0, -2, 1});
    REQUIRE(at);
    CHECK(at->x == Approx(300));
    CHECK(at->y == Approx(50));  // half a radius up, a hundredth a pixel
    CHECK_FALSE(io::pixel_of(drum, {0, 0, 1}));
    for (const ScanPicture& p : {ball, drum})
        for (double a = 0; a < 6.28; a += 0.01) {  // all round, no seam
            CAPTURE(a);
            CHECK(io::pixel_of(p, {std::cos(a), std::sin(a), 0}));
        }
}

TEST_CASE("PicturesOfAFileAreReadAndColourTheirOwnScan") {
    const test::TemporaryFolder folder;
    test::write_pictured_e57(folder / "pictured.e57");
    std::vector<std::string> warnings;
    const auto pictures = io::read_e57_pictures(folder / "pictured.e57", true, warnings);
    REQUIRE(pictures.size() == 3);
    CHECK(pictures[0].kind == ScanPicture::Kind::Spherical);
    CHECK(pictures[1].kind == ScanPicture::Kind::Pinhole);
    CHECK(pictures[2].kind == ScanPicture::Kind::Cylindrical);
    REQUIRE(warnings.size() == 1);  // the one that is only to be looked at
    CHECK(warnings[0].find("overview") != std::string::npos);
    const auto all = io::read_cloud(folder / "pictured.e57").cloud;
    REQUIRE(all->stations().size() == 2);
    CHECK(io::pictures_of(pictures, *all, 0).size() == 2);
    CHECK(io::pictures_of(pictures, *all, 1).size() == 1);
    warnings.clear();
    const io::PictureColours colours = io::colours_by(pictures, *all, warnings);
    CHECK(warnings.empty());
    const test::PicturedTruth truth;
    std::uint64_t in = 0;
    for (std::uint64_t e = 0; e < all->size(); ++e) {
        const std::uint32_t expected = truth.colour(all->position(e));
        in += expected != 0x808080;
        CAPTURE(all->position(e).x, all->position(e).y, all->position(e).z);
        CHECK(colours.rgb[e] == expected);
    }
    CHECK(colours.coloured == in);
    CHECK(in > 100);
    CHECK(in < all->size());
    // As a cloud: the same places and columns, other colours.
    const auto made = io::coloured(all, colours.rgb);
    REQUIRE(made->size() == all->size());
    REQUIRE(made->colour());
    CHECK(made->stations() == all->stations());
    CHECK(made->records()->layout().find("intensity"));
    for (std::uint64_t e = 0; e < made->size(); ++e)
        CHECK((*made->colour())[e] == truth.colour(made->position(e)));
    CHECK_FALSE(io::why_no_pictures(*made).empty());
    CHECK_THROWS_AS(io::coloured(all, {1, 2, 3}), Error);
}

TEST_CASE("DamagedPicturesAreNamedAndLeftOut") {
    const test::TemporaryFolder folder;
    test::write_pictured_e57(folder / "far.e57", test::PicturedFault::OffsetOutside);
    test::write_pictured_e57(folder / "none.e57", test::PicturedFault::NoSize);
    test::write_pictured_e57(folder / "bytes.e57", test::PicturedFault::NoPicture);
    for (const char* name : {"far.e57", "none.e57"}) {
        CAPTURE(name);
        std::vector<std::string> warnings;
        CHECK(io::read_e57_pictures(folder / name, true, warnings).size() == 2);
        CHECK(warnings.size() == 2);
        CHECK(warnings[0].find("dome") != std::string::npos);
    }
    std::vector<std::string> warnings;
    const auto pictures = io::read_e57_pictures(folder / "bytes.e57", true, warnings);
    REQUIRE(pictures.size() == 3);
    warnings.clear();
    const auto cloud = io::read_cloud(folder / "bytes.e57").cloud;
    (void)io::colours_by(pictures, *cloud, warnings);
    REQUIRE(warnings.size() == 1);
    CHECK(warnings[0].find("dome") != std::string::npos);
}
