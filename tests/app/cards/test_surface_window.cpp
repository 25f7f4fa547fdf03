// From points to a signed figure by mouse: surfaces of two dates built along breaklines inside an outline,
// trimmed, measured, compared; and surfaces that follow their lines.

#include <catch2/catch.hpp>

#include <QComboBox>
#include <QDoubleSpinBox>
#include <QLabel>
#include <QLineEdit>
#include <QPushButton>
#include <QTreeWidget>

#include "answers.h"
#include "app/cards/measure_card.h"
#include "app/cards/rule_card.h"
#include "app/cards/surface_card.h"
#include "app/model/live_surface.h"
#include "app/panes/decision_table.h"
#include "app/panes/epoch_pane.h"
#include "app/panes/profile_pane.h"
#include "app/window/contents_panel.h"
#include "core/cloud/triangles.h"
#include "core/io/mesh/mesh_cloud.h"
#include "core/io/mesh/mesh_io.h"
#include "core/measure/figures.h"
#include "core/site/surface_edits.h"
#include "core/surface/definition.h"
#include "demo/ashmere.h"
#include "demo/spoil.h"
#include "surface_sites.h"

using namespace pristine;
using test::plane_in_work;
using test::ring_area;
using test::SpoilSite;
using test::WindowDriver;

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
    const std::size_t lines_before = s.w.site().lines.size();
    s.w.click(s.w.find<QPushButton>("profileKeep"));
    REQUIRE(s.w.wait([&] { return s.w.site().lines.size() == lines_before + 2; }));
    for (std::size_t k = 0; k < 2; ++k) {
        const site::Line& kept = *s.w.site().lines[lines_before + k];
        CHECK(kept.name == profile->curves()[k].name + " along Across");
        CHECK(kept.points.size() > 4);
        CHECK(kept.points.front() == profile->curves()[k].stretches[0].front().place);
        CHECK(kept.points.back() == profile->curves()[k].stretches[0].back().place);
    }
    s.w.document().undo();
    REQUIRE(s.w.settle());
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
    CHECK(site::without_points(s.w.item(), *s.w.site().selection_in_work()).count > 0);
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
    CHECK(s.w.wait([&] { return s.w.site().lines.size() >= lines + 3; }));
    REQUIRE(s.w.settle());
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

