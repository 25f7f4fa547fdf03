// A broken mesh checked, toured, repaired one by one and all at once, wrapped, reduced, measured: by mouse.

#include <catch2/catch.hpp>

#include <QCheckBox>
#include <QComboBox>
#include <QDoubleSpinBox>
#include <QLabel>
#include <QPushButton>
#include <QSpinBox>
#include <QTreeWidget>
#include <algorithm>
#include <array>
#include <set>

#include "app/cards/align_card.h"
#include "app/cards/markers_card.h"
#include "app/cards/measure_card.h"
#include "app/cards/mesh_card.h"
#include "app/window/legend.h"
#include "app/window/text_import.h"
#include "core/cloud/column.h"
#include "core/io/mesh/mesh_cloud.h"
#include "core/io/mesh/mesh_io.h"
#include "core/repair/steps.h"
#include "core/select/triangle_solid.h"
#include "core/topology/adjacency.h"
#include "demo/milestone.h"
#include "demo/solids.h"
#include "window_driver.h"

using namespace pristine;
using repair::Fault;
using test::WindowDriver;

namespace {

struct BrokenBall {
    test::TemporaryFolder folder;
    WindowDriver w;
    BrokenBall() : w(folder / "home") {
        mesh::TriMesh m = demo::ball(20, 1, {412300, 5218930, 58});
        std::vector<char> gone(m.triangles.size(), 0);
        for (std::size_t t = 0; t < gone.size(); ++t) {
            const Vec3 p = m.vertices[m.triangles[t][0]] - Vec3{412300, 5218930, 58};
            gone[t] = norm(p - Vec3{0, 0, 1}) < 0.25 || norm(p - Vec3{1, 0, 0}) < 0.2;
        }
        m = repair::without(m, gone);
        // Far from both holes.
        for (std::size_t t = 0;; ++t)
            if (m.vertices[m.triangles[t][0]].z < 57.3) {
                m.triangles.push_back(m.triangles[t]);
                break;
            }
        const mesh::TriMesh bit = demo::block(1, {412302, 5218930, 58}, {412302.1, 5218930.1, 58.1});
        const auto n = static_cast<std::uint32_t>(m.vertices.size());
        m.vertices.insert(m.vertices.end(), bit.vertices.begin(), bit.vertices.end());
        for (const auto& t : bit.triangles) m.triangles.push_back({t[0] + n, t[1] + n, t[2] + n});
        io::write_mesh(m, folder / "ball.ply", false, "m");
        REQUIRE(w.open(folder / "ball.ply"));
        w.window().commands().trigger("tools.mesh");
        REQUIRE(checked());
    }
    ~BrokenBall() { w.close(); }
    app::MeshCard& card() { return *w.window().findChild<app::MeshCard*>(); }
    bool checked() {
        return w.wait([&] { return card().findings() != nullptr && !w.window().jobs().busy(); }) &&
               w.settle();
    }
    // Presses a button that makes a new item, and waits for it and for its check.
    void make(const char* name) {
        const std::size_t items = w.site().items.size();
        w.click(w.find<QPushButton>(name));
        REQUIRE(w.wait([&] { return w.site().items.size() == items + 1; }));
        REQUIRE(checked());
    }
    // Presses a button that repairs in place: a new entry of the ledger.
    void mend(const char* name) {
        const std::size_t entries = w.item().ledger.size();
        w.click(w.find<QPushButton>(name));
        REQUIRE(w.wait([&] { return w.item().ledger.size() == entries + 1; }));
        REQUIRE(checked());
    }
    void choose(Fault f) {
        auto* kinds = w.find<QTreeWidget>("meshKinds");
        kinds->setCurrentItem(card().row_of(f));
    }
};

}  // namespace

