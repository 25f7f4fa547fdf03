// Every hand tool by mouse in a real window: what it selects is what the shape holds.

#include <catch2/catch.hpp>

#include <QAction>
#include <QComboBox>
#include <QDoubleSpinBox>
#include <QPushButton>
#include <QToolButton>
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
#include "open_chamber.h"

using namespace pristine;
using test::WindowDriver;

namespace {

struct OpenScan : test::OpenChamber {
    explicit OpenScan(std::uint64_t points = 100'000) : OpenChamber(points) {
        w.key(Qt::Key_1);
        REQUIRE(w.settle());
    }
    const cloud::PointCloud& cloud() { return *w.item().cloud; }
    ElementSet all() { return ElementSet::all(cloud().size()); }
    const ElementSet& selection() {
        REQUIRE(w.site().selection_in_work());
        return *w.site().selection_in_work();
    }
    void run(const char* command) {
        w.window().commands().trigger(command);
        REQUIRE(w.settle());
    }
    void drag(std::initializer_list<QPoint> path, QWidget* on = nullptr) {
        QWidget* stage = on ? on : &w.stage();
        QTest::mousePress(stage, Qt::LeftButton, Qt::NoModifier, *path.begin());
        for (const QPoint& p : path) {
            QMouseEvent e(QEvent::MouseMove, p, stage->mapToGlobal(p), Qt::NoButton, Qt::LeftButton,
                          Qt::NoModifier);
            QApplication::sendEvent(stage, &e);
        }
        QTest::mouseRelease(stage, Qt::LeftButton, Qt::NoModifier, *(path.end() - 1));
        REQUIRE(w.settle());
    }
    // A place in plan as a pixel of the view from above.
    QPoint pixel(double x, double y) {
        const Vec3 floor = demo::kSiteOrigin;
        return w.point(w.stage().frame().project({floor.x + x, floor.y + y, floor.z}));
    }
};

Polygon polygon(std::initializer_list<QPoint> path) {
    Polygon p;
    for (const QPoint& q : path) p.push_back({static_cast<double>(q.x()), static_cast<double>(q.y())});
    return p;
}

}  // namespace

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

