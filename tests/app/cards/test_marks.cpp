// Marks by mouse: drawn, listed, shown in every view, out of date, exported.

#include <catch2/catch.hpp>

#include <QComboBox>
#include <QLabel>
#include <QLineEdit>
#include <QPushButton>
#include <QTreeWidget>
#include <cmath>

#include "app/cards/marks_card.h"
#include "app/panes/panorama_pane.h"
#include "app/panes/section_axes.h"
#include "app/panes/section_pane.h"
#include "core/site/marks.h"
#include "open_scan.h"
#include "surface_sites.h"

using namespace pristine;
using test::OpenScan;
using test::WindowDriver;

namespace {

struct Marking : OpenScan {
    Marking() { run("tools.marks"); }
    QPushButton* kind(const char* id) {
        return w.find<QPushButton>(QStringLiteral("mark.") + QString::fromLatin1(id));
    }
    QPoint click(double x, double y) {
        const QPoint p = pixel(x, y);
        QTest::mouseClick(&w.stage(), Qt::LeftButton, Qt::NoModifier, p);
        return p;
    }
    // What a click at a pixel takes: the point that is seen there.
    Vec3 seen(QPoint p) {
        const auto picture = w.stage().picture();
        const auto id = picture->id_near(p.x(), p.y(), 3);
        REQUIRE(id);
        return picture->position(*id);
    }
    const site::Mark& last() {
        REQUIRE_FALSE(w.site().marks.empty());
        return *w.site().marks.back();
    }
};

}  // namespace

TEST_CASE("AMarkIsDrawnListedShownAndUndone", "[window]") {
    Marking m;
    auto* card = m.w.window().findChild<app::MarksCard*>();
    REQUIRE(card->is_open());
    const QImage bare = m.w.stage().grab().toImage();
    const QPoint a = m.click(-2, 4), b = m.click(2, 9);
    REQUIRE(m.w.settle());
    REQUIRE(m.w.site().marks.size() == 1);
    CHECK(m.last().kind == MarkKind::Distance);
    CHECK(m.last().points == std::vector<Vec3>{m.seen(a), m.seen(b)});
    CHECK(m.last().name == "Distance 1");
    // It is seen: its line and its words.
    const QImage drawn = m.w.stage().grab().toImage();
    CHECK(test::differing_pixels(bare, drawn, QRect(a, b).normalized()) > 100);
    auto* list = m.w.find<QTreeWidget>("marksList");
    REQUIRE(list->topLevelItemCount() == 1);
    CHECK(list->topLevelItem(0)->text(1) == "Distance 1");
    const double length = norm(m.last().points[1] - m.last().points[0]);
    CHECK(list->topLevelItem(0)->text(2) == QStringLiteral("%1 m").arg(length, 0, 'f', 3));
    CHECK(m.w.find<QLabel>("marksFigures")->text().contains("In plan"));
    // In the contents too, with the figure.
    auto* note = m.w.find<QLineEdit>("marksNote");
    note->setFocus();
    QTest::keyClicks(note, "between the gauges");
    QTest::keyClick(note, Qt::Key_Return);
    CHECK(m.last().note == "between the gauges");
    // Hidden it is not drawn.
    m.w.click(m.w.find<QPushButton>("marksAll"));
    REQUIRE(m.w.settle());
    CHECK_FALSE(m.last().visible);
    CHECK(test::differing_pixels(bare, m.w.stage().grab().toImage(), QRect(a, b).normalized()) <
          test::differing_pixels(bare, drawn, QRect(a, b).normalized()) / 4);
    for (int k = 0; k < 3; ++k) m.run("edit.undo");
    CHECK(m.w.site().marks.empty());
    CHECK(list->topLevelItemCount() == 0);
    m.run("edit.redo");
    CHECK(m.w.site().marks.size() == 1);
}

