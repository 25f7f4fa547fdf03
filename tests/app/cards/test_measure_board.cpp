// The measure board: what volumes were before something was removed, and the classes of a map of change.

#include <catch2/catch.hpp>

#include <QChart>
#include <QChartView>
#include <QComboBox>
#include <QDoubleSpinBox>
#include <QLabel>
#include <QMenu>
#include <QPushButton>
#include <QTimer>
#include <QTreeWidget>

#include <array>
#include <cmath>
#include <map>

#include "app/cards/measure_card.h"
#include "app/panes/profile_pane.h"
#include "app/window/status_line.h"
#include "core/io/mesh/mesh_io.h"
#include "core/surface/definition.h"
#include "surface_sites.h"
#include "window_driver.h"

using namespace pristine;
using test::WindowDriver;

namespace {

// A plane of 20 x 20 at height 1, and a later one: 1 m higher in its west half, 0.25 m lower in its east
// half.
mesh::TriMesh plane_of_date(bool later) {
    return test::field(20, 20, [&]([[maybe_unused]] int i, [[maybe_unused]] int j) {
        return !later ? 1.0 : i <= 10 ? 2.0 : 0.75;
    });
}

QString text(WindowDriver& w, const char* label) {
    return w.find<QLabel>(QString::fromLatin1(label))->text().replace("&nbsp;", " ");
}

}  // namespace

// A role chosen in the menu of a row of the contents.
void choose_role(WindowDriver& w, const QString& title) {
    auto* tree = w.window().findChild<QTreeWidget*>("contentsTree");
    REQUIRE(tree);
    QTreeWidgetItem* row = nullptr;
    for (QTreeWidgetItemIterator it(tree); *it; ++it)
        if ((*it)->data(0, Qt::UserRole).toULongLong() == w.site().active) row = *it;
    REQUIRE(row);
    bool chosen = false;
    QTimer::singleShot(0, &w.window(), [&] {
        auto* menu = qobject_cast<QMenu*>(QApplication::activePopupWidget());
        REQUIRE(menu);
        auto* roles = menu->findChild<QMenu*>("itemRoles");
        for (QAction* a : roles ? roles->actions() : QList<QAction*>())
            if (a->text() == title) {
                a->trigger();
                chosen = true;
            }
        menu->close();
    });
    emit tree->customContextMenuRequested(tree->visualItemRect(row).center());
    CHECK(chosen);
    REQUIRE(w.settle());
}

TEST_CASE("WhatAnItemIsDecidesWhatIsMeasuredOfIt", "[window]") {
    const test::TemporaryFolder folder;
    io::write_mesh(plane_of_date(false), folder / "plane.ply", false, "m");
    WindowDriver w(folder / "home");
    REQUIRE(w.open(folder / "plane.ply"));
    w.window().commands().trigger("tools.measure");
    w.find<QDoubleSpinBox>("measureLevel")->setValue(0);
    REQUIRE(w.wait([&] { return text(w, "measureVolumes").contains("400.00 m³"); }));
    CHECK(w.find<QDoubleSpinBox>("measureLevel")->isVisible());
    // The relief of a wall that lies flat in its file is no ground.
    choose_role(w, "Mesh of an object");
    CHECK(w.item().role == site::ItemRole::Mesh);
    REQUIRE(w.wait([&] { return !w.find<QDoubleSpinBox>("measureLevel")->isVisible(); }));
    REQUIRE(w.wait([&] { return !text(w, "measureVolumes").contains("400.00 m³"); }));
    w.window().commands().trigger("edit.undo");
    REQUIRE(w.wait([&] { return text(w, "measureVolumes").contains("400.00 m³"); }));
    CHECK(w.item().role == site::ItemRole::Terrain);
    choose_role(w, "Lining of a tunnel or chamber");
    CHECK(w.item().role == site::ItemRole::Lining);
    w.close();
}

TEST_CASE("VolumesSayWhatTheyWereBeforeSomethingWasRemoved", "[window]") {
    const test::TemporaryFolder folder;
    io::write_mesh(plane_of_date(false), folder / "plane.ply", false, "m");
    WindowDriver w(folder / "home");
    REQUIRE(w.open(folder / "plane.ply"));
    w.window().commands().trigger("tools.measure");
    w.find<QDoubleSpinBox>("measureLevel")->setValue(0);
    REQUIRE(w.wait([&] { return text(w, "measureVolumes").contains("400.00 m³"); }));
    CHECK_FALSE(text(w, "measureVolumes").contains("was"));
    w.document().apply("Remove", [&](const site::Site& s) {
        ElementSet some(s.active_item()->cloud->size());
        for (std::uint64_t e = 0; e < 80; ++e) some.insert(e);
        return site::remove_selection(*site::select(s, some, site::Combine::New),
                                      {"Vegetation", site::said("test"), {}, nullptr});
    });
    REQUIRE(w.wait([&] { return text(w, "measureVolumes").contains("360.00 m³"); }));
    CHECK(text(w, "measureVolumes").contains("was 400.00 m³"));
    w.document().undo();
    // "360 m³, was 400 m³" holds the old figure too: wait until nothing "was".
    REQUIRE(w.wait([&] { return !text(w, "measureVolumes").contains("was"); }));
    CHECK(text(w, "measureVolumes").contains("400.00 m³"));
    w.close();
}