TEST_CASE("AMeshIsCheckedTouredAndRepairedByMouse", "[window]") {
    BrokenBall s;
    const repair::Check before = *s.card().findings();
    CHECK(before.count(Fault::Hole) == 2);
    CHECK(before.count(Fault::DuplicateFace) == 1);
    CHECK(before.count(Fault::SmallPiece) == 1);
    CHECK(s.w.find<QLabel>("meshFigures")->text().contains("No volume"));
    // Faults stand under what they do to the body, and say how much of it they touch.
    auto* found = s.w.find<QTreeWidget>("meshKinds");
    REQUIRE(found->topLevelItemCount() == 3);
    CHECK(s.card().row_of(Fault::Hole)->parent() == found->topLevelItem(0));
    CHECK(s.card().row_of(Fault::DuplicateFace)->parent() == found->topLevelItem(1));
    CHECK(s.card().row_of(Fault::Spike)->parent() == found->topLevelItem(2));
    CHECK(s.card().row_of(Fault::Hole)->text(2).endsWith(QStringLiteral("m²")));
    CHECK(s.card().row_of(Fault::SmallPiece)->text(2).endsWith(QStringLiteral("00 dm³")));
    CHECK(s.card().row_of(Fault::Spike)->text(2).isEmpty());
    // The tour flies to each hole and selects the triangles along its rim.
    s.choose(Fault::Hole);
    const Vec3 eye = s.w.stage().frame().eye;
    s.w.click(s.w.find<QPushButton>("meshNext"));
    REQUIRE(s.w.settle());
    CHECK(s.w.find<QLabel>("meshPlace")->text() == "1 of 2");
    CHECK(norm(s.w.stage().frame().eye - eye) > 0.1);
    CHECK(s.w.site().selected() == before.of(Fault::Hole)[0].triangles.size());
    s.w.site().selection_in_work()->for_each([&](std::uint64_t e) {
        const Vec3 p = s.w.item().cloud->position(e);
        CHECK(norm(p - before.of(Fault::Hole)[0].where) < 0.4);
    });
    s.w.click(s.w.find<QPushButton>("meshNext"));
    s.w.click(s.w.find<QPushButton>("meshNext"));
    REQUIRE(s.w.settle());
    CHECK(s.w.find<QLabel>("meshPlace")->text() == "1 of 2");
    // Findings become lines.
    s.w.click(s.w.find<QPushButton>("meshLines"));
    CHECK(s.w.site().lines.size() == 2);
    // This one alone: the other hole and the rest stay.
    s.mend("meshRepairOne");
    CHECK(s.card().findings()->count(Fault::Hole) == 1);
    CHECK(s.card().findings()->count(Fault::DuplicateFace) == 1);
    CHECK(s.w.site().items.size() == 1);
    CHECK(s.w.item().ledger[0].elements->empty());  // a fill takes nothing
    CHECK(s.w.item().ledger[0].cause.acts.at(0).kind == site::Act::Kind::Repair);
    CHECK(s.w.item().ledger[0].made->count() > 10);
    // Everything; then there is a volume, and a mass. Undo takes it back in one step.
    s.mend("meshRepairAll");
    CHECK(s.card().findings()->sound());
    CHECK(s.w.find<QLabel>("meshState")->text().startsWith("Sound"));
    s.w.find<QDoubleSpinBox>("meshDensity")->setValue(2500);
    CHECK(s.w.find<QLabel>("meshFigures")->text().contains("Mass <b>10"));  // 4.19 m3 of 2.5 t
    s.w.document().undo();
    REQUIRE(s.checked());
    CHECK(s.w.item().ledger.size() == 1);
    CHECK(s.card().findings()->count(Fault::Hole) == 1);
    // The picture shows the repaired ball where the hole was.
    s.w.document().redo();
    REQUIRE(s.checked());
    s.w.window().commands().trigger("view.top");
    REQUIRE(s.w.settle());
    const PixelPoint top = s.w.stage().frame().project({412300, 5218930, 59});
    CHECK(s.w.stage().seen_at(top).has_value());
    // The entry of the fill is lifted by its card: the hole is there again.
    const std::uint64_t entry = s.w.item().ledger[0].id;
    s.w.click(s.w.find<QPushButton>(("ledgerToggle" + std::to_string(entry)).c_str()));
    REQUIRE(s.w.wait([&] { return !s.w.item().ledger[0].active; }));
    REQUIRE(s.checked());
    CHECK(s.card().findings()->count(Fault::Hole) == 1);
}

