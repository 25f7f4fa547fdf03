// One point at a time, and the list of what lies under the pointer.

#include <catch2/catch.hpp>

#include <QMenu>

#include "core/select/under.h"
#include "open_scan.h"

using namespace pristine;
using test::OpenScan;

TEST_CASE("OneClickTakesOnePoint", "[window]") {
    OpenScan s;
    s.run("select.single");
    const QPoint a = s.pixel(0, 12), b = s.pixel(1, 11);
    QTest::mouseClick(&s.w.stage(), Qt::LeftButton, Qt::NoModifier, a);
    REQUIRE(s.w.settle());
    CHECK(s.w.site().selected() == 1);
    std::uint64_t first = 0;
    s.selection().for_each([&](std::uint64_t e) { first = e; });
    const PixelPoint p = s.w.stage().frame().project(s.cloud().position(first));
    CHECK(std::hypot(p.x - a.x(), p.y - a.y()) < 6);
    // Shift adds, Ctrl takes away.
    QTest::mouseClick(&s.w.stage(), Qt::LeftButton, Qt::ShiftModifier, b);
    REQUIRE(s.w.settle());
    CHECK(s.w.site().selected() == 2);
    QTest::mouseClick(&s.w.stage(), Qt::LeftButton, Qt::ControlModifier, b);
    REQUIRE(s.w.settle());
    CHECK(s.w.site().selected() == 1);
    CHECK(s.selection().contains(first));
    s.w.key(Qt::Key_Delete);
    REQUIRE(s.w.settle());
    CHECK(site::told(s.w.item().ledger[0].cause).rfind("single point or triangle", 0) == 0);
    CHECK(s.w.item().ledger[0].count() == 1);
    // Over nothing it says so.
    QTest::mouseClick(&s.w.stage(), Qt::LeftButton, Qt::NoModifier, {5, s.w.stage().height() / 2});
    REQUIRE(s.w.settle());
    CHECK(s.w.site().selected() == 0);
}

TEST_CASE("WhatLiesUnderThePointerIsListedNearToFar", "[window]") {
    OpenScan s;
    s.run("view.left");  // one wall behind the other
    const QPoint at = s.w.point(s.w.stage().frame().project(demo::kSiteOrigin + Vec3{0, 12, 1}));
    QMouseEvent move(QEvent::MouseMove, at, s.w.stage().mapToGlobal(at), Qt::NoButton, Qt::NoButton,
                     Qt::NoModifier);
    QApplication::sendEvent(&s.w.stage(), &move);
    s.w.key(Qt::Key_U, Qt::ShiftModifier);
    QMenu* menu = nullptr;
    REQUIRE(
        s.w.wait([&] { return (menu = s.w.window().findChild<QMenu*>("underMenu")) && menu->isVisible(); }));
    const auto layers = select::layers_under(s.cloud(), s.all(), s.w.stage().frame(),
                                             {static_cast<double>(at.x()), static_cast<double>(at.y())});
    REQUIRE(layers.size() >= 2);  // the roof of the chamber, and its floor
    CHECK(static_cast<std::size_t>(menu->actions().size()) == layers.size());
    CHECK(menu->actions()[0]->text().contains("nearest"));
    CHECK(menu->actions()[1]->text().contains("behind"));
    // The second, by keys.
    QTest::keyClick(menu, Qt::Key_Down);
    QTest::keyClick(menu, Qt::Key_Return);
    REQUIRE(s.w.settle());
    CHECK(s.w.site().selected() == 1);
    CHECK(s.selection().contains(layers[1].element));
}
