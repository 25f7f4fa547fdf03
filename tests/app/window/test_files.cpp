// Files of the window: opened, dropped, cancelled, exported, saved; drafts and a long history.

#include <catch2/catch.hpp>

#include <QMimeData>
#include <QPushButton>

#include "app/window/notice.h"
#include "core/base/file.h"
#include "core/io/las/las_header.h"
#include "demo_scan.h"
#include "window_driver.h"

using namespace pristine;
using test::demo_scan;
using test::WindowDriver;

TEST_CASE("ABrokenFileGivesANoticeAndChangesNothing", "[window]") {
    const test::TemporaryFolder folder;
    WindowDriver w(folder / "home");
    const std::string good = test::las_file({});
    test::write_file(folder / "cut.las", good.substr(0, good.size() - 100));
    w.window().open_files({folder / "cut.las"});
    REQUIRE(w.wait([&] { return !w.window().notice().text().isEmpty(); }));
    CHECK(w.window().notice().text().contains("announces 1000 points"));
    CHECK(w.site().items.empty());
    // What is whole in it can be had by one click.
    w.click(w.find<QPushButton>("noticeFirst"));
    REQUIRE(w.wait([&] { return w.site().items.size() == 1; }));
    CHECK(w.item().cloud->size() == 997);
    w.close();
}

