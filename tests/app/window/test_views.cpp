// What is seen, by mouse: legend, kept views, clip box, wipe.

#include <catch2/catch.hpp>

#include <QLabel>
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

TEST_CASE("TheClipBoxTurnsInAllWaysLiesAgainstAWallAndLetsToolsOut", "[window]") {
    OpenScan s;
    s.run("view.clip");
    auto* tool = dynamic_cast<app::SolidTool*>(s.w.stage().tool());
    REQUIRE(tool);
    const auto handle = [&](std::size_t i) {
        return s.w.point(s.w.stage().frame().project(tool->handles()[i]));
    };
    // A smaller box first: the northern face goes to the middle.
    const QPoint north = handle(3), middle = s.w.point(s.w.stage().frame().project(tool->solid()->centre));
    s.drag({north, {north.x(), (north.y() + middle.y()) / 2}, {north.x(), middle.y()}});
    REQUIRE(s.w.site().clip_in_force());
    // Seen from above, the handle behind it tips it about its long axis: dragged along its circle, which runs
    // towards the eye, it does not move; from the front it does.
    s.run("view.front");
    const select::Box before = s.w.site().clip_in_force()->box;
    const QPoint top = handle(8);
    s.drag({top, top + QPoint(20, 0), top + QPoint(40, 0)});
    const select::Box tipped = s.w.site().clip_in_force()->box;
    CHECK(std::fabs(tipped.pitch_deg) > 1);
    CHECK(tipped.roll_deg == Approx(before.roll_deg).margin(0.01));
    CHECK(norm(tipped.centre - before.centre) < 1e-9);
    CHECK(s.w.item().shown() == select::inside(s.cloud(), select::half_spaces(tipped), s.all()).count());
    // Against the wall in the west: a face comes to lie on it.
    s.run("edit.undo");
    s.run("view.perspective");
    s.run("view.clip");
    s.w.key(Qt::Key_1);
    REQUIRE(s.w.settle());
    s.run("view.clip_wall");
    // The floor is a plane too, and sure to be seen.
    QPoint on_floor;
    std::optional<Vec3> seen;
    for (double y = 0.5; y < 12 && !(seen && std::fabs(seen->z - demo::kSiteOrigin.z) < 0.05); y += 0.25) {
        on_floor = s.pixel(0.5, y);
        seen =
            s.w.stage().measured_at({static_cast<double>(on_floor.x()), static_cast<double>(on_floor.y())});
    }
    REQUIRE(seen);
    const double floor_z = seen->z;
    QTest::mouseClick(&s.w.stage(), Qt::LeftButton, Qt::NoModifier, on_floor);
    REQUIRE(s.w.settle());
    const select::Box against = s.w.site().clip_in_force()->box;
    CHECK(against.pitch_deg == Approx(0).margin(1e-6));  // a level floor: it stays upright
    const double lower = against.centre.z - against.half.z, upper = against.centre.z + against.half.z;
    CHECK(std::min(std::fabs(lower - floor_z), std::fabs(upper - floor_z)) < 0.05);
    // Tools reach what it hides only when they are told to, and the bar says so.
    s.run("select.invert");
    const std::uint64_t inside = s.w.site().selected();
    CHECK(inside == s.w.item().shown());
    s.run("select.clear");
    s.run("view.clip_open");
    s.run("select.invert");
    CHECK(s.w.site().selected() == s.cloud().size());
    REQUIRE(s.w.wait([&] { return s.w.document().numbers().ready; }));
    CHECK(s.w.find<QLabel>("decisionDetail")->property("full").toString().contains("outside the clip box"));
    s.run("view.clip_open");
    CHECK(s.w.site().selected() == inside);
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
