// Surfaces edited and looked at: parts replaced, triangles taken, dates in a chart, pictures of the ground,
// lines.

#include <catch2/catch.hpp>

#include <QComboBox>
#include <QDoubleSpinBox>
#include <QLabel>
#include <QPushButton>
#include <QTreeWidget>

#include "app/cards/measure_card.h"
#include "app/cards/rule_card.h"
#include "app/cards/surface_card.h"
#include "app/model/live_surface.h"
#include "app/panes/epoch_pane.h"
#include "app/panes/profile_pane.h"
#include "app/window/contents_panel.h"
#include "core/cloud/triangles.h"
#include "core/io/mesh/mesh_cloud.h"
#include "core/io/mesh/mesh_io.h"
#include "core/measure/figures.h"
#include "core/site/surface_source.h"
#include "core/surface/definition.h"
#include "demo/ashmere.h"
#include "demo/spoil.h"
#include "surface_sites.h"

using namespace pristine;
using test::middle_of;
using test::plane_in_work;
using test::WindowDriver;

TEST_CASE("TrianglesAreTakenTouchedOrWholeAcrossALineOrAtAnEdge", "[window]") {
    test::TemporaryFolder folder;
    WindowDriver w(folder / "home");
    plane_in_work(w, folder);
    CHECK(w.item().date == "2026-10-05");
    CHECK(w.find<QPushButton>("triangles1")->isVisible());
    const QPoint m = middle_of(w.stage());
    w.window().commands().trigger("select.rectangle");
    std::uint64_t counts[3];
    for (int k = 0; k < 3; ++k) {
        w.click(w.find<QPushButton>(k == 0 ? "triangles0" : k == 1 ? "triangles1" : "triangles2"));
        w.drag(Qt::LeftButton, m - QPoint(83, 61), m + QPoint(90, 77));
        REQUIRE(w.settle());
        counts[k] = w.site().selected();
    }
    CHECK(counts[2] > 0);
    CHECK(counts[2] < counts[0]);
    CHECK(counts[0] < counts[1]);
    // A line across takes a band of triangles; a click at an edge takes two.
    w.window().commands().trigger("select.across");
    w.drag(Qt::LeftButton, m - QPoint(100, 3), m + QPoint(100, 4));
    REQUIRE(w.settle());
    const std::uint64_t across = w.site().selected();
    const double per_m =
        w.stage().frame().pixels_per_unit(w.stage().frame().depth(demo::kSiteOrigin + Vec3{20, 20, 2}));
    CHECK(across > 200 / per_m);
    CHECK(across < 4 * 200 / per_m + 6);
    const PixelPoint edge = w.stage().frame().project(demo::kSiteOrigin + Vec3{20.02, 20.5, 2});
    w.drag(Qt::LeftButton, QPoint(int(edge.x), int(edge.y)), QPoint(int(edge.x), int(edge.y)));
    REQUIRE(w.settle());
    CHECK(w.site().selected() == 2);
    // Rings: the two grow to everything that shares a corner with them; then all is connected.
    w.window().commands().trigger("select.grow");
    REQUIRE(w.settle());
    CHECK(w.site().selected() > 10);
    CHECK(w.site().selected() < 40);
    w.window().commands().trigger("select.connected");
    REQUIRE(w.settle());
    CHECK(w.site().selected() == w.item().cloud->size());
}

