// Walking through a scan by keys and mouse, and flying along a line.

#include <catch2/catch.hpp>

#include <QLabel>
#include <QMenu>
#include <cmath>

#include "app/window/walking.h"
#include "core/measure/floor.h"
#include "open_scan.h"

using namespace pristine;
using test::OpenScan;

namespace {

void press(OpenScan& s, Qt::Key key, int ms, Qt::KeyboardModifiers m = Qt::NoModifier) {
    QTest::keyPress(&s.w.stage(), key, m);
    QTest::qWait(ms);
    QTest::keyRelease(&s.w.stage(), key, m);
    REQUIRE(s.w.settle());
}

// Height of the eyes over the floor of all points, found without the walker.
double over_floor(OpenScan& s) {
    const Vec3 eye = s.w.stage().camera().eye;
    const auto z = measure::floor_below(s.cloud(), s.all(), eye, {0.8, 2.8, 0.3});
    REQUIRE(z);
    return eye.z - *z;
}

}  // namespace

TEST_CASE("AScanIsWalkedThroughAtEyeHeight", "[window]") {
    OpenScan s(400'000);
    auto* band = s.w.find<QLabel>("walkBand");
    REQUIRE(band);
    CHECK_FALSE(band->isVisible());
    const render::Camera above = s.w.stage().camera();
    const QPoint here = s.pixel(0, 6);
    QMouseEvent move(QEvent::MouseMove, here, s.w.stage().mapToGlobal(here), Qt::NoButton, Qt::NoButton,
                     Qt::NoModifier);
    QApplication::sendEvent(&s.w.stage(), &move);
    s.w.key(Qt::Key_7);
    REQUIRE(s.w.settle());
    CHECK(band->isVisible());
    CHECK(band->text().contains("1.65 m above the floor"));
    CHECK(s.w.stage().camera().perspective);
    CHECK(over_floor(s) == Approx(1.65).margin(0.05));
    const QImage standing = s.w.stage_picture();

    const Vec3 from = s.w.stage().camera().eye;
    press(s, Qt::Key_Up, 500);
    const render::Camera walked = s.w.stage().camera();
    const Vec3 way = walked.eye - from;
    CHECK(std::hypot(way.x, way.y) > 0.3);
    CHECK(std::hypot(way.x, way.y) < 1.5);
    CHECK(dot(way, walked.ahead()) > 0.9 * std::hypot(way.x, way.y));
    CHECK(over_floor(s) == Approx(1.65).margin(0.08));
    CHECK(s.w.stage_picture() != standing);

    // Right drag looks about without a step; the arrows turn, with Shift they step aside.
    s.w.right_drag({400, 300}, {500, 260});
    CHECK(norm(s.w.stage().camera().eye - walked.eye) < 1e-9);
    CHECK(s.w.stage().camera().yaw_deg != walked.yaw_deg);
    CHECK(s.w.stage().camera().pitch_deg > 1);
    const double yaw = s.w.stage().camera().yaw_deg;
    press(s, Qt::Key_Left, 200);
    CHECK(std::remainder(s.w.stage().camera().yaw_deg - yaw, 360.0) < -3);
    const render::Camera turned = s.w.stage().camera();
    press(s, Qt::Key_Right, 200, Qt::ShiftModifier);
    const Vec3 aside = s.w.stage().camera().eye - turned.eye;
    CHECK(s.w.stage().camera().yaw_deg == turned.yaw_deg);
    CHECK(dot(aside, turned.right()) > 0.1);

    press(s, Qt::Key_PageUp, 200);
    CHECK(over_floor(s) > 1.7);
    // A jump ends it, and the view from above is the earlier one.
    s.w.key(Qt::Key_1);
    REQUIRE(s.w.settle());
    CHECK_FALSE(band->isVisible());
    s.w.key(Qt::Key_7);
    REQUIRE(s.w.settle());
    CHECK(band->isVisible());
    s.w.key(Qt::Key_Escape);
    CHECK_FALSE(band->isVisible());
    s.run("view.earlier");
    CHECK(s.w.stage().camera().pitch_deg == above.pitch_deg);
}

TEST_CASE("ALineIsFlownAlong", "[window]") {
    OpenScan s;
    const Vec3 o = demo::kSiteOrigin;
    const Vec3 a = o + Vec3{-4, 0, 0.5}, b = o + Vec3{4, 0, 0.5};
    s.w.document().apply("line", [&](const site::Site& site) {
        site::Line line;
        line.name = "Fahrt längs";
        line.points = {a, b};
        return site::put_lines(site, {line});
    });
    QMenu menu;
    s.w.window().commands().find("view.fly")->fill(&menu);
    REQUIRE(menu.actions().size() == 1);
    CHECK(menu.actions().front()->text() == QString("Fahrt längs"));
    menu.actions().front()->trigger();
    auto* band = s.w.find<QLabel>("walkBand");
    CHECK(band->isVisible());
    CHECK(band->text().contains("of 8.00 m"));
    CHECK(norm(s.w.stage().camera().eye - a - Vec3{0, 0, 1.65}) < 1e-6);
    CHECK(s.w.stage().camera().yaw_deg == Approx(90));
    REQUIRE(s.w.wait([&] { return s.w.stage().camera().eye.x > a.x + 1; }));
    s.w.key(Qt::Key_Space);
    CHECK(band->text().contains("Space goes on"));
    const Vec3 stopped = s.w.stage().camera().eye;
    QTest::qWait(150);
    CHECK(s.w.stage().camera().eye == stopped);
    s.w.key(Qt::Key_Up);  // a step by hand
    CHECK(s.w.stage().camera().eye.x > stopped.x);
    s.w.key(Qt::Key_Space);
    REQUIRE(s.w.wait([&] { return s.w.stage().camera().eye.x >= b.x - 1e-9; }));
    CHECK(band->text().contains("8.00 m of 8.00 m"));
    CHECK(band->text().contains("Space goes on"));
    // The view taken in hand ends it.
    s.w.right_drag({400, 300}, {450, 300});
    CHECK_FALSE(band->isVisible());
}
