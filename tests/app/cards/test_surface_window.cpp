// From points to a signed figure by mouse: surfaces of two dates built along breaklines inside an outline,
// trimmed, measured, compared.

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
#include "window_driver.h"

using namespace pristine;
using test::WindowDriver;

namespace {

struct SpoilSite {
    test::TemporaryFolder folder;
    WindowDriver w;
    SpoilSite() : w(folder / "home") { demo::write_spoil(folder.path(), 5000, 1, false); }
    ~SpoilSite() { w.close(); }

    void show_lines_of(const char* file) {
        for (const site::LinePtr& l : w.site().lines)
            if (l->visible) {
                site::Line hidden = *l;
                hidden.visible = false;
                w.document().apply("Hide", [&](const site::Site& s) { return site::put_lines(s, {hidden}); });
            }
        for (const char* name : {file, "spoil-outline.geojson"}) {
            const std::size_t before = w.site().lines.size();
            w.window().open_files({folder / name});
            REQUIRE(w.wait([&] { return w.site().lines.size() > before; }));
        }
    }
    void build() {
        w.window().commands().trigger("tools.surface");
        REQUIRE(w.settle());
        w.find<QDoubleSpinBox>("surfaceThin")->setValue(0);
        w.find<QDoubleSpinBox>("surfaceRim")->setValue(0);
        // Toe and crest are closed, and followed all the same; outline, pond and island bound.
        auto* lines = w.find<QTreeWidget>("surfaceLines");
        int follow = 0, bound = 0;
        for (int i = 0; i < lines->topLevelItemCount(); ++i) {
            follow += lines->topLevelItem(i)->checkState(1) == Qt::Checked;
            bound += lines->topLevelItem(i)->checkState(2) == Qt::Checked;
        }
        CHECK(follow >= 6);
        CHECK(bound == 3);
        const std::size_t items = w.site().items.size();
        w.click(w.find<QPushButton>("surfaceBuild"));
        REQUIRE(w.wait([&] { return w.site().items.size() == items + 1; }));
        REQUIRE(w.settle());
        w.click(w.find<QPushButton>("surfaceClose"));
    }
    app::MeasureCard& board() { return *w.window().findChild<app::MeasureCard*>(); }
};

double ring_area(const std::vector<Vec3>& r) {
    double a = 0;
    for (std::size_t i = 0; i < r.size(); ++i) {
        const Vec3 p = r[i] - r[0], q = r[(i + 1) % r.size()] - r[0];
        a += 0.5 * (p.x * q.y - p.y * q.x);
    }
    return std::fabs(a);
}

}  // namespace

