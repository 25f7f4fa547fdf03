// Hand tools by mouse in a real window: what each selects is what its shape holds.

#include <catch2/catch.hpp>

#include <QDoubleSpinBox>
#include <QPushButton>
#include <QTreeWidget>
#include <QWheelEvent>
#include <cmath>

#include "app/cards/work_card.h"
#include "app/panes/panorama_pane.h"
#include "app/panes/section_pane.h"
#include "app/tools/path_tools.h"
#include "app/tools/solid_tool.h"
#include "app/window/legend.h"
#include "core/cloud/column.h"
#include "core/io/cloud_io.h"
#include "core/select/fence.h"
#include "core/select/growth.h"
#include "core/select/solid.h"
#include "demo/ashmere.h"
#include "open_scan.h"

using namespace pristine;
using test::OpenScan;
using test::polygon;

TEST_CASE("FreehandAndCircleFencesTakeWhatTheyEnclose", "[window]") {
    OpenScan s;
    s.run("select.freehand");
    s.drag({{300, 200}, {380, 210}, {390, 300}, {310, 320}});
    CHECK(s.selection() ==
          select::fence(s.cloud(),
                        {s.w.stage().frame(), polygon({{300, 200}, {380, 210}, {390, 300}, {310, 320}})},
                        s.all()));
    s.run("select.circle");
    const ViewFrame view = s.w.stage().frame();
    s.drag({{350, 250}, {370, 250}, {350, 290}});
    CHECK(s.selection() == select::fence(s.cloud(), {view, app::circle({350, 250}, 40)}, s.all()));
    // Under three pixels nothing happens, and Esc drops what is begun.
    const auto before = s.w.site().selection_in_work();
    s.drag({{350, 250}, {351, 250}});
    QTest::mousePress(&s.w.stage(), Qt::LeftButton, Qt::NoModifier, {300, 300});
    s.w.key(Qt::Key_Escape);
    CHECK_FALSE(s.w.stage().tool()->begun());
    CHECK(s.w.site().selection_in_work() == before);
}

TEST_CASE("APolygonIsDrawnFreehandWhileTheButtonIsHeld", "[window]") {
    OpenScan s;
    s.run("select.polygon");
    QTest::mouseClick(&s.w.stage(), Qt::LeftButton, Qt::NoModifier, {300, 200});
    s.drag({{390, 210}, {395, 240}, {395, 270}, {390, 300}});
    QTest::mouseClick(&s.w.stage(), Qt::LeftButton, Qt::NoModifier, {300, 300});
    s.w.key(Qt::Key_Return);
    REQUIRE(s.w.settle());
    const Polygon p = polygon({{300, 200}, {390, 210}, {395, 240}, {395, 270}, {390, 300}, {300, 300}});
    const ElementSet want = select::fence(s.cloud(), {s.w.stage().frame(), p}, s.all());
    // Corners are planted on what is seen and projected back: a hair of difference on the edge.
    CHECK(((want | s.selection()) - (want & s.selection())).count() <= want.count() / 500 + 2);
}

TEST_CASE("ABrushStrokeIsOneStepAndShowsAsItGrows", "[window]") {
    OpenScan s;
    s.run("select.brush");
    auto* brush = dynamic_cast<app::BrushTool*>(s.w.stage().tool());
    REQUIRE(brush);
    const double before = brush->radius_px();
    QWheelEvent wheel({350, 250}, s.w.stage().mapToGlobal(QPoint(350, 250)), {}, {0, 120}, Qt::NoButton,
                      Qt::ControlModifier, Qt::NoScrollPhase, false);
    QApplication::sendEvent(&s.w.stage(), &wheel);
    CHECK(brush->radius_px() == Approx(before * 1.15));
    brush->set_radius_px(15);
    const std::size_t commits = s.w.document().history().commits().size();
    const QImage untouched = s.w.stage_picture();
    QTest::mousePress(&s.w.stage(), Qt::LeftButton, Qt::NoModifier, {350, 250});
    for (int x = 350; x <= 390; x += 10) {
        QMouseEvent e(QEvent::MouseMove, QPoint(x, 250), s.w.stage().mapToGlobal(QPoint(x, 250)),
                      Qt::NoButton, Qt::LeftButton, Qt::NoModifier);
        QApplication::sendEvent(&s.w.stage(), &e);
    }
    REQUIRE(s.w.wait([&] { return s.w.stage().settled(); }));
    CHECK(test::differing_pixels(untouched, s.w.stage_picture(), QRect(345, 240, 40, 20)) >
          200);  // seen already
    CHECK(s.w.document().history().commits().size() == commits);
    QTest::mouseRelease(&s.w.stage(), Qt::LeftButton, Qt::NoModifier, {390, 250});
    REQUIRE(s.w.settle());
    CHECK(s.w.document().history().commits().size() == commits + 1);
    ElementSet want(s.cloud().size());
    const ViewFrame view = s.w.stage().frame();
    for (std::uint64_t e = 0; e < s.cloud().size(); ++e) {
        const PixelPoint p = view.project(s.cloud().position(e));
        const double dx = p.x - std::clamp(p.x, 350.0, 390.0), dy = p.y - 250;
        if (std::hypot(dx, dy) < 15) want.insert(e);
    }
    // The disc is a polygon of many corners.
    CHECK((s.selection() - want).empty());
    CHECK((want - s.selection()).count() < want.count() / 30 + 3);
}