TEST_CASE("APartOfAnOpenedSurfaceIsReplacedInOneStep", "[window]") {
    test::TemporaryFolder folder;
    WindowDriver w(folder / "home");
    plane_in_work(w, folder);
    const auto at = [](double x, double y, double z) { return demo::kSiteOrigin + Vec3{x, y, z}; };
    w.document().apply("Lines", [&](const site::Site& s) {
        return site::put_lines(
            s, {{0, "crest", {at(18, 20, 6), at(22, 20, 6)}, false, true},
                {0, "outline", {at(12, 12, 0), at(28, 12, 0), at(28, 28, 0), at(12, 28, 0)}, true, true}});
    });
    const double area = measure::figures(*w.item().cloud->triangles()).plan_area;
    w.window().commands().trigger("tools.replace_part");
    REQUIRE(w.wait([&] { return w.item().source != nullptr; }));
    REQUIRE(w.settle());
    const mesh::TriMesh& m = *w.item().cloud->triangles();
    CHECK(measure::figures(m).plan_area == Approx(area).epsilon(1e-9));
    CHECK(measure::figures(m).highest == Approx(demo::kSiteOrigin.z + 6).margin(0.01));
    CHECK(m.triangles.size() < 3200 - 400);
    // The crest is moved by hand: the surface follows. One step of undo takes the part back.
    const std::uint64_t crest = w.site().lines[0]->id;
    site::Line moved = *w.site().line(crest);
    const site::ItemPtr before = w.site().active_item();
    w.document().undo();
    REQUIRE(w.settle());
    CHECK(w.item().cloud->triangles()->triangles.size() == 3200);
    CHECK(moved.points.size() == 2);
}

TEST_CASE("VolumesOfDatedSurfacesStandInAChartInOrderOfTheirDates", "[window]") {
    test::TemporaryFolder folder;
    WindowDriver w(folder / "home");
    for (const auto& [name, height] : {std::pair{"pad 2026-11-03.ply", 3.0}, {"pad 2026-10-05.ply", 2.0}}) {
        surface::Definition d;
        for (const double x : {0., 10., 20.})
            for (const double y : {0., 10.}) d.points.push_back(demo::kSiteOrigin + Vec3{x, y, height});
        io::write_mesh(surface::build(d).mesh, folder / name, false, "m");
    }
    REQUIRE(w.open(folder / "pad 2026-11-03.ply"));
    REQUIRE(w.open(folder / "pad 2026-10-05.ply", 2));
    w.window().commands().trigger("view.volumes");
    auto* pane = w.window().findChild<app::EpochPane*>();
    w.find<QDoubleSpinBox>("epochLevel")->setValue(demo::kSiteOrigin.z);
    REQUIRE(w.wait([&] { return pane->epochs().size() == 2 && pane->epochs()[0].volumes.above > 399; }));
    CHECK(pane->epochs()[0].date == "2026-10-05");
    CHECK(pane->epochs()[0].volumes.above == Approx(400).epsilon(1e-6));
    CHECK(pane->epochs()[1].volumes.above == Approx(600).epsilon(1e-6));
    CHECK(pane->epochs()[1].change->fill == Approx(200).epsilon(1e-6));
    CHECK(pane->epochs()[1].change->cut == Approx(0).margin(1e-9));
    CHECK_THAT(pane->table().toStdString(), Catch::Contains("2026-11-03,\"Pad 2026 11 03\",600.000"));
    // What their surveys state becomes a standard deviation, in the table, in words and in the chart.
    const QImage bare = pane->grab().toImage();
    w.document().apply("Surveys", [](const site::Site& s) {
        site::SitePtr next = site::put_survey(s, {0, "October", "2026-10-05", "", 0.02, 0.01});
        next = site::put_survey(*next, {0, "November", "2026-11-03", "", 0.02, 0.01});
        next = site::set_survey(*next, next->surveys[0].id, {s.items[1]->id});
        return site::set_survey(*next, next->surveys[1].id, {s.items[0]->id});
    });
    REQUIRE(w.wait([&] { return pane->epochs()[0].spread.sigma_fill > 1; }));
    REQUIRE(w.settle());
    // Of six vertices 200 m² in all; both dates shift by themselves.
    CHECK(pane->epochs()[0].spread.sigma_fill > 0.01 * 200);
    CHECK(pane->epochs()[0].spread.sigma_fill < 0.01 * 200 + 0.02 * 200);
    CHECK(pane->epochs()[1].change->sigma_net ==
          Approx(std::sqrt(2.0) * pane->epochs()[0].spread.sigma_fill).epsilon(1e-6));
    CHECK(w.find<QLabel>("epochState")->text().contains(QStringLiteral("±")));
    CHECK(pane->grab().toImage() != bare);
    // The measure board knows by the dates which is the later, whichever is in work.
    w.window().commands().trigger("tools.measure");
    auto* base = w.find<QComboBox>("measureBase");
    base->setCurrentIndex(4);
    emit base->activated(4);
    auto& board = *w.window().findChild<app::MeasureCard*>();
    REQUIRE(w.wait([&] { return board.figures() && board.figures()->difference; }));
    CHECK(board.figures()->difference->fill == Approx(200).epsilon(1e-6));
    CHECK(w.find<QLabel>("measureVolumes")->text().contains("2026-11-03 minus 2026-10-05"));
}