TEST_CASE("TheSectionShowsAStripAndToolsTakeNothingElse", "[window]") {
    OpenScan s;
    s.run("view.section");
    auto* pane = s.w.find<app::SectionPane>("sectionPane");
    CHECK_FALSE(pane->isVisible());
    s.drag({s.pixel(-3, 11.5), s.pixel(3, 11.5)});
    REQUIRE(s.w.wait([&] { return pane->stage().settled() && pane->strip_of(&s.cloud()); }));
    CHECK(pane->isVisible());
    const ElementSet strip = *pane->strip_of(&s.cloud());
    CHECK(strip.count() > 100);
    CHECK(strip.count() < s.cloud().size() / 3);
    const ViewFrame side = pane->stage().frame();
    CHECK_FALSE(side.perspective);
    CHECK(std::fabs(side.ahead.y) > 0.99);  // the line runs from west to east
    // A fence over all of the section selects the strip, not what lies before or behind it.
    s.run("select.rectangle");
    const int right = pane->stage().width() - 2, low = pane->stage().height() - 2;
    s.drag({{1, 1}, {right, low}}, &pane->stage());
    REQUIRE(s.w.site().selection_in_work());
    CHECK((s.selection() - strip).empty());
    CHECK(s.selection().count() > strip.count() / 2);
    // Stepping moves the strip by its width.
    const std::vector<Vec3> before = pane->outline();
    pane->stage().setFocus();
    QTest::keyClick(&pane->stage(), Qt::Key_PageUp);
    REQUIRE(s.w.settle());
    CHECK(std::hypot(pane->outline()[0].x - before[0].x, pane->outline()[0].y - before[0].y) == Approx(1.0));
    CHECK((*pane->strip_of(&s.cloud()) & strip).count() < strip.count() / 100 + 2);
    s.w.find<QDoubleSpinBox>("sectionWidth")->setValue(0.5);
    REQUIRE(s.w.settle());
    CHECK(pane->strip_of(&s.cloud())->count() < strip.count());
    s.w.click(s.w.find<QToolButton>("sectionClose"));
    CHECK_FALSE(pane->isVisible());
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

TEST_CASE("WithTheGroundGuardedAFenceTakesThePersonAndLeavesTheFloor", "[window]") {
    OpenScan s(400'000);
    const QImage before = s.w.stage_picture();
    s.w.click(s.w.find<QPushButton>("groundButton"));
    REQUIRE(s.w.settle());
    REQUIRE(s.w.item().guarded);
    CHECK(test::differing_pixels(before, s.w.stage_picture(), QRect(0, 0, before.width(), before.height())) >
          1000);
    const Vec3 feet = demo::workers_at(0)[0];
    s.run("view.front");
    const ViewFrame view = s.w.stage().frame();
    s.run("select.rectangle");
    s.drag({s.w.point(view.project(feet + Vec3{-0.5, 0, -0.4})),
            s.w.point(view.project(feet + Vec3{0.5, 0, 2}))});
    CHECK((s.selection() & *s.w.item().guarded).empty());
    const auto truth = cloud::fetch_column(s.cloud(), "truth");
    std::uint64_t floor = 0, person = 0;
    s.selection().for_each([&](std::uint64_t e) {
        const int kind = static_cast<int>(truth->base + static_cast<double>(truth->values[e]));
        floor += kind == static_cast<int>(demo::Kind::Floor);
        person += kind == static_cast<int>(demo::Kind::Worker);
    });
    CHECK(floor == 0);
    CHECK(person > 0);
    s.w.key(Qt::Key_Delete);
    REQUIRE(s.w.settle());
    CHECK((*s.w.item().removed & *s.w.item().guarded).empty());
    s.run("decide.lift_guards");
    CHECK(s.w.item().guarded == nullptr);
}

TEST_CASE("SetApartPutTogetherHideAndShow", "[window]") {
    OpenScan s;
    s.run("select.rectangle");
    s.drag({s.pixel(-2, 10), s.pixel(2, 14)});
    const ElementSet piece = s.selection();
    s.w.click(s.w.find<QToolButton>("decideApart"));
    REQUIRE(s.w.settle());
    REQUIRE(s.w.site().items.size() == 2);
    CHECK(*s.w.site().items[1]->scope == piece);
    CHECK(s.w.item().shown() == s.cloud().size() - piece.count());
    s.run("edit.undo");
    CHECK(s.w.site().items.size() == 1);
    CHECK(s.selection() == piece);
    const QImage whole = s.w.stage_picture();
    s.run("view.hide_selection");
    CHECK(s.w.item().shown() == s.cloud().size() - piece.count());
    CHECK(s.w.stage_picture() != whole);
    s.run("view.show_all");
    CHECK(s.w.item().shown() == s.cloud().size());
    s.run("select.again");
    CHECK(s.selection() == piece);
    s.run("view.only_selection");
    CHECK(s.w.item().shown() == piece.count());
}

TEST_CASE("APartOfWhatIsOutIsPutBackByMouse", "[window]") {
    OpenScan s;
    s.run("select.rectangle");
    s.drag({s.pixel(-2, 10), s.pixel(2, 14)});
    const ElementSet out = s.selection();
    s.w.key(Qt::Key_Delete);
    REQUIRE(s.w.settle());
    s.run("select.among_removed");
    s.drag({s.pixel(-2, 10), s.pixel(0, 14)});
    const ElementSet back = s.selection();
    CHECK(s.w.site().of_removed);
    CHECK((back - out).empty());
    CHECK(back.count() < out.count());
    CHECK_FALSE(s.w.find<QToolButton>("decideRemove")->isVisible());
    s.w.click(s.w.find<QToolButton>("decidePutBack"));
    REQUIRE(s.w.settle());
    CHECK(*s.w.item().removed == out - back);
    CHECK(s.w.item().ledger.size() == 2);
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

TEST_CASE("TheDecisionBarFitsTheStage", "[window]") {
    OpenScan s;
    s.run("select.rectangle");
    s.drag({s.pixel(-2, 10), s.pixel(2, 14)});
    auto* bar = s.w.find<QWidget>("decisionBar");
    REQUIRE(s.w.wait([&] { return s.w.document().numbers().ready; }));
    CHECK(bar->isVisible());
    CHECK(bar->x() >= 0);
    CHECK(bar->geometry().right() <= s.w.stage().width());
}

TEST_CASE("TheLegendShowsTheRangeAndItsEndsAreDragged", "[window]") {
    OpenScan s;
    auto* legend = s.w.find<app::Legend>("legend");
    CHECK_FALSE(legend->isVisible());  // colours of the file are no ramp
    site::Style style = s.w.item().style;
    style.colour_by = site::ColourBy::Height;
    s.w.document().apply("Height",
                         [&](const site::Site& site) { return site::set_style(site, site.active, style); });
    REQUIRE(s.w.settle());
    REQUIRE(legend->isVisible());
    REQUIRE(legend->range());
    const double lo = legend->range()->lo, hi = legend->range()->hi;
    CHECK(lo == Approx(s.cloud().robust_bounds().lo.z));
    CHECK(hi == Approx(s.cloud().robust_bounds().hi.z));
    const QImage before = s.w.stage_picture();
    // From the top end half-way down.
    QTest::mousePress(legend, Qt::LeftButton, Qt::NoModifier, {19, 27});
    QMouseEvent move(QEvent::MouseMove, QPoint(19, 101), legend->mapToGlobal(QPoint(19, 101)), Qt::NoButton,
                     Qt::LeftButton, Qt::NoModifier);
    QApplication::sendEvent(legend, &move);
    REQUIRE(s.w.wait([&] { return s.w.stage().settled(); }));
    CHECK(s.w.stage_picture() != before);  // already while dragging
    CHECK_FALSE(s.w.item().style.own_range);
    QTest::mouseRelease(legend, Qt::LeftButton, Qt::NoModifier, {19, 101});
    REQUIRE(s.w.settle());
    CHECK(s.w.item().style.own_range);
    CHECK(s.w.item().style.range_hi == Approx((lo + hi) / 2).margin((hi - lo) / 20));
    CHECK(s.w.item().style.range_lo == Approx(lo));
    QTest::mouseDClick(legend, Qt::LeftButton, Qt::NoModifier, {19, 101});
    REQUIRE(s.w.settle());
    CHECK_FALSE(s.w.item().style.own_range);
    CHECK(s.w.stage_picture() == before);
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

TEST_CASE("ViewsAreKeptAndGoneBackAndForwardThrough", "[window]") {
    OpenScan s;
    const render::Camera above = s.w.stage().camera();
    s.run("view.front");
    const render::Camera front = s.w.stage().camera();
    s.run("view.earlier");
    CHECK(s.w.stage().camera() == above);
    s.run("view.later");
    CHECK(s.w.stage().camera() == front);
    CHECK_FALSE(s.w.stage().can_go_forward());
    s.run("view.earlier");
    s.run("view.left");  // another view: there is no later one any more
    CHECK_FALSE(s.w.stage().can_go_forward());
}

TEST_CASE("TheClipBoxIsDraggedByItsFacesAndTurned", "[window]") {
    OpenScan s;
    s.run("view.clip");
    auto* tool = dynamic_cast<app::SolidTool*>(s.w.stage().tool());
    REQUIRE(tool);
    CHECK(s.w.site().clip == 0);
    const select::Box before = tool->solid()->box();
    const auto handle = [&](std::size_t i) {
        return s.w.point(s.w.stage().frame().project(tool->handles()[i]));
    };
    // The northern face, from above, moved south by half the box.
    const QPoint from = handle(3), middle = s.w.point(s.w.stage().frame().project(before.centre));
    s.drag({from, {from.x(), (from.y() + middle.y()) / 2}, {from.x(), middle.y()}});
    REQUIRE(s.w.site().clip_in_force());
    const select::Box after = s.w.site().clip_in_force()->box;
    CHECK(after.half.y == Approx(before.half.y / 2).epsilon(0.03));
    CHECK(after.centre.y - after.half.y == Approx(before.centre.y - before.half.y));
    const ElementSet in = select::inside(s.cloud(), select::half_spaces(after), s.all());
    CHECK(s.w.item().shown() == in.count());
    // Tools touch nothing outside.
    s.run("select.invert");
    CHECK(s.selection() == in);
    s.run("select.clear");
    // A quarter turn by the handle, counter-clockwise from above.
    s.run("view.clip");
    tool = dynamic_cast<app::SolidTool*>(s.w.stage().tool());
    CHECK(tool->solid()->half.y == after.half.y);
    const QPoint knob = handle(6), pivot = s.w.point(s.w.stage().frame().project(after.centre));
    const int arm = knob.x() - pivot.x();
    s.drag({knob, pivot + QPoint(arm * 7 / 10, -arm * 7 / 10), pivot + QPoint(0, -arm)});
    CHECK(s.w.site().clip_in_force()->box.yaw_deg == Approx(90).margin(2));
    CHECK(s.w.site().clips.size() == 1);
    s.run("view.unclip");
    CHECK(s.w.item().shown() == s.cloud().size());
    CHECK(s.w.site().clips.size() == 1);
    s.run("edit.undo");
    CHECK(s.w.site().clip != 0);
}

TEST_CASE("ThePanoramaShowsTheScanFromItsStationAndFencesSelectInIt", "[window]") {
    const test::TemporaryFolder folder;
    io::write_cloud({{test::e57_scans(20'000, 5), nullptr}}, folder / "two.e57");
    WindowDriver w(folder / "home");
    REQUIRE(w.open(folder / "two.e57", 2));
    w.window().commands().trigger("decide.join_scans");
    REQUIRE(w.settle());
    REQUIRE(w.site().items.size() == 1);
    auto* pane = w.find<app::PanoramaPane>("panoramaPane");
    w.window().commands().trigger("view.panorama");
    REQUIRE(w.wait([&] { return pane->seen() != nullptr && !w.window().jobs().busy(); }));
    auto* station = w.find<QComboBox>("panoramaStation");
    CHECK(station->count() == 2);
    CHECK(station->currentText() == "Chamber east");
    CHECK(pane->frame().station.x == 412300);
    // What is seen belongs to the chosen station.
    const auto& cloud = *w.item().cloud;
    const auto scan = cloud::fetch_column(cloud, "scan");
    station->setCurrentIndex(1);
    emit station->activated(1);
    REQUIRE(w.wait([&] { return pane->seen() != nullptr && !w.window().jobs().busy(); }));
    std::uint64_t others = 0, all = 0;
    for (std::size_t i = 0; i < pane->seen()->range.size(); ++i)
        if (std::isfinite(pane->seen()->range[i])) {
            ++all;
            others += scan->base + static_cast<double>(scan->values[pane->seen()->element[i]]) != 1;
        }
    CHECK(all > 5000);
    CHECK(others == 0);
    // A rectangle in the picture: every point whose direction lies in it, of the whole item, through.
    w.window().commands().trigger("select.rectangle");
    auto& view = pane->view();
    QTest::mousePress(&view, Qt::LeftButton, Qt::NoModifier, {100, 60});
    QMouseEvent move(QEvent::MouseMove, QPoint(300, 160), view.mapToGlobal(QPoint(300, 160)), Qt::NoButton,
                     Qt::LeftButton, Qt::NoModifier);
    QApplication::sendEvent(&view, &move);
    const QImage before = view.picture();
    QTest::mouseRelease(&view, Qt::LeftButton, Qt::NoModifier, {300, 160});
    REQUIRE(w.settle());
    ElementSet want(cloud.size());
    for (std::uint64_t e = 0; e < cloud.size(); ++e) {
        double range = 0;
        const PixelPoint q = pane->frame().project(cloud.position(e), range);
        if (q.x > 100 && q.x < 300 && q.y > 60 && q.y < 160) want.insert(e);
    }
    REQUIRE(w.site().selection_in_work());
    CHECK(*w.site().selection_in_work() == want);
    CHECK(view.picture() != before);  // the selection shows
    w.click(w.find<QToolButton>("panoramaClose"));
    CHECK_FALSE(pane->isVisible());
    w.close();
}

TEST_CASE("TheWipeShowsBeforeLeftOfALineThatIsDragged", "[window]") {
    OpenScan s;
    const QImage whole = s.w.stage_picture();
    s.run("select.rectangle");
    s.drag({s.pixel(-3, 5), s.pixel(3, 15)});
    s.w.key(Qt::Key_Delete);
    REQUIRE(s.w.settle());
    s.run("view.wipe");
    REQUIRE(s.w.wait([&] { return s.w.stage().before_picture() && s.w.stage().before_picture()->complete; }));
    const QPoint at = s.pixel(0, 10);
    const QRect there(at.x() - 10, at.y() - 5, 20, 10);
    const auto line_to = [&](int x) {
        const int from = static_cast<int>(s.w.stage().wipe_x());
        s.drag({{from, 300}, {(from + x) / 2, 300}, {x, 300}});
        return s.w.stage().grab().toImage();
    };
    const QImage before = line_to(at.x() + 60), after = line_to(at.x() - 60);
    CHECK(s.w.stage().wipe_x() == Approx(at.x() - 60).margin(1));
    CHECK(test::differing_pixels(before, whole, there) == 0);
    CHECK(test::differing_pixels(after, whole, there) > 50);
    CHECK(s.w.site().selection_in_work() == nullptr);  // dragging the line selects nothing
    s.run("view.wipe");
    CHECK_FALSE(s.w.stage().wiping());
}

TEST_CASE("WhatIsShownOfSeveralScansIsMergedIntoOneItem", "[window]") {
    OpenScan s(60'000);
    REQUIRE(s.w.open(s.folder / "ashmere-lock" / "chamber-station-2.las", 2));
    s.run("select.rectangle");
    s.drag({s.pixel(-3, 5), s.pixel(3, 15)});
    s.w.key(Qt::Key_Delete);
    REQUIRE(s.w.settle());
    const std::uint64_t shown = s.w.site().items[0]->shown() + s.w.site().items[1]->shown();
    s.run("decide.merge");
    REQUIRE(s.w.site().items.size() == 3);
    CHECK(s.w.item().name == "Merged");
    CHECK(s.w.item().shown() == shown);
    CHECK_FALSE(s.w.site().items[0]->visible);
    CHECK(s.w.item().cloud->records()->layout().find("truth"));
    s.run("edit.undo");
    CHECK(s.w.site().items.size() == 2);
    CHECK(s.w.site().items[0]->visible);
}
