// Plan sheets and deliverables in a real window.

#include <QCheckBox>
#include <QComboBox>
#include <QLabel>
#include <QLineEdit>
#include <QPushButton>
#include <QTreeWidget>
#include <catch2/catch.hpp>

#include "app/handover/deliver_page.h"
#include "app/handover/sheet_page.h"
#include "app/model/document.h"
#include "core/report/verify.h"
#include "open_scan.h"

using namespace pristine;
using test::OpenScan;

namespace {

struct Handing : OpenScan {
    Handing() : OpenScan(30'000) {
        w.window().resize(1280, 800);
        ElementSet some(cloud().size());
        for (std::uint64_t k = 0; k < 500; ++k) some.insert(k * 20);
        w.document().apply("Remove", [&](const site::Site& s) {
            site::Decision d;
            d.reason = "Person";
            return site::remove_parts(s, {{s.active, std::make_shared<const ElementSet>(some)}}, d);
        });
        REQUIRE(w.settle());
    }
    app::SheetPage& sheet() { return *w.window().findChild<app::SheetPage*>(); }
    app::DeliverPage& deliver() { return *w.window().findChild<app::DeliverPage*>(); }
    void wait_drawn() {
        w.wait([] { return false; }, 450);
        REQUIRE(w.wait([&] { return sheet().sheets() != nullptr && !w.window().jobs().busy(); }));
    }
    QStringList files() {
        QStringList out;
        auto* list = w.find<QTreeWidget>("deliverFiles");
        for (int k = 0; k < list->topLevelItemCount(); ++k) out << list->topLevelItem(k)->text(0);
        return out;
    }
};

}  // namespace

TEST_CASE("ASheetIsComposedAndWrittenInTheWindow") {
    Handing o;
    o.w.key(Qt::Key_P, Qt::ControlModifier | Qt::ShiftModifier);
    REQUIRE(o.sheet().isVisible());
    o.wait_drawn();
    REQUIRE(o.sheet().sheets()->size() == 1);
    const int proposed = o.sheet().sheets()->front().scale;
    CHECK(proposed > 0);
    auto* scale = o.w.find<QComboBox>("sheetScale");
    scale->setCurrentIndex(scale->findData(1000));
    o.wait_drawn();
    CHECK(o.sheet().sheets()->front().scale == 1000);
    CHECK(o.w.find<QLabel>("sheetState")->text().contains("1 : 1,000"));
    // One that does not fit says so, and is not written.
    scale->setCurrentIndex(scale->findData(20));
    REQUIRE(o.w.wait([&] { return o.w.find<QLabel>("sheetState")->text().contains("does not fit"); }));
    CHECK_FALSE(o.w.find<QPushButton>("sheetWrite")->isEnabled());
    scale->setCurrentIndex(0);
    QTest::keyClicks(o.w.find<QLineEdit>("sheetTitle"), "Kammer");
    o.wait_drawn();
    bool titled = false;
    for (const report::Shape& s : o.sheet().sheets()->front().drawing.shapes)
        if (const auto* t = std::get_if<report::Text>(&s))
            titled = titled || (!t->runs.empty() && t->runs[0].text == "Kammer");
    CHECK(titled);
    for (const char* ending : {"pdf", "svg", "png", "dxf", "tif"}) {
        const std::filesystem::path file = o.folder / (std::string("Blatt.") + ending);
        o.sheet().write(file, false);
        REQUIRE(o.w.wait([&] { return std::filesystem::exists(file) && !o.w.window().jobs().busy(); }));
        CHECK(std::filesystem::file_size(file) > 1000);
    }
    QTest::keyClick(&o.sheet(), Qt::Key_Escape);
    CHECK_FALSE(o.sheet().isVisible());
}

