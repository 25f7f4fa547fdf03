// Sections across a line: the table, the drawing and what is saved of them.

#include <catch2/catch.hpp>

#include <QComboBox>
#include <QImage>
#include <QLabel>
#include <QPushButton>
#include <QTreeWidget>

#include "app/panes/cross_section_sheet.h"
#include "app/panes/cross_sections_pane.h"
#include "core/io/lines/lines.h"
#include "core/io/mesh/mesh_io.h"
#include "core/surface/definition.h"
#include "surface_sites.h"
#include "window_driver.h"

using namespace pristine;
using test::WindowDriver;

namespace {

// A plane of 40 x 20 at height 1; later 1 m higher south of the middle, 0.5 m lower north of it.
mesh::TriMesh plane(bool later) {
    return test::field(40, 20, [&]([[maybe_unused]] int i, [[maybe_unused]] int j) {
        return !later ? 1.0 : j < 10 ? 2.0 : j == 10 ? 1.25 : 0.5;
    });
}

}  // namespace

TEST_CASE("SectionsAcrossALineAreCutListedDrawnAndSaved", "[window]") {
    const test::TemporaryFolder folder;
    io::write_mesh(plane(false), folder / "Damm 2026-03-02.ply", false, "m");
    io::write_mesh(plane(true), folder / "Damm 2026-05-11.ply", false, "m");
    WindowDriver w(folder / "home");
    REQUIRE(w.open(folder / "Damm 2026-05-11.ply"));
    REQUIRE(w.open(folder / "Damm 2026-03-02.ply", 2));  // its date puts it first
    w.document().apply("Line", [](const site::Site& s) {
        return site::put_lines(s, {{0, "axis", {{5, 10, 0}, {35, 10, 0}}}});
    });
    w.window().commands().trigger("view.cross_sections");
    auto* pane = w.find<app::CrossSectionsPane>("crossPane");
    REQUIRE(w.wait([&] { return pane->sections().all.size() == 4; }));
    auto* list = w.find<QTreeWidget>("crossList");
    REQUIRE(list->topLevelItemCount() == 4);
    // To the right of the axis, which runs east, lies the south.
    for (const measure::CrossSection& s : pane->sections().all) {
        // The last metre runs from +0.25 to -0.5.
        CHECK(s.fill == Approx(9 + 0.5 * (1 + 0.25) + 0.5 * 0.25 / 3));
        CHECK(s.cut < s.fill);
    }
    CHECK(list->topLevelItem(1)->text(0) == "10.00 m");
    CHECK(list->topLevelItem(1)->text(2).endsWith("m²"));
    CHECK(w.find<QLabel>("crossVolumes")->text().contains("by prisms"));
    // The fill is drawn to the right, the cut to the left, between the two curves.
    app::CrossSectionSheet& sheet = pane->sheet();
    w.wait([] { return false; }, 100);
    const QImage before = sheet.picture();
    const QRect first = sheet.place_of(0);
    REQUIRE(first.height() > 40);
    int fill = 0, cut = 0;
    for (int y = first.top(); y < first.bottom(); ++y)
        for (int x = 90; x < before.width() - 20; ++x) {
            const QColor c = before.pixelColor(x, y);
            const bool right = x > (86 + before.width() - 20) / 2;
            // Violet has more blue than green, orange less.
            fill += right && c.blue() > c.green() + 25;
            cut += !right && c.green() > c.blue() + 25;
        }
    CHECK(fill > 300);
    CHECK(cut > 100);
    // Heights larger: the rows grow.
    w.find<QDoubleSpinBox>("crossExaggeration")->setValue(8);
    CHECK(sheet.place_of(0).height() > first.height());
    const QRect place = sheet.place_of(2);
    CHECK(sheet.told_at({sheet.width() - 40, place.center().y()}).contains("right"));
    CHECK(sheet.told_at({5, place.center().y()}).isEmpty());
    QTest::mouseClick(&sheet, Qt::LeftButton, Qt::NoModifier, {place.center().x(), place.center().y()});
    CHECK(list->indexOfTopLevelItem(list->currentItem()) == 2);
    // What is saved is what is shown.
    pane->save(folder / "s.csv");
    pane->save(folder / "s.dxf");
    pane->save(folder / "s.png");
    const std::string csv = test::read_file(folder / "s.csv");
    CHECK(std::count(csv.begin(), csv.end(), '\n') >= 5);
    CHECK(io::read_lines(folder / "s.dxf").size() >= 8);
    QImage picture(QString::fromStdString((folder / "s.png").string()));
    CHECK(picture.height() == sheet.picture().height());
    // It follows the line and the interval.
    w.find<app::LengthBox>("crossEvery")->setValue(5);
    REQUIRE(w.wait([&] { return pane->sections().all.size() == 7; }));
    w.document().apply("Hide",
                       [](const site::Site& s) { return site::set_visible(s, s.items[1]->id, false); });
    REQUIRE(w.wait(
        [&] { return !pane->sections().all.empty() && pane->sections().all[0].surfaces.size() == 1; }));
    CHECK(list->isColumnHidden(1));
    w.window().commands().trigger("view.cross_sections");
    CHECK_FALSE(pane->isVisible());
    w.close();
}
