// The panes beside the stage: every tool works in them.

#include <catch2/catch.hpp>

#include <QComboBox>
#include <QDoubleSpinBox>
#include <QLabel>
#include <QToolButton>
#include <cmath>
#include <optional>
#include <set>

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

TEST_CASE("ThePanoramaShowsAllItemsTakesBrushAndPickAndFollowsRemovals", "[window]") {
    const test::TemporaryFolder folder;
    io::write_cloud({{test::e57_scans(20'000, 5), nullptr}}, folder / "two.e57");
    WindowDriver w(folder / "home");
    REQUIRE(w.open(folder / "two.e57", 2));
    auto* pane = w.find<app::PanoramaPane>("panoramaPane");
    const auto run = [&](const char* command) {
        w.window().commands().trigger(QString::fromLatin1(command));
        REQUIRE(w.settle());
    };
    const auto drawn = [&] {
        return w.wait([&] { return pane->is_current() && !w.window().jobs().busy(); });
    };
    run("view.panorama");
    REQUIRE(drawn());
    const auto sources = [&] {
        std::set<std::uint64_t> ids;
        for (int y = 0; y < pane->frame().height; y += 2)
            for (int x = 0; x < pane->frame().width; x += 2)
                if (const auto seen = pane->seen_at({x + 0.5, y + 0.5})) ids.insert(seen->item);
        return ids;
    };
    CHECK(sources() == std::set{w.site().active});
    // All shown: both scans, and the stations of both to look from.
    run("select.brush");
    run("select.all_shown");
    REQUIRE(drawn());
    CHECK(sources().size() == 2);
    CHECK(w.find<QComboBox>("panoramaStation")->count() == 2);

    // A stroke of the brush takes of both what is seen there.
    auto& view = pane->view();
    const auto drag = [&](QPoint from, QPoint to) {
        QTest::mousePress(&view, Qt::LeftButton, Qt::NoModifier, from);
        for (int k = 1; k <= 8; ++k) {
            const QPoint at = from + (to - from) * k / 8;
            QMouseEvent move(QEvent::MouseMove, at, view.mapToGlobal(at), Qt::NoButton, Qt::LeftButton,
                             Qt::NoModifier);
            QApplication::sendEvent(&view, &move);
        }
        QTest::mouseRelease(&view, Qt::LeftButton, Qt::NoModifier, to);
        REQUIRE(w.settle());
    };
    const QImage bare = view.picture();
    drag({200, 90}, {700, 130});
    CHECK(w.site().selection.size() == 2);
    CHECK(w.site().selected() > 200);
    CHECK(w.site().origin.cause.acts.front().id == "select.brush");
    CHECK(view.picture() != bare);
    // Every pixel of the middle of the stroke shows something that was taken.
    for (int x = 220; x < 680; x += 5) {
        const auto seen = pane->seen_at({x + 0.5, 90.5 + 40.0 * (x - 200) / 500});
        if (!seen) continue;
        REQUIRE(w.site().selection_of(seen->item));
        CHECK(w.site().selection_of(seen->item)->contains(seen->element));
    }
    // Removed, the picture shows what lies behind, as if it had been drawn anew.
    const site::Parts gone = w.site().selection;
    run("decide.remove");
    REQUIRE(drawn());
    const auto after = *pane->seen();
    for (const auto& [id, set] : gone)
        for (int x = 0; x < pane->frame().width; x += 3)
            for (int y = 0; y < pane->frame().height; y += 3)
                if (const auto seen = pane->seen_at({x + 0.5, y + 0.5}); seen && seen->item == id)
                    REQUIRE_FALSE(set->contains(seen->element));
    run("view.panorama");
    CHECK_FALSE(pane->isVisible());
    run("view.panorama");
    REQUIRE(drawn());
    if (pane->seen()->range.size() == after.range.size()) CHECK(pane->seen()->range == after.range);

    // The wheel makes it larger about the pointer; a pick shows the values of what is seen.
    const double before = pane->frame().pixels_per_deg;
    const QPoint at{720, 100};
    QWheelEvent turn(at, view.mapToGlobal(at), {}, {0, 120}, Qt::NoButton, Qt::NoModifier, Qt::NoScrollPhase,
                     false);
    QApplication::sendEvent(&view, &turn);
    REQUIRE(drawn());
    CHECK(pane->frame().pixels_per_deg == Approx(2 * before));
    CHECK(view.picture().width() == 2880);
    run("view.pick");
    std::optional<PixelPoint> place;
    for (int x = 900; x < 2000 && !place; ++x)
        if (pane->seen_at({x + 0.5, 200.5})) place = PixelPoint{x + 0.5, 200.5};
    REQUIRE(place);
    const auto seen = *pane->seen_at(*place);
    QTest::mouseClick(&view, Qt::LeftButton, Qt::NoModifier,
                      {static_cast<int>(place->x), static_cast<int>(place->y)});
    const QString height = QString::number(w.site().item(seen.item)->cloud->position(seen.element).z, 'f', 2);
    CAPTURE(w.find<QLabel>("picked")->text().toStdString());
    CHECK(w.find<QLabel>("picked")->text().contains(QStringLiteral("H %1").arg(height)));
    run("select.single");
    run("select.all_shown");  // each tool remembers it for itself
    REQUIRE(drawn());
    QTest::mouseClick(&view, Qt::LeftButton, Qt::NoModifier,
                      {static_cast<int>(place->x), static_cast<int>(place->y)});
    REQUIRE(w.settle());
    REQUIRE(w.site().selected() == 1);
    REQUIRE(w.site().selection_of(seen.item));
    CHECK(w.site().selection_of(seen.item)->contains(seen.element));
    w.close();
}
