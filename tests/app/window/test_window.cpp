// One whole job in a real window, by mouse and keys, checked on the document and on the pixels; fences and
// views.

#include <catch2/catch.hpp>

#include <QComboBox>
#include <QLabel>
#include <QPushButton>
#include <QToolButton>
#include <QTreeWidget>

#include "app/cards/side_card.h"
#include "app/window/command_search.h"
#include "core/base/file.h"
#include "core/io/las/las_header.h"
#include "core/io/mesh/mesh_io.h"
#include "demo/ashmere.h"
#include "demo/solids.h"
#include "demo_scan.h"
#include "window_driver.h"

using namespace pristine;
using test::demo_scan;
using test::WindowDriver;

namespace {

// A fence round the first worker, as seen in the present view.
Polygon round_worker(app::Stage& stage) {
    const Vec3 feet = demo::workers_at(0)[0];
    const ViewFrame f = stage.frame();
    const auto at = [&](double side, double up) { return f.project(feet + f.right * side + Vec3{0, 0, up}); };
    return {at(-0.6, 0.02), at(-0.6, 1.2), at(-0.2, 1.95), at(0.2, 1.95), at(0.6, 1.2), at(0.6, 0.02)};
}

QRect rect_of(const Polygon& p) {
    const PixelRect r = bounds(p);
    return QRect(QPoint(static_cast<int>(r.x0), static_cast<int>(r.y0)),
                 QPoint(static_cast<int>(r.x1), static_cast<int>(r.y1)));
}

QPushButton* ledger_toggle(WindowDriver& w) {
    return w.find<QPushButton>(QStringLiteral("ledgerToggle%1").arg(w.item().ledger.at(0).id));
}

}  // namespace