TEST_CASE("TheBallBrushTakesWhatIsNearInSpaceOnly", "[window]") {
    OpenScan s;
    s.run("select.ball_brush");
    dynamic_cast<app::BrushTool*>(s.w.stage().tool())->set_radius_px(10);
    const QPoint at = s.pixel(0, 3);
    const Vec3 place = s.w.stage().anchor({static_cast<double>(at.x()), static_cast<double>(at.y())});
    s.drag({at});
    const ViewFrame view = s.w.stage().frame();
    const double radius = 10 / view.pixels_per_unit(view.depth(place));
    CHECK(s.selection() == select::in_ball(s.cloud(), place, radius, s.all()));
}

TEST_CASE("BallCylinderPlaneAndLevelSelectInSpace", "[window]") {
    OpenScan s;
    const ViewFrame view = s.w.stage().frame();
    const QPoint a = s.pixel(0, 4), b = s.pixel(0.8, 4);
    const auto anchor = [&](QPoint p) {
        return s.w.stage().anchor({static_cast<double>(p.x()), static_cast<double>(p.y())});
    };
    const Vec3 middle = anchor(a),
               rim = view.lift({static_cast<double>(b.x()), static_cast<double>(b.y())}, view.depth(middle));
    const Vec3 d = rim - middle;
    const double radius = std::sqrt(dot(d, d));
    s.run("select.ball");
    s.drag({a, b});
    CHECK(s.selection() == select::in_ball(s.cloud(), middle, radius, s.all()));
    s.run("select.cylinder");
    s.drag({a, b});
    CHECK(s.selection() == select::in_cylinder(s.cloud(), middle.x, middle.y, radius, -1e9, 1e9, s.all()));

    auto* offset = s.w.find<QDoubleSpinBox>("planeOffset");
    CHECK_FALSE(offset->isVisible());
    s.run("select.level");
    CHECK(offset->isVisible());
    offset->setValue(0.5);
    QTest::mouseClick(&s.w.stage(), Qt::LeftButton, Qt::NoModifier, a);
    REQUIRE(s.w.settle());
    CHECK(s.selection() == select::inside(s.cloud(), {{{0, 0, -1}, -(middle.z + 0.5)}}, s.all()));
    s.run("select.plane");
    offset->setValue(0);
    const QPoint corners[3] = {s.pixel(-1, 3), s.pixel(1, 3), s.pixel(0, 5)};
    const select::HalfSpace plane =
        select::plane_through(anchor(corners[0]), anchor(corners[1]), anchor(corners[2]));
    s.w.click(s.w.find<QPushButton>("planeSide1"));  // below
    for (const QPoint& p : corners) QTest::mouseClick(&s.w.stage(), Qt::LeftButton, Qt::NoModifier, p);
    REQUIRE(s.w.settle());
    CHECK(s.selection() == select::inside(s.cloud(), {{plane.normal, plane.offset}}, s.all()));
}

TEST_CASE("AShapeIsAdjustedByItsHandlesAndUndoBringsThemBack", "[window]") {
    OpenScan s;
    const auto handle = [&](std::size_t i) {
        return s.w.point(s.w.stage().frame().project(s.w.stage().tool()->handles().at(i)));
    };
    // What is selected before stays: the ball is added.
    s.run("select.rectangle");
    s.drag({s.pixel(-2, 8), s.pixel(-1, 9)});
    const ElementSet first = s.selection();
    s.run("select.ball");
    s.run("select.add");
    s.drag({s.pixel(0, 4), s.pixel(0.8, 4)});
    const auto* tool = dynamic_cast<const app::SolidTool*>(s.w.stage().tool());
    REQUIRE(tool);
    REQUIRE(tool->solid());
    const app::Solid small = *tool->solid();
    CHECK(s.selection() == (first | select::in_ball(s.cloud(), small.centre, small.radius, s.all())));
    const QPoint rim = handle(0), out = rim + QPoint(30, 0);
    s.drag({rim, out});
    const app::Solid large = *tool->solid();
    CHECK(large.radius > 1.2 * small.radius);
    CHECK(s.selection() == (first | select::in_ball(s.cloud(), large.centre, large.radius, s.all())));
    const auto yellow = [&](QPoint p) {
        return qBlue(s.w.window().grab().toImage().pixel(s.w.stage().mapTo(&s.w.window(), p))) < 0xA0;
    };
    CHECK(yellow(handle(0)));
    // The middle shrinks nothing, it moves.
    const QPoint middle = handle(6);
    s.drag({middle, middle + QPoint(0, 40)});
    CHECK(tool->solid()->radius == large.radius);
    CHECK(tool->solid()->centre.y < large.centre.y);
    s.run("edit.undo");
    s.run("edit.undo");
    REQUIRE(tool->solid());
    CHECK(tool->solid()->radius == Approx(small.radius));
    CHECK(s.selection() == (first | select::in_ball(s.cloud(), small.centre, small.radius, s.all())));
    s.run("edit.undo");
    CHECK_FALSE(tool->solid());
    s.run("select.new");
}

