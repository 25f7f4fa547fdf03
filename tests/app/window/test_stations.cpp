// Stations in the stage, pressed and given by hand; and the marks in the corner: north, a scale, the view's
// name.

#include <catch2/catch.hpp>

#include <QDoubleSpinBox>
#include <QMenu>
#include <QPushButton>
#include <QToolButton>
#include <cmath>

#include "app/look/lengths.h"
#include "app/panes/panorama_pane.h"
#include "app/window/station_dialog.h"
#include "app/window/view_marks.h"
#include "core/cloud/stations.h"
#include "core/io/cloud_io.h"
#include "demo/ashmere.h"
#include "demo/trials.h"
#include "open_scan.h"

using namespace pristine;
using test::OpenScan;
using test::WindowDriver;

namespace {

// Two scans of one file, each with its station.
struct Scans {
    test::TemporaryFolder folder;
    WindowDriver w;
    Scans() : w(folder / "home") {
        QSettings().remove("view/stations");
        std::vector<demo::Truth> ignored;
        const demo::Trial t = demo::make_trial("passers", 17, 0.05);
        REQUIRE(t.stations.size() > 1);
        io::write_cloud({{demo::cloud_of(t, ignored)}}, folder / "hall.e57");
        REQUIRE(w.open(folder / "hall.e57", t.stations.size()));
        w.key(Qt::Key_1);
        REQUIRE(w.settle());
    }
    ~Scans() { w.close(); }
    QToolButton* label(const site::Item& i) { return w.find<QToolButton>(QString("station%1_0").arg(i.id)); }
    // Presses a name, and chooses in the menu that opens.
    void press(const site::Item& i, const QString& entry) {
        w.click(label(i));
        auto* menu = w.window().findChild<QMenu*>("stationMenu");
        REQUIRE(menu);
        bool found = false;
        for (QAction* a : menu->actions())
            if (a->text() == entry) {
                found = true;
                a->trigger();
            }
        CHECK(found);
        menu->close();
        REQUIRE(w.settle());
    }
};

}  // namespace

TEST_CASE("StationsStandInTheStageAndCanBePressed", "[window]") {
    Scans s;
    const site::Item& first = *s.w.site().items[0];
    REQUIRE(first.cloud->stations().size() == 1);
    const Vec3 place = first.cloud->stations()[0].position;
    QToolButton* label = s.label(first);
    REQUIRE(label);
    CHECK(label->isVisible());
    // Just above its place.
    const PixelPoint p = s.w.stage().frame().project(place);
    CHECK(std::fabs(label->geometry().center().x() - p.x) < 3);
    CHECK(label->geometry().bottom() < p.y);
    CHECK(p.y - label->geometry().bottom() < 20);
    // The axes: in their colours, beside the place.
    const QImage with = s.w.stage().grab().toImage();
    s.w.window().commands().trigger("view.stations");
    REQUIRE(s.w.settle());
    CHECK(s.label(first) == nullptr);
    const QRect round = QRect(s.w.point(p) - QPoint(25, 25), QSize(50, 50)) & with.rect();
    CHECK(test::differing_pixels(with, s.w.stage().grab().toImage(), round) > 10);
    s.w.window().commands().trigger("view.stations");
    REQUIRE(s.w.settle());

    s.press(first, "Stand here");
    CHECK(norm(s.w.stage().camera().eye - place) < 1e-6);
    CHECK(s.w.stage().camera().perspective);
    s.w.key(Qt::Key_1);
    REQUIRE(s.w.settle());

    const site::ItemPtr second = s.w.site().items[1];
    s.press(*second, "Panorama from here");
    REQUIRE(s.w.wait([&] { return s.w.window().findChild<app::PanoramaPane*>()->seen() != nullptr; }));
    CHECK(s.w.site().active == second->id);
    CHECK(norm(s.w.window().findChild<app::PanoramaPane*>()->frame().station -
               second->cloud->stations()[0].position) < 1e-6);
    s.w.window().commands().trigger("view.panorama");

    s.press(*second, "Select what it saw");
    CHECK(s.w.site().selected() == second->cloud->size());
    s.press(*second, "Show only what it saw");
    for (const site::ItemPtr& i : s.w.site().items) CHECK(i->visible == (i->id == second->id));
    CHECK(s.label(first) == nullptr);  // its item is hidden
    s.w.window().commands().trigger("edit.undo");
    REQUIRE(s.w.settle());
    CHECK(s.label(*s.w.site().items[0]) != nullptr);
}

