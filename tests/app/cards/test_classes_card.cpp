// Classes by mouse and keys: given from the bar, seen in the stage, in the key and in the ledger, written.

#include <catch2/catch.hpp>

#include <QLabel>
#include <QMenu>
#include <QPushButton>
#include <QRegularExpression>
#include <QToolButton>
#include <QTreeWidget>

#include "app/cards/classes_card.h"
#include "app/window/decision_bar.h"
#include "app/window/legend.h"
#include "core/cloud/classes.h"
#include "core/io/cloud_io.h"
#include "core/io/mesh/mesh_io.h"
#include "open_scan.h"

using namespace pristine;
using test::OpenScan;

namespace {

// The menu that a command has opened; a key chooses in it.
void press_in_menu(OpenScan& s, Qt::Key key) {
    QMenu* menu = nullptr;
    REQUIRE(s.w.wait(
        [&] { return (menu = qobject_cast<QMenu*>(QApplication::activePopupWidget())) != nullptr; }));
    QTest::keyClick(menu, key);
    REQUIRE(s.w.settle());
}

void fence(OpenScan& s, double x0, double y0, double x1, double y1) {
    s.run("select.rectangle");
    s.drag({s.pixel(x0, y0), s.pixel(x1, y1)});
}

QTreeWidgetItem* row_of(OpenScan& s, int code) {
    auto* list = s.w.find<QTreeWidget>("classesList");
    for (int k = 0; k < list->topLevelItemCount(); ++k)
        if (list->topLevelItem(k)->data(1, Qt::UserRole).toInt() == code) return list->topLevelItem(k);
    return nullptr;
}

std::uint64_t count_of(OpenScan& s, int code) {
    const auto counts = site::class_counts(s.w.item());
    const auto at = counts.find(static_cast<std::uint8_t>(code));
    return at == counts.end() ? 0 : at->second;
}

void click_cell(OpenScan& s, QTreeWidgetItem* row, int column) {
    auto* list = s.w.find<QTreeWidget>("classesList");
    const QRect r = list->visualItemRect(row);
    const int x = list->columnViewportPosition(column) + list->columnWidth(column) / 2;
    QTest::mouseClick(list->viewport(), Qt::LeftButton, Qt::NoModifier, {x, r.center().y()});
    REQUIRE(s.w.settle());
}

}  // namespace

TEST_CASE("ASelectionIsClassedByOneKeyAndADigit", "[window]") {
    OpenScan s;
    const std::uint64_t water = count_of(s, 9), shown = s.w.item().shown();
    s.w.document().apply("Colour by class", [](const site::Site& now) {
        site::Style style = now.active_item()->style;
        style.colour_by = site::ColourBy::Class;
        return site::set_style(now, now.active, style);
    });
    REQUIRE(s.w.settle());
    const QImage before = s.w.stage_picture();
    fence(s, -2, 10, 2, 14);
    const ElementSet chosen = s.selection();
    s.w.key(Qt::Key_Insert);
    press_in_menu(s, Qt::Key_9);
    CHECK(s.w.item().ledger.size() == 1);
    CHECK(s.w.item().ledger[0].to_class == std::uint8_t{9});
    CHECK(s.w.item().ledger[0].reason == "Water");
    CHECK(*s.w.item().ledger[0].elements == chosen);
    CHECK(s.w.item().removed->empty());
    CHECK(s.w.item().shown() == shown);
    CHECK(s.w.site().selected() == 0);
    CHECK(count_of(s, 9) == (site::of_class(s.w.item(), 9)).count());
    CHECK(count_of(s, 9) >= water + 1);
    // The stage shows the colour of water where there was none.
    const QImage after = s.w.stage_picture();
    const auto blue = [](const QImage& picture) {
        int n = 0;
        const QColor wanted = QColor::fromRgb(cloud::class_colour(9));
        for (int y = 0; y < picture.height(); ++y)
            for (int x = 0; x < picture.width(); ++x) {
                const QColor c = picture.pixelColor(x, y);
                n += std::abs(c.hue() - wanted.hue()) < 8 && c.saturation() > 90 && c.value() > 60;
            }
        return n;
    };
    CHECK(blue(before) == 0);
    CHECK(blue(after) > 200);
    // Lifted by the card in the ledger, the class of before is back; undo brings the decision again.
    const auto id = s.w.item().ledger[0].id;
    s.w.click(s.w.find<QPushButton>(QStringLiteral("ledgerToggle%1").arg(id)));
    REQUIRE(s.w.settle());
    CHECK(count_of(s, 9) == water);
    CHECK(s.w.stage_picture() == before);
    s.run("edit.undo");
    REQUIRE(s.w.settle());
    CHECK(s.w.stage_picture() == after);
}

