// Plan sheets: true scale on paper, lines in layers, pictures at their place.

#include "core/report/sheet.h"

#include <catch2/catch.hpp>

#include <cstdio>
#include <sstream>

#include "core/base/error.h"
#include "core/io/grid/picture.h"
#include "core/io/lines/lines.h"
#include "core/report/figures/map.h"
#include "core/report/orthophoto.h"
#include "core/report/report_site.h"
#include "render/report_pictures.h"

using namespace pristine;
using namespace pristine::report;

namespace {

struct Grey {
    int width = 0, height = 0;
    std::vector<std::uint8_t> pixels;
    std::uint8_t at(int x, int y) const {
        return pixels[static_cast<std::size_t>(y) * static_cast<std::size_t>(width) +
                      static_cast<std::size_t>(x)];
    }
};

// The page of a PDF as another program draws it.
Grey rendered(const std::filesystem::path& pdf, int dpi) {
    const std::string stem = pdf.string() + ".page";
    REQUIRE(
        std::system(("pdftoppm -gray -singlefile -r " + std::to_string(dpi) + " " + pdf.string() + " " + stem)
                        .c_str()) == 0);
    const std::string bytes = test::read_file(stem + ".pgm");
    std::istringstream in(bytes);
    std::string magic;
    int most = 0;
    Grey g;
    in >> magic >> g.width >> g.height >> most;
    in.get();
    g.pixels.assign(bytes.begin() + in.tellg(), bytes.end());
    REQUIRE(g.pixels.size() == static_cast<std::size_t>(g.width) * static_cast<std::size_t>(g.height));
    return g;
}

// Middles of the dark stretches of a row between two columns that are at least `least` pixels wide.
std::vector<double> dark_in_row(const Grey& g, int y, int from, int to, int least) {
    std::vector<double> out;
    int begun = -1;
    for (int x = from; x <= to; ++x) {
        const bool dark = x < to && g.at(x, y) < 110;
        if (dark && begun < 0) begun = x;
        if (!dark && begun >= 0) {
            if (x - begun >= least) out.push_back((begun + x - 1) / 2.0);
            begun = -1;
        }
    }
    return out;
}

Material sheet_material(const site::SitePtr& s) {
    Material m;
    m.site = s;
    m.program = "Pristine Cloud test";
    m.date = "2026-06-10";
    m.dpi = 80;
    m.draw = render::picture_of;
    return m;
}

site::SitePtr with_square(const std::string& unit, double side) {
    auto s = std::make_shared<site::Site>();
    s->name = "Ashmere Lock";
    const auto made = site::add_cloud(*s, test::hill(2, 0, 1, unit), "Bank", "x");
    return site::put_lines(*made, {test::line_of("square", test::rectangle(10, 10, 10 + side, 10 + side),
                                                 true, LineRole::Boundary)});
}

}  // namespace

