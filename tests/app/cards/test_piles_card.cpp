// Stockpiles by mouse: proposed, measured, weighed, saved; they follow lines and triangles.

#include <catch2/catch.hpp>

#include <QComboBox>
#include <QDoubleSpinBox>
#include <QLabel>
#include <QPushButton>
#include <QTreeWidget>
#include <cmath>

#include "app/cards/piles_card.h"
#include "core/io/mesh/mesh_io.h"
#include "core/surface/definition.h"
#include "window_driver.h"

using namespace pristine;
using test::WindowDriver;

namespace {

// Two cones on a yard that falls to the east.
mesh::TriMesh yard() {
    surface::Definition d;
    for (int y = 0; y <= 60; ++y)
        for (int x = 0; x <= 100; ++x) {
            const double a = std::max(0.0, 5 - 0.5 * std::hypot(x - 25, y - 30)),
                         b = std::max(0.0, 3 - 0.4 * std::hypot(x - 70, y - 28));
            d.points.push_back({412300.0 + x, 5218930.0 + y, 58 - 0.01 * x + a + b});
        }
    return surface::build(d).mesh;
}

struct OpenYard {
    test::TemporaryFolder folder;
    WindowDriver w;
    OpenYard() : w(folder / "home") {
        io::write_mesh(yard(), folder / "Hof süd.ply", false, "m");
        REQUIRE(w.open(folder / "Hof süd.ply"));
        w.window().commands().trigger("tools.piles");
        REQUIRE(w.settle());
    }
    ~OpenYard() { w.close(); }
    app::PilesCard& card() { return *w.window().findChild<app::PilesCard*>(); }
    QString text(const char* name) { return w.find<QLabel>(QString::fromLatin1(name))->text(); }
    void wait_for_piles(std::size_t n) {
        REQUIRE(w.wait([&] { return card().piles().size() == n && !w.window().jobs().busy(); }));
        REQUIRE(w.settle());
    }
};

constexpr double kFirst = 3.14159265 * 100 * 5 / 3, kSecond = 3.14159265 * 7.5 * 7.5 * 3 / 3;

}  // namespace

TEST_CASE("StockpilesAreProposedMeasuredAndWeighed", "[window]") {
    OpenYard s;
    CHECK(s.text("pilesState").contains("Draw a closed line"));
    CHECK_FALSE(s.w.find<QPushButton>("pilesSave")->isEnabled());
    s.w.click(s.w.find<QPushButton>("pilesPropose"));
    s.wait_for_piles(2);
    REQUIRE(s.w.site().lines.size() == 2);
    const auto& piles = s.card().piles();
    CHECK(piles[0].pile.volume == Approx(kFirst).epsilon(0.03));
    CHECK(piles[1].pile.volume == Approx(kSecond).epsilon(0.04));
    CHECK(piles[0].pile.sigma > 0);
    auto* list = s.w.find<QTreeWidget>("pilesList");
    REQUIRE(list->topLevelItemCount() == 2);
    CHECK(list->topLevelItem(0)->text(0) == QString("Pile 1"));
    CHECK(list->topLevelItem(0)->text(1).contains("m³"));
    CHECK(list->topLevelItem(0)->text(2) == QString("–"));  // no density, no mass
    s.w.find<QDoubleSpinBox>("pilesDensity")->setValue(1.8);
    const double tonnes = 1.8 * piles[0].pile.volume;
    CHECK(list->topLevelItem(0)
              ->text(2)
              .remove(QChar(0x202F))
              .remove(',')
              .startsWith(QString::number(std::floor(tonnes))));
    CHECK(s.text("pilesTotal").contains(" t"));
    // Another base: figures of the same piles.
    const double above_foot = piles[0].pile.volume;
    auto* base = s.w.find<QComboBox>("pilesBase");
    base->setCurrentIndex(1);
    emit base->activated(1);
    REQUIRE(s.w.wait([&] { return s.card().piles().size() == 2 && !s.w.window().jobs().busy(); }));
    CHECK(s.card().piles()[0].pile.volume > above_foot);
    base->setCurrentIndex(0);
    emit base->activated(0);
    s.wait_for_piles(2);
    // The table is written with its units.
    s.card().save(s.folder / "Halden.csv");
    const std::string table = test::read_file(s.folder / "Halden.csv");
    CHECK(table.find("volume [m3]") != std::string::npos);
    CHECK(table.find("mass [t]") != std::string::npos);
    CHECK(std::count(table.begin(), table.end(), '\n') == 4);
    // A click flies there.
    const QImage before = s.w.stage_picture();
    QTest::mouseClick(list->viewport(), Qt::LeftButton, Qt::NoModifier,
                      list->visualItemRect(list->topLevelItem(1)).center());
    REQUIRE(s.w.settle());
    CHECK(s.w.stage_picture() != before);
}

TEST_CASE("StockpilesFollowTheirLinesAndTheSurface", "[window]") {
    OpenYard s;
    const Vec3 o{412300, 5218930, 58};
    const auto ring = [&](double x0, double x1) {
        site::Line l;
        l.closed = true;
        l.name = "Kies";
        l.points = {o + Vec3{x0, 15, 0}, o + Vec3{x1, 15, 0}, o + Vec3{x1, 45, 0}, o + Vec3{x0, 45, 0}};
        return l;
    };
    s.w.document().apply("line",
                         [&](const site::Site& site) { return site::put_lines(site, {ring(10, 40)}); });
    s.wait_for_piles(1);
    CHECK(s.card().piles()[0].pile.volume == Approx(kFirst).epsilon(0.03));
    // Lines that overlap are named; one that leaves the surface says how much it covers.
    s.w.document().apply("line",
                         [&](const site::Site& site) { return site::put_lines(site, {ring(30, 120)}); });
    s.wait_for_piles(2);
    CHECK(s.text("pilesState").contains("overlap"));
    CHECK(s.text("pilesState").contains("covers 77.8 %"));
    s.w.document().undo();
    s.wait_for_piles(1);
    CHECK_FALSE(s.text("pilesState").contains("overlap"));
    // What is removed of the surface is not measured any more.
    const double whole = s.card().piles()[0].pile.plan_area;
    s.w.document().apply("Remove", [&](const site::Site& now) {
        ElementSet some(now.active_item()->cloud->size());
        for (std::uint64_t e = 0; e < some.size(); ++e)
            if (now.active_item()->cloud->position(e).x < o.x + 25) some.insert(e);
        return site::remove_selection(*site::select(now, some, site::Combine::New),
                                      {"test", site::said("test"), {}, nullptr});
    });
    REQUIRE(s.w.wait(
        [&] { return s.card().piles().size() == 1 && s.card().piles()[0].pile.plan_area < 0.8 * whole; }));
    CHECK(s.text("pilesState").contains("covers"));
    s.w.document().undo();
    REQUIRE(s.w.wait(
        [&] { return s.card().piles().size() == 1 && s.card().piles()[0].pile.plan_area > 0.99 * whole; }));
}