TEST_CASE("WhatIsOutAndEachReasonCanBeExported", "[window]") {
    const test::TemporaryFolder folder;
    WindowDriver w(folder / "home");
    REQUIRE(w.open(demo_scan(folder, 30'000)));
    const std::uint64_t n = w.item().cloud->size();
    const auto remove = [&](std::uint64_t from, std::uint64_t to, const char* reason) {
        ElementSet s(n);
        for (std::uint64_t i = from; i < to; ++i) s.insert(i);
        w.document().apply("Select",
                           [&](const site::Site& site) { return site::select(site, s, site::Combine::New); });
        w.document().apply("Remove", [&](const site::Site& site) {
            return site::remove_selection(site, {reason, site::said("test"), {}, nullptr});
        });
    };
    remove(0, 100, "Person");
    remove(200, 250, "Hand cart");
    w.document().export_removed(folder / "out.las", false);
    w.document().export_reasons(folder / "part.las", false);
    w.document().export_shown(folder / "rest.las", false);
    REQUIRE(w.wait([&] { return !w.window().jobs().busy(); }));
    const auto points = [&](const char* name) {
        return io::read_las_header(InputFile(folder / name)).point_count;
    };
    CHECK(points("out.las") == 150);
    CHECK(points("part-person.las") == 100);
    CHECK(points("part-hand-cart.las") == 50);
    CHECK(points("rest.las") == n - 150);
    w.close();
}

TEST_CASE("FilesCanBeDroppedOnTheWindow", "[window]") {
    const test::TemporaryFolder folder;
    const auto scan = demo_scan(folder, 20'000);
    WindowDriver w(folder / "home");
    QMimeData data;
    data.setUrls({QUrl::fromLocalFile(QString::fromStdString(scan.string()))});
    QDragEnterEvent enter({50, 50}, Qt::CopyAction, &data, Qt::LeftButton, Qt::NoModifier);
    QApplication::sendEvent(&w.window(), &enter);
    CHECK(enter.isAccepted());
    QDropEvent drop({50, 50}, Qt::CopyAction, &data, Qt::LeftButton, Qt::NoModifier);
    QApplication::sendEvent(&w.window(), &drop);
    REQUIRE(w.wait([&] { return w.site().items.size() == 1; }));
    CHECK(w.site().name == "Ashmere lock");
    w.close();
}

TEST_CASE("OpeningCanBeCancelled", "[window]") {
    const test::TemporaryFolder folder;
    const auto scan = demo_scan(folder, 600'000);
    WindowDriver w(folder / "home");
    w.window().open_files({scan});
    w.window().jobs().cancel_shown();
    REQUIRE(w.wait([&] { return !w.window().jobs().busy(); }));
    CHECK(w.site().items.empty());
    w.close();
}

TEST_CASE("ALongHistoryIsLetGoOfAndFetchedBack", "[window]") {
    const test::TemporaryFolder folder;
    WindowDriver w(folder / "home");
    REQUIRE(w.open(demo_scan(folder, 20'000)));
    const std::uint64_t n = w.item().cloud->size();
    const cloud::PointCloud* cloud = w.item().cloud.get();
    for (std::uint64_t i = 0; i < 150; ++i) {
        ElementSet s(n);
        for (std::uint64_t k = 0; k <= i; ++k) s.insert(k * 7);
        REQUIRE(w.document().apply(
            "Select", [&](const site::Site& site) { return site::select(site, s, site::Combine::New); }));
        if (i % 10 == 0) w.settle();
    }
    REQUIRE(w.settle());
    w.document().undo();
    std::size_t in_memory = 0;
    for (const auto& c : w.document().history().commits()) in_memory += c.site != nullptr;
    CHECK(in_memory < 130);
    for (std::uint64_t i = 149; i >= 1; --i) {
        REQUIRE(w.site().selected() == i);
        REQUIRE(w.item().cloud.get() == cloud);  // shared, not read again
        w.key(Qt::Key_Z, Qt::ControlModifier);
    }
    CHECK(w.site().selection_in_work() == nullptr);
    w.close();
}

TEST_CASE("SavingUnderANameKeepsWhatIsDoneMeanwhile", "[window]") {
    const test::TemporaryFolder folder;
    WindowDriver w(folder / "home");
    REQUIRE(w.open(demo_scan(folder, 200'000)));
    w.document().save_as(folder / "a.pristine", false);
    w.document().apply("Rename",
                       [](const site::Site& s) { return site::rename_item(s, s.active, "Meanwhile 1"); });
    w.document().apply("Rename",
                       [](const site::Site& s) { return site::rename_item(s, s.active, "Meanwhile 2"); });
    w.document().undo();
    REQUIRE(w.wait([&] { return w.document().has_file(); }));
    REQUIRE(w.settle());
    CHECK(app::Document::left_drafts().empty());
    w.close();
    w.open_new();
    REQUIRE(w.open(folder / "a.pristine"));
    CHECK(w.item().name == "Meanwhile 1");
    CHECK(w.document().unsaved_at_open() == 1);
    CHECK(w.document().history().can_redo());
    w.click(w.find<QPushButton>("noticeSecond"));  // back to the saved state
    CHECK(w.item().name == "Chamber station 1");
    w.close();
}

TEST_CASE("LookingAtAScanLeavesNoDraftBehind", "[window]") {
    const test::TemporaryFolder folder;
    WindowDriver w(folder / "home");
    REQUIRE(w.open(demo_scan(folder, 20'000)));
    w.close();
    CHECK(app::Document::left_drafts().empty());
    CHECK(std::filesystem::is_empty(app::Document::drafts_folder()));
}

TEST_CASE("ADraftThatWasNeverSavedIsOfferedAgain", "[window]") {
    const test::TemporaryFolder folder;
    WindowDriver w(folder / "home");
    REQUIRE(w.open(demo_scan(folder, 20'000)));
    w.document().apply("Rename",
                       [](const site::Site& s) { return site::rename_item(s, s.active, "Upper gate"); });
    REQUIRE(w.settle());
    w.close();
    w.open_new();
    w.window().offer_drafts();
    REQUIRE_FALSE(w.window().notice().text().isEmpty());
    w.click(w.find<QPushButton>("noticeFirst"));
    REQUIRE(w.wait([&] { return w.site().items.size() == 1; }));
    CHECK(w.item().name == "Upper gate");
    CHECK(w.document().history().undo_title() == "Rename");
    w.close();
}