TEST_CASE("AMapOfChangeHasFiguresForEachClass", "[window]") {
    const test::TemporaryFolder folder;
    io::write_mesh(plane_of_date(false), folder / "bank 2026-05-01.ply", false, "m");
    io::write_mesh(plane_of_date(true), folder / "bank 2026-06-01.ply", false, "m");
    WindowDriver w(folder / "home");
    REQUIRE(w.open(folder / "bank 2026-05-01.ply"));
    REQUIRE(w.open(folder / "bank 2026-06-01.ply", 2));
    w.window().commands().trigger("tools.measure");
    auto* base = w.find<QComboBox>("measureBase");
    base->setCurrentIndex(base->findText("another surface"));
    emit base->activated(base->currentIndex());
    REQUIRE(w.settle());
    w.click(w.find<QPushButton>("measureMap"));
    REQUIRE(w.wait([&] { return w.site().items.size() == 3; }));
    REQUIRE(w.settle());
    // A ramp: taken away and added. In the strip between the halves the change goes from +1 to -0.25 m.
    w.document().apply("work on it",
                       [](const site::Site& s) { return site::activate(s, s.items.back()->id); });
    REQUIRE(w.wait([&] { return text(w, "measureNow").contains("and more"); }));
    CAPTURE(text(w, "measureNow").toStdString(), text(w, "measureState").toStdString());
    CHECK(text(w, "measureNow").contains("0 and more"));
    CHECK(text(w, "measureNow").contains("below 0 "));
    CHECK(text(w, "measureNow").contains("Change [m]"));
    CHECK(text(w, "measureState").contains("map of change"));
    CHECK(text(w, "measureVolumes").contains("Cut volume"));  // of its surfaces, as they were
    // Classes: the halves alone.
    w.document().apply("classes", [](const site::Site& s) {
        site::Style style = s.active_item()->style;
        style.classes = {-0.3, -0.2, 0.95, 1.05};
        return site::set_style(s, s.active, style);
    });
    REQUIRE(w.wait([&] { return text(w, "measureNow").contains("0.95 to 1.05"); }));
    CHECK(text(w, "measureNow").contains("200.00 m²"));  // the west half
    CHECK(text(w, "measureNow").contains("200.00 m³"));
    CHECK(text(w, "measureNow").contains("180.00 m²"));  // the east half without the strip
    CHECK(text(w, "measureNow").contains("-45.00 m³"));
    CHECK(text(w, "measureNow").contains("400.00 m²"));  // all
    w.close();
}

// The plane with a line across it, and the profile along that.
app::ProfilePane* profile_across(WindowDriver& w, const test::TemporaryFolder& folder, bool later) {
    io::write_mesh(plane_of_date(later), folder / "plane.ply", false, "m");
    REQUIRE(w.open(folder / "plane.ply"));
    w.document().apply("Line", [](const site::Site& s) {
        return site::put_lines(s, {{0, "across", {{1.25, 5.25, 0}, {18.75, 5.25, 0}}, false, true}});
    });
    w.window().commands().trigger("view.profile");
    return w.window().findChild<app::ProfilePane*>();
}

// A profile follows its surfaces and its line within a second; while it does not, it says so.
TEST_CASE("AProfileFollowsWhatItWasDrawnOf", "[window]") {
    const test::TemporaryFolder folder;
    WindowDriver w(folder / "home");
    app::ProfilePane* const profile = profile_across(w, folder, false);
    const auto length = [&] {
        double all = 0;
        for (const auto& curve : profile->curves())
            for (const auto& stretch : curve.stretches)
                all += stretch.back().chainage - stretch.front().chainage;
        return all;
    };
    REQUIRE(w.wait([&] { return std::fabs(length() - 17.5) < 1e-6; }));
    // Half of the plane goes.
    w.document().apply("Remove", [&](const site::Site& s) {
        ElementSet west(s.active_item()->cloud->size());
        const mesh::TriMesh& m = *s.active_item()->cloud->triangles();
        for (std::uint64_t e = 0; e < west.size(); ++e) {
            double x = 0;
            for (const std::uint32_t v : m.triangles[e]) x += m.vertices[v].x / 3;
            if (x < 10) west.insert(e);
        }
        return site::remove_selection(*site::select(s, west, site::Combine::New),
                                      {"Vegetation", site::said("test"), {}, nullptr});
    });
    CHECK(w.wait([&] { return std::fabs(length() - 8.75) < 1e-6; }, 1000));
    // The line moves.
    w.document().apply("Move", [](const site::Site& s) {
        site::Line line = *s.lines[0];
        line.points[1].x = 14.75;
        return site::put_lines(s, {line});
    });
    CHECK(w.wait([&] { return std::fabs(length() - 4.75) < 1e-6; }, 1000));
    w.document().undo();
    CHECK(w.wait([&] { return std::fabs(length() - 8.75) < 1e-6; }, 1000));
    w.close();
}