TEST_CASE("FromPointsOfTwoDatesToCutAndFillByMouse", "[window]") {
    SpoilSite s;
    REQUIRE(s.w.open(s.folder / "spoil-bank-1.las"));
    s.show_lines_of("spoil-breaklines-1.geojson");
    s.build();
    REQUIRE(cloud::is_surface(*s.w.item().cloud));
    const double area =
        ring_area(demo::spoil_outline()) - ring_area(demo::spoil_pond()) + ring_area(demo::spoil_island());
    s.w.window().commands().trigger("tools.measure");
    REQUIRE(s.w.wait([&] { return s.board().figures() != nullptr; }));
    // Points do not reach into the corners of the outline.
    CHECK(s.board().figures()->now.plan_area < area);
    CHECK(s.board().figures()->now.plan_area > 0.99 * area);
    // The picture shows it: most of the stage is no background, and triangles can be picked.
    s.w.window().commands().trigger("view.top");
    REQUIRE(s.w.settle());
    const auto centre = s.w.stage().seen_at({s.w.stage().width() / 2.0, s.w.stage().height() / 2.0});
    CHECK(centre.has_value());

    // The second date: machines and the spike go first, by fences drawn from above.
    const std::uint64_t first = s.w.site().active;
    REQUIRE(s.w.open(s.folder / "spoil-bank-2.las", 3));
    s.w.document().apply("Work",
                         [](const site::Site& now) { return site::activate(now, now.items.back()->id); });
    s.show_lines_of("spoil-breaklines-2.geojson");
    s.w.window().commands().trigger("view.top");
    REQUIRE(s.w.settle());
    s.w.window().commands().trigger("select.polygon");
    const ViewFrame f = s.w.stage().frame();
    const auto at = [&](double x, double y) { return f.project(demo::kSiteOrigin + Vec3{x, y, 2}); };
    s.w.draw_polygon({at(134, 31), at(152, 31), at(152, 48), at(134, 48)});
    REQUIRE(s.w.settle());
    s.w.window().commands().trigger("decide.remove");
    s.w.draw_polygon({at(112, 59.75), at(113, 59.75), at(113, 60.75), at(112, 60.75)});
    REQUIRE(s.w.settle());
    CHECK(s.w.site().selected() > 0);
    s.w.window().commands().trigger("decide.remove");
    REQUIRE(s.w.settle());
    s.build();
    REQUIRE(cloud::is_surface(*s.w.item().cloud));

    s.w.window().commands().trigger("tools.measure");
    auto* base = s.w.find<QComboBox>("measureBase");
    base->setCurrentIndex(4);
    emit base->activated(4);
    auto* other = s.w.find<QComboBox>("measureOther");
    REQUIRE(other->count() == 1);
    CHECK(other->currentData().toULongLong() == first);
    REQUIRE(s.w.wait([&] { return s.board().figures() && s.board().figures()->difference; }));
    const measure::Difference d = *s.board().figures()->difference;
    // Heights are rounded to a tenth of a millimetre; where points were removed the ground is a plane anyway.
    CHECK(d.fill == Approx(demo::spoil_fill()).epsilon(0.001));
    CHECK(d.cut == Approx(demo::spoil_cut()).epsilon(0.002));
    CHECK(s.w.find<QLabel>("measureVolumes")->text().contains("fill is material added"));

    // Swapped, cut and fill change places.
    s.w.click(s.w.find<QPushButton>("measureSwap"));
    REQUIRE(s.w.wait([&] { return s.board().figures() != nullptr; }));
    CHECK(s.board().figures()->difference->cut == Approx(d.fill).epsilon(1e-9));
    s.w.click(s.w.find<QPushButton>("measureSwap"));
    REQUIRE(s.w.wait([&] { return s.board().figures() != nullptr; }));

    // A profile across the bank shows both dates; the difference of their heights is that of the bank.
    site::Line across;
    across.name = "Across";
    across.points = {demo::kSiteOrigin + Vec3{100, 10, 0}, demo::kSiteOrigin + Vec3{100, 62, 0}};
    s.w.document().apply("Line", [&](const site::Site& now) { return site::put_lines(now, {across}); });
    s.w.document().apply("Show", [&](const site::Site& now) { return site::set_visible(now, first, true); });
    s.w.window().commands().trigger("view.profile");
    auto* profile = s.w.window().findChild<app::ProfilePane*>();
    REQUIRE(s.w.wait([&] { return profile->curves().size() == 2; }));
    for (const auto& curve : profile->curves()) {
        REQUIRE(curve.stretches.size() == 1);
        double top = 0;
        for (const auto& p : curve.stretches[0]) top = std::max(top, p.place.z - demo::kSiteOrigin.z);
        // Ground at x = 100 rises by 0.8 and falls with y; the crests are 4 and 6 higher.
        CHECK(top == Approx((curve.name.find("1") != std::string::npos ? 4 : 6) + 0.8 - 0.32).margin(0.01));
    }
    CHECK(profile->table().count('\n') > 10);
    s.w.window().commands().trigger("view.profile");
    REQUIRE(s.w.settle());

    // A rule on triangles: steep ones go; the board says at once that it follows, then follows.
    s.w.window().commands().trigger("select.rule");
    REQUIRE(s.w.settle());
    auto* card = s.w.window().findChild<app::RuleCard*>();
    card->choose("slope");
    REQUIRE(s.w.settle());
    s.w.find<QDoubleSpinBox>("ruleLow")->setValue(20);
    REQUIRE(s.w.settle());
    REQUIRE(s.w.site().selected() > 10);
    const std::uint64_t steep = s.w.site().selected();
    s.w.window().commands().trigger("tools.measure");
    REQUIRE(s.w.wait([&] { return s.board().figures() != nullptr; }));
    const double before = s.board().figures()->now.plan_area;
    s.w.window().commands().trigger("decide.remove");
    CHECK(s.board().figures() == nullptr);
    CHECK(s.w.find<QLabel>("measureState")->text().contains("out of date"));
    REQUIRE(s.w.wait([&] { return s.board().figures() != nullptr; }));
    CHECK(s.board().figures()->now.plan_area < before);
    CHECK(s.board().figures()->before.plan_area == Approx(before));
    CHECK(s.w.item().removed->count() == steep);
    s.w.window().commands().trigger("edit.undo");
    REQUIRE(s.w.wait([&] { return s.board().figures() != nullptr; }));
    CHECK(s.board().figures()->now.plan_area == Approx(before));

    // The map, and contours.
    const std::size_t items = s.w.site().items.size(), lines = s.w.site().lines.size();
    s.w.click(s.w.find<QPushButton>("measureContours"));
    REQUIRE(s.w.wait([&] { return s.w.site().lines.size() > lines; }));
    s.w.click(s.w.find<QPushButton>("measureMap"));
    REQUIRE(s.w.wait([&] { return s.w.site().items.size() == items + 1; }));
    REQUIRE(s.w.settle());
    CHECK(s.w.site().items.back()->style.column == "change");
    REQUIRE(s.w.site().items.back()->cloud->triangles());

    // Written and read again: the same surface.
    s.w.document().export_shown((s.folder / "out.xml").string(), true);
    REQUIRE(s.w.settle());
    REQUIRE(std::filesystem::exists(s.folder / "out.xml"));
    CHECK(io::read_mesh(s.folder / "out.xml").mesh.triangles.size() > 100);
}