TEST_CASE("ASheetIsTrueToScaleInThePdf") {
    const test::TemporaryFolder folder;
    for (const auto& [unit, metres] : {std::pair<std::string, double>{"m", 1.0}, {"ft", 0.3048}}) {
        const site::SitePtr s = with_square(unit, 20);
        for (const int scale : {0, 500}) {
            CAPTURE(unit, scale);
            SheetSetup setup;
            setup.part.kind = "plan";
            if (scale > 0) setup.part.numbers["scale"] = scale;
            Material m = sheet_material(s);
            m.draw = nullptr;  // lines alone
            const auto sheets = sheets_of(m, setup);
            REQUIRE(sheets.size() == 1);
            const Sheet& sheet = sheets[0];
            if (scale > 0) CHECK(sheet.scale == scale);
            write_sheets(sheets, {}, folder / "s.pdf", true, {}, metres);
            constexpr int kDpi = 600;
            const Grey page = rendered(folder / "s.pdf", kDpi);
            REQUIRE(sheet.ground);
            const auto pixel = [&](double mm) { return static_cast<int>(mm / 25.4 * kDpi); };
            // A row that meets no tick of the boundary: they stand every 5 mm from each corner.
            const double mm = sheet.ground->mm_per_unit;
            double up = 14;
            const auto near_tick = [&](double away) {
                return std::fabs(std::fmod(away * mm, 5) - 2.5) < 0.8;
            };
            while (near_tick(up - 10) || near_tick(30 - up)) up += 0.05;
            const double y = sheet.ground->y - (test::kSiteOrigin.y + up - sheet.ground->north) * mm;
            const double left =
                sheet.ground->x + (test::kSiteOrigin.x + 10 - sheet.ground->east) * sheet.ground->mm_per_unit;
            const double right = left + 20 * sheet.ground->mm_per_unit;
            const auto dark =
                dark_in_row(page, pixel(y), pixel(left - 2), pixel(right + 2), 9);  // 0.4 mm: the boundary
            REQUIRE(dark.size() >= 2);
            const double measured = (dark.back() - dark.front()) / kDpi * 25.4;
            CHECK(measured == Approx(20 * metres * 1000 / sheet.scale).margin(0.2));
        }
    }
}

TEST_CASE("ASheetThatDoesNotFitSaysWhichScaleDoes") {
    const site::SitePtr s = with_square("m", 20);
    SheetSetup setup;
    setup.part.kind = "plan";
    setup.part.numbers["scale"] = 20;
    try {
        (void)sheets_of(sheet_material(s), setup);
        FAIL("it fits");
    } catch (const Error& e) {
        CHECK(std::string(e.what()).find("1:20 ") != std::string::npos);
        // The one that is named does fit, and the next larger one does not.
        const std::string text = e.what();
        const auto at = text.rfind("1:");
        REQUIRE(text.find(" does.", at) != std::string::npos);
        const int named = std::stoi(text.substr(at + 2));
        setup.part.numbers["scale"] = named;
        CHECK(sheets_of(sheet_material(s), setup).front().scale == named);
        const auto& scales = round_scales();
        setup.part.numbers["scale"] = *(std::find(scales.begin(), scales.end(), named) - 1);
        CHECK_THROWS_AS(sheets_of(sheet_material(s), setup), Error);
    }
    setup.part.kind = "ledger";
    CHECK_THROWS_AS(sheets_of(sheet_material(s), setup), Error);
}

TEST_CASE("EveryKindOfSheetCanBeDrawn") {
    const test::TemporaryFolder folder;
    const site::SitePtr s = test::report_site();
    Setup all = proposed(*s);
    for (const std::string& kind : sheet_kinds()) {
        if (kind == "tunnel") continue;
        CAPTURE(kind);
        SheetSetup setup;
        setup.part = with_parts(all, {kind}).parts.front();
        setup.title = "Blatt " + kind;
        setup.page.size = "A4";
        const auto sheets = sheets_of(sheet_material(s), setup);
        REQUIRE_FALSE(sheets.empty());
        CHECK((sheets[0].scale > 0) == (kind != "view"));
        for (const char* ending : {"pdf", "svg", "png", "dxf"})
            for (const auto& file :
                 write_sheets(sheets, {}, folder / (kind + "." + ending), false, {}, 1, 60))
                CHECK(std::filesystem::file_size(file) > 500);
        CHECK_THROWS_AS(write_sheets(sheets, {}, folder / (kind + ".pdf"), false, {}, 1), Error);
        CHECK_THROWS_AS(write_sheets(sheets, {}, folder / (kind + ".gif"), false, {}, 1), Error);
    }
}

