// Tools and decisions that act on all that is shown: several items, by mouse.

#include <catch2/catch.hpp>

#include <QAbstractButton>
#include <QLabel>
#include <QMenu>
#include <QPushButton>
#include <QTimer>

#include "app/cards/work_card.h"
#include "app/look/theme.h"
#include "app/model/document.h"
#include "app/window/ledger_strip.h"
#include "core/select/fence.h"
#include "core/select/growth.h"
#include "open_chamber.h"

using namespace pristine;
using namespace pristine::test;

namespace {

// Both scans of the chamber are open; the first is in work.
struct TwoScans : OpenChamber {
    TwoScans() : OpenChamber(40'000) {
        REQUIRE(w.open(folder / "ashmere-lock" / "chamber-station-2.las", 2));
        w.document().apply("First", [](const site::Site& s) { return site::activate(s, s.items[0]->id); });
        run("view.top");
        run("view.all");
        run("select.rectangle");
    }
    void run(const char* id) {
        w.window().commands().trigger(QString::fromLatin1(id));
        REQUIRE(w.settle());
    }
    void drag_rectangle(QPoint a, QPoint b) {
        QTest::mousePress(&w.stage(), Qt::LeftButton, Qt::NoModifier, a);
        QMouseEvent move(QEvent::MouseMove, b, w.stage().mapToGlobal(b), Qt::NoButton, Qt::LeftButton,
                         Qt::NoModifier);
        QApplication::sendEvent(&w.stage(), &move);
        QTest::mouseRelease(&w.stage(), Qt::LeftButton, Qt::NoModifier, b);
        REQUIRE(w.settle());
    }
    // In the middle of the stage; what lies in it of each item.
    site::Parts fence_in_middle() {
        const QPoint c = w.stage().rect().center(), d(90, 60);
        const ViewFrame view = w.stage().frame();
        const auto corner = [](QPoint p) {
            return PixelPoint{static_cast<double>(p.x()), static_cast<double>(p.y())};
        };
        const QPoint a = c - d, b = c + d;
        const select::Fence fence{view,
                                  {corner(a), corner({b.x(), a.y()}), corner(b), corner({a.x(), b.y()})}};
        site::Parts expected;
        for (const site::ItemPtr& i : w.site().items)
            expected[i->id] =
                std::make_shared<const ElementSet>(select::fence(*i->cloud, fence, site::eligible(*i)));
        drag_rectangle(a, b);
        return expected;
    }
    int in_pick_colour() {
        const QImage image = w.stage().grab().toImage();
        int n = 0;
        for (int y = 0; y < image.height(); ++y)
            for (int x = 0; x < image.width(); ++x) {
                const QColor p = image.pixelColor(x, y);
                n += p.blue() > p.green() + 60 && p.red() > p.green() + 20;
            }
        return n;
    }
};

bool alike(const site::Parts& a, const site::Parts& b) {
    return std::equal(a.begin(), a.end(), b.begin(), b.end(), [](const auto& x, const auto& y) {
        return x.first == y.first && *x.second == *y.second;
    });
}

}  // namespace

