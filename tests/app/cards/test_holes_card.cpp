// Holes closed by mouse: whole rims, parts, bridges, seen before they are made; brushes; regions.

#include <catch2/catch.hpp>

#include <QComboBox>
#include <QLabel>
#include <QPushButton>
#include <QSpinBox>
#include <QTextBrowser>
#include <QTreeWidget>
#include <set>

#include "app/cards/holes_card.h"
#include "app/cards/mesh_card.h"
#include "core/io/mesh/mesh_cloud.h"
#include "core/io/mesh/mesh_io.h"
#include "core/repair/steps.h"
#include "core/topology/adjacency.h"
#include "demo/solids.h"
#include "support/mesh_makers.h"
#include "window_driver.h"

using namespace pristine;
using test::WindowDriver;

namespace {

constexpr Vec3 kAt{412300, 5218930, 58};

using test::rims_of;

// A ball with a cap off its top and a smaller one off its side, from above.
struct OpenBall {
    test::TemporaryFolder folder;
    WindowDriver w;
    OpenBall() : w(folder / "home") {
        mesh::TriMesh m = demo::ball(24, 1, kAt);
        std::vector<char> gone(m.triangles.size(), 0);
        for (std::size_t t = 0; t < gone.size(); ++t) {
            const auto& c = m.triangles[t];
            const Vec3 p = (m.vertices[c[0]] + m.vertices[c[1]] + m.vertices[c[2]]) * (1 / 3.0) - kAt;
            gone[t] = p.z > 0.8 || p.x < -0.93;
        }
        m = repair::without(m, gone);
        io::write_mesh(m, folder / "ball.ply", false, "m");
        REQUIRE(w.open(folder / "ball.ply"));
    }
    ~OpenBall() { w.close(); }
    app::HolesCard& card() { return *w.window().findChild<app::HolesCard*>(); }
    bool idle() {
        return w.wait([&] { return !w.window().jobs().busy(); }) && w.settle();
    }
    void open_card() {
        w.window().commands().trigger("tools.holes");
        REQUIRE(w.wait([&] { return card().holes() > 0; }));
        REQUIRE(idle());
    }
    void choose(int row) {
        auto* list = w.find<QTreeWidget>("holesList");
        list->setCurrentItem(list->topLevelItem(row));
        REQUIRE(idle());
    }
    void from_above() {
        w.window().commands().trigger("view.top");
        REQUIRE(idle());
    }
    QPoint pixel(const Vec3& p) {
        const PixelPoint q = w.stage().frame().project(p);
        return {static_cast<int>(q.x), static_cast<int>(q.y)};
    }
    mesh::TriMesh shown() { return io::mesh_of(*w.item().cloud, ~*w.item().absent); }
    // Pixels in the colour of a fill that is not made yet.
    int preview_pixels() {
        const QImage picture = w.stage_picture();
        int n = 0;
        for (int y = 0; y < picture.height(); ++y)
            for (int x = 0; x < picture.width(); ++x) {
                const QColor c = picture.pixelColor(x, y);
                n += c.red() > 90 && c.red() > c.blue() * 2 && c.green() > c.blue() + 20 &&
                     c.red() > c.green() + 20;
            }
        return n;
    }
};

}  // namespace