TEST_CASE("ATechnicianCleansAScanByMouseAndHandsItOver", "[window]") {
    const test::TemporaryFolder folder;
    const auto scan = demo_scan(folder);
    WindowDriver w(folder / "home");
    REQUIRE(w.open(scan));
    REQUIRE(w.item().cloud->size() >= 150'000);

    // Side view by its button, then closer to the worker with the wheel.
    w.click(w.find<QToolButton>("view.left.button"));
    REQUIRE(w.settle());
    CHECK_FALSE(w.stage().camera().perspective);
    w.stage().look_at([] {
        Box3 b;
        const Vec3 feet = demo::workers_at(0)[0];
        b.add(feet + Vec3{-2, -2, -0.5});
        b.add(feet + Vec3{2, 2, 2.5});
        return b;
    }());
    REQUIRE(w.settle());
    const QImage untouched = w.stage_picture();

    const ViewFrame view = w.stage().frame();
    const Polygon corners = w.draw_polygon(round_worker(w.stage()));
    REQUIRE(w.wait([&] { return w.site().selected() > 0 && w.document().numbers().ready; }));
    const ElementSet expected =
        test::reference_fence(*w.item().cloud, {view, corners}, ElementSet::all(w.item().cloud->size()));
    CHECK(w.site().selected() == expected.count());
    CHECK(*w.site().selection_in_work() == expected);
    const QString shown = QLocale(QLocale::English).toString(static_cast<qulonglong>(expected.count()));
    CHECK(w.find<QLabel>("decisionCount")->text().startsWith(shown + " points"));
    REQUIRE(w.settle());
    const QRect there = rect_of(corners);
    const QImage selected = w.stage_picture();
    CHECK(test::differing_pixels(untouched, selected, there) > there.width() * there.height() / 4);

    // Remove by the decision bar.
    w.click(w.find<QToolButton>("decideRemove"));
    REQUIRE(w.settle());
    CHECK(*w.item().removed == expected);
    CHECK(w.stage().hasFocus());  // the hands are still there
    CHECK(w.site().selection_in_work() == nullptr);
    const QImage removed = w.stage_picture();
    CHECK(test::differing_pixels(untouched, removed, there) > there.width() * there.height() / 8);
    CHECK(test::differing_pixels(untouched, removed, QRect(2, 60, 40, 100)) ==
          0);  // elsewhere nothing changed

    // Undo and redo by keys.
    w.key(Qt::Key_Z, Qt::ControlModifier);
    CHECK(w.item().removed->empty());
    CHECK(w.site().selected() == expected.count());
    w.key(Qt::Key_Z, Qt::ControlModifier);
    REQUIRE(w.settle());
    CHECK(w.site().selection_in_work() == nullptr);
    CHECK(w.stage_picture() == untouched);
    w.key(Qt::Key_Y, Qt::ControlModifier);
    w.key(Qt::Key_Y, Qt::ControlModifier);
    REQUIRE(w.settle());
    CHECK(w.stage_picture() == removed);

    // Lift from the ledger, and apply again.
    w.click(ledger_toggle(w));
    REQUIRE(w.settle());
    CHECK(w.item().removed->empty());
    CHECK(w.stage_picture() == untouched);
    w.click(ledger_toggle(w));
    REQUIRE(w.settle());
    CHECK(*w.item().removed == expected);
    CHECK(w.item().ledger.size() == 1);
    CHECK(w.item().ledger[0].picture != nullptr);

    // Save, quit, open again: ledger and view as before.
    const auto project = folder / "lock.pristine";
    w.document().save_as(project, false);
    REQUIRE(w.wait([&] { return w.document().has_file(); }));
    REQUIRE(w.settle());
    const render::Camera camera = w.stage().camera();
    w.close();
    std::filesystem::rename(scan, folder / "moved.las");  // the project needs nothing of the file any more
    w.open_new();
    REQUIRE(w.open(project));
    CHECK(*w.item().removed == expected);
    CHECK(w.item().ledger[0].reason == "Person");
    CHECK(w.stage().camera() == camera);
    CHECK(w.stage_picture() == removed);
    CHECK(w.document().history().can_undo());
    CHECK(w.document().unsaved_at_open() == 0);

    // Export, and compare with the original, record by record.
    w.document().export_shown(folder / "clean.las", false);
    REQUIRE(
        w.wait([&] { return std::filesystem::exists(folder / "clean.las") && !w.window().jobs().busy(); }));
    const std::string in = test::read_file(folder / "moved.las"), out = test::read_file(folder / "clean.las");
    const io::LasHeader h = io::read_las_header(InputFile(folder / "moved.las"));
    std::vector<bool> gone(h.point_count, false);
    expected.for_each(
        [&](std::uint64_t e) { gone[w.item().cloud->order()->page(e / kPageSize)[e % kPageSize]] = true; });
    std::string left;
    for (std::uint64_t i = 0; i < h.point_count; ++i)
        if (!gone[i]) left.append(in, h.points_offset + i * h.record_bytes, h.record_bytes);
    CHECK((out.substr(h.points_offset) == left));
    CHECK(io::read_las_header(InputFile(folder / "clean.las")).point_count ==
          h.point_count - expected.count());
    w.close();
}

TEST_CASE("TheViewTurnsMovesAndZoomsWhileAFenceIsHalfDrawn", "[window]") {
    const test::TemporaryFolder folder;
    WindowDriver w(folder / "home");
    REQUIRE(w.open(demo_scan(folder, 60'000)));
    const QPoint middle(w.stage().width() / 2, w.stage().height() / 2);
    for (const QPoint d : {QPoint(-60, -40), QPoint(60, -40), QPoint(60, 50)})
        QTest::mouseClick(&w.stage(), Qt::LeftButton, Qt::NoModifier, middle + d);
    REQUIRE(w.stage().tool()->begun());
    const Polygon before = w.stage().tool()->outline(w.stage().frame());

    const render::Camera start = w.stage().camera();
    const Vec3 under = w.stage().anchor({static_cast<double>(middle.x()), static_cast<double>(middle.y())});
    w.right_drag(middle, middle + QPoint(80, 30));
    CHECK(w.stage().camera().yaw_deg != start.yaw_deg);
    const PixelPoint held = w.stage().frame().project(under);
    CHECK(held.x == Approx(middle.x()).margin(0.5));
    CHECK(held.y == Approx(middle.y()).margin(0.5));
    w.drag(Qt::MiddleButton, middle, middle + QPoint(25, 10));
    CHECK(w.stage().frame().project(under).x == Approx(held.x + 25).margin(1.5));
    REQUIRE(w.settle());
    const double focus = w.stage().camera().focus;
    QWheelEvent wheel(middle, w.stage().mapToGlobal(middle), {}, QPoint(0, 240), Qt::NoButton, Qt::NoModifier,
                      Qt::NoScrollPhase, false);
    QApplication::sendEvent(&w.stage(), &wheel);
    CHECK(w.stage().camera().focus < focus * 0.8);
    CHECK(w.stage().tool()->begun());

    // Peek: look round with V held, release, and the view and the fence are exactly as before.
    w.stage().set_camera(start);
    QTest::keyPress(&w.stage(), Qt::Key_V);
    CHECK(w.stage().peeking());
    w.right_drag(middle, middle + QPoint(-200, 60));
    CHECK_FALSE(w.stage().camera() == start);
    QTest::keyRelease(&w.stage(), Qt::Key_V);
    CHECK(w.stage().camera() == start);
    const Polygon after = w.stage().tool()->outline(w.stage().frame());
    for (std::size_t i = 0; i < 3; ++i)
        CHECK(std::hypot(after[i].x - before[i].x, after[i].y - before[i].y) < 1e-6);

    w.key(Qt::Key_Backspace);
    w.key(Qt::Key_Return);
    CHECK(w.site().selection_in_work() == nullptr);  // two corners close nothing
    w.key(Qt::Key_Escape);
    CHECK_FALSE(w.stage().tool()->begun());
    w.close();
}

TEST_CASE("FencesAddAndTakeAwayByCardAndByModifier", "[window]") {
    const test::TemporaryFolder folder;
    WindowDriver w(folder / "home");
    REQUIRE(w.open(demo_scan(folder, 60'000)));
    w.click(w.find<QToolButton>("view.top.button"));
    REQUIRE(w.settle());
    w.key(Qt::Key_R);
    const QPoint m(w.stage().width() / 2, w.stage().height() / 2);
    const auto commits = [&] { return w.document().history().commits().size(); };
    const auto drag = [&](QPoint a, QPoint b, Qt::KeyboardModifiers k = Qt::NoModifier) {
        const auto before = commits();
        QTest::mousePress(&w.stage(), Qt::LeftButton, k, a);
        QMouseEvent e(QEvent::MouseMove, b, w.stage().mapToGlobal(b), Qt::NoButton, Qt::LeftButton, k);
        QApplication::sendEvent(&w.stage(), &e);
        QTest::mouseRelease(&w.stage(), Qt::LeftButton, k, b);
        REQUIRE(w.wait([&] { return commits() > before && !w.window().jobs().busy(); }));
    };
    drag(m - QPoint(30, 60), m + QPoint(30, 0));
    const ElementSet first = *w.site().selection_in_work();
    drag(m - QPoint(30, 0), m + QPoint(30, 60), Qt::ShiftModifier);
    const ElementSet both = *w.site().selection_in_work();
    CHECK((first - both).empty());
    CHECK(both.count() > first.count());
    w.click(w.find<QPushButton>("combine2"));
    drag(m - QPoint(30, 60), m + QPoint(30, 0));
    CHECK((*w.site().selection_in_work() & first).empty());
    CHECK((*w.site().selection_in_work() | first) == both);
    w.close();
}

TEST_CASE("AFenceCanBeDrawnWithTheKeyboardAlone", "[window]") {
    const test::TemporaryFolder folder;
    WindowDriver w(folder / "home");
    REQUIRE(w.open(demo_scan(folder, 60'000)));
    w.key(Qt::Key_1);
    REQUIRE(w.settle());
    const auto step = [&](Qt::Key k, int n) {
        for (int i = 0; i < n; ++i) w.key(k, Qt::ControlModifier);
    };
    step(Qt::Key_Left, 4);
    w.key(Qt::Key_Space);
    step(Qt::Key_Right, 8);
    w.key(Qt::Key_Space);
    step(Qt::Key_Down, 6);
    w.key(Qt::Key_Space);
    w.key(Qt::Key_Return);
    REQUIRE(w.wait([&] { return w.site().selected() > 0; }));
    w.key(Qt::Key_Delete);
    CHECK(w.item().ledger.size() == 1);
    w.close();
}

TEST_CASE("PointsCanBeColouredByAnyColumnOfTheFile", "[window]") {
    const test::TemporaryFolder folder;
    WindowDriver w(folder / "home");
    REQUIRE(w.open(demo_scan(folder, 60'000)));
    const QImage rgb = w.stage_picture();
    auto* colour = w.find<QComboBox>("colourBy");
    const auto choose = [&](const QString& text) {
        colour->setFocus();
        colour->setCurrentIndex(colour->findText(text));
        emit colour->activated(colour->currentIndex());
        return w.settle();
    };
    REQUIRE(colour->findText("truth") >= 0);
    CHECK(colour->findText("x") < 0);
    REQUIRE(choose("truth"));
    REQUIRE(w.settle());
    CHECK(w.item().style.colour_by == site::ColourBy::Column);
    const QImage truth = w.stage_picture();
    CHECK(test::differing_pixels(rgb, truth, truth.rect()) > 5000);
    REQUIRE(choose("Height"));
    CHECK(test::differing_pixels(truth, w.stage_picture(), truth.rect()) > 5000);
    REQUIRE(choose("Intensity"));
    w.key(Qt::Key_Z, Qt::ControlModifier);
    w.key(Qt::Key_Z, Qt::ControlModifier);
    REQUIRE(w.settle());
    REQUIRE(w.settle());
    CHECK(w.stage_picture() == truth);
    w.close();
}

TEST_CASE("EachAxisViewKeepsItsProjection", "[window]") {
    const test::TemporaryFolder folder;
    WindowDriver w(folder / "home");
    REQUIRE(w.open(demo_scan(folder, 20'000)));
    w.key(Qt::Key_2);
    CHECK_FALSE(w.stage().camera().perspective);
    w.key(Qt::Key_P);
    CHECK(w.stage().camera().perspective);
    w.key(Qt::Key_4);
    CHECK_FALSE(w.stage().camera().perspective);
    w.key(Qt::Key_2);
    CHECK(w.stage().camera().perspective);
    w.key(Qt::Key_Left, Qt::AltModifier);  // the earlier view: from the left, parallel
    CHECK_FALSE(w.stage().camera().perspective);
    CHECK(w.stage().camera().yaw_deg == 90);
    w.close();
}

TEST_CASE("NoFenceCanBeBegunWhereThereIsNothing", "[window]") {
    const test::TemporaryFolder folder;
    WindowDriver w(folder / "home");
    QString why;
    QObject::connect(&w.stage(), &app::Stage::refused, [&](const QString& text) { why = text; });
    QTest::mouseClick(&w.stage(), Qt::LeftButton, Qt::NoModifier, {200, 200});
    CHECK_FALSE(w.stage().tool()->begun());
    CHECK(why.startsWith("Open a scan first"));
    why.clear();
    w.key(Qt::Key_Right, Qt::ControlModifier);
    w.key(Qt::Key_Space);
    CHECK_FALSE(w.stage().tool()->begun());
    CHECK(why.startsWith("Open a scan first"));
    w.close();
}

TEST_CASE("HidingAndLockingByTheContents", "[window]") {
    const test::TemporaryFolder folder;
    WindowDriver w(folder / "home");
    REQUIRE(w.open(demo_scan(folder, 60'000)));
    auto* tree = w.find<QTreeWidget>("contentsTree");
    const QImage shown = w.stage_picture();
    tree->setFocus();
    QTest::keyClick(tree, Qt::Key_Space);
    CHECK_FALSE(w.item().visible);
    REQUIRE(w.settle());
    CHECK(w.stage_picture() != shown);
    QTest::keyClick(tree, Qt::Key_Space);
    CHECK(w.item().visible);
    QTest::keyClick(tree, Qt::Key_L);
    CHECK(w.item().locked);
    w.draw_polygon({{100, 100}, {400, 100}, {400, 300}});
    REQUIRE(w.settle());
    CHECK(w.site().selection_in_work() == nullptr);
    w.close();
}

TEST_CASE("TheWindowFitsOnASmallScreen", "[window]") {
    test::TemporaryFolder folder;
    WindowDriver w(folder / "home");
    for (QWidget* c : w.window().findChildren<QWidget*>())
        if (c->isVisible() && c->minimumSizeHint().height() > 400)
            UNSCOPED_INFO(c->objectName().toStdString() << " " << c->metaObject()->className() << " needs "
                                                        << c->minimumSizeHint().height());
    CHECK(w.window().minimumSizeHint().height() <= 760);
    CHECK(w.window().minimumSizeHint().width() <= 1280);
    // Whatever card is open.
    io::write_mesh(demo::ball(8, 1), folder / "ball.ply", false, "m");
    REQUIRE(w.open(folder / "ball.ply"));
    for (const char* id :
         {"tools.mesh", "tools.holes", "tools.align", "tools.measure", "tools.surface", "select.rule"}) {
        w.window().commands().trigger(id);
        QApplication::processEvents();
        INFO(id);
        int open = 0;
        for (const app::SideCard* card : w.window().findChildren<app::SideCard*>()) open += card->isVisible();
        CHECK(open == 1);
        CHECK(w.window().minimumSizeHint().height() <= 760);
    }
    w.close();
}