TEST_CASE("AFenceTakesFromAllThatIsShownAndOneStepRemovesIt", "[window]") {
    TwoScans s;
    s.fence_in_middle();
    CHECK(s.w.site().selection.size() == 1);  // this item, unless it is said otherwise
    const int of_one = s.in_pick_colour();
    s.run("select.clear");

    auto* all = s.w.find<QAbstractButton>("items1");
    REQUIRE(all);
    REQUIRE(all->isVisible());
    s.w.click(all);
    const site::Parts expected = s.fence_in_middle();
    REQUIRE(site::count_of(expected) > 1000);
    CHECK(alike(s.w.site().selection, expected));
    CHECK(s.in_pick_colour() > of_one);
    const auto* where = s.w.find<QLabel>("decisionDetail");
    CHECK(where->text().startsWith("in 2 items: "));
    CHECK(where->isVisible());  // also beside long names
    CHECK(s.w.find<QLabel>("decisionCount")->text().contains(app::grouped(site::count_of(expected))));

    const std::size_t commits = s.w.document().history().commits().size();
    s.run("decide.remove");
    CHECK(s.w.document().history().commits().size() == commits + 1);
    for (const site::ItemPtr& i : s.w.site().items) CHECK(*i->removed == *expected.at(i->id));
    const auto cards = s.w.window().findChildren<app::LedgerCard*>();
    REQUIRE(cards.size() == 1);
    const std::uint64_t entry = cards.front()->entry();
    CHECK(site::items_of_decision(s.w.site(), entry).size() == 2);
    bool said = false;
    for (const QLabel* l : cards.front()->findChildren<QLabel*>()) said |= l->text() == "in 2 items";
    CHECK(said);

    // Lifted for the second scan only, by the menu of the card.
    const std::string second = s.w.site().items[1]->name;
    QTimer::singleShot(0, &s.w.window(), [&] {
        auto* menu = qobject_cast<QMenu*>(QApplication::activePopupWidget());
        REQUIRE(menu);
        for (QAction* a : menu->actions())
            if (a->text() == QString("Lift in %1 only").arg(QString::fromStdString(second))) a->trigger();
        menu->close();
    });
    QContextMenuEvent context(QContextMenuEvent::Mouse, {5, 5}, cards.front()->mapToGlobal(QPoint(5, 5)));
    QApplication::sendEvent(cards.front(), &context);
    REQUIRE(s.w.settle());
    CHECK(s.w.site().items[1]->removed->empty());
    CHECK_FALSE(s.w.site().items[0]->removed->empty());
    const auto now = s.w.window().findChildren<app::LedgerCard*>();
    said = false;
    for (const app::LedgerCard* c : now)
        for (const QLabel* l : c->findChildren<QLabel*>()) said |= l->text() == "in 1 of 2 items";
    CHECK(said);

    s.run("edit.undo");
    for (const site::ItemPtr& i : s.w.site().items) CHECK(*i->removed == *expected.at(i->id));
    s.run("edit.undo");
    for (const site::ItemPtr& i : s.w.site().items) CHECK(i->removed->empty());
    CHECK(alike(s.w.site().selection, expected));
}

TEST_CASE("WhetherToolsTakeFromAllIsRememberedWithTheTool", "[window]") {
    TwoScans s;
    auto* card = s.w.find<app::WorkCard>("workCard");
    s.run("select.all_shown");
    CHECK(card->all_shown());
    s.run("select.polygon");
    CHECK_FALSE(card->all_shown());
    s.run("select.rectangle");
    CHECK(card->all_shown());
}

TEST_CASE("GrowthInversionKeepAndHideActOnAllThatIsShown", "[window]") {
    TwoScans s;
    s.run("select.all_shown");
    const site::Parts first = s.fence_in_middle();
    const double step = s.w.find<app::WorkCard>("workCard")->reach();
    s.run("select.grow");
    for (const site::ItemPtr& i : s.w.site().items)
        CHECK(*s.w.site().selection_of(i->id) ==
              select::grown(*i->cloud, *first.at(i->id), site::eligible(*i), step));
    s.run("edit.undo");
    s.run("select.invert");
    for (const site::ItemPtr& i : s.w.site().items)
        CHECK(*s.w.site().selection_of(i->id) == ~*first.at(i->id));
    s.run("select.invert");
    CHECK(alike(s.w.site().selection, first));
    s.run("view.hide_selection");
    for (const site::ItemPtr& i : s.w.site().items)
        CHECK(i->shown() == i->cloud->size() - first.at(i->id)->count());
    s.run("view.show_all");
    for (const site::ItemPtr& i : s.w.site().items) CHECK(i->shown() == i->cloud->size());
    s.run("select.again");
    CHECK(alike(s.w.site().selection, first));
    s.run("decide.keep");
    for (const site::ItemPtr& i : s.w.site().items) CHECK(i->shown() == first.at(i->id)->count());
    s.run("edit.undo");
    s.run("decide.guard");
    for (const site::ItemPtr& i : s.w.site().items) CHECK(*i->guarded == *first.at(i->id));
}

TEST_CASE("ABrushTakesFromAllThatIsShownAndLockedItemsStay", "[window]") {
    TwoScans s;
    s.run("select.brush");
    s.run("select.all_shown");
    const QPoint c = s.w.stage().rect().center();
    s.drag_rectangle(c - QPoint(40, 0), c + QPoint(40, 0));
    CHECK(s.w.site().selection.size() == 2);
    s.run("select.clear");
    s.w.document().apply("Lock",
                         [](const site::Site& t) { return site::set_locked(t, t.items[1]->id, true); });
    s.drag_rectangle(c - QPoint(40, 0), c + QPoint(40, 0));
    CHECK(s.w.site().selection.size() == 1);
    CHECK(s.w.site().selection.contains(s.w.site().items[0]->id));
}
