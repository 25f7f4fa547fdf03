// The strip fence: its shape without a window, and by mouse what it selects.

#include "app/tools/strip_tool.h"

#include <catch2/catch.hpp>

#include <QWheelEvent>
#include <cmath>

#include "core/select/fence.h"
#include "open_chamber.h"

using namespace pristine;

TEST_CASE("AStripLiesRoundItsLine") {
    const Polygon p = app::strip({10, 10}, {40, 50}, 20);
    REQUIRE(p.size() == 4);
    CHECK(contains(p, {25, 30}));
    // 10 pixels to the side of the middle is its edge.
    CHECK(contains(p, {25 - 0.8 * 9.9, 30 + 0.6 * 9.9}));
    CHECK_FALSE(contains(p, {25 - 0.8 * 10.1, 30 + 0.6 * 10.1}));
    CHECK_FALSE(contains(p, {9, 9}));
    CHECK(app::strip({5, 5}, {5, 5}, 20).empty());
}

TEST_CASE("AStripIsDraggedWidenedAndDropped") {
    const ViewFrame view;
    const app::Tool::Anchor anchor = [](PixelPoint) { return Vec3{}; };
    app::StripTool t;
    CHECK_FALSE(t.begun());
    t.press({10, 10}, view, anchor);
    t.move({60, 10}, view);
    CHECK(t.outline(view).size() == 4);
    t.resize(2);
    CHECK(t.width_px() == 48);
    t.release({110, 10}, view);
    const auto fence = t.take_fence();
    REQUIRE(fence);
    CHECK(contains(fence->corners, {60, 33}));
    CHECK_FALSE(contains(fence->corners, {60, 35}));
    CHECK_FALSE(t.take_fence());
    t.resize(1e9);
    CHECK(t.width_px() == app::StripTool::kMost_px);
    t.resize(0);
    CHECK(t.width_px() == app::StripTool::kLeast_px);
    // A click is no strip, and Esc drops one that is begun.
    t.press({10, 10}, view, anchor);
    t.release({11, 10}, view);
    CHECK_FALSE(t.take_fence());
    t.press({10, 10}, view, anchor);
    t.key(app::ToolKey::Cancel, view);
    t.release({90, 90}, view);
    CHECK_FALSE(t.take_fence());
}

TEST_CASE("AStripByMouseTakesWhatItEncloses", "[window]") {
    test::OpenChamber s(100'000);
    s.w.key(Qt::Key_1);
    REQUIRE(s.w.settle());
    s.w.window().commands().trigger(QStringLiteral("select.strip"));
    const ViewFrame view = s.w.stage().frame();
    QWidget* stage = &s.w.stage();
    const auto drag = [&](QPoint from, QPoint to) {
        QTest::mousePress(stage, Qt::LeftButton, Qt::NoModifier, from);
        QMouseEvent e(QEvent::MouseMove, to, stage->mapToGlobal(to), Qt::NoButton, Qt::LeftButton,
                      Qt::NoModifier);
        QApplication::sendEvent(stage, &e);
        QTest::mouseRelease(stage, Qt::LeftButton, Qt::NoModifier, to);
        REQUIRE(s.w.settle());
    };
    const auto wanted = [&](double width) {
        return select::fence(*s.w.item().cloud, {view, app::strip({300, 200}, {420, 300}, width)},
                             ElementSet::all(s.w.item().cloud->size()));
    };
    drag({300, 200}, {420, 300});
    REQUIRE(s.w.site().selection_in_work());
    CHECK(*s.w.site().selection_in_work() == wanted(app::StripTool::kUsual_px));
    CHECK(site::tool_of(s.w.site().origin.cause) == "select.strip");
    // Ctrl and the wheel widen it.
    QWheelEvent wheel(QPointF(350, 250), stage->mapToGlobal(QPointF(350, 250)), {}, {0, 120}, Qt::NoButton,
                      Qt::ControlModifier, Qt::NoScrollPhase, false);
    QApplication::sendEvent(stage, &wheel);
    drag({300, 200}, {420, 300});
    CHECK(*s.w.site().selection_in_work() == wanted(1.15 * app::StripTool::kUsual_px));
}