TEST_CASE("AStationIsGivenAboveAPointThatIsPicked", "[window]") {
    OpenScan s;
    QSettings().remove("view/stations");
    CHECK(s.cloud().stations().empty());
    s.run("item.station");
    auto* dialog = s.w.window().findChild<app::StationDialog*>();
    REQUIRE(dialog);
    QTest::mouseClick(dialog->findChild<QPushButton*>("stationPick"), Qt::LeftButton);
    const QPoint at = s.pixel(0, 12);
    QTest::mouseClick(&s.w.stage(), Qt::LeftButton, Qt::NoModifier, at);
    CHECK(s.w.site().selected() == 0);  // no tool has seen the click
    const double e = dialog->findChild<QDoubleSpinBox*>("stationE")->value();
    CHECK(std::fabs(e - demo::kSiteOrigin.x) < 0.3);
    CHECK(dialog->findChild<QDoubleSpinBox*>("stationH")->value() > demo::kSiteOrigin.z + 1.4);
    QTest::mouseClick(dialog->findChild<QPushButton*>("stationSet"), Qt::LeftButton);
    REQUIRE(s.w.settle());
    REQUIRE(s.cloud().stations().size() == 1);
    CHECK(std::fabs(s.cloud().stations()[0].position.x - e) < 1e-3);
    // It stands in the stage, and undo takes it away.
    const QString name = QString("station%1_0").arg(s.w.item().id);
    REQUIRE(s.w.find<QToolButton>(name));
    s.run("edit.undo");
    CHECK(s.cloud().stations().empty());
    REQUIRE(s.w.wait([&] { return s.w.find<QToolButton>(name) == nullptr; }));
}

TEST_CASE("ACentreOfTurnsHoldsUntilItIsReleased", "[window]") {
    OpenScan s;
    const QPoint at = s.pixel(0, 12);
    QMouseEvent move(QEvent::MouseMove, at, s.w.stage().mapToGlobal(at), Qt::NoButton, Qt::NoButton,
                     Qt::NoModifier);
    QApplication::sendEvent(&s.w.stage(), &move);
    const QImage before = s.w.stage().grab().toImage();
    s.w.key(Qt::Key_V, Qt::ShiftModifier);
    REQUIRE(s.w.settle());
    REQUIRE(s.w.stage().fixed_centre());
    const Vec3 centre = *s.w.stage().fixed_centre();
    CHECK(test::differing_pixels(before, s.w.stage().grab().toImage(),
                                 QRect(at - QPoint(20, 20), QSize(40, 40))) > 5);
    // Whatever lies under the pointer: the centre keeps its place in the view.
    const PixelPoint p = s.w.stage().frame().project(centre);
    const QSize size = s.w.stage().size();
    s.w.right_drag({size.width() / 2, size.height() - 30}, {size.width() / 2 + 80, size.height() - 60});
    REQUIRE(s.w.settle());
    PixelPoint now = s.w.stage().frame().project(centre);
    CHECK(std::hypot(now.x - p.x, now.y - p.y) < 0.5);
    s.w.key(Qt::Key_Left);
    REQUIRE(s.w.settle());
    now = s.w.stage().frame().project(centre);
    CHECK(std::hypot(now.x - p.x, now.y - p.y) < 0.5);
    s.w.key(Qt::Key_V, Qt::ShiftModifier);
    CHECK_FALSE(s.w.stage().fixed_centre());
}

TEST_CASE("TheCornerSaysNorthScaleAndTheNameOfTheView", "[window]") {
    OpenScan s;
    auto* marks = s.w.window().findChild<app::ViewMarks*>();
    REQUIRE(marks);
    CHECK(marks->isVisible());
    for (const bool perspective : {false, true}) {
        s.w.stage().set_perspective(perspective);
        REQUIRE(s.w.settle());
        const auto bar = marks->bar();
        REQUIRE(bar);
        CHECK(bar->pixels > 45);
        CHECK(bar->pixels <= 125);
        CHECK(bar->text.contains(" m"));
        CHECK(bar->text.contains("in the middle") == perspective);
        // Two places of the view's middle, so far from each other, are so many pixels apart.
        const render::Camera& c = s.w.stage().camera();
        const Vec3 middle = c.eye + c.ahead() * c.focus;
        const double data = app::Lengths(s.w.site()).data(bar->length);
        const ViewFrame view = s.w.stage().frame();
        const PixelPoint a = view.project(middle), b = view.project(middle + c.right() * data);
        CHECK(std::fabs(std::hypot(b.x - a.x, b.y - a.y) - bar->pixels) < 0.01 * bar->pixels);
        CHECK(marks->view_name() == (perspective ? "From above · perspective" : "From above · parallel"));
    }
    CHECK(marks->north().x() == Approx(0).margin(1e-9));
    CHECK(marks->north().y() == Approx(-1));
    // The button of the side that is looked at is lit; of none after a turn.
    auto* top = s.w.find<QToolButton>("view.top.button");
    auto* front = s.w.find<QToolButton>("view.front.button");
    CHECK(top->isChecked());
    s.w.click(front);
    REQUIRE(s.w.settle());
    CHECK(front->isChecked());
    CHECK_FALSE(top->isChecked());
    CHECK(std::hypot(marks->north().x(), marks->north().y()) < 0.05);  // right ahead
    const QSize size = s.w.stage().size();
    s.w.right_drag({size.width() / 2, size.height() / 2}, {size.width() / 2 + 60, size.height() / 2});
    REQUIRE(s.w.settle());
    CHECK_FALSE(front->isChecked());
    CHECK(marks->view_name() == "parallel");
}
