// What the work card shows of the tool in hand, files that come and fail, what is said of classes and dates.

#include <sys/resource.h>

#include <QComboBox>
#include <QLabel>
#include <QPlainTextEdit>
#include <QPushButton>
#include <QTreeWidget>
#include <csignal>

#include "app/cards/rule_card.h"
#include "app/cards/work_card.h"
#include "app/tools/tool_spec.h"
#include "app/window/legend.h"
#include "app/window/notice.h"
#include "core/base/log.h"
#include "core/io/cloud_io.h"
#include "core/site/cause.h"
#include "open_chamber.h"
#include "render/scene.h"

using namespace pristine;
using test::OpenChamber;

TEST_CASE("EveryToolHasItsSettingsOnTheCardAndNoOthers", "[window]") {
    OpenChamber s(20'000);
    for (const app::ToolSpec& t : app::tool_specs()) {
        CAPTURE(t.command);
        s.w.window().commands().trigger(QString::fromLatin1(t.command));
        const auto shown = [&](const char* name) {
            const auto* w = s.w.find<QWidget>(QString::fromLatin1(name));
            REQUIRE(w);
            return w->isVisible();
        };
        CHECK(shown("combine0") == t.settings.combine);
        CHECK(shown("depth0") == t.settings.depth);
        CHECK(shown("growButton") == t.settings.combine);
        CHECK(shown("planeOffset") == t.settings.plane);
        CHECK(shown("brushStrength") == t.settings.strength);
        CHECK_FALSE(shown("triangles0"));  // a scan has none
        // What it makes can be told in a ledger.
        if (t.settings.combine) {
            REQUIRE(site::phrase_of(t.command));
            CHECK(t.title.toLower().toStdString() == site::phrase_of(t.command));
        }
    }
}

TEST_CASE("TheSettingsOfAToolAreReachedWhileACardIsOpen", "[window]") {
    OpenChamber s(20'000);
    s.w.window().commands().trigger("select.rule");
    REQUIRE(s.w.settle());
    s.w.window().commands().trigger("select.plane");
    auto* rule = s.w.window().findChild<app::RuleCard*>();
    auto* side = s.w.find<QWidget>("planeSide1");
    REQUIRE(rule->isVisible());
    REQUIRE_FALSE(side->isVisible());
    s.w.click(s.w.find<QPushButton>("ruleTool"));
    CHECK(side->isVisible());
    CHECK_FALSE(rule->isVisible());
    CHECK(rule->is_open());
    s.w.click(side);
    CHECK(s.w.window().card().below_plane());
    auto* back = s.w.find<QPushButton>("backToCard");
    REQUIRE(back->isVisible());
    CHECK(back->text().contains("Rule"));
    s.w.click(back);
    CHECK(rule->isVisible());
    CHECK_FALSE(side->isVisible());
    // The command of the card brings it back too, rather than closing it unseen.
    s.w.click(s.w.find<QPushButton>("ruleTool"));
    s.w.window().commands().trigger("select.rule");
    CHECK(rule->isVisible());
    s.w.click(s.w.find<QPushButton>("ruleClose"));
    CHECK(side->isVisible());
    CHECK_FALSE(back->isVisible());
}

TEST_CASE("ANewItemIsPutInWorkUnlessSomethingIsSelected", "[window]") {
    OpenChamber s(20'000);
    const std::uint64_t first = s.w.site().active;
    REQUIRE(s.w.open(s.folder / "ashmere-lock" / "chamber-station-2.las", 2));
    CHECK(s.w.site().active == s.w.site().items[1]->id);
    s.w.document().apply("work", [&](const site::Site& now) {
        const site::SitePtr a = site::activate(now, first);
        return site::select(*a, ElementSet::all(a->active_item()->cloud->size()), site::Combine::New);
    });
    REQUIRE(s.w.open(s.folder / "ashmere-lock" / "chamber-station-2.las", 3));
    CHECK(s.w.site().active == first);
    CHECK(s.w.site().selected() > 0);
}

TEST_CASE("AFileThatIsCutOffsOffersItsWholePartAndIsSeenAtOnce", "[window]") {
    const test::TemporaryFolder folder;
    demo::Options o;
    o.points = 30'000;
    demo::write_site(folder / "ashmere-lock", o);
    std::string bytes = test::read_file(folder / "ashmere-lock" / "chamber-station-1.las");
    bytes.resize(bytes.size() / 3);
    test::write_file(folder / "cut.las", bytes);
    test::write_file(folder / "words.txt", "one two three\nfour five six\nseven eight nine\n");
    test::WindowDriver w(folder / "home");
    w.window().open_files({folder / "words.txt"});
    REQUIRE(w.wait([&] { return w.window().notice().isVisible() && !w.window().jobs().busy(); }));
    CHECK(w.find<QPushButton>("noticeFirst")->text().contains("columns"));
    w.window().open_files({folder / "cut.las"});
    // The notice of the file before is gone at once.
    CHECK_FALSE(w.window().notice().text().contains("words"));
    REQUIRE(w.wait([&] { return w.window().notice().isVisible() && !w.window().jobs().busy(); }));
    CHECK(w.window().notice().text().contains("cut.las"));
    CHECK_FALSE(w.window().notice().text().contains("--partial"));
    auto* part = w.find<QPushButton>("noticeFirst");
    REQUIRE(part->text().contains("whole"));
    w.click(part);
    REQUIRE(w.wait([&] { return w.site().items.size() == 1 && !w.window().jobs().busy(); }));
    REQUIRE(w.settle());
    // The first view shows what is there.
    const QImage picture = w.stage().grab().toImage();
    int drawn = 0;
    for (int y = 0; y < picture.height(); y += 4)
        for (int x = 0; x < picture.width(); x += 4) drawn += qGray(picture.pixel(x, y)) > 60;
    CHECK(drawn > 500);
    w.close();
}

TEST_CASE("ClassesHaveAKeyInTheirColours", "[window]") {
    const test::TemporaryFolder folder;
    std::string text;
    for (int i = 0; i < 900; ++i)
        text += std::to_string(i % 30) + " " + std::to_string(i / 30) + " 0 " +
                std::to_string(i % 3 == 0   ? 2
                               : i % 3 == 1 ? 6
                                            : 64) +
                "\n";
    test::write_file(folder / "classes.txt", text);
    io::ReadOptions options;
    options.text = io::TextReading{};
    options.text->columns = {"x", "y", "z", "class"};
    options.text->separator = ' ';
    const io::ReadResult read = io::read_cloud(folder / "classes.txt", options);
    test::WindowDriver w(folder / "home");
    w.document().apply("Add", [&](const site::Site& s) {
        const site::SitePtr next = site::add_cloud(s, read.cloud, "Yard", "");
        site::Style style = next->items[0]->style;
        style.colour_by = site::ColourBy::Class;
        return site::set_style(*next, next->items[0]->id, style);
    });
    auto* legend = w.find<app::Legend>("legend");
    REQUIRE(w.wait([&] { return !legend->key().empty(); }));
    REQUIRE(w.settle());
    REQUIRE(legend->key().size() == 3);
    CHECK(legend->key()[0].name == "2 Ground");
    CHECK(legend->key()[1].name == "6 Building");
    CHECK(legend->key()[2].name == "64");
    CHECK(legend->isVisible());
    // Each colour is in the picture of the legend and in that of the stage.
    const QImage on_stage = w.stage().grab().toImage();
    for (const auto& entry : legend->key()) {
        bool seen = false;
        for (int y = 0; y < on_stage.height() && !seen; ++y)
            for (int x = 200; x < on_stage.width() && !seen; ++x)
                seen = on_stage.pixelColor(x, y) == entry.colour;
        CHECK(seen);
    }
    // Another colouring has another legend.
    w.document().apply("Height", [&](const site::Site& s) {
        site::Style style = s.items[0]->style;
        style.colour_by = site::ColourBy::Height;
        return site::set_style(s, s.items[0]->id, style);
    });
    CHECK(legend->key().empty());
    w.close();
}

TEST_CASE("WhatCouldNotBeWrittenIsTriedAgainByItself", "[window]") {
    OpenChamber s(20'000);
    // No file may grow: a disk without room.
    std::signal(SIGXFSZ, SIG_IGN);
    rlimit before{};
    REQUIRE(getrlimit(RLIMIT_FSIZE, &before) == 0);
    const rlimit tight{1024, before.rlim_max};
    REQUIRE(setrlimit(RLIMIT_FSIZE, &tight) == 0);
    s.w.document().apply(
        "Rename", [](const site::Site& now) { return site::rename_item(now, now.active, "Chamber, east"); });
    const bool failed = s.w.wait([&] { return !s.w.document().disk().error.empty(); }, 10'000);
    REQUIRE(setrlimit(RLIMIT_FSIZE, &before) == 0);
    REQUIRE(failed);
    // Room was made; nobody presses anything.
    CHECK(s.w.wait([&] { return s.w.document().disk().error.empty() && s.w.document().disk().waiting == 0; },
                   10'000));
}

TEST_CASE("BeforeAndAfterSaysThatItIsOnAndWhatForWhenNothingIsOut", "[window]") {
    OpenChamber s(20'000);
    const auto said = [&] { return s.w.find<QLabel>("message")->toolTip(); };
    s.w.window().commands().trigger("view.wipe");
    CHECK(said().contains("nothing is out"));
    s.w.window().commands().trigger("view.wipe");
    CHECK(said().contains("off"));
}

TEST_CASE("ALineIsForWhatItsRoleSaysWhateverItIsCalled", "[window]") {
    OpenChamber s(20'000);
    const Vec3 o = demo::kSiteOrigin;
    const auto ring = [&](const char* name, double x, LineRole role) {
        site::Line l{0, name, {o + Vec3{x, 1, 0}, o + Vec3{x + 1, 1, 0}, o + Vec3{x + 1, 2, 0}}, true, true};
        l.role = role;
        return l;
    };
    s.w.document().apply("Lines", [&](const site::Site& now) {
        return site::put_lines(
            now, {ring("breakline by name", 0, LineRole::Boundary),
                  ring("boundary by name", 2, LineRole::Breakline), ring("contour 3", 4, LineRole::Contour),
                  ring("plain", 6, LineRole::Free)});
    });
    s.w.window().commands().trigger("tools.surface");
    auto* lines = s.w.find<QTreeWidget>("surfaceLines");
    REQUIRE(lines->topLevelItemCount() == 4);
    const auto ticked = [&](int row, int column) {
        return lines->topLevelItem(row)->checkState(column) == Qt::Checked;
    };
    CHECK_FALSE(ticked(0, 1));
    CHECK(ticked(0, 2));
    CHECK(ticked(1, 1));
    CHECK_FALSE(ticked(1, 2));
    CHECK_FALSE(ticked(2, 1));
    CHECK_FALSE(ticked(2, 2));
    CHECK_FALSE(ticked(3, 1));
    CHECK(ticked(3, 2));  // a closed line without a role bounds
}

TEST_CASE("TheLogOfTheWindowCanBeRead", "[window]") {
    const test::TemporaryFolder folder;
    log::open(folder / "log.txt");
    {
        OpenChamber s(20'000);
        s.w.window().open_files({folder / "none.las"});
        REQUIRE(s.w.wait([&] { return !s.w.window().jobs().busy(); }));
        s.w.window().commands().trigger("help.log");
        auto* text = s.w.find<QPlainTextEdit>("logText");
        REQUIRE(text);
        CHECK(text->toPlainText().contains("Opening chamber-station-1.las ("));
        CHECK(text->toPlainText().contains("none.las"));
        CHECK(text->toPlainText().contains(" E "));
        CHECK(s.w.find<QLabel>("logPath")->text().contains("log.txt"));
    }
    log::close();
}
