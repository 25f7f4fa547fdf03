// The tables of all decisions, guards, kept selections and steps, by mouse and keys.

#include <catch2/catch.hpp>

#include <QApplication>
#include <QComboBox>
#include <QHeaderView>
#include <QInputDialog>
#include <QLabel>
#include <QLineEdit>
#include <QPushButton>
#include <QTabWidget>
#include <QTimer>
#include <QTreeWidget>

#include "app/panes/decision_table.h"
#include "app/panes/lists_pane.h"
#include "open_scan.h"

using namespace pristine;
using test::OpenScan;

namespace {

struct Listed : OpenScan {
    Listed() {
        for (int i = 0; i < 3; ++i) {
            run("select.rectangle");
            const double y = 4.0 + 5 * i;
            drag({pixel(-2, y), pixel(i == 1 ? 0.5 : 2, y + 3)});
            w.key(Qt::Key_Delete);
            REQUIRE(w.settle());
        }
        REQUIRE(w.item().ledger.size() == 3);
        run("view.decisions");
    }
    QTreeWidget& rows(const char* of) {
        auto* rows = w.find<QTreeWidget>(QString::fromLatin1(of) + QStringLiteral("Rows"));
        REQUIRE((rows && rows->isVisible()));
        return *rows;
    }
    void click(QTreeWidget& table, int row, Qt::KeyboardModifiers with = Qt::NoModifier) {
        const QRect at = table.visualItemRect(table.topLevelItem(row));
        REQUIRE(at.isValid());
        QTest::mouseClick(table.viewport(), Qt::LeftButton, with, {at.left() + 20, at.center().y()});
    }
    void press(const char* button) {
        auto* b = w.find<QPushButton>(QString::fromLatin1(button));
        REQUIRE((b && b->isVisible() && b->isEnabled()));
        w.click(b);
        REQUIRE(w.settle());
    }
    // Answers the question for a text that comes next.
    static void answer_next(const QString& text) {
        QTimer::singleShot(100, [text] {
            auto* ask = qobject_cast<QInputDialog*>(QApplication::activeModalWidget());
            REQUIRE(ask);
            ask->setTextValue(text);
            ask->accept();
        });
    }
};

}  // namespace

TEST_CASE("ManyDecisionsAreLiftedAndAppliedAgainFromTheTable", "[window]") {
    Listed s;
    QTreeWidget& table = s.rows("decision");
    REQUIRE(table.topLevelItemCount() == 3);
    CHECK_FALSE(s.w.find<QPushButton>("decisionLift")->isEnabled());
    const QImage removed = s.w.stage_picture();
    s.click(table, 0);
    s.click(table, 2, Qt::ControlModifier);
    const std::uint64_t first = s.w.item().ledger[0].elements->count(),
                        third = s.w.item().ledger[2].elements->count();
    CHECK(s.w.find<QLabel>("decisionSaid")->text().startsWith("2 of 3"));
    s.press("decisionLift");
    CHECK(s.w.item().removed->count() == s.cloud().size() - s.w.item().shown());  // as the law has it
    CHECK_FALSE(s.w.item().ledger[0].active);
    CHECK(s.w.item().ledger[1].active);
    CHECK_FALSE(s.w.item().ledger[2].active);
    CHECK(s.w.item().removed->count() == s.w.item().ledger[1].elements->count());
    CHECK(s.w.stage_picture() != removed);
    CHECK((first > 0 && third > 0));
    // One step back for all of them.
    s.run("edit.undo");
    CHECK(s.w.item().ledger[0].active);
    CHECK(s.w.item().ledger[2].active);
    s.run("edit.redo");
    CHECK(table.topLevelItem(0)->text(1) == "lifted");
    table.selectAll();
    s.press("decisionApply");
    CHECK(s.w.item().removed->count() == first + third + s.w.item().ledger[1].elements->count());
    CHECK(s.w.stage_picture() == removed);
}