TEST_CASE("AHoleIsSeenFilledBeforeItIsMade", "[window]") {
    OpenBall s;
    s.open_card();
    auto* list = s.w.find<QTreeWidget>("holesList");
    REQUIRE(list->topLevelItemCount() == 2);
    CHECK_FALSE(s.w.find<QPushButton>("holesFill")->isEnabled());
    CHECK(s.preview_pixels() < 50);
    s.choose(0);  // the widest: the cap off the top
    s.from_above();
    REQUIRE(s.card().preview());
    CHECK(s.w.find<QLabel>("holesTold")->text().contains("would close it"));
    CHECK(s.w.find<QLabel>("holesTold")->text().contains("bulges"));
    CHECK(list->topLevelItem(0)->text(3).endsWith(QStringLiteral("m²")));
    const int seen = s.preview_pixels();
    CHECK(seen > 2000);
    // Nothing is made yet.
    CHECK(s.w.item().ledger.empty());
    CHECK(s.w.site().items.size() == 1);
    // A flat fill has other triangles, seen at once.
    const auto curved = s.card().preview();
    auto* kind = s.w.find<QComboBox>("holesKind");
    kind->setCurrentIndex(0);
    emit kind->activated(0);
    REQUIRE(s.idle());
    REQUIRE(s.card().preview());
    CHECK_FALSE(s.w.find<QLabel>("holesTold")->text().contains("bulges"));
    CHECK(s.card().preview() != curved);
    CHECK(s.card().preview()->bounds().hi.z < curved->bounds().hi.z - 0.05);
    const std::uint64_t flat = s.card().preview()->size();
    s.w.click(s.w.find<QPushButton>("holesFill"));
    REQUIRE(s.w.wait([&] { return s.w.item().ledger.size() == 1; }));
    REQUIRE(s.idle());
    CHECK(s.w.item().ledger[0].made->count() == flat);
    CHECK(rims_of(s.shown()).size() == 1);
    CHECK(s.card().holes() == 1);
    CHECK_FALSE(s.card().preview());
    s.w.document().undo();
    REQUIRE(s.idle());
    CHECK(s.card().holes() == 2);
    // A rim with a ring taken away first.
    s.choose(1);
    s.w.click(s.w.find<QPushButton>("holesWiden"));
    REQUIRE(s.w.wait([&] { return s.w.item().ledger.size() == 1; }));
    REQUIRE(s.idle());
    CHECK(s.w.item().ledger[0].elements->count() > 10);
    CHECK(rims_of(s.shown()).size() == 1);
    // Closed, the card leaves nothing in the picture.
    s.choose(0);
    REQUIRE(s.card().preview());
    s.w.click(s.w.find<QPushButton>("holesClose"));
    REQUIRE(s.idle());
    CHECK(s.preview_pixels() < 50);
}

TEST_CASE("TheWipeShowsAHoleBeforeItsFillAndTheFillAfter", "[window]") {
    OpenBall s;
    s.from_above();
    s.open_card();
    s.choose(0);
    s.from_above();
    s.w.click(s.w.find<QPushButton>("holesFill"));
    REQUIRE(s.w.wait([&] { return s.w.item().ledger.size() == 1; }));
    s.w.window().commands().trigger("tools.holes");  // closes the card: nothing of it is drawn
    s.from_above();
    const QImage filled = s.w.stage_picture();
    s.w.document().undo();
    REQUIRE(s.idle());
    const QImage open = s.w.stage_picture();
    s.w.document().redo();
    REQUIRE(s.idle());
    s.w.window().commands().trigger("view.wipe");
    REQUIRE(s.w.wait([&] { return s.w.stage().before_picture() && s.w.stage().before_picture()->complete; }));
    const QPoint at = s.pixel(kAt + Vec3{0, 0, 1});
    const QRect there(at.x() - 12, at.y() - 12, 24, 24);
    REQUIRE(test::differing_pixels(open, filled, there) > 100);
    const auto line_to = [&](int x) {
        const int from = static_cast<int>(s.w.stage().wipe_x());
        s.w.drag(Qt::LeftButton, {from, 300}, {x, 300});
        return s.w.stage().grab().toImage();
    };
    CHECK(test::differing_pixels(line_to(at.x() + 60), open, there) == 0);
    CHECK(test::differing_pixels(line_to(at.x() - 60), filled, there) == 0);
}

