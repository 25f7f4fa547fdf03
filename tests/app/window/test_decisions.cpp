// What is done with a selection, by mouse: guarded, set apart, put back, merged; and the bar that offers it.

#include <catch2/catch.hpp>

#include <QPushButton>
#include <QToolButton>
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
