// Commands: their names, ids, keys and reasons, the manual page made of them, finding one by its words.

#include <catch2/catch.hpp>

#include <QComboBox>
#include <QLineEdit>
#include <QListWidget>
#include <QTextBrowser>
#include <QTreeWidget>

#include "app/window/command_search.h"
#include "app/window/notice.h"
#include "demo_scan.h"
#include "window_driver.h"

using namespace pristine;
using test::demo_scan;
using test::WindowDriver;

TEST_CASE("EveryControlHasANameAndEveryDisabledCommandSaysWhy", "[window]") {
    const test::TemporaryFolder folder;
    WindowDriver w(folder / "home");
    for (const bool with_scan : {false, true}) {
        if (with_scan) {
            REQUIRE(w.open(demo_scan(folder, 20'000)));
            w.window().commands().trigger("select.invert");
            w.window().notice().show_text("A notice", false, {"First", [] {}}, {"Second", [] {}});
            REQUIRE(w.settle());
        }
        for (QWidget* control : w.window().findChildren<QWidget*>()) {
            const bool is_control = qobject_cast<QAbstractButton*>(control) ||
                                    qobject_cast<QLineEdit*>(control) || qobject_cast<QTreeWidget*>(control);
            const bool part_of_qt =
                control->objectName().startsWith("qt_") || control->parentWidget()->inherits("QComboBox") ||
                control->parentWidget()->inherits("QSpinBox") || control->inherits("QMenuBarExtension");
            if (!is_control || part_of_qt || !control->isVisible()) continue;
            CAPTURE(control->metaObject()->className(), control->objectName().toStdString());
            CHECK_FALSE(control->objectName().isEmpty());
            CHECK(w.window().findChildren<QWidget*>(control->objectName()).size() ==
                  1);  // names tell controls apart
            const auto* button = qobject_cast<QAbstractButton*>(control);
            CHECK_FALSE((control->accessibleName().isEmpty() && (!button || button->text().isEmpty())));
        }
        for (const app::Command& c : w.window().commands().all()) {
            CAPTURE(c.id.toStdString());
            CHECK_FALSE(c.title.isEmpty());
            CHECK(c.help.size() > 10);
            const QAction* a = w.window().commands().action(c.id);
            const QString why = c.why_not ? c.why_not() : QString();
            CHECK(a->isEnabled() == why.isEmpty());
            if (!why.isEmpty()) CHECK(a->toolTip().contains(why.toHtmlEscaped()));
        }
    }
    // No two commands share a shortcut.
    QStringList keys;
    for (const app::Command& c : w.window().commands().all())
        if (!c.key.isEmpty()) {
            CHECK_FALSE(keys.contains(c.key.toString()));
            keys << c.key.toString();
        }
    w.close();
}

TEST_CASE("TheManualListsTheCommandsAsTheyAre", "[window]") {
    const test::TemporaryFolder folder;
    WindowDriver w(folder / "home");
    const std::string page = "# All commands and keys\n\nMade from the command table of the program.\n\n" +
                             app::commands_as_markdown(w.window().commands()).toStdString();
    const std::filesystem::path file = PRISTINE_SOURCE_DIR "/docs/manual/commands.md";
    if (std::getenv("PRISTINE_WRITE_COMMANDS")) test::write_file(file, page);
    CHECK(test::read_file(file) == page);
    // F1 opens a page, and every link in the manual leads somewhere.
    w.key(Qt::Key_F1);
    REQUIRE(w.find<QTextBrowser>("manualPage"));
    CHECK(w.find<QTextBrowser>("manualPage")->toPlainText().contains("One page a task"));
    w.close();
}

TEST_CASE("EveryCommandHasAnIdAndAKeyOfItsOwn", "[window]") {
    const test::TemporaryFolder folder;
    WindowDriver w(folder / "home");
    std::map<QString, QString> ids, keys;
    for (const app::Command& c : w.window().commands().all()) {
        CAPTURE(c.id.toStdString(), c.title.toStdString());
        CHECK(ids.emplace(c.id, c.title).second);
        if (!c.key.isEmpty()) CHECK(keys.emplace(c.key.toString(), c.id).second);
    }
    w.close();
}

TEST_CASE("ACommandIsFoundByTypingPartOfItsName", "[window]") {
    const test::TemporaryFolder folder;
    WindowDriver w(folder / "home");
    REQUIRE(w.open(demo_scan(folder, 20'000)));
    {
        app::CommandSearch search(&w.window().commands(), &w.window());
        search.show();
        auto* line = search.findChild<QLineEdit*>("commandSearchLine");
        QTest::keyClicks(line, "rectang");
        REQUIRE(search.findChild<QListWidget*>("commandSearchList")->count() ==
                2);  // a head, and the command
        QTest::keyClick(line, Qt::Key_Return);
    }
    CHECK(w.window().commands().action("select.rectangle")->isChecked());
    w.close();
}