TEST_CASE("EveryKindOfMarkHasItsFigures", "[window]") {
    Marking m;
    const auto draw = [&](const char* kind, std::initializer_list<QPointF> places, bool enter) {
        m.w.click(m.kind(kind));
        std::vector<QPoint> at;
        for (const QPointF& p : places) at.push_back(m.click(p.x(), p.y()));
        if (enter) m.w.key(Qt::Key_Return);
        REQUIRE(m.w.settle());
        std::vector<Vec3> places_seen;
        for (const QPoint& p : at) places_seen.push_back(m.seen(p));
        return places_seen;
    };
    const std::size_t before = m.w.site().marks.size();
    std::vector<Vec3> clicked;
    clicked = draw("point", {{-1, 5}}, false);
    CHECK(clicked == m.last().points);
    CHECK(m.last().kind == MarkKind::Point);
    clicked = draw("path", {{-2, 4}, {0, 5}, {2, 8}}, true);
    CHECK(clicked == m.last().points);
    CHECK(m.last().kind == MarkKind::Path);
    clicked = draw("angle", {{-2, 5}, {0, 5}, {0, 8}}, false);
    CHECK(clicked == m.last().points);
    CHECK(mark_figures(m.last().kind, m.last().points)[1].value == Approx(90).margin(8));
    clicked = draw("area", {{-2, 4}, {2, 4}, {2, 8}, {-2, 8}}, true);
    CHECK(clicked == m.last().points);
    CHECK(mark_figures(m.last().kind, m.last().points)[0].value == Approx(16).margin(1.5));
    clicked = draw("fall", {{-1.5, 7}, {-0.4, 7}}, false);
    CHECK(clicked == m.last().points);
    CHECK(m.w.site().marks.size() == before + 5);
    // An area whose sides cross is refused, and nothing is kept.
    draw("area", {{-2, 4}, {2, 8}, {2, 4}, {-2, 9}}, true);
    CHECK(m.w.site().marks.size() == before + 5);
    // Backspace takes a place back, Esc drops what was begun.
    m.w.click(m.kind("path"));
    m.click(-2, 4);
    m.click(1, 5);
    m.w.key(Qt::Key_Backspace);
    m.click(2, 8);
    m.w.key(Qt::Key_Return);
    REQUIRE(m.w.settle());
    CHECK(m.last().points.size() == 2);
    m.click(-2, 4);
    m.w.key(Qt::Key_Escape);
    m.w.key(Qt::Key_Return);
    CHECK(m.w.site().marks.size() == before + 6);
}

TEST_CASE("AMarkIsDrawnToCornersOfLinesAndOfTriangles", "[window]") {
    Marking m;
    // A line that hangs over the floor: its corner is taken, not the floor below.
    const Vec3 corner = demo::kSiteOrigin + Vec3{1.013, 6.027, 1.5};
    m.w.document().apply("Draw", [&](const site::Site& s) {
        site::Line l;
        l.name = "Edge";
        l.points = {corner, corner + Vec3{0.5, 3, 0}};
        return site::put_lines(s, {l});
    });
    REQUIRE(m.w.settle());
    m.w.click(m.kind("point"));
    const PixelPoint p = m.w.stage().frame().project(corner);
    QTest::mouseClick(&m.w.stage(), Qt::LeftButton, Qt::NoModifier, m.w.point({p.x + 3, p.y - 3}));
    REQUIRE(m.w.settle());
    CHECK(m.last().points.front() == corner);
    // Along the line: a place of it, between its ends.
    const Vec3 middle = corner + Vec3{0.25, 1.5, 0};
    const PixelPoint q = m.w.stage().frame().project(middle);
    QTest::mouseClick(&m.w.stage(), Qt::LeftButton, Qt::NoModifier, m.w.point({q.x + 2, q.y}));
    REQUIRE(m.w.settle());
    CHECK(norm(m.last().points.front() - middle) < 0.1);
    CHECK(m.last().points.front().z == Approx(corner.z));
    // Over nothing no mark begins.
    const std::size_t before = m.w.site().marks.size();
    QTest::mouseClick(&m.w.stage(), Qt::LeftButton, Qt::NoModifier, {2, m.w.stage().height() - 2});
    REQUIRE(m.w.settle());
    CHECK(m.w.site().marks.size() == before);
}

