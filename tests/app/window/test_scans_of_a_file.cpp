// A file of six scans in the window: a group of items, worked on together, joined and parted.

#include <catch2/catch.hpp>

#include <QLabel>
#include <QMenu>
#include <QTimer>
#include <QTreeWidget>

#include "app/cards/work_card.h"
#include "app/model/document.h"
#include "app/window/ledger_strip.h"
#include "core/io/cloud_io.h"
#include "core/io/scans.h"
#include "demo/trials.h"
#include "window_driver.h"

using namespace pristine;
using namespace pristine::test;

namespace {

constexpr std::size_t kScans = 6;

// Six stations round one site, in one E57.
struct SixScans {
    TemporaryFolder folder;
    WindowDriver w;
    std::uint64_t points = 0;
    SixScans() : w(folder / "home") {
        std::vector<demo::Truth> ignored;
        demo::Trial t = demo::make_trial("passers", 17, 0.05);
        t.stations.resize(kScans, t.stations.front());
        for (std::size_t i = 0; i < t.points.size(); ++i)
            t.points[i].scan = static_cast<decltype(t.points[i].scan)>(i % kScans);
        io::write_cloud({{demo::cloud_of(t, ignored)}}, folder / "hall.e57");
        REQUIRE(w.open(folder / "hall.e57", kScans));
        for (const site::ItemPtr& i : w.site().items) points += i->cloud->size();
        run("view.top");
        run("view.all");
        run("select.rectangle");
    }
    ~SixScans() { w.close(); }
    void run(const char* id) {
        w.window().commands().trigger(QString::fromLatin1(id));
        REQUIRE(w.settle());
    }
    void fence(QPoint a, QPoint b) {
        QTest::mousePress(&w.stage(), Qt::LeftButton, Qt::NoModifier, a);
        QMouseEvent move(QEvent::MouseMove, b, w.stage().mapToGlobal(b), Qt::NoButton, Qt::LeftButton,
                         Qt::NoModifier);
        QApplication::sendEvent(&w.stage(), &move);
        QTest::mouseRelease(&w.stage(), Qt::LeftButton, Qt::NoModifier, b);
        REQUIRE(w.settle());
    }
};

}  // namespace

TEST_CASE("EachScanOfAFileIsAnItemUnderItsName", "[window]") {
    SixScans s;
    CHECK(s.w.document().history().commits().size() == 2);  // the empty site, and the file in one step
    for (const site::ItemPtr& i : s.w.site().items) {
        CHECK(i->group == "Hall");
        CHECK(i->cloud->stations().size() == 1);
    }
    const auto* tree = s.w.find<QTreeWidget>("contentsTree");
    REQUIRE(tree);
    bool heading = false;
    for (int k = 0; k < tree->topLevelItemCount(); ++k) heading |= tree->topLevelItem(k)->text(1) == "Hall";
    CHECK(heading);
}

TEST_CASE("AFenceOverSixScansIsRemovedLiftedForOneAndUndone", "[window]") {
    SixScans s;
    s.run("select.all_shown");
    const QPoint c = s.w.stage().rect().center();
    s.fence(c - QPoint(120, 90), c + QPoint(120, 90));
    CHECK(s.w.site().selection.size() == kScans);
    const std::uint64_t chosen = s.w.site().selected();
    CHECK(s.w.find<QLabel>("decisionDetail")->text().startsWith("in 6 items: "));
    s.run("decide.remove");
    const auto out = [&] {
        std::uint64_t n = 0;
        for (const site::ItemPtr& i : s.w.site().items) n += i->removed->count();
        return n;
    };
    CHECK(out() == chosen);
    const auto cards = s.w.window().findChildren<app::LedgerCard*>();
    REQUIRE(cards.size() == 1);
    // What made it is the tool, in every scan.
    for (const site::ItemPtr& i : s.w.site().items)
        CHECK(site::tool_of(i->ledger.at(0).cause) == "select.rectangle");
    const std::string third = s.w.site().items[2]->name;
    const std::uint64_t of_third = s.w.site().items[2]->removed->count();
    QTimer::singleShot(0, &s.w.window(), [&] {
        auto* menu = qobject_cast<QMenu*>(QApplication::activePopupWidget());
        REQUIRE(menu);
        for (QAction* a : menu->actions())
            if (a->text() == QString("Lift in %1 only").arg(QString::fromStdString(third))) a->trigger();
        menu->close();
    });
    QContextMenuEvent context(QContextMenuEvent::Mouse, {5, 5}, cards.front()->mapToGlobal(QPoint(5, 5)));
    QApplication::sendEvent(cards.front(), &context);
    REQUIRE(s.w.settle());
    CHECK(out() == chosen - of_third);
    s.run("edit.undo");
    CHECK(out() == chosen);
    s.run("edit.undo");
    CHECK(out() == 0);
    CHECK(s.w.site().selected() == chosen);
}

TEST_CASE("ScansAreJoinedAndPartedWithTheirDecisions", "[window]") {
    SixScans s;
    s.run("select.all_shown");
    const QPoint c = s.w.stage().rect().center();
    s.fence(c - QPoint(120, 90), c + QPoint(120, 90));
    const std::uint64_t chosen = s.w.site().selected();
    s.run("decide.remove");
    s.run("decide.join_scans");
    REQUIRE(s.w.site().items.size() == 1);
    CHECK(s.w.item().cloud->size() == s.points);
    CHECK(s.w.item().cloud->stations().size() == kScans);
    CHECK(s.w.item().removed->count() == chosen);
    CHECK(s.w.item().ledger.size() == 1);
    CHECK(s.w.item().name == "Hall");
    s.run("decide.part_by_scan");
    REQUIRE(s.w.site().items.size() == kScans);
    std::uint64_t out = 0;
    for (const site::ItemPtr& i : s.w.site().items) out += i->removed->count();
    CHECK(out == chosen);
    s.run("edit.undo");
    s.run("edit.undo");
    CHECK(s.w.site().items.size() == kScans);
}

TEST_CASE("WhatIsExportedOfSixScansIsAFileOfSixScans", "[window]") {
    SixScans s;
    s.w.document().export_shown(s.folder / "out.e57", false);
    REQUIRE(s.w.settle());
    const auto before = io::read_cloud(s.folder / "hall.e57").cloud,
               after = io::read_cloud(s.folder / "out.e57").cloud;
    CHECK(after->size() == before->size());
    REQUIRE(after->stations().size() == kScans);
    for (std::size_t k = 0; k < kScans; ++k)
        CHECK(after->stations()[k].position == before->stations()[k].position);
}