TEST_CASE("AVolumeIsRefusedWithTheRimsMarkedAndTheFillOffered", "[window]") {
    BrokenBall s;
    CHECK(s.w.find<QLabel>("meshFigures")->text().contains("open at 2 rims, marked in the view"));
    const auto guides = s.card().guides();
    REQUIRE(guides.size() == 2);
    for (std::size_t k = 0; k < 2; ++k) {
        const auto& rim = s.card().findings()->of(Fault::Hole)[k].vertices;
        CHECK(guides[k].size() == rim.size() + 1);
        CHECK(guides[k].front() == guides[k].back());
    }
    // Seen in the picture: without the card the lines are gone.
    s.w.window().commands().trigger("view.top");
    REQUIRE(s.w.settle());
    const QPoint middle = s.w.point(s.w.stage().frame().project({412300, 5218930, 59}));
    const QRect there(middle.x() - 150, middle.y() - 150, 300, 300);
    const QImage marked = s.w.stage().grab().toImage();
    s.w.window().commands().trigger("tools.mesh");
    REQUIRE(s.w.settle());
    CHECK(test::differing_pixels(marked, s.w.stage().grab().toImage(), there) > 100);
    CHECK(s.card().guides().empty());
    s.w.window().commands().trigger("tools.mesh");
    REQUIRE(s.checked());
    // What is offered closes both, and repairs nothing else.
    auto* close = s.w.find<QPushButton>("meshFillHoles");
    REQUIRE(close->isVisible());
    s.mend("meshFillHoles");
    CHECK(s.card().findings()->count(Fault::Hole) == 0);
    CHECK(s.card().findings()->count(Fault::DuplicateFace) == 1);
    CHECK_FALSE(close->isVisible());
    CHECK(s.card().guides().empty());
    CHECK(s.w.find<QLabel>("meshFigures")->text().contains("more than two triangles"));
    s.mend("meshRepairAll");
    CHECK(s.w.find<QLabel>("meshFigures")->text().contains("Volume <b>"));
}

TEST_CASE("ARepairBesideTheOriginalIsColouredByItsDeviation", "[window]") {
    BrokenBall s;
    s.w.click(s.w.find<QCheckBox>("meshBeside"));
    REQUIRE(s.w.find<QCheckBox>("meshBeside")->isChecked());
    s.make("meshRepairAll");
    CHECK(s.card().findings()->sound());
    CHECK(s.w.item().style.column == "deviation");
    CHECK(s.w.item().ledger.empty());
    CHECK(s.w.site().items[0]->ledger.empty());
    CHECK_FALSE(s.w.site().items[0]->visible);
    // The fill of the larger hole bulges away from its rim; the rest lies where it lay.
    double most = 0;
    std::uint64_t off = 0;
    const auto values = cloud::fetch_column(*s.w.item().cloud, "deviation", Progress::none());
    for (std::size_t i = 0; i < values->values.size(); ++i) {
        most = std::max<double>(most, values->values[i]);
        off += values->values[i] > 1e-6f;
    }
    CHECK(most > 0.01);
    CHECK(off < values->values.size() / 10);
}

