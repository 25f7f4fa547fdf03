// Lines in the window: brought to the unit of the site as they come in, written as they go out.

#include <catch2/catch.hpp>

#include <QPushButton>

#include "app/panels/notice.h"
#include "core/io/lines/lines.h"
#include "core/site/making.h"
#include "window_driver.h"

using namespace pristine;
using test::WindowDriver;

TEST_CASE("LinesInFeetAreBroughtToASiteInMetresAndExported", "[window]") {
    const test::TemporaryFolder folder;
    test::write_file(folder / "spots.csv", "x,y,z\n0,0,1\n30.48,0,1\n30.48,30.48,1\n0,30.48,1\n");
    io::write_lines({{"yard", {{0, 0, 10}, {100, 0, 10}, {100, 100, 10}}, true}}, folder / "yard.gpkg", false,
                    {"", "ft", ""});
    WindowDriver w(folder / "home");
    REQUIRE(w.open(folder / "spots.csv"));
    w.click(w.find<QPushButton>("noticeFirst"));  // metres
    w.window().add_lines(folder / "yard.gpkg");
    REQUIRE(w.wait([&] { return w.site().lines.size() == 1; }));
    REQUIRE(w.settle());
    CHECK(w.site().lines[0]->points[1].x == Approx(30.48));
    CHECK(w.site().lines[0]->points[1].z == Approx(3.048));
    CHECK(w.window().notice().text().contains("converted from"));
    CHECK(w.window().notice().text().contains("feet"));
    // Drawn where the points lie: what is inside is selected.
    w.window().commands().trigger("select.inside_lines");
    REQUIRE(w.settle());
    CHECK(w.site().selected() >= 1);

    // Out again, in the unit of the site; what is hidden stays here.
    w.document().apply("second", [](const site::Site& s) {
        site::Line hidden{0, "axis", {{0, 0, 0}, {5, 5, 0}}, false, false};
        return site::put_lines(s, {hidden});
    });
    w.document().export_lines(folder / "out.xml", true);
    REQUIRE(w.wait([&] { return std::filesystem::exists(folder / "out.xml") && !w.window().jobs().busy(); }));
    REQUIRE(w.settle());
    const auto back = io::read_lines(folder / "out.xml");
    REQUIRE(back.size() == 1);
    CHECK(back[0].closed);
    CHECK(back[0].points[2].y == w.site().lines[0]->points[2].y);
    CHECK(io::reference_of_lines(folder / "out.xml").unit == "m");
    w.close();
}

TEST_CASE("LinesThatCannotFitAreRefusedWithTheReason", "[window]") {
    const test::TemporaryFolder folder;
    test::write_file(folder / "spots.csv", "x,y,z\n0,0,1\n30,0,1\n30,30,1\n0,30,1\n");
    io::write_lines({{"yard", {{9, 48, 0}, {9.1, 48, 0}}, false}}, folder / "yard.gpkg", false,
                    {"EPSG:4326", "deg", ""});
    WindowDriver w(folder / "home");
    REQUIRE(w.open(folder / "spots.csv"));
    w.click(w.find<QPushButton>("noticeFirst"));
    w.window().add_lines(folder / "yard.gpkg");
    REQUIRE(w.wait([&] { return !w.window().jobs().busy(); }));
    REQUIRE(w.settle());
    CHECK(w.site().lines.empty());
    CHECK(w.window().notice().text().contains("nothing says how they fit"));
    w.close();
}