// Thinning, limits and dropped points are cards in the ledger; lifting one builds the surface again.
TEST_CASE("WhatChangesABuildIsInTheLedgerAndIsLifted", "[window]") {
    SpoilSite s;
    REQUIRE(s.w.open(s.folder / "spoil-bank-2.las"));
    s.show_lines_of("spoil-breaklines-2.geojson");
    s.build(0.02, 15);
    const auto ledger = [&]() -> const std::vector<site::LedgerEntry>& { return s.w.item().ledger; };
    REQUIRE(ledger().size() == 2);
    CHECK(ledger()[0].reason == "Thinning");
    CHECK(ledger()[1].reason == "Limits");
    s.w.window().commands().trigger("view.top");
    REQUIRE(s.w.settle());
    const ViewFrame f = s.w.stage().frame();
    const auto at = [&](double x, double y) { return f.project(demo::kSiteOrigin + Vec3{x, y, 2}); };
    const auto highest = [&] {
        double z = -1e9;
        for (const Vec3& v : s.w.item().cloud->triangles()->vertices) z = std::max(z, v.z);
        return z;
    };
    const double spike = highest();
    s.w.window().commands().trigger("select.polygon");
    s.w.draw_polygon({at(109, 57), at(116, 57), at(116, 64), at(109, 64)});
    REQUIRE(s.w.settle());
    // The reason that a person chose on the bar is the one that is entered.
    auto* reason = s.w.find<QComboBox>("reason");
    reason->lineEdit()->selectAll();
    QTest::keyClicks(reason->lineEdit(), "Rod height");
    QTest::keyClick(reason->lineEdit(), Qt::Key_Return);
    s.w.window().commands().trigger("tools.drop_points");
    REQUIRE(s.w.wait([&] { return ledger().size() == 3; }));
    REQUIRE(s.w.settle());
    CHECK(highest() < spike - 2);
    const site::LedgerEntry drop = ledger()[2];
    CHECK(drop.reason == "Rod height");
    CHECK(drop.picture);
    CHECK(site::told(drop.cause).find("points of the surface dropped") == 0);
    // Its card lifts it, and applies it again; each is one step of undo.
    const auto click_card = [&] {
        s.w.click(s.w.find<QPushButton>("ledgerToggle" + QString::number(drop.id)));
    };
    const std::size_t steps = s.w.document().history().commits().size();
    click_card();
    REQUIRE(s.w.wait([&] { return !ledger()[2].active; }));
    REQUIRE(s.w.settle());
    CHECK(highest() == spike);
    CHECK(s.w.document().history().commits().size() == steps + 1);
    click_card();
    REQUIRE(s.w.wait([&] { return ledger()[2].active; }));
    REQUIRE(s.w.settle());
    CHECK(highest() < spike - 2);
    s.w.document().undo();
    REQUIRE(s.w.settle());
    CHECK(highest() == spike);
    CHECK_FALSE(ledger()[2].active);
    // The table of decisions tells what each is about, in words where no triangles went.
    s.w.window().commands().trigger("view.decisions");
    REQUIRE(s.w.settle());
    const QString rows = s.w.window().findChild<app::DecisionTable*>()->table();
    CHECK(rows.contains("\"within 0.020 m\""));
    CHECK(rows.contains("\"Rod height\",\"lifted\",\""));
    CHECK_FALSE(rows.contains(",0,"));
    s.w.window().commands().trigger("view.decisions");
    REQUIRE(s.w.settle());
    // Many at once, those of points among them: one step.
    const std::uint64_t triangles = s.w.item().cloud->size();
    CHECK(s.w.item().thinned > 0);
    s.w.document().set_decisions_active({ledger()[0].id, ledger()[1].id}, false, "Lift 2 decisions");
    REQUIRE(s.w.wait([&] { return !ledger()[0].active; }));
    REQUIRE(s.w.settle());
    CHECK_FALSE(ledger()[1].active);
    CHECK(s.w.item().thinned == 0);
    CHECK(s.w.item().cloud->size() > triangles);
    // Without its scan the points are not there any more: refused, and nothing changed.
    s.w.document().apply("Drop", [&](const site::Site& now) {
        const auto scan = std::find_if(now.items.begin(), now.items.end(),
                                       [](const site::ItemPtr& i) { return !i->cloud->triangles(); });
        return site::drop_item(now, (*scan)->id);
    });
    QString why;
    QObject::connect(&s.w.document(), &app::Document::failed, &s.w.window(),
                     [&](const QString& t) { why = t; });
    s.w.document().set_decisions_active({ledger()[0].id}, true, "Apply again");
    REQUIRE(s.w.wait([&] { return !why.isEmpty(); }));
    CHECK(why.contains("not in the site any more"));
    CHECK_FALSE(ledger()[0].active);
}

