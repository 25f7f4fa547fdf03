// A whole job by mouse and keys alone: everything that a hand does is counted.

#pragma once

#include <QAbstractItemView>
#include <QCheckBox>
#include <QComboBox>
#include <QFileDialog>
#include <QLabel>
#include <QLineEdit>
#include <QTimer>
#include <QTreeWidget>
#include <catch2/catch.hpp>
#include <iostream>

#include "app/cards/rule_card.h"
#include "window_driver.h"

namespace pristine::test {

// Everything that a hand does is counted: clicks and drags, keys with a meaning, words and numbers typed.
struct Job {
    explicit Job(const std::string& what) : name(what), w(folder / "home") {}
    ~Job() { w.close(); }
    void done() {
        std::cout << name << ": " << clicks << " clicks, " << keys << " keys, " << typed << " typed\n";
    }
    void settle() {
        QTest::qWait(20);  // short delays of cards, so that not every turn of a wheel computes
        REQUIRE(w.settle());
    }
    void key(int k, Qt::KeyboardModifiers m = Qt::NoModifier) {
        ++keys;
        // There is no window manager here that would give the focus back after a dialog.
        if (!QApplication::activeWindow()) {
            QApplication::setActiveWindow(&w.window());
            w.stage().setFocus();
        }
        QWidget* const to = QApplication::activePopupWidget() ? QApplication::activePopupWidget()
                            : QApplication::focusWidget()     ? QApplication::focusWidget()
                                                              : &w.stage();
        QTest::keyClick(to, static_cast<Qt::Key>(k), m);
        settle();
    }
    // A key for the stage, wherever the focus is.
    void command(int k, Qt::KeyboardModifiers m = Qt::NoModifier) {
        w.stage().setFocus();
        key(k, m);
    }
    void click(QWidget* on, std::optional<QPoint> at = std::nullopt) {
        REQUIRE(on);
        // As a person would: until what is computed is there.
        CAPTURE(on->objectName().toStdString());
        REQUIRE(w.wait([&] { return on->isVisible() && on->isEnabled(); }, 20000));
        ++clicks;
        QTest::mouseClick(on, Qt::LeftButton, Qt::NoModifier, at.value_or(on->rect().center()));
        settle();
    }
    void click(const char* name_of) { click(w.find<QWidget>(QString::fromLatin1(name_of))); }
    void tick(const char* name_of) { click(w.find<QCheckBox>(QString::fromLatin1(name_of)), QPoint(8, 8)); }
    // Opens the list and clicks a row of it.
    void choose(const char* combo, const QString& text) {
        auto* c = w.find<QComboBox>(QString::fromLatin1(combo));
        click(c);
        QTest::qWait(QApplication::doubleClickInterval() + 50);  // a click that follows at once is none
        const int row = c->findText(text, Qt::MatchStartsWith);
        CAPTURE(text.toStdString());
        REQUIRE(row >= 0);
        const QModelIndex index = c->model()->index(row, c->modelColumn(), c->rootModelIndex());
        c->view()->scrollTo(index);
        click(c->view()->viewport(), c->view()->visualRect(index).center());
        REQUIRE(c->currentIndex() == row);
    }
    void drag(QPoint from, QPoint to) {
        ++clicks;
        w.drag(Qt::LeftButton, from, to);
        settle();
    }
    // The rule has its values and a range.
    void wait_for_rule(const char* id) {
        auto* card = w.window().findChild<app::RuleCard*>();
        UNSCOPED_INFO("rule: " << w.find<QLabel>("ruleState")->text().toStdString());
        REQUIRE(w.wait(
            [&] {
                const auto step = card->step();
                return step && step->score == id && !w.window().jobs().busy();
            },
            20000));
        settle();
    }
    void type(QWidget* into, const QString& text) {
        ++typed;
        into->setFocus();
        QTest::keyClick(into, Qt::Key_A, Qt::ControlModifier);
        QTest::keyClicks(into, text);
        QTest::keyClick(into, Qt::Key_Return);
        settle();
    }
    // The next dialog for files is answered by its name, and Enter.
    void answer(const std::filesystem::path& file) {
        ++typed;
        auto* poll = new QTimer(&w.window());
        QObject::connect(poll, &QTimer::timeout, poll, [poll, file] {
            auto* dialog = qobject_cast<QFileDialog*>(QApplication::activeModalWidget());
            if (!dialog) return;
            poll->stop();
            poll->deleteLater();
            auto* line = dialog->findChild<QLineEdit*>("fileNameEdit");
            line->setText(QString::fromStdString(file.string()));
            QTest::keyClick(line, Qt::Key_Return);
        });
        poll->start(30);
    }
    void open(const std::filesystem::path& file, std::size_t items) {
        answer(file);
        command(Qt::Key_O, Qt::ControlModifier);
        REQUIRE(w.wait([&] { return w.site().items.size() == items && !w.window().jobs().busy(); }));
        settle();
    }
    void export_to(const std::filesystem::path& file) {
        command(Qt::Key_E, Qt::ControlModifier);
        type(w.find<QLineEdit>("exportName"), QString::fromStdString(file.string()));
        REQUIRE(w.wait([&] { return std::filesystem::exists(file) && !w.window().jobs().busy(); }));
        settle();
    }
    // A command of a menu: the menu, and the command in it.
    void menu(const char* command_id) {
        w.window().commands().trigger(QString::fromLatin1(command_id));
        clicks += 2;
        settle();
    }
    // A row of the contents: the item comes in work.
    void take(const QString& item) {
        auto* tree = w.find<QTreeWidget>("contentsTree");
        for (QTreeWidgetItemIterator it(tree); *it; ++it)
            if ((*it)->text(1) == item || (*it)->text(0) == item || (*it)->text(2) == item) {
                click(tree->viewport(), tree->visualItemRect(*it).center());
                return;
            }
        FAIL("there is no row " << item.toStdString());
    }
    // Selected or not, what is said at the bar is done.
    void remove() { click("decideRemove"); }
    QPoint pixel(const Vec3& place) { return w.point(w.stage().frame().project(place)); }

    std::string name;
    test::TemporaryFolder folder;
    WindowDriver w;
    int clicks = 0, keys = 0, typed = 0;
};

}  // namespace pristine::test