TEST_CASE("TheMeasureBoardFollowsAMesh", "[window]") {
    BrokenBall s;
    s.w.window().commands().trigger("tools.measure");
    auto& board = *s.w.window().findChild<app::MeasureCard*>();
    const auto measured = [&] {
        return s.w.wait([&] { return board.figures() && !s.w.window().jobs().busy(); }) && s.w.settle();
    };
    REQUIRE(measured());
    REQUIRE(board.figures()->solid_now);
    CHECK_FALSE(board.figures()->solid_now->closed);
    CHECK(s.w.find<QLabel>("measureNow")->text().contains("none: open"));
    CHECK(s.w.find<QLabel>("measureVolumes")->text().contains("Ctrl+R"));
    CHECK_FALSE(s.w.find<QComboBox>("measureBase")->isVisible());
    const double area = board.figures()->solid_now->area;
    // Repaired on the other card, measured again: the volume is there, and what was is told.
    s.w.window().commands().trigger("tools.mesh");
    REQUIRE(s.checked());
    s.mend("meshRepairAll");
    s.w.window().commands().trigger("tools.measure");
    REQUIRE(measured());
    const measure::SolidFigures now = *board.figures()->solid_now;
    CHECK(now.closed);
    CHECK(now.volume == Approx(4.18).epsilon(0.01));
    CHECK(board.figures()->solid_before->area == Approx(area).epsilon(1e-12));
    CHECK_FALSE(board.figures()->solid_before->closed);
    CHECK(s.w.find<QLabel>("measureNow")->text().contains("was none: open"));
    s.w.find<QDoubleSpinBox>("measureDensity")->setValue(2500);
    CHECK(s.w.find<QLabel>("measureNow")->text().contains("Mass"));
    // With the board open, every change is followed.
    s.w.document().undo();
    REQUIRE(s.w.wait([&] { return board.figures() && !board.figures()->solid_now->closed; }));
    CHECK(board.figures()->solid_now->area == Approx(area).epsilon(1e-12));
}

TEST_CASE("EdgesShorterThanALengthAreFoundAndClosedUp", "[window]") {
    BrokenBall s;
    REQUIRE(s.card().findings()->count(Fault::TinyEdge) == 0);
    const double edge = 0.073;  // the shortest of the ball are a little shorter
    s.w.find<QDoubleSpinBox>("meshShortest")->setValue(edge);
    REQUIRE(s.w.wait([&] { return s.card().findings() && s.card().findings()->tiny_edge == Approx(edge); }));
    REQUIRE(s.checked());
    const auto found = s.card().findings()->count(Fault::TinyEdge);
    REQUIRE(found > 0);
    s.mend("meshRepairAll");
    CHECK(s.card().findings()->count(Fault::TinyEdge) < found / 4 + 1);
    CHECK(s.card().findings()->closed);
}

TEST_CASE("AMeshIsWrappedAndReducedBesideTheOriginal", "[window]") {
    BrokenBall s;
    s.w.find<QDoubleSpinBox>("meshDetail")->setValue(0.12);
    s.make("meshWrap");
    CHECK(s.card().findings()->closed);
    CHECK(s.w.item().style.column == "deviation");
    CHECK(s.w.item().cloud->records()->layout().find("deviation") != nullptr);
    CHECK(s.w.find<app::Legend>("legend")->title() == "Deviation [m]");
    s.w.find<QSpinBox>("meshTriangles")->setValue(800);
    s.make("meshReduce");
    CHECK(s.w.item().cloud->size() <= 800);
    CHECK(s.w.site().items.size() == 3);
    // Nothing of the original was touched.
    CHECK(s.w.site().items[0]->removed->empty());
    CHECK(s.w.site().items[0]->cloud->size() > 3000);
}

