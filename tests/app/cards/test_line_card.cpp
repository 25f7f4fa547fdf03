// A line by its places: typed, inserted, split, joined, laid beside, simplified, laid on a surface.

#include <catch2/catch.hpp>

#include <QComboBox>
#include <QDoubleSpinBox>
#include <QLabel>
#include <QMenu>
#include <QPlainTextEdit>
#include <QPushButton>
#include <QTableWidget>
#include <cmath>

#include "core/io/mesh/mesh_io.h"
#include "core/surface/definition.h"
#include "open_scan.h"

using namespace pristine;
using test::OpenScan;

namespace {

struct OpenLine : OpenScan {
    OpenLine() {
        const Vec3 o = demo::kSiteOrigin;
        w.document().apply("Line", [&](const site::Site& s) {
            return site::put_lines(
                s, {{0, "Kerb", {o, o + Vec3{4, 0, 1}, o + Vec3{4, 6, 2}, o + Vec3{0, 6, 3}}}});
        });
        run("item.line");
    }
    QTableWidget& table() { return *w.find<QTableWidget>("linePlaces"); }
    const site::Line& line(std::size_t k = 0) { return *w.site().lines.at(k); }
    void press(const char* button) {
        w.click(w.find<QPushButton>(button));
        REQUIRE(w.settle());
    }
    void choose(int row) { table().setCurrentCell(row, 0); }
};

}  // namespace

TEST_CASE("PlacesOfALineAreTyped", "[window]") {
    OpenLine s;
    REQUIRE(s.table().rowCount() == 4);
    CHECK(s.table().item(1, 0)->text().toDouble() == Approx(demo::kSiteOrigin.x + 4).margin(1e-3));
    s.table().item(1, 2)->setText("63.25");
    REQUIRE(s.w.settle());
    CHECK(s.line().points[1].z == Approx(63.25));
    s.table().item(1, 2)->setText("kerb");
    CHECK(s.line().points[1].z == Approx(63.25));
    CHECK(s.table().item(1, 2)->text().toDouble() == Approx(63.25));
    CHECK(s.w.find<QLabel>("message")->toolTip().contains("no number"));
    s.run("edit.undo");
    CHECK(s.table().item(1, 2)->text().toDouble() == Approx(demo::kSiteOrigin.z + 1));
    // In the unit that is shown.
    s.w.document().apply("Unit", [](const site::Site& now) { return site::set_unit(now, "mm"); });
    REQUIRE(s.w.settle());
    CHECK(s.table().item(1, 2)->text().toDouble() == Approx(1000 * (demo::kSiteOrigin.z + 1)));
}

TEST_CASE("LinesAreInsertedIntoSplitAndJoined", "[window]") {
    OpenLine s;
    const QImage before = s.w.stage().grab().toImage();
    s.choose(1);
    CHECK(test::differing_pixels(before, s.w.stage().grab().toImage(), before.rect()) >
          3);  // the place is marked
    s.press("lineInsert");
    REQUIRE(s.line().points.size() == 5);
    CHECK(norm(s.line().points[2] - (s.line().points[1] + s.line().points[3]) * 0.5) < 1e-9);
    s.choose(2);
    s.press("lineSplit");
    REQUIRE(s.w.site().lines.size() == 2);
    CHECK(s.line(0).points.size() == 3);
    CHECK(s.line(1).points.size() == 3);
    auto* menu = s.w.find<QPushButton>("lineJoin")->menu();
    emit menu->aboutToShow();
    REQUIRE(menu->actions().size() == 1);
    menu->actions()[0]->trigger();
    REQUIRE(s.w.settle());
    REQUIRE(s.w.site().lines.size() == 1);
    CHECK(s.line().points.size() == 5);
    s.choose(2);
    s.press("lineTakeOut");
    CHECK(s.line().points.size() == 4);
    // The end is no place to split at, and it says so.
    s.choose(0);
    s.press("lineSplit");
    CHECK(s.w.site().lines.size() == 1);
    CHECK(s.w.find<QLabel>("message")->toolTip().contains("not split"));
}

TEST_CASE("ALineIsLaidBesideAndSimplified", "[window]") {
    OpenLine s;
    s.w.find<QDoubleSpinBox>("lineDistance")->setValue(1);
    s.press("lineBeside");
    REQUIRE(s.w.site().lines.size() == 2);
    CHECK(norm(s.line(1).points[1] - (demo::kSiteOrigin + Vec3{3, 1, 1})) < 1e-9);
    CHECK(s.line(1).name.find("beside") != std::string::npos);
    s.w.find<QDoubleSpinBox>("lineTolerance")->setValue(50);
    s.press("lineSimplify");
    CHECK(s.line(0).points.size() == 2);
    CHECK(s.w.find<QLabel>("message")->toolTip().contains("2 places left out"));
}

