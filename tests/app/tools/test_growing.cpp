// Selections that grow by likeness, along rims, and arrows down a slope.

#include <catch2/catch.hpp>

#include "app/cards/work_card.h"
#include "core/io/mesh/mesh_io.h"
#include "core/select/fence.h"
#include "core/select/growth.h"
#include "core/select/triangle_growth.h"
#include "open_scan.h"

using namespace pristine;
using test::OpenScan;
using test::WindowDriver;

namespace {

// A slope of 20 by 20 squares with a hole in its middle.
mesh::TriMesh slope_with_hole() {
    mesh::TriMesh m;
    for (int y = 0; y <= 20; ++y)
        for (int x = 0; x <= 20; ++x) m.vertices.push_back({1.0 * x, 1.0 * y, 0.3 * x});
    for (std::uint32_t y = 0; y < 20; ++y)
        for (std::uint32_t x = 0; x < 20; ++x) {
            if (x >= 8 && x < 12 && y >= 8 && y < 12) continue;
            const std::uint32_t a = 21 * y + x, b = a + 1, c = a + 21, d = a + 22;
            m.triangles.push_back({a, b, d});
            m.triangles.push_back({a, d, c});
        }
    return m;
}

struct OpenSlope {
    test::TemporaryFolder folder;
    WindowDriver w;
    OpenSlope() : w(folder / "home") {
        io::write_mesh(slope_with_hole(), folder / "slope.ply", false, "m");
        REQUIRE(w.open(folder / "slope.ply"));
        w.key(Qt::Key_1);
        REQUIRE(w.settle());
    }
    ~OpenSlope() { w.close(); }
    QPoint pixel(double x, double y) { return w.point(w.stage().frame().project({x, y, 0.3 * x})); }
    void point_at(const QPoint& p) {
        QMouseEvent e(QEvent::MouseMove, p, w.stage().mapToGlobal(p), Qt::NoButton, Qt::NoButton,
                      Qt::NoModifier);
        QApplication::sendEvent(&w.stage(), &e);
    }
    void run(const char* command) {
        w.window().commands().trigger(command);
        REQUIRE(w.settle());
    }
};

}  // namespace

TEST_CASE("LikePointsAreAddedFromPointToPoint", "[window]") {
    OpenScan s;
    s.run("select.rectangle");
    s.drag({s.pixel(-0.5, 5), s.pixel(0.5, 6)});
    const ElementSet seeds = s.selection();
    REQUIRE(seeds.count() > 10);
    s.run("select.similar");
    const auto& card = s.w.window().card();
    CHECK(s.selection() ==
          select::connected(s.cloud(), seeds, s.all(), {card.reach(), card.colour_tolerance()}));
    const std::uint64_t like = s.selection().count();
    CHECK(like > seeds.count());
    s.run("edit.undo");
    s.run("select.connected");
    CHECK(s.selection().count() > like);  // whatever the colour
}

TEST_CASE("WhatLiesRoundARimIsTakenByPointingAtIt", "[window]") {
    OpenSlope s;
    const site::Item& item = s.w.item();
    const ElementSet all = ElementSet::all(item.cloud->size());
    const auto expected = [&](const QPoint& p) {
        const auto id = s.w.stage().seen_at({static_cast<double>(p.x()), static_cast<double>(p.y())});
        REQUIRE(id);
        return select::round_rim(*item.cloud, *id, all);  // one page: the number is that of the triangle
    };
    // Beside the hole.
    const QPoint beside = s.pixel(7.3, 10.2);
    s.point_at(beside);
    s.run("select.rim");
    REQUIRE(s.w.site().selection_in_work());
    CHECK(*s.w.site().selection_in_work() == expected(beside));
    const std::uint64_t hole = s.w.site().selected();
    CHECK(hole == 38);  // of the squares at its corners two touch it with one triangle only
    // With a selection the rim nearest to that.
    s.run("select.clear");
    const QPoint outer = s.pixel(0.3, 10.2);
    s.point_at(outer);
    s.run("select.rim");
    CHECK(*s.w.site().selection_in_work() == expected(outer));
    CHECK(s.w.site().selected() > hole);
    s.run("select.clear");
    s.point_at({3, 3});
    s.run("select.rim");
    CHECK(s.w.site().selected() == 0);
}

TEST_CASE("ArrowsPointDownTheSlope", "[window]") {
    OpenSlope s;
    const QImage before = s.w.stage().grab().toImage();
    s.run("view.slope_arrows");
    REQUIRE(s.w.wait([&] { return !s.w.stage().guides().empty(); }));
    CHECK(test::differing_pixels(before, s.w.stage().grab().toImage(), before.rect()) > 100);
    int down = 0, all = 0;
    for (const auto& arrow : s.w.stage().guides()) {
        REQUIRE(arrow.points.size() >= 2);
        ++all;
        down += arrow.points[1].z < arrow.points[0].z;
    }
    CHECK(all > 20);
    CHECK(down == all);
    s.run("view.slope_arrows");
    CHECK(s.w.stage().guides().empty());
}