TEST_CASE("APictureOfTheGroundIsDrapedOnASurfaceAndStoredWithIt", "[window]") {
    test::TemporaryFolder folder;
    WindowDriver w(folder / "home");
    plane_in_work(w, folder);
    // Green to the west of the middle, blue to the east.
    std::vector<std::uint32_t> pixels(80 * 80);
    for (std::size_t i = 0; i < pixels.size(); ++i) pixels[i] = i % 80 < 40 ? 0xFF20C040u : 0xFF2040C0u;
    const double x = demo::kSiteOrigin.x, y = demo::kSiteOrigin.y;
    const auto picture = std::make_shared<const surface::Orthophoto>(
        "ground", 80, 80, std::array<double, 6>{-2 * x, 2, 0, 2 * (y + 40), 0, -2}, pixels);
    w.document().apply("Drape", [&](const site::Site& s) { return site::set_drape(s, s.active, picture); });
    REQUIRE(w.settle());
    const QImage shown = w.stage_picture();
    const auto colour_at = [&](double east) {
        const PixelPoint p = w.stage().frame().project(demo::kSiteOrigin + Vec3{east, 20, 0.1 * east});
        return QColor(shown.pixel(int(p.x), int(p.y)));
    };
    CHECK(colour_at(8).green() > 2 * colour_at(8).blue());
    CHECK(colour_at(32).blue() > 2 * colour_at(32).green());
    // Saved and opened again.
    w.document().save_as(folder / "site.pristine", false);
    REQUIRE(w.settle());
    w.close();
    w.open_new();
    w.window().open_files({folder / "site.pristine"});
    REQUIRE(w.wait([&] { return !w.site().items.empty(); }));
    REQUIRE(w.item().drape);
    CHECK(w.item().drape->colour(x + 8, y + 20, 0.1) == 0xFF20C040u);
    CHECK(w.item().date == "2026-10-05");
}

TEST_CASE("PlacesOnLargeTrianglesLieWhereTheyWereClicked", "[window]") {
    test::TemporaryFolder folder;
    WindowDriver w(folder / "home");
    surface::Definition d;
    for (const double x : {0., 40.})
        for (const double y : {0., 40.}) d.points.push_back(demo::kSiteOrigin + Vec3{x, y, 0.3 * x});
    io::write_mesh(surface::build(d).mesh, folder / "slope.ply", false, "m");
    REQUIRE(w.open(folder / "slope.ply"));
    w.window().commands().trigger("view.top");
    REQUIRE(w.settle());
    for (const auto& [x, y] : {std::pair{5., 30.}, {20., 20.}, {35., 8.}, {8., 9.}}) {
        const Vec3 place = demo::kSiteOrigin + Vec3{x, y, 0.3 * x};
        const PixelPoint p = w.stage().frame().project(place);
        CHECK(norm(w.stage().anchor(p) - place) < 0.02);
    }
    // A level plane is taken at the height that was clicked.
    w.window().commands().trigger("select.level");
    const PixelPoint at = w.stage().frame().project(demo::kSiteOrigin + Vec3{35, 8, 10.5});
    QTest::mouseClick(&w.stage(), Qt::LeftButton, Qt::NoModifier, w.point(at));
    REQUIRE(w.settle());
    CHECK(w.site().selected() == 0);  // both middles lie lower
    CHECK(w.find<QComboBox>("reason")->currentText() == "Fixture");
    w.close();
}