TEST_CASE("AProfileIsExaggeratedReadOutAtItsCornersAndSaved", "[window]") {
    const test::TemporaryFolder folder;
    WindowDriver w(folder / "home");
    app::ProfilePane* const profile = profile_across(w, folder, true);
    REQUIRE(w.wait([&] { return !profile->curves().empty() && !w.window().jobs().busy(); }));
    w.wait([] { return false; }, 200);
    auto* view = w.find<QChartView>("profileChart");
    const auto at = [&](double chainage, double height) {
        const QPointF p = view->chart()->mapToPosition({chainage, height});
        return view->mapFromScene(view->chart()->mapToScene(p));
    };
    for (const double times : {4.0, 1.0}) {
        w.find<QDoubleSpinBox>("profileExaggeration")->setValue(times);
        w.wait([] { return false; }, 200);  // the chart is laid out again
        const auto chart = [&](double x, double y) { return view->chart()->mapToPosition({x, y}); };
        const double up = chart(5, 1).y() - chart(5, 2).y(), across = chart(6, 1).x() - chart(5, 1).x();
        CHECK(up / across == Approx(times).epsilon(2e-3));
    }
    // The step begins at x = 10, 8.75 m along: a place some pixels beside it is that corner.
    CHECK(profile->told_at(at(8.75, 2) + QPoint(4, 3)).contains("8.750"));
    CHECK(profile->told_at(at(8.75, 2) + QPoint(4, 3)).contains("2.000"));
    CHECK(profile->told_at({1, 1}).isEmpty());
    profile->save(folder / "profile.png");
    profile->save(folder / "profile.csv");
    CHECK(QImage(QString::fromStdString((folder / "profile.png").string())).width() == view->width());
    CHECK(test::read_file(folder / "profile.csv").find("chainage [m]") != std::string::npos);
    w.close();
}

// The cards of a mesh show what went, and of keep only what did not stay.
TEST_CASE("CardsOfAMeshHavePicturesOfWhatWent", "[window]") {
    const test::TemporaryFolder folder;
    io::write_mesh(plane_of_date(false), folder / "plane.ply", false, "m");
    WindowDriver w(folder / "home");
    REQUIRE(w.open(folder / "plane.ply"));
    w.document().apply("White", [](const site::Site& s) {
        site::Style style = s.active_item()->style;
        style.colour_by = site::ColourBy::Single;
        style.single_colour = 0xFFFFFF;
        return site::set_style(s, s.active, style);
    });
    const auto select = [&](std::uint64_t from, std::uint64_t to) {
        w.document().apply("Select", [&](const site::Site& s) {
            ElementSet some(s.active_item()->cloud->size());
            for (std::uint64_t e = from; e < to; ++e) some.insert(e);
            return site::select(s, some, site::Combine::New, {site::said("test"), "Fixture"});
        });
        REQUIRE(w.wait([&] { return w.document().numbers().ready; }));
    };
    // Pixels that are no background.
    const auto drawn = [](const site::LedgerEntry& e) {
        REQUIRE(e.picture);
        std::map<std::array<std::uint8_t, 3>, int> colours;
        for (std::size_t i = 0; i + 2 < e.picture->rgb.size(); i += 3)
            ++colours[{e.picture->rgb[i], e.picture->rgb[i + 1], e.picture->rgb[i + 2]}];
        int bright = 0;
        for (const auto& [c, n] : colours) bright += c[0] + c[1] + c[2] > 300 ? n : 0;
        return bright;
    };
    select(0, 60);
    w.window().commands().trigger("decide.remove");
    REQUIRE(w.settle());
    select(60, 700);
    w.window().commands().trigger("decide.keep");
    REQUIRE(w.settle());
    REQUIRE(w.item().ledger.size() == 2);
    for (const site::LedgerEntry& e : w.item().ledger) CHECK(drawn(e) > 300);
    CHECK(w.item().ledger[1].count() == 100);
    w.close();
}

TEST_CASE("NumbersOfTheStatusLineAreNeverCutOff", "[window]") {
    const test::TemporaryFolder folder;
    io::write_mesh(plane_of_date(false), folder / "plane.ply", false, "m");
    test::write_file(folder / "spots.csv", "x,y,z\n0,0,1\n30,0,1\n30,30,1\n");
    WindowDriver w(folder / "home");
    REQUIRE(w.open(folder / "plane.ply"));
    REQUIRE(w.open(folder / "spots.csv", 2));
    w.window().resize(1280, 800);
    w.window().findChild<app::StatusLine*>()->say(
        QString("A sentence that is far too long for the line that it stands in. ").repeated(5), true);
    REQUIRE(w.settle());
    for (const char* name : {"counts", "disk"}) {
        const auto* label = w.find<QLabel>(QString::fromLatin1(name));
        CAPTURE(name, label->text().toStdString());
        CHECK(label->width() >= label->fontMetrics().horizontalAdvance(label->text()));
    }
    CHECK(w.window().width() == 1280);
    w.close();
}
