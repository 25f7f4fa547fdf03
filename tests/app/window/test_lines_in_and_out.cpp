// Lines in the window: brought to the unit of the site as they come in, written as they go out.

#include <catch2/catch.hpp>

#include <QDoubleSpinBox>
#include <QLabel>
#include <QPushButton>

#include "app/window/grid_opening.h"
#include "app/window/notice.h"
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
    w.window().controllers().lines.add_lines(folder / "yard.gpkg");
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
    w.window().controllers().lines.add_lines(folder / "yard.gpkg");
    REQUIRE(w.wait([&] { return !w.window().jobs().busy(); }));
    REQUIRE(w.settle());
    CHECK(w.site().lines.empty());
    CHECK(w.window().notice().text().contains("nothing says how they fit"));
    w.close();
}

TEST_CASE("AGridIsThinnedAsFarAsIsAskedBeforeItOpens", "[window]") {
    const test::TemporaryFolder folder;
    // Heights by 0.001 a row: every other row and column left out, again and again, makes no error on a
    // plane; the bump of 0.2 in the middle does.
    std::string text = "ncols 65\nnrows 65\nxllcorner 0\nyllcorner 0\ncellsize 1\nNODATA_value -9999\n";
    for (int j = 0; j < 65; ++j)
        for (int i = 0; i < 65; ++i)
            text += std::to_string(10 + 0.001 * j + (i == 33 && j == 33 ? 0.2 : 0)) + (i == 64 ? "\n" : " ");
    test::write_file(folder / "g.asc", text);
    WindowDriver w(folder / "home");
    const auto open_with = [&](double error, double millions, std::size_t items) {
        w.window().controllers().files.ask_of_grid(folder / "g.asc");
        app::GridOpening* dialog = nullptr;
        REQUIRE(w.wait([&] {
            dialog = w.window().findChild<app::GridOpening*>();
            return dialog && dialog->isVisible();
        }));
        CHECK(dialog->findChild<QLabel*>("gridSays")->text().contains("65 columns × 65 rows"));
        dialog->findChild<QDoubleSpinBox*>("gridError")->setValue(error);
        dialog->findChild<QDoubleSpinBox*>("gridMillions")->setValue(millions);
        w.click(dialog->findChild<QPushButton*>("gridOpen"));
        REQUIRE(w.wait([&] { return w.site().items.size() == items && !w.window().jobs().busy(); }));
        REQUIRE(w.settle());
        return w.site().items.back()->cloud->size();
    };
    CHECK(open_with(0, 4, 1) == 2 * 64 * 64);
    // The bump may go: as thin as two rows and columns.
    CHECK(open_with(0.25, 4, 2) < 64);
    CHECK(w.window().notice().text().contains("thinned"));
    // It may not.
    CHECK(open_with(0.05, 4, 3) == 2 * 64 * 64);
    w.close();
}

TEST_CASE("AMapOfPointsAndLinesComesInAsAnItemAndLines", "[window]") {
    const test::TemporaryFolder folder;
    test::write_file(folder / "lock.geojson", R"({"type":"FeatureCollection","features":[
 {"type":"Feature","properties":{"nr":"101","code":"coping"},"geometry":{"type":"Point","coordinates":[1,2,6.5]}},
 {"type":"Feature","properties":{"nr":"102","code":"coping"},"geometry":{"type":"Point","coordinates":[8,2,6.4]}},
 {"type":"Feature","properties":{"nr":"103","code":"sill"},"geometry":{"type":"Point","coordinates":[4,7,2.5]}},
 {"type":"Feature","properties":{"name":"edge"},"geometry":{"type":"LineString","coordinates":[[0,0,6],[9,9,6]]}}]})");
    WindowDriver w(folder / "home");
    REQUIRE(w.open(folder / "lock.geojson"));
    REQUIRE(w.wait([&] { return w.site().lines.size() == 1 && w.site().items.size() == 1; }));
    REQUIRE(w.settle());
    CHECK(w.site().items[0]->cloud->size() == 3);
    CHECK(w.site().items[0]->cloud->records()->layout().find("code"));
    // As lines of the job only the lines come in.
    w.window().controllers().lines.add_lines(folder / "lock.geojson");
    REQUIRE(w.wait([&] { return w.site().lines.size() == 2; }));
    REQUIRE(w.settle());
    CHECK(w.site().items.size() == 1);
    w.close();
}