TEST_CASE("ASurfaceInAProjectIsTheSameAfterOpeningItAgain", "[window]") {
    SpoilSite s;
    REQUIRE(s.w.open(s.folder / "spoil-bank-1.las"));
    s.show_lines_of("spoil-breaklines-1.geojson");
    s.build();
    const mesh::TriMesh before = *s.w.item().cloud->triangles();
    s.w.window().commands().trigger("view.top");
    s.w.document().save_as(s.folder / "spoil.pristine", true);
    REQUIRE(s.w.settle());
    s.w.close();
    s.w.open_new();
    s.w.window().open_files({s.folder / "spoil.pristine"});
    REQUIRE(s.w.wait([&] { return s.w.site().items.size() == 2; }));
    REQUIRE(s.w.settle());
    const auto after = s.w.item().cloud->triangles();
    REQUIRE(after);
    CHECK(after->triangles == before.triangles);
    CHECK(after->vertices == before.vertices);
}

// A moved corner of a line, a dropped point, other limits: the surface follows, and what was removed stays
// removed.
TEST_CASE("ASurfaceFollowsItsLinesAndKeepsItsRemovals", "[window]") {
    SpoilSite s;
    REQUIRE(s.w.open(s.folder / "spoil-bank-2.las"));
    s.show_lines_of("spoil-breaklines-2.geojson");
    s.build();
    const std::uint64_t id = s.w.site().active;
    REQUIRE(s.w.item().source);
    s.w.window().commands().trigger("view.top");
    REQUIRE(s.w.settle());
    const ViewFrame f = s.w.stage().frame();
    const auto at = [&](double x, double y) { return f.project(demo::kSiteOrigin + Vec3{x, y, 2}); };
    // The spike goes by dropping its point.
    const auto highest = [&] {
        double z = -1e9;
        for (const Vec3& v : s.w.item().cloud->triangles()->vertices) z = std::max(z, v.z);
        return z;
    };
    CHECK(highest() > 67);
    s.w.window().commands().trigger("select.polygon");
    s.w.draw_polygon({at(109, 57), at(116, 57), at(116, 64), at(109, 64)});
    REQUIRE(s.w.settle());
    const std::size_t points = s.w.item().source->definition.points.size();
    REQUIRE(s.w.site().selected() > 5);
    CHECK(site::without_points(s.w.item(), *s.w.site().selection_in_work()).second > 0);
    s.w.window().commands().trigger("tools.drop_points");
    REQUIRE(s.w.wait([&] { return s.w.item().source->definition.points.size() < points; }));
    REQUIRE(s.w.settle());
    CHECK(highest() < 67);
    // A part is removed, then a corner of the outline moves outwards.
    s.w.draw_polygon({at(66, 60), at(80, 60), at(80, 70), at(66, 70)});
    REQUIRE(s.w.settle());
    s.w.window().commands().trigger("decide.remove");
    REQUIRE(s.w.settle());
    const double out = measure::figures(io::mesh_of(*s.w.item().cloud, *s.w.item().removed)).plan_area;
    CHECK(out > 50);
    const double whole = measure::figures(*s.w.item().cloud->triangles()).plan_area;
    site::Line outline;
    for (const site::LinePtr& l : s.w.site().lines)
        if (l->name == "outline 1" && l->visible) outline = *l;
    REQUIRE(outline.id != 0);
    s.w.window().commands().trigger("view.line");
    emit s.w.window().findChild<app::ContentsPanel*>()->edit_line(outline.id);
    REQUIRE(s.w.settle());
    const PixelPoint from = f.project(outline.points[4]), to = f.project(outline.points[4] + Vec3{0, 6, 0});
    QTest::mousePress(&s.w.stage(), Qt::LeftButton, Qt::NoModifier, s.w.point(from));
    for (const PixelPoint& p : {PixelPoint{(from.x + to.x) / 2, (from.y + to.y) / 2}, to}) {
        QMouseEvent move(QEvent::MouseMove, QPointF(p.x, p.y), s.w.stage().mapToGlobal(QPointF(p.x, p.y)),
                         Qt::NoButton, Qt::LeftButton, Qt::NoModifier);
        QApplication::sendEvent(&s.w.stage(), &move);
    }
    QTest::mouseRelease(&s.w.stage(), Qt::LeftButton, Qt::NoModifier, s.w.point(to));
    const auto area_now = [&] {
        return measure::figures(*s.w.site().item(id)->cloud->triangles()).plan_area;
    };
    REQUIRE(s.w.wait([&] { return std::fabs(area_now() - whole) > 1; }));
    REQUIRE(s.w.settle());
    const site::Item& now = *s.w.site().item(id);
    CHECK(measure::figures(io::mesh_of(*now.cloud, *now.removed)).plan_area == Approx(out).epsilon(1e-6));
    // The line round it, and undo of all.
    const std::size_t lines = s.w.site().lines.size();
    s.w.window().commands().trigger("tools.line_round");
    CHECK(s.w.site().lines.size() >= lines + 3);
    // Saved and opened again, it still knows what it was built from.
    s.w.document().save_as(s.folder / "again.pristine", true);
    REQUIRE(s.w.settle());
    const std::size_t kept = now.source->definition.points.size();
    s.w.close();
    s.w.open_new();
    s.w.window().open_files({s.folder / "again.pristine"});
    REQUIRE(s.w.wait([&] { return s.w.site().items.size() == 2; }));
    REQUIRE(s.w.settle());
    REQUIRE(s.w.item().source);
    CHECK(s.w.item().source->definition.points.size() == kept);
}