TEST_CASE("APartOfASurfaceIsSmoothedWithAStatedLargestChange", "[window]") {
    SpoilSite s;
    REQUIRE(s.w.open(s.folder / "spoil-bank-1.las"));
    s.show_lines_of("spoil-breaklines-1.geojson");
    s.build();
    s.w.window().commands().trigger("view.top");
    REQUIRE(s.w.settle());
    const ViewFrame f = s.w.stage().frame();
    const auto at = [&](double x, double y) { return f.project(demo::kSiteOrigin + Vec3{x, y, 2}); };
    s.w.window().commands().trigger("select.polygon");
    s.w.draw_polygon({at(105, 25), at(150, 25), at(150, 60), at(105, 60)});
    REQUIRE(s.w.settle());
    REQUIRE(s.w.site().selected() > 50);
    const mesh::TriMesh before = *s.w.item().cloud->triangles();
    const QImage picture = s.w.stage().grab().toImage();
    test::answer(&s.w.window(), 0.02);
    s.w.window().commands().trigger("tools.smooth_surface");
    REQUIRE(s.w.wait([&] { return s.w.item().ledger.size() == 1; }));
    REQUIRE(s.w.settle());
    // The same places in plan, none moved by more than was allowed; far away nothing moved at all.
    std::map<std::pair<double, double>, double> height;
    for (const Vec3& v : before.vertices) height[{v.x, v.y}] = v.z;
    std::size_t moved = 0;
    for (const Vec3& v : s.w.item().cloud->triangles()->vertices) {
        REQUIRE(height.contains({v.x, v.y}));
        const double change = std::fabs(height[{v.x, v.y}] - v.z);
        REQUIRE(change <= 0.02);
        const Vec3 p = v - demo::kSiteOrigin;
        if (p.x < 100 || p.x > 155 || p.y < 20 || p.y > 65) CHECK(change == 0);
        moved += change > 0;
    }
    CHECK(moved > 20);
    CHECK(s.w.item().ledger[0].reason == "Smoothed");
    CHECK(site::told(s.w.item().ledger[0].cause).find("heights changed by") != std::string::npos);
    CHECK(s.w.stage().grab().toImage() != picture);
    s.w.click(s.w.find<QPushButton>("ledgerToggle" + QString::number(s.w.item().ledger[0].id)));
    REQUIRE(s.w.wait([&] { return !s.w.item().ledger[0].active; }));
    REQUIRE(s.w.settle());
    for (const Vec3& v : s.w.item().cloud->triangles()->vertices)
        REQUIRE(height.at({v.x, v.y}) == v.z);  // to the bit
}

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

TEST_CASE("PlacesWithTwoHeightsAreListedWidestFirstAndFlownTo", "[window]") {
    const test::TemporaryFolder folder;
    WindowDriver w(folder / "home");
    std::string text;
    for (int y = 0; y <= 20; ++y)
        for (int x = 0; x <= 20; ++x) text += std::to_string(x) + " " + std::to_string(y) + " 1\n";
    text += "5 5 1.3\n5 5 1.1\n12 8 1.05\n";
    test::write_file(folder / "yard.xyz", text);
    REQUIRE(w.open(folder / "yard.xyz"));
    w.document().apply("Lines", [](const site::Site& s) {
        return site::put_lines(s, {{0, "kerb", {{2.3, 15.4, 1}, {9.7, 15.4, 1}}},
                                   {0, "Rinne", {{6.1, 12.2, 1.6}, {6.1, 18.6, 1.6}}}});
    });
    w.window().commands().trigger("view.top");
    w.window().commands().trigger("tools.surface");
    REQUIRE(w.settle());
    CHECK_FALSE(w.find<QTreeWidget>("surfaceOdd")->isVisible());
    w.find<QDoubleSpinBox>("surfaceThin")->setValue(0);
    auto* lines = w.find<QTreeWidget>("surfaceLines");
    for (int i = 0; i < lines->topLevelItemCount(); ++i)
        lines->topLevelItem(i)->setCheckState(1, Qt::Checked);
    w.click(w.find<QPushButton>("surfaceBuild"));
    REQUIRE(w.wait([&] { return w.site().items.size() == 2 && !w.window().jobs().busy(); }));
    REQUIRE(w.settle());
    auto* odd = w.find<QTreeWidget>("surfaceOdd");
    REQUIRE(odd->isVisible());
    REQUIRE(odd->topLevelItemCount() == 3);
    CHECK(odd->topLevelItem(0)->text(0) == "kerb × Rinne");  // 0.6 apart
    CHECK(odd->topLevelItem(1)->text(0) == "3 points");
    CHECK(odd->topLevelItem(1)->text(1) == "1.000 to 1.300");
    CHECK(odd->topLevelItem(2)->text(0) == "2 points");
    const QImage before = w.stage_picture();
    QTest::mouseClick(odd->viewport(), Qt::LeftButton, Qt::NoModifier,
                      odd->visualItemRect(odd->topLevelItem(1)).center());
    REQUIRE(w.settle());
    CHECK(w.stage_picture() != before);
    const PixelPoint at = w.stage().frame().project({5, 5, 1});
    CHECK(std::fabs(at.x - w.stage().width() / 2.0) < w.stage().width() / 4.0);
    CHECK(std::fabs(at.y - w.stage().height() / 2.0) < w.stage().height() / 4.0);
    w.close();
}