TEST_CASE("LinesOfALandXmlSurfaceComeWithItAndManyLinesShareARow", "[window]") {
    test::TemporaryFolder folder;
    WindowDriver w(folder / "home");
    surface::Definition d;
    for (int y = 0; y <= 10; ++y)
        for (int x = 0; x <= 10; ++x) d.points.push_back({double(x), double(y), 0.3 * x});
    io::write_mesh(surface::build(d).mesh, folder / "bank.xml", false, "m");
    std::string text = test::read_file(folder / "bank.xml");
    const auto at = text.find("<Definition");
    REQUIRE(at != std::string::npos);
    text.insert(
        at,
        "<SourceData><Breaklines><Breakline brkType=\"standard\"><PntList3D>2 1 0.3 2 9 2.7</PntList3D>"
        "</Breakline></Breaklines></SourceData>");
    test::write_file(folder / "lines.xml", text);
    REQUIRE(w.open(folder / "lines.xml"));
    REQUIRE(w.wait([&] { return w.site().lines.size() == 1; }));
    CHECK(w.site().lines[0]->points[0] == Vec3{1, 2, 0.3});
    CHECK(w.item().cloud->size() == 200);
    // Without lines nothing is said, and nothing comes.
    REQUIRE(w.open(folder / "bank.xml", 2));
    REQUIRE(w.settle());
    CHECK(w.site().lines.size() == 1);
    // Contours are one row of the contents, which opens, hides and goes as one.
    w.window().commands().trigger("tools.measure");
    REQUIRE(w.wait([&] { return !w.window().jobs().busy(); }));
    w.find<QDoubleSpinBox>("measureInterval")->setValue(0.2);
    w.click(w.find<QPushButton>("measureContours"));
    REQUIRE(w.wait([&] { return w.site().lines.size() > 10; }));
    REQUIRE(w.settle());
    const std::size_t contours = w.site().lines.size() - 1;
    auto* tree = w.find<QTreeWidget>("contentsTree");
    const auto row_of = [&](const QString& words) -> QTreeWidgetItem* {
        for (int i = 0; i < tree->topLevelItemCount(); ++i)
            if (tree->topLevelItem(i)->text(1).contains(words)) return tree->topLevelItem(i);
        return nullptr;
    };
    const int closed = tree->topLevelItemCount();
    REQUIRE(row_of("Contours of"));
    CHECK(row_of("Contours of")->text(2) == QString::number(contours));
    const auto click = [&](int column) {
        const QRect r = tree->visualItemRect(row_of("Contours of"));
        const int x = column == 0 ? 12 : tree->columnWidth(0) + 20;
        QTest::mouseClick(tree->viewport(), Qt::LeftButton, {}, QPoint(x, r.center().y()));
    };
    click(1);
    CHECK(tree->topLevelItemCount() == closed + static_cast<int>(contours));
    click(1);
    CHECK(tree->topLevelItemCount() == closed);
    click(0);
    CHECK(std::count_if(w.site().lines.begin(), w.site().lines.end(),
                        [](const auto& l) { return l->visible; }) == 1);
    w.document().undo();
    CHECK(
        std::all_of(w.site().lines.begin(), w.site().lines.end(), [](const auto& l) { return l->visible; }));
    // Smoothed they are a group of their own, and made again as they were made.
    w.find<QDoubleSpinBox>("measureSmooth")->setValue(0.15);
    w.click(w.find<QPushButton>("measureContours"));
    REQUIRE(w.wait([&] { return w.site().makings.size() == 2 && !w.window().jobs().busy(); }));
    CHECK(w.site().makings[1].smoothed == Approx(0.15));
    CHECK(w.site().makings[1].group.find("smoothed") != std::string::npos);
    CHECK(w.site().lines.size() == 1 + 2 * contours);
    w.close();
}