TEST_CASE("ADeliverableSaysWhatItWritesWritesItAndChecksIt") {
    Handing o;
    o.w.window().commands().trigger("handover.deliver");
    REQUIRE(o.w.wait([&] { return o.files().size() > 4; }));
    CHECK(o.files().contains("cleaned/Chamber-station-1.las"));
    CHECK(o.files().contains("removed/Chamber-station-1-Person.las"));
    CHECK(o.files().contains("report/report.pdf"));
    o.w.find<QCheckBox>("deliverRemoved")->click();
    REQUIRE(o.w.wait(
        [&] { return !o.files().isEmpty() && !o.files().contains("removed/Chamber-station-1-Person.las"); }));
    o.w.find<QCheckBox>("deliverRemoved")->click();
    // Where the format has no place for something, that is said before.
    auto* points = o.w.find<QComboBox>("deliverPoints");
    points->setCurrentIndex(points->findData("ptx"));
    REQUIRE(o.w.wait([&] { return o.files().contains("cleaned/Chamber-station-1.ptx"); }));
    CHECK_FALSE(o.w.find<QTreeWidget>("deliverFiles")->topLevelItem(0)->text(3).isEmpty());
    points->setCurrentIndex(0);
    o.w.find<QCheckBox>("deliverSources")->click();
    o.deliver().write(o.folder / "out", false);
    REQUIRE(o.w.wait([&] {
        return std::filesystem::exists(o.folder / "out" / "manifest.json") && !o.w.window().jobs().busy();
    }));
    CHECK(report::verify(o.folder / "out").sound());
    o.deliver().check(o.folder / "out");
    REQUIRE(o.w.wait([&] { return o.deliver().checked() != nullptr; }));
    CHECK(o.deliver().checked()->sound());
    CHECK(o.deliver().checked()->against_source == 1);
    CHECK(o.w.find<QLabel>("deliverState")->text().startsWith("Nothing is wrong"));
    test::write_file(o.folder / "out" / "ledger.json", "{}");
    o.deliver().check(o.folder / "out");
    REQUIRE(o.w.wait([&] { return o.deliver().checked() != nullptr; }));
    CHECK_FALSE(o.deliver().checked()->sound());
    CHECK(o.w.find<QLabel>("deliverState")->text().startsWith("Wrong"));
}

TEST_CASE("AnArchiveOpensWithoutItsSources") {
    Handing o;
    const std::uint64_t told = o.w.document().archive_bytes();
    o.w.document().archive(o.folder / "Archiv.pristine", false);
    REQUIRE(o.w.wait([&] {
        return std::filesystem::exists(o.folder / "Archiv.pristine") && !o.w.window().jobs().busy();
    }));
    const auto size = std::filesystem::file_size(o.folder / "Archiv.pristine");
    CHECK(told > size / 2);
    CHECK(told < size * 2);
    const std::uint64_t total = o.w.item().total(), left = o.w.item().shown();
    std::filesystem::remove_all(o.folder / "ashmere-lock");
    o.w.close();
    o.w.open_new();
    o.w.window().open_files({o.folder / "Archiv.pristine"});
    REQUIRE(o.w.wait([&] { return o.w.site().items.size() == 1 && !o.w.window().jobs().busy(); }));
    CHECK(o.w.item().total() == total);
    CHECK(o.w.item().shown() == left);
    // What was removed comes back, and goes out with every column.
    o.w.document().apply("Lift", [](const site::Site& s) {
        return site::set_decision_active(s, s.items[0]->ledger[0].id, false);
    });
    CHECK(o.w.item().shown() == total);
    o.w.document().export_shown(o.folder / "all.las", false);
    REQUIRE(o.w.wait(
        [&] { return std::filesystem::exists(o.folder / "all.las") && !o.w.window().jobs().busy(); }));
}

TEST_CASE("NothingCanBeHandedOverOfAnEmptySite") {
    const test::TemporaryFolder folder;
    test::WindowDriver w(folder / "home");
    for (const char* id : {"handover.report", "handover.sheet", "handover.deliver"}) {
        w.window().commands().trigger(id);
        CHECK_FALSE(w.window().findChild<app::SheetPage*>()->isVisible());
        CHECK_FALSE(w.window().findChild<app::DeliverPage*>()->isVisible());
    }
    w.close();
}