TEST_CASE("OnlyTheSelectionIsReducedAndTheRestStaysToTheBit", "[window]") {
    BrokenBall s;
    const site::Item before = s.w.item();
    s.w.document().apply("Half", [&](const site::Site& now) {
        const ElementSet half = select::inside(*before.cloud, {{{0, 0, -1}, -58.2}}, site::eligible(before),
                                               select::Reach::Whole);
        return site::select(now, half, site::Combine::New);
    });
    const std::uint64_t selected = s.w.site().selected(), shown = before.shown();
    REQUIRE(selected > 300);
    const ElementSet chosen = *s.w.site().selection_in_work();
    s.w.find<QSpinBox>("meshTriangles")->setValue(100);
    s.mend("meshReduce");
    CHECK(s.w.site().items.size() == 1);
    const site::LedgerEntry& e = s.w.item().ledger[0];
    CHECK(e.reason == "Reduced");
    CHECK(e.count() <= selected);
    CHECK(e.made->count() < e.count());
    CHECK(s.w.item().shown() < shown - selected / 2);
    // Nothing of what was not selected was taken.
    const auto places = [](const cloud::PointCloud& c, const ElementSet& set) {
        std::set<std::array<double, 3>> out;
        set.for_each([&](std::uint64_t k) {
            const auto& t = c.triangles()->triangles[k];
            const Vec3 m =
                c.triangles()->vertices[t[0]] + c.triangles()->vertices[t[1]] + c.triangles()->vertices[t[2]];
            out.insert({m.x, m.y, m.z});
        });
        return out;
    };
    const auto was = places(*before.cloud, chosen), taken = places(*s.w.item().cloud, *e.elements);
    CHECK(std::includes(was.begin(), was.end(), taken.begin(), taken.end()));
}

TEST_CASE("FixtureAndPiecesGoAndTheStoneIsMeasured", "[window]") {
    test::TemporaryFolder folder;
    WindowDriver w(folder / "home");
    demo::write_milestone(folder.path(), false);
    REQUIRE(w.open(folder / "milestone-scan.ply"));
    // Backs are drawn in a tone of their own: from below, through the open foot once the table is gone.
    w.window().commands().trigger("view.front");
    REQUIRE(w.settle());
    // The table by a level plane just under the stone.
    w.document().apply("Below", [&](const site::Site& s) {
        const ElementSet below = select::inside(*s.active_item()->cloud, {{{0, 0, 1}, -1e-4}},
                                                site::eligible(*s.active_item()), select::Reach::Whole);
        return site::select(s, below, site::Combine::New);
    });
    w.window().commands().trigger("decide.remove");
    REQUIRE(w.settle());
    // One triangle of the stone in the middle of the view, then everything connected stays.
    const QPoint m(w.stage().width() / 2, w.stage().height() / 2);
    w.window().commands().trigger("select.rectangle");
    w.drag(Qt::LeftButton, m - QPoint(30, 30), m + QPoint(30, 30));
    REQUIRE(w.settle());
    REQUIRE(w.site().selected() > 0);
    w.window().commands().trigger("decide.keep_connected");
    REQUIRE(w.wait([&] { return w.item().ledger.size() == 2; }));
    REQUIRE(w.settle());
    // The shell inside lay behind the rectangle and was selected too: the repair takes it.
    w.window().commands().trigger("tools.mesh");
    auto& card = *w.window().findChild<app::MeshCard*>();
    REQUIRE(w.wait([&] { return card.findings() && !w.window().jobs().busy(); }));
    CHECK(card.findings()->count(Fault::SmallPiece) == 0);
    CHECK(card.findings()->count(Fault::Hole) >= 4);
    CHECK(card.findings()->count(Fault::SelfIntersection) > 0);
    w.click(w.find<QPushButton>("meshRepairAll"));
    REQUIRE(w.wait([&] { return w.item().ledger.size() == 3; }));
    REQUIRE(w.wait([&] { return card.findings() && !w.window().jobs().busy(); }));
    CHECK(card.findings()->sound());
    CHECK(card.findings()->components == 1);
    const mesh::TriMesh made = io::mesh_of(*w.item().cloud, ~*w.item().absent);
    CHECK(mesh::signed_volume(made) == Approx(mesh::signed_volume(demo::milestone())).epsilon(0.001));
    // Edges only: most of the stage is background now.
    REQUIRE(w.settle());
    const QImage solid = w.stage_picture();
    auto* faces = w.find<QComboBox>("faces");
    faces->setCurrentIndex(2);
    emit faces->activated(2);
    REQUIRE(w.settle());
    CHECK(w.item().style.faces == site::Faces::EdgesOnly);
    CHECK(test::differing_pixels(solid, w.stage_picture(), QRect(m - QPoint(40, 40), QSize(80, 80))) > 500);
    w.close();
}