TEST_CASE("ARepairHasAPictureOfWhatItMade", "[window]") {
    OpenBall s;
    // From the side the fill of the top is hardly more than a line: the picture is taken from its front.
    s.w.window().commands().trigger("view.front");
    REQUIRE(s.idle());
    s.open_card();
    s.choose(0);
    s.w.click(s.w.find<QPushButton>("holesFill"));
    REQUIRE(s.w.wait([&] { return s.w.item().ledger.size() == 1; }));
    REQUIRE(s.idle());
    const auto picture = s.w.item().ledger[0].picture;
    REQUIRE(picture);
    std::set<std::array<std::uint8_t, 3>> colours;
    for (std::size_t i = 0; i + 2 < picture->rgb.size(); i += 3)
        colours.insert({picture->rgb[i], picture->rgb[i + 1], picture->rgb[i + 2]});
    CHECK(colours.size() > 3);  // shaded triangles on a background
    std::size_t warm = 0;       // the one colour of meshes without any
    for (std::size_t i = 0; i + 2 < picture->rgb.size(); i += 3)
        warm += picture->rgb[i] > picture->rgb[i + 2] + 8;
    CHECK(warm > picture->rgb.size() / 3 / 4);
    bool shown = false;
    for (const QLabel* l : s.w.window().findChildren<QLabel*>(QStringLiteral("ledgerPicture")))
        shown |= !l->pixmap().isNull();
    CHECK(shown);
}

TEST_CASE("F1OpensThePageOfTheCardThatIsOpen", "[window]") {
    OpenBall s;
    const auto heading = [&] {
        s.w.key(Qt::Key_F1);
        return s.w.find<QTextBrowser>("manualPage")->toPlainText().section('\n', 0, 0).toStdString();
    };
    s.open_card();
    CHECK(heading() == "Holes of a mesh");
    s.w.window().commands().trigger("tools.mesh");
    REQUIRE(s.idle());
    CHECK(heading() == "Scan meshes: fixture off, check, repair, holes, closed skin, volume");
    s.w.window().commands().trigger("tools.align");
    REQUIRE(s.idle());
    CHECK(heading() == "Features of a mesh, and aligning it");
}

TEST_CASE("ARimThatJoinsASheetInsideSaysSoAndMarksThePlace", "[window]") {
    test::TemporaryFolder folder;
    WindowDriver w(folder / "home");
    mesh::TriMesh m = demo::ball(20, 1, kAt);
    std::vector<char> gone(m.triangles.size(), 0);
    for (std::size_t t = 0; t < gone.size(); ++t)
        for (const std::uint32_t v : m.triangles[t]) gone[t] |= m.vertices[v].z > kAt.z + 0.88;
    m = repair::without(m, gone);
    const auto rim = rims_of(m)[0];
    std::vector<std::uint32_t> upper(rim.begin(), rim.begin() + 7);
    for (int ring = 0; ring < 8; ++ring) {
        std::vector<std::uint32_t> lower;
        for (const std::uint32_t v : upper) {
            lower.push_back(static_cast<std::uint32_t>(m.vertices.size()));
            m.vertices.push_back(kAt + (m.vertices[v] - kAt) * 0.97 - Vec3{0, 0, 0.13});
        }
        for (std::size_t i = 0; i + 1 < upper.size(); ++i) {
            m.triangles.push_back({upper[i + 1], upper[i], lower[i]});
            m.triangles.push_back({upper[i + 1], lower[i], lower[i + 1]});
        }
        upper = lower;
    }
    io::write_mesh(m, folder / "flap.ply", false, "m");
    REQUIRE(w.open(folder / "flap.ply"));
    w.window().commands().trigger("tools.holes");
    auto& card = *w.window().findChild<app::HolesCard*>();
    REQUIRE(w.wait([&] { return card.holes() == 1 && !w.window().jobs().busy(); }));
    auto* list = w.find<QTreeWidget>("holesList");
    list->setCurrentItem(list->topLevelItem(0));
    REQUIRE(w.settle());
    CHECK(w.find<QLabel>("holesTold")->text().contains("joins the outside to a sheet inside"));
    // The rim, and a cross of three strokes about one place down on the flap.
    const auto guides = card.guides();
    REQUIRE(guides.size() == 4);
    const Vec3 place = (guides[1].front() + guides[1].back()) * 0.5;
    CHECK(place.z < kAt.z + 0.4);
    // The repair leaves it too, says why on the tour, and marks it.
    w.window().commands().trigger("tools.mesh");
    auto& mesh = *w.window().findChild<app::MeshCard*>();
    REQUIRE(w.wait([&] { return mesh.findings() && !w.window().jobs().busy(); }));
    CHECK(mesh.guides().size() == 1);
    w.click(w.find<QPushButton>("meshRepairAll"));
    REQUIRE(w.wait([&] { return w.find<QLabel>("meshTold")->isVisible() && !w.window().jobs().busy(); }));
    CHECK(w.find<QLabel>("meshTold")->text().startsWith("Nothing could be repaired. Left: Holes"));
    CHECK(w.item().ledger.empty());
    CHECK(mesh.guides().size() == 4);
    CHECK_FALSE(w.find<QLabel>("meshWhy")->isVisible());
    auto* kinds = w.find<QTreeWidget>("meshKinds");
    kinds->setCurrentItem(mesh.row_of(repair::Fault::Hole));
    w.click(w.find<QPushButton>("meshNext"));
    REQUIRE(w.settle());
    CHECK(w.find<QLabel>("meshWhy")->isVisible());
    CHECK(w.find<QLabel>("meshWhy")->text().contains("joins the outside to a sheet inside"));
    w.close();
}