TEST_CASE("TheKeyOfClassesCountsHidesNamesAndSelects", "[window]") {
    OpenScan s;
    fence(s, -2, 10, 2, 14);
    const ElementSet chosen = s.selection();
    s.w.key(Qt::Key_Insert);
    press_in_menu(s, Qt::Key_6);
    s.run("view.classes");
    REQUIRE(s.w.wait([&] { return row_of(s, 6) != nullptr; }));
    CHECK(row_of(s, 6)->text(1) == "6 Building");
    const auto counts = site::class_counts(s.w.item());
    for (const auto& [code, count] : counts) {
        CAPTURE(int(code));
        REQUIRE(row_of(s, code));
        CHECK(row_of(s, code)->text(2).remove(QRegularExpression("\\D")).toULongLong() == count);
    }
    CHECK(s.w.item().style.colour_by == site::ColourBy::Class);
    const QImage with = s.w.stage_picture();
    // The eye.
    const std::uint64_t shown = s.w.item().shown();
    click_cell(s, row_of(s, 6), 0);
    CHECK(s.w.item().unseen_classes == std::vector<std::uint8_t>{6});
    CHECK(s.w.item().shown() == shown - counts.at(6));
    CHECK(test::differing_pixels(with, s.w.stage_picture(), with.rect()) > 200);
    fence(s, -2, 10, 2, 14);
    const site::SetPtr now = s.w.site().selection_in_work();
    CHECK((!now || (*now & chosen).empty()));
    REQUIRE(s.w.wait([&] { return row_of(s, 6) != nullptr; }));
    click_cell(s, row_of(s, 6), 0);
    CHECK(s.w.item().shown() == shown);
    // The name, by F2, for the whole site.
    auto* list = s.w.find<QTreeWidget>("classesList");
    list->setCurrentItem(row_of(s, 6), 1);
    row_of(s, 6)->setText(1, "6 Lock house");
    REQUIRE(s.w.settle());
    CHECK(site::class_name(s.w.site(), 6) == "Lock house");
    REQUIRE(row_of(s, 6)->text(1) == "6 Lock house");
    // Its points, by the button.
    list->setCurrentItem(row_of(s, 6), 1);
    s.w.click(s.w.find<QPushButton>("classesSelect"));
    REQUIRE(s.w.settle());
    CHECK(s.selection() == site::of_class(s.w.item(), 6));
    s.w.click(s.w.find<QPushButton>("classesOnly"));
    REQUIRE(s.w.settle());
    CHECK(s.w.item().shown() == counts.at(6));
    s.w.click(s.w.find<QPushButton>("classesAll"));
    REQUIRE(s.w.settle());
    CHECK(s.w.item().shown() == shown);
}

TEST_CASE("ClassesGoIntoTheFileThatIsWritten", "[window]") {
    OpenScan s;
    fence(s, -2, 10, 2, 14);
    s.w.key(Qt::Key_Insert);
    press_in_menu(s, Qt::Key_9);
    fence(s, -4, 4, -2, 8);
    const ElementSet out = s.selection();
    s.w.key(Qt::Key_Delete);
    REQUIRE(s.w.settle());
    const std::uint64_t waters = count_of(s, 9), left = s.w.item().shown();
    s.w.document().export_shown(s.folder / "classed.laz", false, io::Dropped::LeftOut);
    REQUIRE(s.w.settle());
    const auto back = io::read_cloud(s.folder / "classed.laz").cloud;
    CHECK(back->size() == left);
    CHECK(cloud::class_counts(*back).at(9) == waters);
}

TEST_CASE("OnlyASelectionOfPointsCanBeClassed", "[window]") {
    OpenScan s;
    CHECK(s.w.window().commands().find("decide.class")->why_not() != QString());
    fence(s, -2, 10, 2, 14);
    CHECK(s.w.window().commands().find("decide.class")->why_not() == QString());
    CHECK(s.w.find<QToolButton>("decideClass")->isVisible());
    s.run("select.clear");
    CHECK_FALSE(s.w.find<QToolButton>("decideClass")->isVisible());
    const mesh::TriMesh m{{{0, 0, 0}, {4, 0, 0}, {4, 4, 0}, {0, 4, 0}}, {{0, 1, 2}, {0, 2, 3}}};
    io::write_mesh(m, s.folder / "plate.ply", false, "m");
    s.w.window().open_files({s.folder / "plate.ply"});
    REQUIRE(s.w.wait([&] { return s.w.site().items.size() == 2; }));
    s.w.document().apply("Select", [](const site::Site& now) {
        const site::SitePtr next = site::activate(now, now.items[1]->id);
        return site::select(*next, ElementSet::all(2), site::Combine::New);
    });
    REQUIRE(s.w.settle());
    CHECK_FALSE(s.w.find<QToolButton>("decideClass")->isVisible());
    CHECK(s.w.window().commands().find("decide.class")->why_not().contains("triangles"));
    s.run("view.classes");
    CHECK(s.w.find<QLabel>("classesState")->text().contains("triangles"));
}