TEST_CASE("AMeshIsAlignedByFeaturesStepByStep", "[window]") {
    test::TemporaryFolder folder;
    WindowDriver w(folder / "home");
    // A block that stands askew somewhere.
    mesh::TriMesh m = demo::block(8, {-1, -0.5, 0}, {1, 0.5, 0.6});
    Alignment askew;
    askew.direction = Vec3{0.3, -0.2, 0.9};
    const RigidMove away = align(askew);
    for (Vec3& v : m.vertices) v = away(v) + Vec3{20, 30, 5};
    io::write_mesh(m, folder / "block.ply", false, "m");
    REQUIRE(w.open(folder / "block.ply"));
    w.window().commands().trigger("tools.align");
    auto& card = *w.window().findChild<app::AlignCard*>();
    const auto fit = [&](const Vec3& normal, int kind) {
        // The face that looks that way.
        ElementSet face(w.item().cloud->size());
        const mesh::TriMesh& now = *w.item().cloud->triangles();
        for (std::size_t t = 0; t < now.triangles.size(); ++t) {
            const auto& c = now.triangles[t];
            const Vec3 n = normalized(
                cross(now.vertices[c[1]] - now.vertices[c[0]], now.vertices[c[2]] - now.vertices[c[0]]));
            if (dot(n, away.turned(normal)) > 0.99) face.insert(t);
        }
        w.document().apply("Select",
                           [&](const site::Site& s) { return site::select(s, face, site::Combine::New); });
        const std::size_t before = card.features().size();
        auto* kinds = w.find<QComboBox>("featureKind");
        kinds->setCurrentIndex(kinds->findData(kind));
        w.click(w.find<QPushButton>("featureFit"));
        REQUIRE(w.wait([&] { return card.features().size() == before + 1; }));
    };
    const int plane = static_cast<int>(Feature::Kind::Plane), point = static_cast<int>(Feature::Kind::Point);
    fit({0, 0, 1}, plane);
    fit({1, 0, 0}, plane);
    fit({0, 0, -1}, point);
    CHECK(card.features()[0].rms < 1e-9);
    const auto choose = [&](const char* name, int index) {
        auto* c = w.find<QComboBox>(name);
        c->setCurrentIndex(index);
        emit c->activated(index);
    };
    CHECK_FALSE(w.find<QPushButton>("alignMove")->isEnabled());
    choose("alignOrigin", 3);
    choose("alignDirection", 1);
    CHECK(w.find<QLabel>("alignState")->text().contains("5 of 6"));
    choose("alignClocking", 2);
    CHECK(w.find<QLabel>("alignState")->text().contains("are fixed"));
    w.click(w.find<QPushButton>("alignMove"));
    REQUIRE(w.wait([&] { return w.site().items.size() == 2; }));
    REQUIRE(w.settle());
    // Upright on z = 0, long in x.
    Box3 box;
    for (const Vec3& v : w.item().cloud->triangles()->vertices) box.add(v);
    CHECK(box.hi.x - box.lo.x == Approx(2).margin(1e-9));
    CHECK(box.hi.y - box.lo.y == Approx(1).margin(1e-9));
    CHECK(box.hi.z - box.lo.z == Approx(0.6).margin(1e-9));
    CHECK(std::fabs(box.lo.z) < 1e-9);
    CHECK(std::fabs(box.lo.x + box.hi.x) < 1e-9);
    REQUIRE(w.item().placement.size() == 16);
    CHECK(w.find<QLabel>("alignMatrix")->text().count("\n") == 3);
    // The way is one step of undo.
    w.document().undo();
    CHECK(w.site().items.size() == 1);
    // Against an axis: the other way up.
    choose("alignAxis", 5);
    w.click(w.find<QPushButton>("alignMove"));
    REQUIRE(w.wait([&] { return w.site().items.size() == 2; }));
    REQUIRE(w.settle());
    box = {};
    for (const Vec3& v : w.item().cloud->triangles()->vertices) box.add(v);
    CHECK(box.lo.z == Approx(-0.6).margin(1e-9));
    CHECK(std::fabs(box.hi.z) < 1e-9);
    w.document().undo();
    CHECK(w.item().visible);
    // Features belong to the item: undone one by one, forgotten from the list, drawn, and kept in the
    // project.
    REQUIRE(w.settle());
    CHECK(w.item().features.size() == 3);
    CHECK(card.guides().size() == 2 + 2 + 3);
    w.document().undo();
    CHECK(card.features().size() == 2);
    w.document().redo();
    auto* list = w.find<QTreeWidget>("featureList");
    list->topLevelItem(1)->setSelected(true);
    w.click(w.find<QPushButton>("featureForget"));
    REQUIRE(card.features().size() == 2);
    CHECK(card.features()[0].name == "Plane 1");
    CHECK(card.features()[1].name == "Point 1");
    const Feature kept = card.features()[0];
    w.document().save_as(folder / "block.pristine", false);
    REQUIRE(w.settle());
    w.close();
    WindowDriver later(folder / "later");
    later.window().open_files({folder / "block.pristine"});
    REQUIRE(later.wait([&] { return !later.site().items.empty(); }));
    REQUIRE(later.item().features.size() == 2);
    CHECK(later.item().features[0].name == kept.name);
    CHECK(later.item().features[0].direction == kept.direction);
    CHECK(later.item().features[0].point == kept.point);
    later.close();
}