TEST_CASE("TheTableOfDecisionsIsSortedFilteredAndSaved", "[window]") {
    Listed s;
    QTreeWidget& table = s.rows("decision");
    s.click(table, 1);
    Listed::answer_next("Böschung, \"lose\"");
    s.press("decisionRename");
    REQUIRE(s.w.item().ledger[1].reason == "Böschung, \"lose\"");
    auto* reasons = s.w.find<QComboBox>("decisionReason");
    const int at = reasons->findText("Böschung, \"lose\"");
    REQUIRE(at > 0);
    reasons->setFocus();
    reasons->setCurrentIndex(at);
    emit reasons->activated(at);
    REQUIRE(table.topLevelItemCount() == 1);
    CHECK(table.topLevelItem(0)->text(0) == "Böschung, \"lose\"");
    reasons->setCurrentIndex(0);
    emit reasons->activated(0);
    REQUIRE(table.topLevelItemCount() == 3);
    // By how much they took, not by how it is written.
    const QHeaderView* head = table.header();
    QTest::mouseClick(head->viewport(), Qt::LeftButton, Qt::NoModifier,
                      {head->sectionViewportPosition(2) + 8, head->height() / 2});
    for (int i = 0; i + 1 < 3; ++i)
        CHECK(table.topLevelItem(i)->data(2, Qt::UserRole + 1).toDouble() <=
              table.topLevelItem(i + 1)->data(2, Qt::UserRole + 1).toDouble());
    const QString csv = s.w.find<app::ListsPane>("listsPane")->findChild<app::DecisionTable*>()->table();
    CHECK(csv.count('\n') == 4);
    CHECK(csv.contains("\"Böschung, \"\"lose\"\"\",\"out\"," +
                       QString::number(s.w.item().ledger[1].elements->count()) + ","));
    auto* state = s.w.find<QComboBox>("decisionState");
    state->setCurrentIndex(2);
    emit state->activated(2);
    CHECK(table.topLevelItemCount() == 0);
}

TEST_CASE("GuardsKeptSelectionsAndStepsHaveTheirTables", "[window]") {
    Listed s;
    s.run("select.rectangle");
    s.drag({s.pixel(-2, 20), s.pixel(2, 22)});
    const ElementSet chosen = s.selection();
    s.run("decide.guard");
    REQUIRE(s.w.item().guards.size() == 1);
    s.run("view.guards");
    QTreeWidget& guards = s.rows("guard");
    REQUIRE(guards.topLevelItemCount() == 1);
    CHECK(guards.topLevelItem(0)->data(1, Qt::UserRole + 1).toULongLong() == chosen.count());
    s.click(guards, 0);
    s.press("guardLift");
    CHECK(s.w.item().guards.empty());
    CHECK(guards.topLevelItemCount() == 0);

    s.run("view.steps");
    QTreeWidget& steps = s.rows("step");
    const int all = steps.topLevelItemCount();
    REQUIRE(all > 6);
    // The site as it was when it was opened.
    steps.scrollToItem(steps.topLevelItem(1));
    s.click(steps, 1);
    s.press("stepGo");
    CHECK(s.w.item().ledger.empty());
    CHECK(s.w.find<QLabel>("stepSaid")->text().contains(QString::number(all - 2) + " taken back"));
    steps.scrollToItem(steps.topLevelItem(all - 1));
    s.click(steps, all - 1);
    s.press("stepGo");
    CHECK(s.w.item().ledger.size() == 3);
    CHECK(s.w.item().guards.empty());
    // The key closes what it opened.
    s.run("view.steps");
    CHECK_FALSE(s.w.find<app::ListsPane>("listsPane")->isVisible());
}

TEST_CASE("AKeptSelectionIsUsedRenamedAndDropped", "[window]") {
    OpenScan s;
    s.run("select.rectangle");
    s.drag({s.pixel(-2, 10), s.pixel(2, 14)});
    const ElementSet chosen = s.selection();
    const std::uint64_t item = s.w.item().id;
    s.w.document().apply("Keep", [](const site::Site& site) { return site::keep_selection(site, "Sill"); });
    s.run("select.clear");
    CHECK(s.w.site().selection.empty());
    s.run("view.kept_selections");
    auto* rows = s.w.find<QTreeWidget>("keptRows");
    REQUIRE(rows->topLevelItemCount() == 1);
    const QRect at = rows->visualItemRect(rows->topLevelItem(0));
    QTest::mouseClick(rows->viewport(), Qt::LeftButton, Qt::NoModifier, at.center());
    QTest::keyClick(rows, Qt::Key_Return);
    REQUIRE(s.w.settle());
    CHECK(s.selection() == chosen);
    Listed::answer_next("Schwelle Süd");
    s.w.click(s.w.find<QPushButton>("keptRename"));
    CHECK(s.w.site().item(item)->kept.at(0).name == "Schwelle Süd");
    s.w.click(s.w.find<QPushButton>("keptDrop"));
    CHECK(s.w.site().item(item)->kept.empty());
    CHECK(rows->topLevelItemCount() == 0);
}