TEST_CASE("TwoCornersByMouseFillAPartOrBridgeAHole", "[window]") {
    OpenBall s;
    s.from_above();
    s.open_card();
    s.w.click(s.w.find<QPushButton>("holesPick"));
    const mesh::TriMesh before = s.shown();
    std::vector<std::uint32_t> rim;
    for (const auto& r : rims_of(before))
        if (r.size() > rim.size()) rim = r;
    const std::size_t n = rim.size();
    const auto at = [&](std::size_t i) { return s.pixel(before.vertices[rim[i]]); };
    QTest::mouseClick(&s.w.stage(), Qt::LeftButton, {}, at(0));
    CHECK(s.w.find<QLabel>("holesTold")->text().contains("second corner"));
    CHECK_FALSE(s.card().preview());
    QTest::mouseClick(&s.w.stage(), Qt::LeftButton, {}, at(n / 3));
    REQUIRE(s.w.wait([&] { return s.card().preview() != nullptr; }));
    REQUIRE(s.idle());
    const std::uint64_t shorter = s.card().preview()->size();
    auto* side = s.w.find<QComboBox>("holesSide");
    const auto choose_side = [&](int k) {
        side->setCurrentIndex(k);
        emit side->activated(k);
        REQUIRE(s.idle());
        REQUIRE(s.card().preview());
    };
    choose_side(1);
    CHECK(s.card().preview()->size() > shorter);
    choose_side(0);
    CHECK(s.card().preview()->size() == shorter);
    s.w.click(s.w.find<QPushButton>("holesFill"));
    REQUIRE(s.w.wait([&] { return s.w.item().ledger.size() == 1; }));
    REQUIRE(s.idle());
    CHECK(rims_of(s.shown()).size() == 2);  // what is left of it, and the other
    CHECK(s.w.item().ledger[0].made->count() == shorter);
    // Two corners that face each other, with a bridge: one hole more.
    s.w.document().undo();
    REQUIRE(s.idle());
    s.w.click(s.w.find<QPushButton>("holesPick"));
    QTest::mouseClick(&s.w.stage(), Qt::LeftButton, {}, at(0));
    QTest::mouseClick(&s.w.stage(), Qt::LeftButton, {}, at(n / 2));
    REQUIRE(s.w.wait([&] { return s.card().preview() != nullptr; }));
    choose_side(2);
    s.w.find<QSpinBox>("holesWidth")->setValue(3);
    REQUIRE(s.w.wait([&] { return s.card().preview() != nullptr; }));
    REQUIRE(s.idle());
    s.w.click(s.w.find<QPushButton>("holesFill"));
    REQUIRE(s.w.wait([&] { return s.w.item().ledger.size() == 1; }));
    CHECK(rims_of(s.shown()).size() == 3);
    // Far from every rim a click picks nothing.
    s.w.click(s.w.find<QPushButton>("holesPick"));
    QTest::mouseClick(&s.w.stage(), Qt::LeftButton, {}, QPoint(12, 300));
    CHECK_FALSE(s.card().preview());
}

