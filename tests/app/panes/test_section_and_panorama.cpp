// The panes beside the stage: every tool works in them.

#include <catch2/catch.hpp>

#include <QComboBox>
#include <QDoubleSpinBox>
#include <QToolButton>
#include <cmath>

#include "app/cards/work_card.h"
#include "app/panes/panorama_pane.h"
#include "app/panes/section_pane.h"
#include "app/tools/path_tools.h"
#include "app/tools/solid_tool.h"
#include "app/window/legend.h"
#include "core/cloud/column.h"
#include "core/io/cloud_io.h"
#include "core/select/fence.h"
#include "core/select/growth.h"
#include "core/select/solid.h"
#include "demo/ashmere.h"
#include "open_scan.h"

using namespace pristine;
using test::OpenScan;
using test::WindowDriver;

TEST_CASE("TheSectionShowsAStripAndToolsTakeNothingElse", "[window]") {
    OpenScan s;
    s.run("view.section");
    auto* pane = s.w.find<app::SectionPane>("sectionPane");
    CHECK_FALSE(pane->isVisible());
    s.drag({s.pixel(-3, 11.5), s.pixel(3, 11.5)});
    REQUIRE(s.w.wait([&] { return pane->stage().settled() && pane->strip_of(&s.cloud()); }));
    CHECK(pane->isVisible());
    const ElementSet strip = *pane->strip_of(&s.cloud());
    CHECK(strip.count() > 100);
    CHECK(strip.count() < s.cloud().size() / 3);
    const ViewFrame side = pane->stage().frame();
    CHECK_FALSE(side.perspective);
    CHECK(std::fabs(side.ahead.y) > 0.99);  // the line runs from west to east
    // A fence over all of the section selects the strip, not what lies before or behind it.
    s.run("select.rectangle");
    const int right = pane->stage().width() - 2, low = pane->stage().height() - 2;
    s.drag({{1, 1}, {right, low}}, &pane->stage());
    REQUIRE(s.w.site().selection_in_work());
    CHECK((s.selection() - strip).empty());
    CHECK(s.selection().count() > strip.count() / 2);
    // Stepping moves the strip by its width.
    const std::vector<Vec3> before = pane->outline();
    pane->stage().setFocus();
    QTest::keyClick(&pane->stage(), Qt::Key_PageUp);
    REQUIRE(s.w.settle());
    CHECK(std::hypot(pane->outline()[0].x - before[0].x, pane->outline()[0].y - before[0].y) == Approx(1.0));
    CHECK((*pane->strip_of(&s.cloud()) & strip).count() < strip.count() / 100 + 2);
    s.w.find<QDoubleSpinBox>("sectionWidth")->setValue(0.5);
    REQUIRE(s.w.settle());
    CHECK(pane->strip_of(&s.cloud())->count() < strip.count());
    s.w.click(s.w.find<QToolButton>("sectionClose"));
    CHECK_FALSE(pane->isVisible());
}

TEST_CASE("ThePanoramaShowsTheScanFromItsStationAndFencesSelectInIt", "[window]") {
    const test::TemporaryFolder folder;
    io::write_cloud({{test::e57_scans(20'000, 5), nullptr}}, folder / "two.e57");
    WindowDriver w(folder / "home");
    REQUIRE(w.open(folder / "two.e57", 2));
    w.window().commands().trigger("decide.join_scans");
    REQUIRE(w.settle());
    REQUIRE(w.site().items.size() == 1);
    auto* pane = w.find<app::PanoramaPane>("panoramaPane");
    w.window().commands().trigger("view.panorama");
    REQUIRE(w.wait([&] { return pane->seen() != nullptr && !w.window().jobs().busy(); }));
    auto* station = w.find<QComboBox>("panoramaStation");
    CHECK(station->count() == 2);
    CHECK(station->currentText() == "Chamber east");
    CHECK(pane->frame().station.x == 412300);
    // What is seen belongs to the chosen station.
    const auto& cloud = *w.item().cloud;
    const auto scan = cloud::fetch_column(cloud, "scan");
    station->setCurrentIndex(1);
    emit station->activated(1);
    REQUIRE(w.wait([&] { return pane->seen() != nullptr && !w.window().jobs().busy(); }));
    std::uint64_t others = 0, all = 0;
    for (std::size_t i = 0; i < pane->seen()->range.size(); ++i)
        if (std::isfinite(pane->seen()->range[i])) {
            ++all;
            others += scan->base + static_cast<double>(scan->values[pane->seen()->element[i]]) != 1;
        }
    CHECK(all > 5000);
    CHECK(others == 0);
    // A rectangle in the picture: every point whose direction lies in it, of the whole item, through.
    w.window().commands().trigger("select.rectangle");
    auto& view = pane->view();
    QTest::mousePress(&view, Qt::LeftButton, Qt::NoModifier, {100, 60});
    QMouseEvent move(QEvent::MouseMove, QPoint(300, 160), view.mapToGlobal(QPoint(300, 160)), Qt::NoButton,
                     Qt::LeftButton, Qt::NoModifier);
    QApplication::sendEvent(&view, &move);
    const QImage before = view.picture();
    QTest::mouseRelease(&view, Qt::LeftButton, Qt::NoModifier, {300, 160});
    REQUIRE(w.settle());
    ElementSet want(cloud.size());
    for (std::uint64_t e = 0; e < cloud.size(); ++e) {
        double range = 0;
        const PixelPoint q = pane->frame().project(cloud.position(e), range);
        if (q.x > 100 && q.x < 300 && q.y > 60 && q.y < 160) want.insert(e);
    }
    REQUIRE(w.site().selection_in_work());
    CHECK(*w.site().selection_in_work() == want);
    CHECK(view.picture() != before);  // the selection shows
    w.click(w.find<QToolButton>("panoramaClose"));
    CHECK_FALSE(pane->isVisible());
    w.close();
}