// A patch that runs into a hole cannot be replaced: the card says so, and offers a ring more.
TEST_CASE("APatchThatIsNotFitIsWidened", "[window]") {
    BrokenBall s;
    s.choose(Fault::Hole);
    s.w.click(s.w.find<QPushButton>("meshNext"));
    REQUIRE(s.w.settle());
    auto* widen = s.w.find<QPushButton>("meshWiden");
    CHECK_FALSE(widen->isVisible());
    const std::size_t holes = s.card().findings()->count(Fault::Hole);
    s.w.click(s.w.find<QPushButton>("meshPatch"));
    REQUIRE(s.w.wait([&] { return widen->isVisible(); }));
    CHECK(s.w.find<QLabel>("meshTold")->text().startsWith("Not replaced"));
    CHECK(s.w.item().ledger.empty());
    CHECK_FALSE(s.card().guides().empty());
    s.w.click(widen);
    // One ring farther out the patch has a rim that is fit, and the hole goes with it.
    REQUIRE(s.w.wait([&] { return s.w.item().ledger.size() == 1; }));
    REQUIRE(s.checked());
    CHECK(s.card().findings()->count(Fault::Hole) == holes - 1);
    CHECK_FALSE(widen->isVisible());
}

TEST_CASE("MarkersAreTickedByKindSelectedAndHealedOver", "[window]") {
    test::TemporaryFolder folder;
    WindowDriver w(folder / "home");
    demo::write_milestone(folder.path(), false);
    REQUIRE(w.open(folder / "milestone-scan.ply"));
    w.window().commands().trigger("tools.markers");
    auto& card = *w.window().findChild<app::MarkersCard*>();
    REQUIRE(card.markers().size() == 6);  // the table beside the mesh was found
    auto* list = w.find<QTreeWidget>("markersList");
    REQUIRE(list->topLevelItemCount() == 2);
    // A table that names nothing is previewed; its columns are named there, the radius on the card.
    const std::vector<io::Marker> own = card.markers();
    test::write_file(folder / "list.txt", "1 0.1 0.2 0.3 dot\n2 0.4 0.5 0.6 dot\n");
    w.find<QDoubleSpinBox>("markersRadius")->setValue(0.012);
    card.read(folder / "list.txt");
    auto* preview = w.window().findChild<app::TextImport*>();
    REQUIRE(preview);
    const std::vector<const char*> names{"point", "x", "y", "z", "code"};
    for (std::size_t c = 0; c < names.size(); ++c)
        preview->findChild<QComboBox*>(QStringLiteral("importColumn%1").arg(c))->setCurrentText(names[c]);
    QTest::mouseClick(preview->findChild<QPushButton*>(QStringLiteral("importOpen")), Qt::LeftButton);
    REQUIRE(card.markers().size() == 2);
    CHECK(card.markers()[1].place == Vec3{0.4, 0.5, 0.6});
    CHECK(card.markers()[1].kind == "dot");
    CHECK(card.markers()[1].radius == Approx(0.012));
    card.read(folder / "milestone-markers.csv");
    REQUIRE(card.markers().size() == own.size());
    QTreeWidgetItem* targets = list->topLevelItem(0);
    CHECK(targets->text(0) == "target");
    targets->setCheckState(0, Qt::Checked);
    w.click(w.find<QPushButton>("markersSelect"));
    REQUIRE(w.settle());
    CHECK(w.site().selected() > 20);
    targets->setCheckState(0, Qt::Unchecked);
    w.click(w.find<QPushButton>("markersFromView"));
    CHECK(targets->checkState(0) == Qt::Checked);
    CHECK(list->topLevelItem(1)->checkState(0) == Qt::Unchecked);
    w.click(w.find<QPushButton>("markersHeal"));
    const site::ItemPtr scan = w.site().items[0];
    REQUIRE(w.wait([&] { return w.item().ledger.size() == 1; }));
    REQUIRE(w.settle());
    CHECK(w.item().ledger[0].reason == "Markers");
    // No triangle of the scan lies under a marker now, and as many rims are open as before.
    const auto rims = [](const mesh::TriMesh& m) {
        return topology::boundary_loops(m.triangles, topology::adjacency(m.triangles)).size();
    };
    CHECK(rims(io::mesh_of(*w.item().cloud, ~*w.item().absent)) == rims(*scan->cloud->triangles()));
    // Healed in colour too: nothing pale is left where a target was.
    const Vec3 target{-0.12, -0.12, 0.5};
    int beneath = 0;
    (~*w.item().absent).for_each([&](std::uint64_t e) {
        if (norm(w.item().cloud->position(e) - target) > 0.012) return;
        const std::uint32_t c = w.item().cloud->colour()->value(e / kPageSize, e % kPageSize);
        CHECK((c & 255u) < 0xA0u);
        CHECK((c >> 16 & 255u) > (c & 255u) + 12);  // stone and moss are warm, targets are white
        ++beneath;
    });
    CHECK(beneath > 5);
    // A patch of the selection, on the board of checks.
    w.window().commands().trigger("tools.mesh");
    auto& mesh = *w.window().findChild<app::MeshCard*>();
    REQUIRE(w.wait([&] { return mesh.findings() && !w.window().jobs().busy(); }));
    w.document().apply("Patch", [&](const site::Site& s) {
        return site::select(s,
                            select::in_ball(*s.active_item()->cloud, {0.1, 0.12, 0.3}, 0.03,
                                            site::eligible(*s.active_item())),
                            site::Combine::New);
    });
    const std::size_t holes = mesh.findings()->count(Fault::Hole);
    w.click(w.find<QPushButton>("meshPatch"));
    REQUIRE(w.wait([&] { return w.item().ledger.size() == 2; }));
    REQUIRE(w.wait([&] { return mesh.findings() && !w.window().jobs().busy(); }));
    CHECK(mesh.findings()->count(Fault::Hole) == holes);
    w.close();
}
