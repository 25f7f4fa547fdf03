// The window from small to large screens: nothing is cut off, whatever card or pane is open.

#include <catch2/catch.hpp>

#include <QAbstractSpinBox>
#include <QComboBox>
#include <QLabel>
#include <QPushButton>
#include <QScrollArea>
#include <QSettings>
#include <QSplitter>
#include <QToolButton>

#include "app/cards/side_card.h"
#include "demo/ashmere.h"
#include "open_chamber.h"

using namespace pristine;
using test::WindowDriver;

namespace {

bool scrolls(const QWidget* w) {
    for (const QWidget* p = w->parentWidget(); p; p = p->parentWidget())
        if (qobject_cast<const QScrollArea*>(p)) return true;
    return false;
}

// What a person presses or types into, and is not all there.
QStringList cut_off(const QWidget& window) {
    QStringList out;
    for (const QWidget* w : window.findChildren<QWidget*>()) {
        const bool control = qobject_cast<const QPushButton*>(w) || qobject_cast<const QToolButton*>(w) ||
                             qobject_cast<const QComboBox*>(w) || qobject_cast<const QAbstractSpinBox*>(w);
        if (!control || !w->isVisible() || w->window() != &window) continue;
        if (QString(w->metaObject()->className()).contains("QtPrivate") || w->objectName().startsWith("qt_"))
            continue;
        const QRect in_window(w->mapTo(&window, QPoint(0, 0)), w->size()), in_parent = w->geometry();
        const QRect allowed = w->parentWidget()->rect().adjusted(-1, -1, 1, 1);
        const bool sideways = in_window.left() < 0 || in_window.right() > window.width() ||
                              in_parent.left() < allowed.left() || in_parent.right() > allowed.right();
        const bool upright = !scrolls(w) && (in_window.top() < 0 || in_window.bottom() > window.height());
        // A button shows its whole word.
        const auto* button = qobject_cast<const QPushButton*>(w);
        const bool word =
            button && !button->text().isEmpty() && button->icon().isNull() &&
            button->fontMetrics().horizontalAdvance(QString(button->text()).remove('&')) > button->width();
        if (sideways || upright || word)
            out << QStringLiteral("%1 '%2' %3,%4 %5x%6%7%8%9")
                       .arg(w->metaObject()->className(), button ? button->text() : w->objectName())
                       .arg(in_window.x())
                       .arg(in_window.y())
                       .arg(w->width())
                       .arg(w->height())
                       .arg(sideways ? " sideways" : "", upright ? " upright" : "", word ? " word" : "");
    }
    return out;
}

}  // namespace

TEST_CASE("EveryCardAndPaneFitsFromSmallToLargeScreens", "[window]") {
    test::OpenChamber s(30'000);
    WindowDriver& w = s.w;
    test::write_file(
        s.folder / "box.obj",
        "v 0 0 0\nv 1 0 0\nv 1 1 0\nv 0 1 0\nv 0 0 1\nv 1 0 1\nv 1 1 1\nv 0 1 1\nf 4 3 2 1\nf 5 6 7 8\n"
        "f 1 2 6 5\nf 2 3 7 6\nf 3 4 8 7\n");
    w.window().open_files({s.folder / "box.obj"});
    REQUIRE(w.wait([&] { return w.site().items.size() == 2 && !w.window().jobs().busy(); }));
    REQUIRE(w.settle());
    int looked = 0;
    for (const QSize size : {QSize(1024, 664), QSize(1280, 764), QSize(1920, 1040), QSize(3840, 2100)}) {
        const auto look = [&](const QString& what) {
            w.window().resize(size);
            QApplication::processEvents();
            QApplication::processEvents();
            INFO(what.toStdString() << " at " << size.width() << " x " << size.height());
            CHECK(w.window().size() == size);
            CHECK(cut_off(w.window()).join("; ").toStdString() == "");
            ++looked;
            // To be looked at: PRISTINE_WALK=DIR test_app "EveryCard*"
            if (const QString folder = qEnvironmentVariable("PRISTINE_WALK"); !folder.isEmpty())
                w.window().grab().save(QStringLiteral("%1/%2-%3-%4.png")
                                           .arg(folder)
                                           .arg(size.width())
                                           .arg(looked, 3, 10, QLatin1Char('0'))
                                           .arg(what));
        };
        look("the window");
        for (const char* card :
             {"select.rule", "select.objects", "select.tunnel", "tools.surface", "tools.measure"}) {
            w.document().apply("work",
                               [&](const site::Site& now) { return site::activate(now, now.items[0]->id); });
            w.window().commands().trigger(card);
            REQUIRE(w.wait([&] { return !w.window().jobs().busy(); }));
            look(card);
        }
        for (const char* card : {"tools.mesh", "tools.holes", "tools.align", "tools.markers"}) {
            w.document().apply("work",
                               [&](const site::Site& now) { return site::activate(now, now.items[1]->id); });
            w.window().commands().trigger(card);
            REQUIRE(w.wait([&] { return !w.window().jobs().busy(); }));
            look(card);
        }
        for (auto* c : w.window().findChildren<app::SideCard*>())
            if (c->is_open()) c->close_card();
        for (const char* tool : {"select.rectangle", "select.brush", "select.plane", "view.section",
                                 "view.clip", "view.pick", "view.line", "tools.relax", "view.volumes"}) {
            w.window().commands().trigger(tool);
            look(tool);
        }
        if (w.window().commands().find("view.volumes")->checked &&
            w.window().commands().find("view.volumes")->checked())
            w.window().commands().trigger("view.volumes");
        w.window().commands().trigger("select.rectangle");
        // The decisions, over the stage: beside each other or in two rows.
        w.document().apply("select", [&](const site::Site& now) {
            return site::select(now, ElementSet::all(now.active_item()->cloud->size()), site::Combine::New);
        });
        REQUIRE(w.settle());
        look("a selection");
        const auto* bar = w.find<QWidget>("decisionBar");
        CHECK(bar->isVisible());
        CHECK(w.stage().rect().contains(bar->geometry()));
        w.window().commands().trigger("select.clear");
    }
    CHECK(looked > 60);
}

TEST_CASE("ColumnsAreAsWideAsTheyWereLeft", "[window]") {
    const test::TemporaryFolder folder;
    WindowDriver w(folder / "home");
    auto* columns = w.find<QSplitter>("columns");
    columns->setSizes({320, 600, 360});
    QApplication::processEvents();
    // As a hand that drags a handle does.
    emit columns->splitterMoved(320, 1);
    const QList<int> left = columns->sizes();
    w.close();
    w.open_new();
    QApplication::processEvents();
    CHECK(w.find<QSplitter>("columns")->sizes() == left);
    QSettings().remove("window/columns");
    w.close();
}
