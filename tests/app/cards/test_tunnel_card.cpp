// A tunnel by mouse: unrolled, what is inside selected, openings, mesh and report.

#include <catch2/catch.hpp>

#include <QLabel>
#include <QPushButton>
#include <QTreeWidget>

#include "app/cards/tunnel_card.h"
#include "app/look/lengths.h"
#include "app/look/theme.h"
#include "demo/culvert.h"
#include "window_driver.h"

using namespace pristine;
using test::WindowDriver;

TEST_CASE("ATunnelIsUnrolledAndWhatIsInsideIsSelected", "[window]") {
    const test::TemporaryFolder folder;
    demo::write_culvert(folder.path(), 120'000, 4, false);
    WindowDriver w(folder / "home");
    REQUIRE(w.open(folder / "culvert.las"));
    CHECK_FALSE(w.window().commands().find("select.tunnel")->why_not().isEmpty());  // there is no line yet
    w.window().open_files({folder / "culvert-line.geojson"});
    REQUIRE(w.wait([&] { return w.site().lines.size() == 1; }));
    w.window().commands().trigger("select.rule");
    w.window().commands().trigger("select.tunnel");
    REQUIRE(w.settle());
    auto* card = w.window().findChild<app::TunnelCard*>();
    REQUIRE(card->isVisible());
    CHECK_FALSE(w.find<QPushButton>("ruleTake")->isVisible());  // one card at a time
    const site::SetPtr inside = card->inside();
    REQUIRE(inside);
    CHECK(inside->count() > 500);
    CHECK(w.find<QLabel>("tunnelState")->text().contains(app::grouped(inside->count())));
    w.click(w.find<QPushButton>("tunnelTake"));
    REQUIRE(w.settle());
    CHECK(*w.site().selection_in_work() == *inside);
    // The picture: a cell that holds something deep inside is drawn in the colour of the selection's ink.
    auto* view = w.find<app::UnrolledView>("tunnelUnrolled");
    const QImage picture = view->grab().toImage();
    int violet = 0;
    for (int x = 0; x < picture.width(); ++x)
        for (int y = 0; y < picture.height(); ++y) {
            const QColor c = picture.pixelColor(x, y);
            violet += c.blue() > c.green() + 60;
        }
    CHECK(violet > 50);
    // A click flies there.
    const Vec3 before = w.stage().camera().eye;
    QTest::mouseClick(view, Qt::LeftButton, Qt::NoModifier, view->pixel_of(10, 5));
    REQUIRE(w.settle());
    CHECK(norm(w.stage().camera().eye - before) > 0.1);
    // Openings are closed over by their ticks; the report adds up to what the card says.
    auto* openings = w.find<QTreeWidget>("tunnelOpenings");
    for (int i = 0; i < openings->topLevelItemCount(); ++i)
        openings->topLevelItem(i)->setCheckState(0, Qt::Checked);
    CHECK(mesh::open_edges(card->mesh()) == 0);
    if (openings->topLevelItemCount() > 0) {
        openings->topLevelItem(0)->setCheckState(0, Qt::Unchecked);
        CHECK(mesh::open_edges(card->mesh()) > 0);
    }
    double sum = 0;
    const QStringList rows = card->report().trimmed().split('\n').mid(1);
    for (const QString& row : rows) sum += row.split(',')[2].toDouble();
    CHECK(rows.size() == 5);
    CHECK(w.find<QLabel>("tunnelVolume")->text().contains(app::shown_figure(sum, 1)));
    // Held against a design: what lies beyond it and within it is all the difference.
    card->set_design({{{-2, -1.5}, {2, -1.5}, {2, 2.2}, {-2, 2.2}}}, "Box");
    REQUIRE(card->breaks().size() == 5);
    double over = 0, under = 0;
    for (const auto& i : card->breaks()) over += i.over, under += i.under;
    CHECK(sum - over + under == Approx(4 * 3.7 * 50).epsilon(0.01));
    CHECK(w.find<QLabel>("tunnelBreaks")->text().startsWith("Against Box: overbreak"));
    CHECK(card->report().startsWith("from [m],to [m],volume [m3],area [m2],overbreak [m3]"));
    card->set_design({{{5, 5}, {6, 5}, {6, 6}}}, "Beside");
    CHECK(card->breaks().empty());
    CHECK(w.find<QLabel>("tunnelBreaks")->text().contains("does not go once round"));
    card->set_design({}, {});
    CHECK_FALSE(w.find<QLabel>("tunnelBreaks")->isVisible());
    // The lining is an item at once; its volume is that of the report, to a millionth.
    if (openings->topLevelItemCount() > 0) openings->topLevelItem(0)->setCheckState(0, Qt::Checked);
    w.click(w.find<QPushButton>("tunnelMesh"));
    REQUIRE(w.wait([&] { return w.site().items.size() == 2 && !w.window().jobs().busy(); }));
    const site::Item& lining = *w.site().items[1];
    REQUIRE(lining.cloud->triangles());
    CHECK(lining.cloud->unit() == w.item().cloud->unit());
    double exact = 0;
    for (const QString& row : card->report().trimmed().split('\n').mid(1))
        exact += row.split(',')[2].toDouble();
    CHECK(mesh::signed_volume(*lining.cloud->triangles()) == Approx(exact).epsilon(1e-6));
    w.document().undo();
    REQUIRE(w.settle());
    CHECK(w.site().items.size() == 1);
    // Removed, the entry says what it was.
    w.window().commands().trigger("decide.remove");
    REQUIRE(w.settle());
    REQUIRE(w.item().ledger.size() == 1);
    CHECK(w.item().ledger[0].cause == card->cause());
    CHECK(w.item().ledger[0].cause.acts[0].kind == site::Act::Kind::Lining);
    CHECK(site::told(w.item().ledger[0].cause).find(w.site().lines[0]->name) != std::string::npos);
    w.click(w.find<QPushButton>("tunnelClose"));
    CHECK_FALSE(card->isVisible());
    w.close();
}