TEST_CASE("ALineIsLaidOnTheSurfaceInWork", "[window]") {
    OpenLine s;
    surface::Definition d;
    const Vec3 o = demo::kSiteOrigin;
    for (int j = -1; j <= 8; ++j)
        for (int i = -1; i <= 8; ++i)
            d.points.push_back(o + Vec3{static_cast<double>(i), static_cast<double>(j), 10 + 0.1 * i * j});
    io::write_mesh(surface::build(d).mesh, s.folder / "ground.ply", false, "m");
    CHECK_FALSE(s.w.find<QPushButton>("lineDrape")->isEnabled());
    s.w.window().open_files({s.folder / "ground.ply"});
    REQUIRE(s.w.wait([&] { return s.w.site().items.size() == 2 && !s.w.window().jobs().busy(); }));
    REQUIRE(s.w.find<QPushButton>("lineDrape")->isEnabled());
    s.press("lineDrape");
    CHECK(s.line().points.size() > 10);
    for (const Vec3& p : s.line().points) CHECK(p.z > o.z + 9);
    CHECK(s.line().points.front().z == Approx(o.z + 10));
    // One that leaves it stays as it is.
    s.w.document().apply("Line", [&](const site::Site& now) {
        return site::put_lines(now, {{0, "Far", {o, o + Vec3{40, 0, 0}}}});
    });
    REQUIRE(s.w.settle());
    s.w.find<QComboBox>("lineWhich")->setCurrentIndex(1);
    emit s.w.find<QComboBox>("lineWhich")->activated(1);
    s.press("lineDrape");
    CHECK(s.line(1).points.size() == 2);
    CHECK(s.w.find<QLabel>("message")->toolTip().contains("leaves the surface"));
}

TEST_CASE("AFenceIsTypedAndSelectsInsideIt", "[window]") {
    OpenScan s;
    s.run("item.line");
    const Vec3 o = demo::kSiteOrigin;
    s.w.click(s.w.find<QPushButton>("lineNew"));
    auto* typed = s.w.find<QPlainTextEdit>("lineTyped");
    REQUIRE(typed->isVisible());
    std::string text;
    Polygon ring;
    for (const auto& [x, y] : {std::pair(-2.0, -2.0), std::pair(2.5, -2.0), std::pair(1.0, 3.0)}) {
        ring.push_back({o.x + x, o.y + y});
        text += std::to_string(o.x + x) + "\t" + std::to_string(o.y + y) + "\n";
    }
    typed->setPlainText(QString::fromStdString(text + "kerb 5"));
    s.w.click(s.w.find<QPushButton>("lineTypedMake"));
    CHECK(s.w.find<QLabel>("message")->toolTip().contains("line 4"));
    CHECK(s.w.site().lines.empty());
    CHECK(typed->toPlainText().contains("kerb"));  // what was typed is not lost
    typed->setPlainText(QString::fromStdString(text));
    s.w.click(s.w.find<QPushButton>("lineTypedMake"));
    REQUIRE(s.w.settle());
    REQUIRE(s.w.site().lines.size() == 1);
    const site::Line& line = *s.w.site().lines.front();
    CHECK(line.closed);
    REQUIRE(line.points.size() == 3);
    CHECK(line.points[1].x == Approx(o.x + 2.5));
    CHECK(line.points[1].z == Approx(s.cloud().robust_bounds().lo.z));
    CHECK(s.w.find<QLabel>("message")->toolTip().contains("Without heights"));
    CHECK_FALSE(typed->isVisible());
    s.w.click(s.w.find<QPushButton>("lineInside"));
    REQUIRE(s.w.wait([&] { return s.w.site().selected() > 0; }));
    const ElementSet expected = select::plan_fence(s.cloud(), select::PlanFence({ring}), s.all());
    CHECK(expected.count() > 1000);
    CHECK(s.selection() == expected);
}

TEST_CASE("AFenceIsKeptAsALine", "[window]") {
    OpenScan s;
    CHECK_FALSE(s.w.window().commands().find("select.keep_fence")->why_not().isEmpty());
    const Polygon corners = s.w.draw_polygon(test::polygon({s.pixel(-3, -2), s.pixel(3, -2), s.pixel(2, 3)}));
    REQUIRE(s.w.settle());
    const ElementSet fenced = s.selection();
    s.run("select.keep_fence");
    s.run("select.keep_fence");
    REQUIRE(s.w.site().lines.size() == 2);
    CHECK(s.w.site().lines[0]->name == "Fence 1");
    CHECK(s.w.site().lines[1]->name == "Fence 2");
    const site::Line& line = *s.w.site().lines.front();
    CHECK(line.closed);
    REQUIRE(line.points.size() == 3);
    for (std::size_t k = 0; k < 3; ++k) {
        const PixelPoint p = s.w.stage().frame().project(line.points[k]);
        CHECK(std::hypot(p.x - corners[k].x, p.y - corners[k].y) < 1e-6);
    }
    // Seen from above the two are the same.
    s.run("edit.undo");
    s.run("select.inside_lines");
    CHECK(s.selection() == fenced);
}
