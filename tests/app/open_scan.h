// The first scan of the demo site seen from above, and what hands do to it.

#pragma once

#include <initializer_list>

#include "core/select/fence.h"
#include "open_chamber.h"

namespace pristine::test {

struct OpenScan : OpenChamber {
    explicit OpenScan(std::uint64_t points = 100'000) : OpenChamber(points) {
        w.key(Qt::Key_1);
        REQUIRE(w.settle());
    }
    const cloud::PointCloud& cloud() { return *w.item().cloud; }
    ElementSet all() { return ElementSet::all(cloud().size()); }
    const ElementSet& selection() {
        REQUIRE(w.site().selection_in_work());
        return *w.site().selection_in_work();
    }
    void run(const char* command) {
        w.window().commands().trigger(command);
        REQUIRE(w.settle());
    }
    void drag(std::initializer_list<QPoint> path, QWidget* on = nullptr) {
        QWidget* stage = on ? on : &w.stage();
        QTest::mousePress(stage, Qt::LeftButton, Qt::NoModifier, *path.begin());
        for (const QPoint& p : path) {
            QMouseEvent e(QEvent::MouseMove, p, stage->mapToGlobal(p), Qt::NoButton, Qt::LeftButton,
                          Qt::NoModifier);
            QApplication::sendEvent(stage, &e);
        }
        QTest::mouseRelease(stage, Qt::LeftButton, Qt::NoModifier, *(path.end() - 1));
        REQUIRE(w.settle());
    }
    // A place in plan as a pixel of the view from above.
    QPoint pixel(double x, double y) {
        const Vec3 floor = demo::kSiteOrigin;
        return w.point(w.stage().frame().project({floor.x + x, floor.y + y, floor.z}));
    }
};

inline Polygon polygon(std::initializer_list<QPoint> path) {
    Polygon p;
    for (const QPoint& q : path) p.push_back({static_cast<double>(q.x()), static_cast<double>(q.y())});
    return p;
}

}  // namespace pristine::test