TEST_CASE("ABoxAndAPaintedPlaneSelect", "[window]") {
    OpenScan s;
    s.run("select.box");
    s.drag({s.pixel(0, 4), s.pixel(0.8, 4)});
    const auto* tool = dynamic_cast<const app::SolidTool*>(s.w.stage().tool());
    REQUIRE(tool->solid());
    CHECK(s.selection() == select::inside(s.cloud(), select::half_spaces(tool->solid()->box()), s.all()));
    const QPoint east = s.w.point(s.w.stage().frame().project(tool->handles()[1]));
    s.drag({east, east + QPoint(25, 0)});
    CHECK(tool->solid()->half.x > tool->solid()->half.y);
    CHECK(s.selection() == select::inside(s.cloud(), select::half_spaces(tool->solid()->box()), s.all()));

    // The floor, painted from above: level to a centimetre a metre, and what stands on it lies above.
    s.run("select.painted_plane");
    auto* offset = s.w.find<QDoubleSpinBox>("planeOffset");
    REQUIRE(offset->isVisible());
    offset->setValue(0.1);
    s.drag({s.pixel(-1.5, 3), s.pixel(0, 4), s.pixel(1.5, 3), s.pixel(0, 5)});
    tool = dynamic_cast<const app::SolidTool*>(s.w.stage().tool());
    REQUIRE(tool->solid());
    const app::Solid plane = *tool->solid();
    CHECK(plane.normal.z > 0.999);
    CHECK(plane.centre.z == Approx(demo::kSiteOrigin.z).margin(0.05));
    const auto above = [&](double by) {
        return select::inside(s.cloud(), {{plane.normal * -1.0, -(dot(plane.normal, plane.centre) + by)}},
                              s.all());
    };
    CHECK(s.selection() == above(0.1));
    // The card changes what it takes, in place.
    offset->setValue(0.5);
    REQUIRE(s.w.settle());
    CHECK(s.selection() == above(0.5));
    // From the front its handle moves it up along its normal.
    s.w.key(Qt::Key_2);
    REQUIRE(s.w.settle());
    const QPoint tip = s.w.point(s.w.stage().frame().project(tool->handles()[1]));
    s.drag({tip, tip - QPoint(0, 30)});
    CHECK(tool->solid()->centre.z > plane.centre.z + 0.05);
}