TEST_CASE("TheDxfOfAPlanHoldsItsLinesAtTheirPlacesInLayersByRole") {
    const test::TemporaryFolder folder;
    const site::SitePtr s = with_square("m", 20);
    SheetSetup setup;
    setup.part.kind = "plan";
    Material m = sheet_material(s);
    m.draw = nullptr;
    write_sheets(sheets_of(m, setup), {}, folder / "s.dxf", false, {}, 1);
    bool found = false;
    for (const io::MapLine& l : io::read_lines(folder / "s.dxf")) {
        if (l.layer != "boundary" || l.points.size() < 4) continue;
        found = true;
        Box3 box;
        for (const Vec3& p : l.points) box.add(p);
        CHECK(box.lo.x == Approx(test::kSiteOrigin.x + 10).margin(1e-6));
        CHECK(box.hi.y == Approx(test::kSiteOrigin.y + 30).margin(1e-6));
    }
    CHECK(found);
}

TEST_CASE("PaintedTrianglesAreThoseOfThePlainWay", "[property]") {
    const auto seed = test::seed_for("painted");
    CAPTURE(seed);
    std::mt19937_64 dice(seed);
    std::uniform_real_distribution<double> u(0, 30);
    mesh::TriMesh m;
    for (int k = 0; k < 3; ++k) m.vertices.push_back({u(dice), u(dice), u(dice)});
    m.triangles = {{0, 1, 2}};
    const Image image = painted(m, 0, 0, 30, 30, 60, 60, [](double z) { return static_cast<Ink>(z * 1000); });
    const auto& v = m.vertices;
    const double w = (v[1].x - v[0].x) * (v[2].y - v[0].y) - (v[1].y - v[0].y) * (v[2].x - v[0].x);
    for (int y = 0; y < 60; ++y)
        for (int x = 0; x < 60; ++x) {
            const double px = (x + 0.5) / 2, py = 30 - (y + 0.5) / 2;
            const double b = ((px - v[0].x) * (v[2].y - v[0].y) - (py - v[0].y) * (v[2].x - v[0].x)) / w;
            const double c = ((v[1].x - v[0].x) * (py - v[0].y) - (v[1].y - v[0].y) * (px - v[0].x)) / w;
            const double inside = std::min({b, c, 1 - b - c});
            if (std::fabs(inside) < 1e-7) continue;
            const std::uint32_t p = image.argb[static_cast<std::size_t>(y * 60 + x)];
            CHECK((p != 0) == (inside > 0));
            if (inside > 0)
                CHECK(std::abs(static_cast<int>(p & 0xffffff) -
                               static_cast<int>(
                                   1000 * (v[0].z + b * (v[1].z - v[0].z) + c * (v[2].z - v[0].z)))) <= 1);
        }
}

TEST_CASE("AGroundPictureLiesWhereItsWorldFileSays") {
    const test::TemporaryFolder folder;
    const site::SitePtr s = with_square("m", 20);
    const GroundPictureSize size =
        write_ground_picture(sheet_material(s), {{}, 0.02}, folder / "g.tif", false);
    CHECK(size.columns == 3000);  // more than a tile
    CHECK(size.rows == 2000);
    const io::PlacedPixels back = io::read_orthophoto_here(folder / "g.tif", 100'000'000, Progress::none());
    CHECK(back.pixels.width == 3000);
    const std::string world = test::read_file(folder / "g.tfw");
    double sx = 0, a = 0, b = 0, sy = 0, x = 0, y = 0;
    std::istringstream(world) >> sx >> a >> b >> sy >> x >> y;
    CHECK(sx == Approx(0.02));
    CHECK(sy == Approx(-0.02));
    CHECK(x == Approx(test::kSiteOrigin.x + 0.01).margin(0.02));
    // All of the surface is there, tiles included.
    std::size_t there = 0;
    for (const std::uint32_t p : back.pixels.argb) there += p >> 24 ? 1 : 0;
    CHECK(there > back.pixels.argb.size() * 99 / 100);
    CHECK_THROWS_AS(write_ground_picture(sheet_material(s), {{}, 1e-5}, folder / "h.tif", false), Error);
    CHECK_FALSE(std::filesystem::exists(folder / "h.tif"));
}