namespace {

// A plane that rises to the east, 40 by 40, a point each metre, as a surface in work.
void plane_in_work(WindowDriver& w, const test::TemporaryFolder& folder) {
    surface::Definition d;
    for (int y = 0; y <= 40; ++y)
        for (int x = 0; x <= 40; ++x)
            d.points.push_back(demo::kSiteOrigin + Vec3{double(x), double(y), 0.1 * x});
    io::write_mesh(surface::build(d).mesh, folder / "plane 2026-10-05.ply", false, "m");
    REQUIRE(w.open(folder / "plane 2026-10-05.ply"));
    w.window().commands().trigger("view.top");
    REQUIRE(w.settle());
}

QPoint middle_of(QWidget& view) {
    return {view.width() / 2, view.height() / 2};
}

}  // namespace

TEST_CASE("ABoundaryThatDoesNotBoundIsRefusedWithThePlaceMarked", "[window]") {
    test::TemporaryFolder folder;
    WindowDriver w(folder / "home");
    plane_in_work(w, folder);
    const auto put = [&](const char* name, bool closed, std::initializer_list<std::pair<double, double>> at) {
        site::Line line;
        line.name = name;
        line.closed = closed;
        for (const auto& [x, y] : at) line.points.push_back(demo::kSiteOrigin + Vec3{x, y, 0.1 * x});
        w.document().apply("Line", [&](const site::Site& s) { return site::put_lines(s, {line}); });
    };
    // A bow: it crosses itself in (20, 20).
    put("bow", true, {{5, 5}, {35, 35}, {35, 5}, {5, 35}});
    w.window().commands().trigger("tools.surface");
    auto& card = *w.window().findChild<app::SurfaceCard*>();
    REQUIRE(w.settle());
    const QImage before = w.stage().grab().toImage();
    const auto cloud = w.item().cloud;
    w.click(w.find<QPushButton>("surfaceBuild"));
    REQUIRE(w.settle());
    CHECK(w.find<QLabel>("surfaceState")->text().contains("crosses itself"));
    CHECK(w.item().cloud == cloud);
    const auto place = [&] {
        const auto guides = card.guides();
        REQUIRE(guides.size() == 3);
        return (guides[0].front() + guides[0].back()) * 0.5 - demo::kSiteOrigin;
    };
    CHECK(place().x == Approx(20).margin(1e-6));
    CHECK(place().y == Approx(20).margin(1e-6));
    // It flew there; the mark is in the middle of the picture.
    CHECK(test::differing_pixels(before, w.stage().grab().toImage(),
                                 w.stage().rect().adjusted(1, 1, -2, -2)) > 500);
    w.document().undo();  // the line goes, the mark with it
    CHECK(card.guides().empty());
    // An open line: the end that does not meet the other.
    put("kerb", false, {{5, 5}, {35, 5}, {35, 30}});
    REQUIRE(w.settle());
    auto* lines = w.find<QTreeWidget>("surfaceLines");
    REQUIRE(lines->topLevelItemCount() == 1);
    CHECK(lines->topLevelItem(0)->checkState(2) == Qt::Unchecked);
    lines->topLevelItem(0)->setCheckState(2, Qt::Checked);
    w.click(w.find<QPushButton>("surfaceBuild"));
    REQUIRE(w.settle());
    CHECK(w.find<QLabel>("surfaceState")->text().contains("'kerb' is open"));
    CHECK(place().y == Approx(30).margin(1e-6));
    lines->topLevelItem(0)->setCheckState(2, Qt::Unchecked);
    lines->topLevelItem(0)->setCheckState(1, Qt::Unchecked);
    w.click(w.find<QPushButton>("surfaceBuild"));
    REQUIRE(w.wait([&] { return w.item().cloud != cloud; }));
    REQUIRE(w.settle());
    CHECK(card.guides().empty());
    w.close();
}

