// Traps of the window: what was typed and did something else, or nothing without a word.

#include <catch2/catch.hpp>

#include <QComboBox>
#include <QDoubleSpinBox>
#include <QLabel>
#include <QLineEdit>
#include <QListWidget>
#include <QPushButton>
#include <QSettings>
#include <atomic>
#include <set>
#include <thread>

#include "app/cards/rule_card.h"
#include "app/model/command_ranking.h"
#include "app/window/command_search.h"
#include "app/window/legend.h"
#include "app/window/notice.h"
#include "core/recipe/recipe.h"
#include "demo/ashmere.h"
#include "open_chamber.h"

using namespace pristine;
using test::WindowDriver;

namespace {

struct OpenTrapScan : test::OpenChamber {
    OpenTrapScan() : OpenChamber(40'000) {}
    QString said() { return w.find<QLabel>("message")->toolTip(); }
    const app::CommandTable& table() { return w.window().commands(); }
    QString best(const char* typed) {
        const auto found = app::ranked(table(), QString::fromLatin1(typed));
        return found.empty() ? QString() : found.front()->id;
    }
    bool finds(const char* typed, const char* id) {
        const auto found = app::ranked(table(), QString::fromLatin1(typed));
        return std::any_of(
            found.begin(),
            found.begin() + static_cast<std::ptrdiff_t>(std::min<std::size_t>(6, found.size())),
            [&](const app::Command* c) { return c->id == QLatin1String(id); });
    }
};

}  // namespace

TEST_CASE("CommandsAreFoundByTheirNameFirstAndByWordsOfTheTrade", "[window]") {
    OpenTrapScan s;
    // An exact title is itself, whatever else holds its words.
    for (const app::Command& c : s.table().all()) {
        INFO(c.title.toStdString());
        CHECK(app::ranked(s.table(), c.title).front()->title == c.title);
        CHECK(app::ranked(s.table(), c.title.toUpper().remove(QChar(0x2026))).front()->title == c.title);
    }
    CHECK(s.best("export what is out") == "site.export_removed");
    // Words in any order, and beginnings of words.
    CHECK(s.best("out export what is") == "site.export_removed");
    CHECK(s.best("sel inv") == "select.invert");
    for (const auto& [word, id] : {std::pair{"delete", "decide.remove"},
                                   {"clean", "select.rule"},
                                   {"crop", "view.clip"},
                                   {"trim", "select.inside_lines"},
                                   {"noise", "select.rule"},
                                   {"filter", "select.rule"},
                                   {"classify", "select.objects"},
                                   {"density", "select.rule"},
                                   {"report", "tools.measure"},
                                   {"volume", "tools.measure"},
                                   {"epsg", "item.reference"}})
        CHECK((s.finds(word, id) ? std::string() : std::string(word)) == "");
    // Every word of the trade leads to a command that there is.
    CHECK(app::trade_words().size() >= 60);
    for (const auto& [word, ids] : app::trade_words()) {
        INFO(word.toStdString());
        for (const QString& id : ids) CHECK(s.table().find(id) != nullptr);
        CHECK_FALSE(app::ranked(s.table(), word).empty());
    }
    CHECK(app::ranked(s.table(), "xyzzy").empty());
    // Enter on a command that is off says what is missing, and runs no other.
    app::CommandSearch search(&s.w.window().commands(), &s.w.window());
    search.show();
    auto* line = search.findChild<QLineEdit*>("commandSearchLine");
    QTest::keyClicks(line, "export what is out");
    QTest::keyClick(line, Qt::Key_Return);
    CHECK(s.said().contains("out of this item"));
    CHECK(QApplication::activeModalWidget() == nullptr);
}

TEST_CASE("ARecipeThatKeepsOrFencesLeavesTheWindowAlive", "[window]") {
    OpenTrapScan s;
    const Vec3 o = demo::kSiteOrigin;
    const std::string recipe = "{\"pristine_recipe\":1,\"steps\":[{\"score\":\"height\",\"range\":\"<" +
                               std::to_string(o.z + 6) + "\",\"keep\":true},{\"fence\":[[[" +
                               std::to_string(o.x - 200) + "," + std::to_string(o.y - 200) + "],[" +
                               std::to_string(o.x + 3) + "," + std::to_string(o.y - 200) + "],[" +
                               std::to_string(o.x + 3) + "," + std::to_string(o.y + 3) + "]]]}]}";
    test::write_file(s.folder / "keep.json", recipe);
    REQUIRE_NOTHROW(score::recipe_from_json(recipe));
    s.w.window().controllers().rules.run_recipe(s.folder / "keep.json");
    REQUIRE(s.w.settle());
    REQUIRE(s.w.item().ledger.size() >= 1);
    s.w.window().commands().refresh();  // asks every command whether it can run
    // Every step comes back as it was, a fence and one that keeps too.
    s.w.window().controllers().rules.save_recipe(s.folder / "again.json");
    const score::Recipe again = score::recipe_from_json(test::read_file(s.folder / "again.json"));
    REQUIRE(again.size() == s.w.item().ledger.size());
    for (std::size_t k = 0; k < again.size(); ++k) {
        const score::Step* rule = site::rule_of(s.w.item().ledger[k].cause);
        REQUIRE(rule);
        CHECK(again[k] == *rule);
    }
    CHECK(again.back().fence());
    CHECK(s.w.window().notice().isHidden());
    // As text and back.
    for (const char* rule : {"height keep <4", "stray[neighbours=16] keep 0..3"})
        CHECK(score::text_of(score::parse_step(score::text_of(score::parse_step(rule)))) ==
              score::text_of(score::parse_step(rule)));
}

TEST_CASE("KeysReachTheStageAfterAChoiceAndSayWhyACommandIsOff", "[window]") {
    OpenTrapScan s;
    // A key whose command is off says why.
    s.w.key(Qt::Key_Delete);
    CHECK(s.said().contains("Select something first"));
    s.w.window().commands().trigger("select.rectangle");
    const QPoint m = s.w.stage().rect().center();
    s.w.drag(Qt::LeftButton, m - QPoint(60, 60), m + QPoint(60, 60));
    REQUIRE(s.w.settle());
    REQUIRE(s.w.site().selected() > 0);
    // Another reason from the list, then Delete.
    auto* reason = s.w.find<QComboBox>("reason");
    REQUIRE(reason->isVisible());
    reason->setFocus();
    QApplication::processEvents();
    reason->setCurrentText("Noise");
    emit reason->activated(reason->findText("Noise"));
    REQUIRE(s.w.wait([&] { return QApplication::focusWidget() == &s.w.stage(); }));
    QTest::keyClick(QApplication::focusWidget(), Qt::Key_Delete);
    REQUIRE(s.w.settle());
    REQUIRE(s.w.item().ledger.size() == 1);
    CHECK(s.w.item().ledger[0].reason == "Noise");
    // Typing in a number triggers nothing; Enter gives the keys back to the stage.
    s.w.window().commands().trigger("select.rule");
    REQUIRE(s.w.settle());
    auto* low = s.w.find<QDoubleSpinBox>("ruleLow");
    low->setFocus();
    low->selectAll();
    const auto hand = [&] {
        for (const app::Command& c : s.table().all())
            if (c.checked && c.checked() && c.id.startsWith("select.re")) return c.id;
        return QString();
    };
    const QString before = hand();
    QTest::keyClicks(low, "3");
    QTest::keyClick(low, Qt::Key_K);
    CHECK(hand() == before);
    QTest::keyClick(low, Qt::Key_Return);
    CHECK(s.w.wait([&] { return QApplication::focusWidget() == &s.w.stage(); }));
    // A key with Ctrl reaches its command from a field.
    low->setFocus();
    QApplication::processEvents();
    const bool shown = s.w.item().visible;
    QTest::keyClick(low, Qt::Key_H, Qt::ControlModifier);
    REQUIRE(s.w.settle());
    CHECK(s.w.item().visible != shown);
    // One key from area to area.
    s.w.stage().setFocus();
    std::set<QWidget*> areas;
    for (int k = 0; k < 5; ++k) {
        QTest::keyClick(QApplication::focusWidget(), Qt::Key_F6);
        QApplication::processEvents();
        areas.insert(QApplication::focusWidget());
    }
    CHECK(areas.size() >= 4);
    CHECK(areas.contains(&s.w.stage()));
    QSettings().clear();  // the reason that was chosen is remembered with the tool
}

TEST_CASE("LeavingDuringWorkIsAsked", "[window]") {
    OpenTrapScan s;
    std::atomic<bool> go{false}, ended{false};
    s.w.window().jobs().start(
        "Exporting chamber",
        [&](Progress& p) {
            while (!go) {
                p.check();
                std::this_thread::sleep_for(std::chrono::milliseconds(5));
            }
            ended = true;
        },
        [] {});
    s.w.window().close();
    CHECK(s.w.window().isVisible());
    CHECK(s.w.window().notice().text().contains("Exporting chamber is not done"));
    // Close when it is done.
    QPushButton* wait = nullptr;
    for (auto* b : s.w.window().notice().findChildren<QPushButton*>())
        if (b->text().contains("when it is done")) wait = b;
    REQUIRE(wait);
    s.w.click(wait);
    CHECK(s.w.window().isVisible());
    go = true;
    REQUIRE(s.w.wait([&] { return !s.w.window().isVisible(); }));
    CHECK(ended);
}

TEST_CASE("TheSameFileTwiceHasTwoNames", "[window]") {
    OpenTrapScan s;
    const std::string first = s.w.item().name;
    for (int k = 2; k <= 3; ++k) {
        s.w.window().open_files({s.folder / "ashmere-lock" / "chamber-station-1.las"});
        REQUIRE(s.w.wait([&] {
            return s.w.site().items.size() == static_cast<std::size_t>(k) && !s.w.window().jobs().busy();
        }));
    }
    CHECK(s.w.site().items[0]->name == first);
    CHECK(s.w.site().items[1]->name == first + " (2)");
    CHECK(s.w.site().items[2]->name == first + " (3)");
}

TEST_CASE("DraftsAreForTheirOwnerOnly", "[window]") {
    OpenTrapScan s;
    REQUIRE(s.w.settle());
    const auto folder = app::Document::drafts_folder();
    const auto rights = [](const std::filesystem::path& p) {
        return std::filesystem::status(p).permissions() & std::filesystem::perms::all;
    };
    CHECK(rights(folder) == std::filesystem::perms::owner_all);
    int drafts = 0;
    for (const auto& e : std::filesystem::directory_iterator(folder)) {
        if (e.path().string().find(".pristine") == std::string::npos || e.path().extension() == ".lock")
            continue;
        CAPTURE(e.path().string());
        CHECK((rights(e.path()) & (std::filesystem::perms::group_all | std::filesystem::perms::others_all)) ==
              std::filesystem::perms::none);
        ++drafts;
    }
    CHECK(drafts > 0);
}

TEST_CASE("AFenceMayBeginOnTheLegend", "[window]") {
    OpenTrapScan s;
    s.w.document().apply("colour", [&](const site::Site& now) {
        site::Style style = now.active_item()->style;
        style.colour_by = site::ColourBy::Height;
        return site::set_style(now, now.active, style);
    });
    REQUIRE(s.w.settle());
    auto* legend = s.w.find<app::Legend>("legend");
    REQUIRE(legend->isVisible());
    s.w.window().commands().trigger("select.rectangle");
    const auto send = [&](QEvent::Type type, QPoint at, Qt::MouseButtons held) {
        QMouseEvent e(type, at, legend->mapToGlobal(at),
                      type == QEvent::MouseMove ? Qt::NoButton : Qt::LeftButton, held, Qt::NoModifier);
        QApplication::sendEvent(legend, &e);
    };
    const site::Style before = s.w.item().style;
    const QPoint from(legend->width() - 4, 12);  // beside the colours
    send(QEvent::MouseButtonPress, from, Qt::LeftButton);
    for (int k = 1; k <= 8; ++k) send(QEvent::MouseMove, from + QPoint(70 * k, 50 * k), Qt::LeftButton);
    send(QEvent::MouseButtonRelease, from + QPoint(560, 400), Qt::NoButton);
    REQUIRE(s.w.settle());
    CHECK(s.w.site().selected() > 0);
    CHECK(s.w.item().style == before);  // the range is as it was
}

TEST_CASE("ARuleComesBackWithTheParametersItWasLeftWith", "[window]") {
    OpenTrapScan s;
    s.w.window().commands().trigger("select.rule");
    auto& card = *s.w.window().findChild<app::RuleCard*>();
    card.choose("stray");
    REQUIRE(s.w.settle());
    s.w.find<QDoubleSpinBox>("rule.neighbours")->setValue(11);
    REQUIRE(s.w.settle());
    card.choose("height");
    REQUIRE(s.w.settle());
    card.choose("stray");
    REQUIRE(s.w.settle());
    CHECK(s.w.find<QDoubleSpinBox>("rule.neighbours")->value() == 11);
}

TEST_CASE("TheRuleCardOfASurfaceBeginsWithARuleThatWorks", "[window]") {
    OpenTrapScan s;
    std::string ply =
        "ply\nformat ascii 1.0\nelement vertex 100\nproperty float x\nproperty float y\nproperty float z\n"
        "element face 162\nproperty list uchar int vertex_indices\nend_header\n";
    for (int i = 0; i < 100; ++i) ply += std::to_string(i % 10) + " " + std::to_string(i / 10) + " 0.1\n";
    for (int j = 0; j < 9; ++j)
        for (int i = 0; i < 9; ++i) {
            const int a = 10 * j + i;
            for (const auto& [p, q, r] : {std::tuple{a, a + 1, a + 11}, {a, a + 11, a + 10}})
                ply += "3 " + std::to_string(p) + " " + std::to_string(q) + " " + std::to_string(r) + "\n";
        }
    test::write_file(s.folder / "field.ply", ply);
    s.w.window().open_files({s.folder / "field.ply"});
    REQUIRE(s.w.wait([&] { return s.w.site().items.size() == 2 && !s.w.window().jobs().busy(); }));
    s.w.document().apply("work",
                         [&](const site::Site& now) { return site::activate(now, now.items[1]->id); });
    s.w.window().commands().trigger("select.rule");
    REQUIRE(s.w.settle());
    auto& card = *s.w.window().findChild<app::RuleCard*>();
    REQUIRE(card.is_open());
    CHECK(card.step().has_value());  // it has values, and asks for nothing else
}