TEST_CASE("AHeightAboveTheGroundKnowsWhenItIsOutOfDate", "[window]") {
    Marking m;
    m.w.click(m.kind("above"));
    auto* over = m.w.find<QComboBox>("marksOver");
    CHECK(over->isVisible());
    // The head of the worker who stands there.
    const QPoint head = m.w.point(m.w.stage().frame().project(demo::kSiteOrigin + Vec3{-1.3, 15.4, 1.7}));
    QTest::mouseClick(&m.w.stage(), Qt::LeftButton, Qt::NoModifier, head);
    REQUIRE(m.w.settle());
    REQUIRE(m.w.site().marks.size() == 1);
    const site::Mark mark = m.last();
    CHECK(mark.over == m.w.site().active);
    const double above = mark.points[0].z - mark.points[1].z;
    CAPTURE(above);
    CHECK(mark.points[1].z == Approx(demo::kSiteOrigin.z).margin(0.06));
    CHECK(above > 0.5);
    CHECK(site::why_stale(m.w.site(), mark).empty());
    // Something is removed: the figure may be another one, and says so.
    m.run("select.rectangle");
    m.drag({m.pixel(1, 4), m.pixel(2, 5)});
    m.run("decide.remove");
    CHECK_FALSE(site::why_stale(m.w.site(), m.last()).empty());
    CHECK(m.w.find<QLabel>("marksFigures")->text().contains("Out of date"));
    m.w.click(m.w.find<QPushButton>("marksAgain"));
    REQUIRE(m.w.settle());
    CHECK(site::why_stale(m.w.site(), m.last()).empty());
    CHECK(m.last().points[0] == mark.points[0]);
}

TEST_CASE("MarksAreDrawnInSectionAndPanoramaAndTheSectionHasScales", "[window]") {
    Marking m;
    m.click(-2, 6);
    m.click(2, 6);
    REQUIRE(m.w.settle());
    m.run("view.section");
    auto* pane = m.w.find<app::SectionPane>("sectionPane");
    m.drag({m.pixel(-3, 6), m.pixel(3, 6)});
    REQUIRE(m.w.wait([&] { return pane->stage().settled() && pane->strip_of(&m.cloud()); }));
    const auto differs = [&](auto grab) {
        const QImage with = grab();
        m.w.document().apply("Hide", [](const site::Site& s) { return site::show_marks(s, false); });
        REQUIRE(m.w.settle());
        REQUIRE(m.w.wait([&] { return !pane->isVisible() || pane->stage().settled(); }));
        const QImage without = grab();
        m.w.document().apply("Show", [](const site::Site& s) { return site::show_marks(s, true); });
        REQUIRE(m.w.settle());
        REQUIRE(m.w.wait([&] { return !pane->isVisible() || pane->stage().settled(); }));
        return test::differing_pixels(with, without, with.rect());
    };
    CHECK(differs([&] { return pane->stage().grab().toImage(); }) > 100);
    // The axes: a tick stands where its height is, lengths begin at the start of the line.
    auto* axes = pane->findChild<app::SectionAxes*>();
    const ViewFrame f = pane->stage().frame();
    REQUIRE(axes->heights().size() > 2);
    for (const auto& t : axes->heights())
        CHECK(f.project({f.eye.x, f.eye.y, t.text.toDouble()}).y == Approx(t.pixel).margin(0.01));
    REQUIRE(axes->along().size() > 2);
    const auto along = axes->along();
    const auto &first = along[0], &second = along[1];
    CHECK((second.pixel - first.pixel) / (second.text.toDouble() - first.text.toDouble()) ==
          Approx(f.scale).epsilon(1e-9));
    m.w.click(pane->findChild<QWidget*>("sectionClose"));
    CHECK_FALSE(pane->isVisible());
    m.run("view.panorama");
    auto* panorama = m.w.find<app::PanoramaPane>("panoramaPane");
    REQUIRE(m.w.wait([&] { return panorama->is_current() && !m.w.window().jobs().busy(); }));
    CHECK(differs([&] { return panorama->view().grab().toImage(); }) > 60);
    // And drawn there: two places of the floor.
    m.w.click(m.kind("distance"));
    std::vector<QPoint> at;
    for (int x = 300; x < 1200 && at.size() < 2; x += 200)
        for (int y = panorama->frame().height - 20; y > 20; y -= 5)
            if (panorama->seen_at({x + 0.5, y + 0.5})) {
                at.push_back({x, y});
                break;
            }
    REQUIRE(at.size() == 2);
    const std::size_t before = m.w.site().marks.size();
    for (const QPoint& p : at) QTest::mouseClick(&panorama->view(), Qt::LeftButton, Qt::NoModifier, p);
    REQUIRE(m.w.settle());
    REQUIRE(m.w.site().marks.size() == before + 1);
    for (std::size_t k = 0; k < 2; ++k) {
        const auto seen = panorama->seen_at({at[k].x() + 0.5, at[k].y() + 0.5});
        CHECK(m.last().points[k] == m.cloud().position(seen->element));
    }
}
