// Everything can be reached by keyboard, and nothing that is written makes the window wider.

#include <catch2/catch.hpp>

#include <QAbstractButton>
#include <QButtonGroup>
#include <QLabel>
#include <set>

#include "app/window/status_line.h"
#include "demo/ashmere.h"
#include "window_driver.h"

using namespace pristine;
using test::WindowDriver;

TEST_CASE("EveryControlIsReachedByTab", "[window]") {
    const test::TemporaryFolder folder;
    demo::Options o;
    o.points = 60'000;
    demo::write_site(folder / "ashmere-lock", o);
    WindowDriver w(folder / "home");
    REQUIRE(w.open(folder / "ashmere-lock" / "chamber-station-1.las"));
    w.draw_polygon({{200, 100}, {500, 100}, {500, 500}, {200, 500}});
    REQUIRE(w.settle());
    REQUIRE(w.document().numbers().count > 0);
    w.key(Qt::Key_Delete);
    REQUIRE(w.settle());
    w.draw_polygon({{150, 80}, {550, 80}, {550, 520}, {150, 520}});
    REQUIRE(w.settle());
    std::set<QWidget*> reached;
    for (int i = 0; i < 200; ++i) {
        QTest::keyClick(QApplication::focusWidget(), Qt::Key_Tab);
        reached.insert(QApplication::focusWidget());
    }
    for (QAbstractButton* b : w.window().findChildren<QAbstractButton*>()) {
        if (!b->isVisible() || !b->isEnabled() || b->objectName().isEmpty()) continue;
        if (b->objectName().startsWith("qt_")) continue;
        // In a group of which one is pressed, Tab comes to that one and the arrow keys to its neighbours.
        const bool by_arrow = b->isCheckable() && b->group() && b->group()->checkedButton() != b;
        INFO(b->objectName().toStdString());
        if (!by_arrow) CHECK(reached.count(b) == 1);
        CHECK_FALSE((b->accessibleName().isEmpty() && b->text().isEmpty()));
    }
    CHECK(reached.count(&w.stage()) == 1);
    w.close();
}

TEST_CASE("ALongMessageDoesNotWidenTheWindow", "[window]") {
    const test::TemporaryFolder folder;
    WindowDriver w(folder / "home");
    const int before = w.window().minimumSizeHint().width();
    w.find<app::StatusLine>("statusLine")->say(QString(400, 'x'), false);
    QApplication::processEvents();
    CHECK(w.window().minimumSizeHint().width() == before);
    w.close();
}
