// Sites with surfaces: the spoil bank of two dates, and a plane.

#pragma once

#include <QComboBox>
#include <QDoubleSpinBox>
#include <QPushButton>
#include <QTreeWidget>
#include <catch2/catch.hpp>
#include "app/cards/measure_card.h"
#include "core/io/mesh/mesh_io.h"
#include "core/surface/definition.h"
#include "demo/ashmere.h"
#include "demo/spoil.h"
#include "window_driver.h"

namespace pristine::test {

/// Squares of 1 x 1, so many across and up, at heights z(column, row) of their corners.
template <class Height>
mesh::TriMesh field(int columns, int rows, Height&& z) {
    surface::Definition d;
    for (int j = 0; j <= rows; ++j)
        for (int i = 0; i <= columns; ++i)
            d.points.push_back({static_cast<double>(i), static_cast<double>(j), z(i, j)});
    return surface::build(d).mesh;
}

struct SpoilSite {
    TemporaryFolder folder;
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
    void build(double thin = 0, double longest = 0) {
        w.window().commands().trigger("tools.surface");
        REQUIRE(w.settle());
        w.find<QDoubleSpinBox>("surfaceThin")->setValue(thin);
        w.find<QDoubleSpinBox>("surfaceLongest")->setValue(longest);
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

inline double ring_area(const std::vector<Vec3>& r) {
    double a = 0;
    for (std::size_t i = 0; i < r.size(); ++i) {
        const Vec3 p = r[i] - r[0], q = r[(i + 1) % r.size()] - r[0];
        a += 0.5 * (p.x * q.y - p.y * q.x);
    }
    return std::fabs(a);
}

// A plane that rises to the east, 40 by 40, a point each metre, as a surface in work.
inline void plane_in_work(WindowDriver& w, const TemporaryFolder& folder) {
    surface::Definition d;
    for (int y = 0; y <= 40; ++y)
        for (int x = 0; x <= 40; ++x)
            d.points.push_back(demo::kSiteOrigin + Vec3{double(x), double(y), 0.1 * x});
    io::write_mesh(surface::build(d).mesh, folder / "plane 2026-10-05.ply", false, "m");
    REQUIRE(w.open(folder / "plane 2026-10-05.ply"));
    w.window().commands().trigger("view.top");
    REQUIRE(w.settle());
}

inline QPoint middle_of(QWidget& view) {
    return {view.width() / 2, view.height() / 2};
}

}  // namespace pristine::test