TEST_CASE("LinesAreDrawnEditedListedAndSelectInside", "[window]") {
    OpenScan s;
    s.run("view.line");
    const QPoint corner[4] = {s.pixel(-1, 3), s.pixel(1, 3), s.pixel(1, 5), s.pixel(-1, 5)};
    for (const QPoint& p : corner) QTest::mouseClick(&s.w.stage(), Qt::LeftButton, Qt::NoModifier, p);
    QTest::mouseClick(&s.w.stage(), Qt::LeftButton, Qt::NoModifier, corner[0] + QPoint(2, 1));
    REQUIRE(s.w.settle());
    REQUIRE(s.w.site().lines.size() == 1);
    const site::LinePtr line = s.w.site().lines[0];
    CHECK(line->closed);
    REQUIRE(line->points.size() == 4);
    // Snapped to what is seen: on the floor.
    for (const Vec3& p : line->points) CHECK(p.z == Approx(demo::kSiteOrigin.z).margin(0.1));
    const auto inside = [&] {
        Polygon ring;
        for (const Vec3& p : s.w.site().lines[0]->points) ring.push_back({p.x, p.y});
        return select::plan_fence(s.cloud(), {ring}, s.all());
    };
    s.run("select.inside_lines");
    CHECK(s.selection() == inside());
    CHECK(s.selection().count() > 100);
    // Its corners are handles; a drag is one step.
    s.drag({corner[2], corner[2] + QPoint(20, -10), corner[2] + QPoint(40, -20)});
    CHECK(s.w.site().lines[0]->points[2].x > line->points[2].x + 0.1);
    CHECK(s.w.site().lines[0]->points[1].x == line->points[1].x);
    s.run("select.inside_lines");
    CHECK(s.selection() == inside());
    // Listed with its length, hidden by its eye, renamed, taken off.
    auto* tree = s.w.find<QTreeWidget>("contentsTree");
    QTreeWidgetItem* row = tree->topLevelItem(tree->topLevelItemCount() - 1);
    CHECK(row->text(1) == "Line 1");
    CHECK(row->text(2).section(' ', 0, 0).toDouble() ==
          Approx(site::length_of(*s.w.site().lines[0])).margin(0.006));
    QTest::mouseClick(tree->viewport(), Qt::LeftButton, Qt::NoModifier,
                      tree->visualItemRect(row).topLeft() + QPoint(10, 8));
    REQUIRE(s.w.settle());
    CHECK_FALSE(s.w.site().lines[0]->visible);
    row = tree->topLevelItem(tree->topLevelItemCount() - 1);
    row->setText(1, "Apron");
    REQUIRE(s.w.settle());
    CHECK(s.w.site().lines[0]->name == "Apron");
    s.run("edit.undo");
    s.run("edit.undo");
    CHECK(s.w.site().lines[0]->visible);
    // Lines of a file join them.
    test::write_file(
        s.folder / "edges.geojson",
        R"({"type":"FeatureCollection","features":[{"type":"Feature","properties":{},"geometry":)"
        R"({"type":"LineString","coordinates":[[412300,5218930,58],[412303,5218934,58]]}}]})");
    s.w.window().controllers().lines.add_lines(s.folder / "edges.geojson");
    REQUIRE(s.w.settle());
    REQUIRE(s.w.site().lines.size() == 2);
    CHECK(site::length_of(*s.w.site().lines[1]) == Approx(5));
    s.run("view.line");
    QTest::mouseClick(&s.w.stage(), Qt::LeftButton, Qt::NoModifier, s.pixel(3, 8));
    s.w.key(Qt::Key_Escape);
    CHECK(s.w.site().lines.size() == 2);
}

TEST_CASE("PickingTellsAllAboutAPointAndTheDistanceBetweenTwo", "[window]") {
    OpenScan s;
    s.run("view.pick");
    QTest::mouseClick(&s.w.stage(), Qt::LeftButton, Qt::NoModifier, s.pixel(0, 3));
    REQUIRE(s.w.settle());
    const QString first = s.w.window().card().picked();
    CHECK(first.contains("E 4123"));
    CHECK(first.contains("intensity"));
    CHECK_FALSE(first.contains("From the last"));
    QTest::mouseClick(&s.w.stage(), Qt::LeftButton, Qt::NoModifier, s.pixel(0, 5));
    const QString second = s.w.window().card().picked();
    CHECK(second.contains("From the last: "));
    const double distance = second.section("From the last: ", 1).section(' ', 0, 0).toDouble();
    CHECK(distance == Approx(2).margin(0.3));
    CHECK(s.w.site().selection_in_work() == nullptr);
}

TEST_CASE("ClosedLinesOfAFileSelectInPlan", "[window]") {
    OpenScan s;
    const Vec3 o = demo::kSiteOrigin;
    test::write_file(s.folder / "yard.txt",
                     "412299 5218935\n412302 5218935\n412302 5218940\n412299 5218940\n");
    s.w.window().controllers().selecting.select_lines(s.folder / "yard.txt");
    REQUIRE(s.w.settle());
    const select::Box box{{o.x + 0.5, o.y + 7.5, 0}, {1.5, 2.5, 1e6}, 0};
    const ElementSet want = select::inside(s.cloud(), select::half_spaces(box), s.all());
    CHECK(((want | s.selection()) - (want & s.selection())).count() <= 2);  // points on the very line
    CHECK(want.count() > 100);
}

TEST_CASE("GrowShrinkAndConnectedUseTheStepOfTheCard", "[window]") {
    OpenScan s;
    s.w.find<QDoubleSpinBox>("reach")->setValue(0.1);
    s.run("select.rectangle");
    s.drag({s.pixel(-0.3, 10), s.pixel(0.3, 10.6)});
    const ElementSet first = s.selection();
    s.w.click(s.w.find<QPushButton>("growButton"));
    REQUIRE(s.w.settle());
    const ElementSet grown = s.selection();
    CHECK(grown == select::grown(s.cloud(), first, s.all(), 0.1));
    s.w.click(s.w.find<QPushButton>("shrinkButton"));
    REQUIRE(s.w.settle());
    CHECK(s.selection() == select::shrunk(s.cloud(), grown, s.all(), 0.1));
    s.w.click(s.w.find<QPushButton>("connectButton"));
    REQUIRE(s.w.settle());
    CHECK((grown - s.selection()).count() < grown.count());
    CHECK(s.selection().count() > grown.count());
}