TEST_CASE("ABrushRelaxesWhatItPassesOverInOneEntry", "[window]") {
    test::TemporaryFolder folder;
    WindowDriver w(folder / "home");
    mesh::TriMesh m = demo::block(40, {0, 0, 0}, {4, 4, 1});
    for (Vec3& v : m.vertices)
        if (v.z == 1) v.z += 0.02 * std::sin(40 * v.x) * std::sin(37 * v.y);
    io::write_mesh(m, folder / "slab.ply", false, "m");
    REQUIRE(w.open(folder / "slab.ply"));
    w.window().commands().trigger("view.top");
    REQUIRE(w.settle());
    w.window().commands().trigger("tools.relax");
    w.find<QSpinBox>("brushStrength")->setValue(100);
    const auto pixel = [&](const Vec3& p) {
        const PixelPoint q = w.stage().frame().project(p);
        return QPoint(static_cast<int>(q.x), static_cast<int>(q.y));
    };
    const QImage before = w.stage_picture();
    const QPoint from = pixel({1, 2, 1}), to = pixel({3, 2, 1});
    w.drag(Qt::LeftButton, from, to);
    REQUIRE(w.wait([&] { return w.item().ledger.size() == 1; }));
    REQUIRE(w.settle());
    const site::LedgerEntry e = w.item().ledger[0];
    CHECK(e.reason == "Relaxed");
    CHECK(e.made->count() == e.count());
    CHECK(e.count() > 20);
    const mesh::TriMesh now = io::mesh_of(*w.item().cloud, ~*w.item().absent);
    CHECK(now.triangles.size() == m.triangles.size());
    // Smoother along the stroke, untouched away from it.
    double rough = 0, was = 0;
    for (const Vec3& v : now.vertices)
        if (v.z > 0.9 && std::fabs(v.y - 2) < 0.05 && v.x > 1.2 && v.x < 2.8) rough += std::fabs(v.z - 1);
    for (const Vec3& v : m.vertices)
        if (v.z > 0.9 && std::fabs(v.y - 2) < 0.05 && v.x > 1.2 && v.x < 2.8) was += std::fabs(v.z - 1);
    CHECK(rough < 0.8 * was);
    CHECK(test::differing_pixels(before, w.stage_picture(), QRect(from - QPoint(0, 15), to + QPoint(0, 15))) >
          100);
    w.document().undo();
    CHECK(w.item().ledger.empty());
    REQUIRE(w.settle());
    // Flatten, likewise.
    w.window().commands().trigger("tools.flatten");
    w.drag(Qt::LeftButton, from, to);
    REQUIRE(w.wait([&] { return w.item().ledger.size() == 1; }));
    CHECK(w.item().ledger[0].reason == "Flattened");
    w.close();
}

TEST_CASE("ARegionOpensAsTheMouseIsDraggedAway", "[window]") {
    test::TemporaryFolder folder;
    WindowDriver w(folder / "home");
    io::write_mesh(demo::block(10, {0, 0, 0}, {4, 4, 1}), folder / "slab.ply", false, "m");
    REQUIRE(w.open(folder / "slab.ply"));
    w.window().commands().trigger("view.top");
    REQUIRE(w.settle());
    w.window().commands().trigger("select.region");
    const QPoint middle(w.stage().width() / 2, w.stage().height() / 2);
    // A short way: the top face, which is flat.
    w.drag(Qt::LeftButton, middle, middle + QPoint(60, 0));
    REQUIRE(w.settle());
    CHECK(w.site().selected() == 200);
    // Over edges of 90 degrees and more: all of it.
    w.drag(Qt::LeftButton, middle,
           middle + QPoint(0, 380 < w.stage().height() / 2 ? 380 : 300) + QPoint(300, 0));
    REQUIRE(w.settle());
    CHECK(w.site().selected() == w.item().cloud->size());
    w.close();
}