TEST_CASE("ASurfaceFollowsACornerWhileItIsDragged", "[window]") {
    test::TemporaryFolder folder;
    WindowDriver w(folder / "home");
    plane_in_work(w, folder);
    // Built from the points of the plane, up to a line of which a corner is in the middle.
    auto source = std::make_shared<site::SurfaceSource>();
    for (const Vec3& v : w.item().cloud->triangles()->vertices) source->definition.points.push_back(v);
    site::Line line;
    line.name = "edge of works";
    line.closed = true;
    for (const auto& [x, y] : {std::pair{1., 1.}, {39., 1.}, {39., 20.}, {20., 20.}, {1., 39.}})
        line.points.push_back(demo::kSiteOrigin + Vec3{x, y, 0.1 * x});
    w.document().apply("Line", [&](const site::Site& s) { return site::put_lines(s, {line}); });
    line = *w.site().lines.back();
    source->definition.boundary = {line.points};
    source->boundary_ids = {line.id};
    const std::uint64_t id = w.site().active;
    w.document().apply("Surface", [&](const site::Site& s) {
        return site::replace_surface(s, id, site::rebuild(*s.item(id), *source));
    });
    emit w.window().findChild<app::ContentsPanel*>()->edit_line(line.id);
    REQUIRE(w.settle());
    const site::SitePtr before = w.document().site();
    const ViewFrame f = w.stage().frame();
    const PixelPoint from = f.project(line.points[3]), to = f.project(line.points[3] + Vec3{14, 14, 0});
    // Beyond the corner there is nothing yet.
    const PixelPoint beyond = f.project(line.points[3] + Vec3{6, 6, 0.6});
    REQUIRE_FALSE(w.stage().seen_at(beyond));
    auto& live = *w.window().controllers().surfaces.findChild<app::LiveSurface*>();
    const auto move_to = [&](PixelPoint p) {
        QMouseEvent move(QEvent::MouseMove, QPointF(p.x, p.y), w.stage().mapToGlobal(QPointF(p.x, p.y)),
                         Qt::NoButton, Qt::LeftButton, Qt::NoModifier);
        QApplication::sendEvent(&w.stage(), &move);
    };
    const auto drag_out = [&] {
        QTest::mousePress(&w.stage(), Qt::LeftButton, Qt::NoModifier, w.point(from));
        move_to({(from.x + to.x) / 2, (from.y + to.y) / 2});
        move_to(to);
        REQUIRE(w.wait([&] { return live.shown() > 0 && !w.window().jobs().busy(); }));
        REQUIRE(w.settle());
    };
    drag_out();
    // Seen, and not in the document.
    CHECK(w.document().site() == before);
    CHECK(w.stage().seen_at(beyond));
    // Dropped: as it was.
    w.key(Qt::Key_Escape);
    REQUIRE(w.wait([&] { return live.shown() == 0; }));
    REQUIRE(w.settle());
    CHECK_FALSE(w.stage().seen_at(beyond));
    CHECK(w.document().site() == before);
    QTest::mouseRelease(&w.stage(), Qt::LeftButton, Qt::NoModifier, w.point(to));
    REQUIRE(w.settle());
    // Let go: what was seen is what is built, in two steps of undo.
    drag_out();
    QTest::mouseRelease(&w.stage(), Qt::LeftButton, Qt::NoModifier, w.point(to));
    CHECK(w.stage().scene().items()[0].cloud != before->items[0]->cloud);  // no flash of the old one
    REQUIRE(w.wait([&] { return w.site().item(id)->cloud != before->item(id)->cloud; }));
    REQUIRE(w.settle());
    CHECK(w.stage().seen_at(beyond));
    w.document().undo();
    w.document().undo();
    REQUIRE(w.settle());
    CHECK_FALSE(w.stage().seen_at(beyond));
    w.close();
}

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
    w.close();
}
