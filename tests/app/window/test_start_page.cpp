// The start page: unfinished work, recent sites with pictures, sites that are gone; and closing a site.

#include <catch2/catch.hpp>

#include <QLabel>
#include <QPushButton>
#include <QSettings>

#include "app/window/start_page.h"
#include "demo/ashmere.h"
#include "window_driver.h"

using namespace pristine;
using test::WindowDriver;

namespace {

struct Started {
    test::TemporaryFolder folder;
    WindowDriver w;
    Started() : w(folder / "home") {
        QSettings().remove("recent");
        demo::Options o;
        o.points = 20'000;
        demo::write_site(folder / "ashmere-lock", o);
    }
    ~Started() { w.close(); }
    app::StartPage& page() { return *w.find<app::StartPage>("startPage"); }
    void open_page() {
        w.window().show_start();
        REQUIRE(w.wait([&] { return !w.window().jobs().busy(); }));
    }
    // Something decided, so that the draft is worth keeping.
    void work() {
        REQUIRE(w.open(folder / "ashmere-lock" / "chamber-station-1.las"));
        w.document().apply("Rename",
                           [](const site::Site& s) { return site::rename_item(s, s.active, "Kammer Süd"); });
        REQUIRE(w.settle());
    }
};

}  // namespace

TEST_CASE("AClosedSiteIsAmongTheUnfinishedWorkWithItsPicture", "[window]") {
    Started s;
    s.work();
    REQUIRE(s.w.wait([&] { return s.w.document().disk().waiting == 0; }));
    s.w.window().commands().trigger("site.close");
    REQUIRE(s.w.wait([&] { return s.page().isVisible() && !s.page().drafts().empty(); }));
    CHECK(s.w.site().items.empty());
    CHECK_FALSE(s.w.document().history().can_undo());
    REQUIRE(s.page().drafts().size() == 1);
    const app::StartPage::Entry& e = s.page().drafts()[0];
    CHECK(e.glance.items == std::vector<std::string>{"Kammer Süd"});
    CHECK(e.glance.last_step == "Rename");
    CHECK_FALSE(e.glance.picture.empty());
    // The page covers the window, and goes when work goes on.
    CHECK(s.page().width() >= s.w.window().centralWidget()->width());
    s.w.click(s.page().findChild<QPushButton*>("startGoOn"));
    REQUIRE(s.w.wait([&] { return s.w.site().items.size() == 1 && !s.w.window().jobs().busy(); }));
    CHECK(s.w.item().name == "Kammer Süd");
    CHECK_FALSE(s.page().isVisible());
}

TEST_CASE("RecentSitesShowWhatTheyHoldAndWhetherTheyAreThere", "[window]") {
    Started s;
    s.work();
    s.w.document().save_as(s.folder / "Schleuse.pristine", true);
    REQUIRE(s.w.wait([&] { return s.w.document().has_file() && !s.w.window().jobs().busy(); }));
    REQUIRE(s.w.wait([&] { return s.w.document().disk().waiting == 0; }));
    const QString site = QString::fromStdString((s.folder / "Schleuse.pristine").string()),
                  gone = QString::fromStdString((s.folder / "Basin west.pristine").string());
    QSettings().setValue("recent", QStringList{gone, site});
    REQUIRE(s.w.document().close_site());
    s.open_page();
    REQUIRE(s.page().recent().size() == 2);
    CHECK_FALSE(s.page().recent()[0].there);
    CHECK(s.page().recent()[1].project);
    CHECK(s.page().recent()[1].glance.items == std::vector<std::string>{"Kammer Süd"});
    const auto buttons = s.page().findChildren<QPushButton*>("startRecent");
    REQUIRE(buttons.size() == 2);
    CHECK_FALSE(buttons[0]->isEnabled());
    CHECK(buttons[1]->text() == "Schleuse");
    // What is gone can be taken off the list.
    s.w.click(s.page().findChild<QPushButton*>("startForget"));
    CHECK(QSettings().value("recent").toStringList() == QStringList{site});
    CHECK(s.page().recent().size() == 1);
    // Keys: Esc leaves, the command brings it back, a click opens.
    QTest::keyClick(&s.page(), Qt::Key_Escape);
    CHECK_FALSE(s.page().isVisible());
    s.w.window().commands().trigger("site.start");
    REQUIRE(s.w.wait([&] { return s.page().isVisible() && !s.w.window().jobs().busy(); }));
    QPushButton* again = nullptr;
    REQUIRE(s.w.wait([&] {
        for (QPushButton* b : s.page().findChildren<QPushButton*>("startRecent"))
            if (b->toolTip() == site && b->isVisible()) again = b;
        return again != nullptr;
    }));
    s.w.click(again);
    REQUIRE(s.w.wait([&] { return s.w.site().items.size() == 1 && !s.w.window().jobs().busy(); }));
    CHECK(s.w.document().has_file());
    CHECK_FALSE(s.page().isVisible());
}

TEST_CASE("ASiteThatWasOnlyLookedAtLeavesNothingWhenItIsClosed", "[window]") {
    Started s;
    REQUIRE(s.w.open(s.folder / "ashmere-lock" / "chamber-station-1.las"));
    s.w.window().commands().trigger("site.close");
    REQUIRE(s.w.site().items.empty());
    CHECK(app::Document::left_drafts().empty());
    // A site elsewhere is in view when it is opened.
    std::string far;
    for (int i = 0; i < 200; ++i)
        far += std::to_string(9000 + i % 20) + " " + std::to_string(700 + i / 20) + " 3\n";
    test::write_file(s.folder / "far.xyz", far);
    REQUIRE(s.w.open(s.folder / "far.xyz"));
    const PixelPoint at = s.w.stage().frame().project(s.w.item().cloud->bounds().centre());
    CHECK(s.w.stage().rect().contains(s.w.point(at)));
    REQUIRE(s.w.document().close_site());
    // The next site begins with nothing of the last one.
    REQUIRE(s.w.open(s.folder / "ashmere-lock" / "chamber-station-2.las"));
    CHECK(s.w.document().history().commits().size() == 2);
    CHECK(s.w.site().name == "Ashmere lock");
}
