// What the office delivers, by mouse from opening to a right figure; and who or what an entry of the ledger
// names.

#include <catch2/catch.hpp>

#include <QCheckBox>
#include <QComboBox>
#include <QLabel>
#include <QLineEdit>
#include <QPushButton>
#include <QSettings>
#include <QTableWidget>
#include <QToolButton>
#include <QTreeWidget>

#include "app/cards/measure_card.h"
#include "app/cards/mesh_card.h"
#include "app/cards/objects_card.h"
#include "app/cards/rule_card.h"
#include "app/look/lengths.h"
#include "app/look/preferences.h"
#include "app/window/codes_dialog.h"
#include "app/window/decision_bar.h"
#include "app/window/notice.h"
#include "app/window/reference_dialog.h"
#include "app/window/text_import.h"
#include "app/window/unfinished_dialog.h"
#include "core/cloud/triangles.h"
#include "core/io/grid/grid_io.h"
#include "core/io/mesh/mesh_io.h"
#include "core/io/reference/remark.h"
#include "core/io/reference/system.h"
#include "core/site/coded_lines.h"
#include "core/site/making.h"
#include "core/surface/definition.h"
#include "demo/ashmere.h"
#include "window_driver.h"

using namespace pristine;
using test::WindowDriver;

namespace {

// A bank of 40 x 20: its foot and crest as coded lines, its outline closed, and spots on the plane between.
std::string survey_list() {
    std::string s;
    int n = 1;
    const auto add = [&](double e, double north, double h, const std::string& code) {
        s += std::to_string(n++) + "," + std::to_string(north) + "," + std::to_string(e) + "," +
             std::to_string(h) + "," + code + "\n";
    };
    add(4000, 5000, 100, "BDY S");
    add(4040, 5000, 100, "BDY");
    add(4040, 5020, 104, "BDY");
    add(4000, 5020, 104, "BDY C");
    for (int i = 0; i <= 8; ++i) add(4000 + 5 * i, 5005, 101, i == 0 ? "TOE S" : i == 8 ? "TOE E" : "TOE");
    for (int i = 0; i <= 8; ++i)
        add(4000 + 5 * i, 5015, 103, i == 0 ? "CREST S" : i == 8 ? "CREST E" : "CREST");
    for (int i = 1; i < 8; ++i) add(4000 + 5 * i, 5010, 102, "SP");
    return s;
}

template <class D>
D* shown_dialog(WindowDriver& w) {
    D* found = nullptr;
    w.wait([&] { return (found = w.window().findChild<D*>()) != nullptr && found->isVisible(); }, 5000);
    return found;
}

QString board(WindowDriver& w) {
    return w.find<QLabel>("measureNow")->text();
}

}  // namespace

TEST_CASE("ASurveyListWithCodesBecomesASurfaceByMouse", "[window]") {
    const test::TemporaryFolder folder;
    test::write_file(folder / "bank.csv", survey_list());
    WindowDriver w(folder / "home");
    w.window().open_files({folder / "bank.csv"});
    // The guess is not certain: the preview opens by itself. North stands before east.
    auto* preview = shown_dialog<app::TextImport>(w);
    REQUIRE(preview);
    const char* columns[] = {"point", "y", "x", "z", "code"};
    for (int c = 0; c < 5; ++c)
        preview->findChild<QComboBox*>(QStringLiteral("importColumn%1").arg(c))->setCurrentText(columns[c]);
    w.click(preview->findChild<QPushButton*>("importOpen"));
    REQUIRE(w.wait([&] { return w.site().items.size() == 1 && !w.window().jobs().busy(); }));
    REQUIRE(w.settle());
    CHECK(w.item().cloud->size() == 29);
    // The unit is asked for once, without blocking; it can be undone.
    CHECK(w.window().notice().text().contains("unit of Bank is not stated"));
    w.click(w.find<QPushButton>("noticeFirst"));
    CHECK(w.item().cloud->unit() == "m");
    CHECK(w.item().cloud->bounds().lo.x == Approx(4000));
    // One click to the codes, one to the lines.
    CHECK(w.window().notice().text().contains("has codes"));
    w.click(w.find<QPushButton>("noticeFirst"));
    auto* codes = shown_dialog<app::CodesDialog>(w);
    REQUIRE(codes);
    CHECK(codes->findChild<QPushButton*>("codesMake")->text() == "Make 3 lines");
    codes->findChild<QComboBox*>("codeRole0")->setCurrentIndex(1);
    codes->findChild<QCheckBox*>("codesKeep")->setChecked(true);
    const app::Preferences usual = app::preferences();
    w.click(codes->findChild<QPushButton*>("codesMake"));
    REQUIRE(w.settle());
    REQUIRE(w.site().lines.size() == 3);
    // Kept for sites that know no code yet; a site that does goes by its own.
    CHECK(app::preferences().codes.rules.size() == 4);
    {
        const auto first = app::CodesDialog(site::Site(), w.site().active_item(), nullptr).table();
        CHECK(first == app::preferences().codes);
    }
    app::set_preferences(usual);
    CHECK(w.site().codes.rules.size() == 4);
    // The surface, and its figures.
    w.window().commands().trigger("tools.surface");
    REQUIRE(w.settle());
    w.click(w.find<QPushButton>("surfaceBuild"));
    REQUIRE(w.wait([&] { return w.site().items.size() == 2; }));
    REQUIRE(w.settle());
    w.window().commands().trigger("tools.measure");
    REQUIRE(w.wait([&] { return board(w).contains("Plan area"); }));
    CHECK(board(w).contains("800.00 m²"));
    CHECK_FALSE(board(w).contains("unit not set"));
    w.close();
}

TEST_CASE("AGridInFeetWithAGapMeasuresItsValidCellsInFeet", "[window]") {
    const test::TemporaryFolder folder;
    std::string text =
        "ncols 21\nnrows 21\nxllcorner 3100000\nyllcorner 10000000\ncellsize 1\nNODATA_value -9999\n";
    for (int j = 0; j < 21; ++j)
        for (int i = 0; i < 21; ++i)
            text +=
                (i >= 6 && i < 15 && j >= 6 && j < 15 ? "-9999" : "10") + std::string(i == 20 ? "\n" : " ");
    test::write_file(folder / "g.asc", text);
    io::write_grid(io::read_height_grid(folder / "g.asc").mesh, {0, -9999, {"EPSG:2277", "usft", ""}},
                   folder / "dem.tif", false);
    WindowDriver w(folder / "home");
    REQUIRE(w.open(folder / "dem.tif"));
    CHECK(w.window().notice().text().isEmpty());  // it says what it counts in
    CHECK(w.item().cloud->unit() == "usft");
    w.window().commands().trigger("tools.measure");
    REQUIRE(w.wait([&] { return board(w).contains("Plan area"); }));
    CHECK(board(w).contains("300.00 US ft²"));
    // Shown in metres it is converted, and says so.
    w.window().commands().trigger("view.unit_m");
    REQUIRE(w.wait([&] { return board(w).contains("27.87 m²"); }));  // the board follows a change of the unit
    // In the middle of the gap nothing is drawn.
    w.key(Qt::Key_1);
    REQUIRE(w.settle());
    const QImage picture = w.stage_picture();
    const auto at = [&](double x, double y) {
        const PixelPoint p = w.stage().frame().project({3100000 + x, 10000000 + y, 10});
        return picture.pixel(static_cast<int>(p.x), static_cast<int>(p.y));
    };
    const auto brightness = [](QRgb c) { return qRed(c) + qGreen(c) + qBlue(c); };
    CHECK(brightness(at(2.7, 2.7)) > brightness(at(10.5, 10.5)) + 40);
    w.close();
}

TEST_CASE("ALandXmlWithTwoSurfacesBringsTwoItems", "[window]") {
    const test::TemporaryFolder folder;
    test::write_file(
        folder / "two.xml",
        R"(<?xml version="1.0"?><LandXML version="1.2"><Units><Metric linearUnit="meter"/></Units><Surfaces>
<Surface name="Existing"><SourceData><Breaklines><Breakline name="toe"><PntList3D>0 0 1 10 10 1</PntList3D></Breakline></Breaklines></SourceData>
<Definition surfType="TIN"><Pnts><P id="1">0 0 1</P><P id="2">0 10 1</P><P id="3">10 10 1</P><P id="4">10 0 1</P></Pnts><Faces><F>1 2 3</F><F>1 3 4</F></Faces></Definition></Surface>
<Surface name="Design"><Definition surfType="TIN"><Pnts><P id="1">0 0 5</P><P id="2">0 10 5</P><P id="3">10 10 5</P><P id="4">10 0 5</P></Pnts><Faces><F>1 2 3</F><F>1 3 4</F></Faces></Definition></Surface>
</Surfaces></LandXML>)");
    WindowDriver w(folder / "home");
    REQUIRE(w.open(folder / "two.xml", 2));
    REQUIRE(w.wait([&] { return !w.site().lines.empty(); }));
    CHECK(w.site().items[0]->name == "Existing");
    CHECK(w.site().items[1]->name == "Design");
    CHECK(w.site().lines[0]->name == "breakline of Existing, toe");
    w.window().commands().trigger("tools.measure");
    REQUIRE(w.wait([&] { return board(w).contains("Plan area"); }));
    CHECK(board(w).contains("100.00 m²"));  // not both on top of each other
    auto* base = w.find<QComboBox>("measureBase");
    base->setCurrentIndex(base->findText("another surface"));
    emit base->activated(base->currentIndex());
    REQUIRE(w.settle());
    INFO(base->currentText().toStdString()
         << " / " << w.find<QComboBox>("measureOther")->currentText().toStdString() << " / "
         << w.find<QLabel>("measureState")->text().toStdString());
    INFO(w.find<QLabel>("measureVolumes")->text().toStdString());
    CHECK(w.find<QLabel>("measureVolumes")->text().contains("400.00 m³"));
    w.close();
}

TEST_CASE("AnOpenScanIsRepairedWithoutBeingEaten", "[window]") {
    const test::TemporaryFolder folder;
    mesh::TriMesh m;
    constexpr int n = 40;
    for (int j = 0; j <= n; ++j)
        for (int i = 0; i <= n; ++i)
            m.vertices.push_back({0.1 * i, 0.1 * j, 0.2 * std::sin(0.3 * i) * std::cos(0.2 * j)});
    const auto at = [&](int i, int j) { return static_cast<std::uint32_t>(j * (n + 1) + i); };
    for (int j = 0; j < n; ++j)
        for (int i = 0; i < n; ++i) {
            if (std::hypot(i - 20, j - 20) < 3) continue;  // a hole
            m.triangles.push_back({at(i, j), at(i + 1, j), at(i + 1, j + 1)});
            m.triangles.push_back({at(i, j), at(i + 1, j + 1), at(i, j + 1)});
        }
    // A wall at one side, so that it is a mesh and no terrain.
    const auto first = static_cast<std::uint32_t>(m.vertices.size());
    for (int j = 0; j <= n; ++j) m.vertices.push_back(m.vertices[at(0, j)] + Vec3{0.03, 0, -0.5});
    for (std::uint32_t j = 0; j < n; ++j) {
        m.triangles.push_back({at(0, static_cast<int>(j)), at(0, static_cast<int>(j) + 1), first + j});
        m.triangles.push_back({first + j, at(0, static_cast<int>(j) + 1), first + j + 1});
    }
    for (std::uint32_t k = 0; k < 4; ++k) m.triangles.push_back(m.triangles[500 + 7 * k]);
    io::write_mesh(m, folder / "scan.ply", false, "m");
    WindowDriver w(folder / "home");
    REQUIRE(w.open(folder / "scan.ply"));
    REQUIRE_FALSE(cloud::is_surface(*w.item().cloud));
    w.window().commands().trigger("tools.mesh");
    auto* card = w.window().findChild<app::MeshCard*>();
    REQUIRE(w.wait([&] { return card->isVisible() && w.find<QPushButton>("meshRepairAll")->isEnabled(); }));
    // First what it would do, as numbers and in the stage; nothing is changed by that.
    w.click(w.find<QPushButton>("meshPreview"));
    REQUIRE(w.wait([&] { return w.find<QLabel>("meshTold")->text().contains("It would take"); }));
    REQUIRE(w.settle());
    CHECK(w.site().selected() == 4);
    CHECK(w.item().ledger.empty());
    w.window().commands().trigger("select.clear");
    w.click(w.find<QPushButton>("meshRepairAll"));
    REQUIRE(w.wait([&] { return w.item().ledger.size() == 1; }));
    REQUIRE(w.settle());
    CHECK(w.item().ledger[0].count() == 4);  // the doubled ones and nothing else
    CHECK(w.item().ledger[0].made->count() > 5);
    CHECK(w.item().ledger[0].reason == "Repaired");
    REQUIRE(w.wait([&] { return w.find<QLabel>("meshFigures")->text().contains("open at 1 rim"); }));
    // The hole was filled and the edge left open: more triangles than before.
    CHECK(w.item().shown() > m.triangles.size());
    w.close();
}

TEST_CASE("AnEntryNamesWhatTookTheElements", "[window]") {
    const test::TemporaryFolder folder;
    demo::Options o;
    o.points = 60'000;
    demo::write_site(folder / "ashmere-lock", o);
    WindowDriver w(folder / "home");
    REQUIRE(w.open(folder / "ashmere-lock" / "chamber-station-1.las"));
    auto* reason = w.find<QComboBox>("reason");
    const auto run = [&](const char* command) {
        w.window().commands().trigger(command);
        REQUIRE(w.settle());
    };
    const auto fence = [&](double from, double to) {
        const auto at = [&](double x, double y) {
            const Vec3 o = demo::kSiteOrigin;
            return w.point(w.stage().frame().project({o.x + x, o.y + y, o.z}));
        };
        const double length = 20;  // along the chamber
        w.drag(Qt::LeftButton, at(-1, from * length), at(1, to * length));
        REQUIRE(w.settle());
        REQUIRE(w.site().selected() > 0);
    };
    const auto remove = [&] {
        const std::size_t before = w.item().ledger.size();
        w.click(w.find<QToolButton>("decideRemove"));
        REQUIRE(w.settle());
        REQUIRE(w.item().ledger.size() == before + 1);
        return w.item().ledger.back();
    };
    w.key(Qt::Key_1);
    REQUIRE(w.settle());
    // A fence, while the measure board is open: it was the fence.
    run("select.rectangle");
    run("tools.measure");
    fence(0.40, 0.44);
    CHECK(reason->currentText() == "Person");  // in sight before the decision
    CHECK(w.find<app::DecisionBar>("decisionBar")->isVisible());
    site::LedgerEntry e = remove();
    CHECK(site::told(e.cause) == "rectangle fence, through");
    CHECK(e.reason == "Person");
    run("tools.measure");
    // A reason chosen for this selection, and kept for the tool.
    fence(0.45, 0.48);
    reason->setCurrentText("Vehicle");
    emit reason->activated(1);
    CHECK(remove().reason == "Vehicle");
    fence(0.50, 0.53);
    CHECK(reason->currentText() == "Vehicle");
    run("select.clear");
    // Another tool has its own.
    run("select.circle");
    fence(0.54, 0.56);
    CHECK(reason->currentText() == "Person");
    // Grown: still the circle, and more.
    run("select.grow");
    CHECK(site::told(remove().cause).rfind("circle fence, through, grow", 0) == 0);
    // Kept, dropped, used again, after another tool was in hand.
    fence(0.30, 0.33);
    w.document().apply("Keep", [](const site::Site& s) { return site::keep_selection(s, "Heap"); });
    run("select.clear");
    run("select.polygon");
    w.document().apply("Use", [](const site::Site& s) {
        return site::use_kept(s, s.active_item()->kept[0].id, site::Combine::New);
    });
    e = remove();
    CHECK(site::told(e.cause) == "kept selection 'Heap', by circle fence, through");
    // A brush.
    run("select.brush");
    w.drag(Qt::LeftButton, {200, 300}, {260, 320});
    REQUIRE(w.settle());
    REQUIRE(w.site().selected() > 0);
    CHECK(site::told(remove().cause).rfind("disc brush", 0) == 0);
    // A rule proposes its own reason, whatever is in hand, and its undo and redo too.
    run("select.rule");
    REQUIRE(w.wait([&] { return w.site().selected() > 0; }));
    CHECK(reason->currentText() == "Strays");
    w.document().undo();
    w.document().redo();
    REQUIRE(w.settle());
    CHECK(reason->currentText() == "Strays");
    e = remove();
    CHECK(e.reason == "Strays");
    CHECK(site::told(e.cause).rfind("rule stray", 0) == 0);
    run("select.rule");
    // Things on the ground: the kind that was ticked.
    run("select.objects");
    auto* objects = w.window().findChild<app::ObjectsCard*>();
    REQUIRE(w.wait([&] { return objects->objects() != nullptr; }));
    auto* tree = w.find<QTreeWidget>("objectsTree");
    REQUIRE(tree->topLevelItemCount() > 0);
    const QString kind = tree->topLevelItem(0)->text(0).section(':', 0, 0);
    tree->topLevelItem(0)->setCheckState(0, Qt::Checked);
    w.click(w.find<QPushButton>("objectsTake"));
    REQUIRE(w.settle());
    CHECK(reason->currentText() == kind);
    e = remove();
    CHECK(e.reason == kind.toStdString());
    CHECK(site::told(e.cause).rfind("things on the ground: ", 0) == 0);
    run("select.objects");
    // Lines of the site.
    w.document().apply("Line", [](const site::Site& s) {
        const Vec3 c = demo::kSiteOrigin;
        return site::put_lines(
            s, {{0,
                 "Yard",
                 {c + Vec3{-1, 3, 0}, c + Vec3{1, 3, 0}, c + Vec3{1, 5, 0}, c + Vec3{-1, 5, 0}},
                 true,
                 true}});
    });
    run("select.inside_lines");
    REQUIRE(w.site().selected() > 0);
    e = remove();
    CHECK(site::told(e.cause) == "inside the closed lines Yard");
    CHECK(e.reason == "By lines");
    // Keep only says that it was keep only, and has no picture of what stayed as one of what went.
    run("select.rectangle");
    fence(0.35, 0.6);
    run("decide.keep");
    e = w.item().ledger.back();
    CHECK(e.reason == "Everything else");
    CHECK(site::told(e.cause) == "keep only what was selected by rectangle fence, through");
    w.close();
}

TEST_CASE("ContoursAndMapsSayWhenTheyAreOutOfDate", "[window]") {
    const test::TemporaryFolder folder;
    for (const int date : {1, 2}) {
        surface::Definition d;
        for (int j = 0; j <= 20; ++j)
            for (int i = 0; i <= 20; ++i)
                d.points.push_back({static_cast<double>(i), static_cast<double>(j), 0.35 * i + 0.2 * date});
        io::write_mesh(surface::build(d).mesh, folder / ("bank-" + std::to_string(date) + ".ply"), false,
                       "m");
    }
    WindowDriver w(folder / "home");
    REQUIRE(w.open(folder / "bank-1.ply"));
    REQUIRE(w.open(folder / "bank-2.ply", 2));
    w.window().commands().trigger("tools.measure");
    auto* base = w.find<QComboBox>("measureBase");
    base->setCurrentIndex(base->findText("another surface"));
    emit base->activated(base->currentIndex());
    REQUIRE(w.settle());
    w.click(w.find<QPushButton>("measureContours"));
    REQUIRE(w.wait([&] { return !w.site().lines.empty(); }));
    w.click(w.find<QPushButton>("measureMap"));
    REQUIRE(w.wait([&] { return w.site().items.size() == 3; }));
    REQUIRE(w.settle());
    REQUIRE(w.site().makings.size() == 2);
    for (const site::Making& m : w.site().makings) CHECK_FALSE(site::is_stale(w.site(), m));
    auto* contents = w.find<QTreeWidget>("contentsTree");
    REQUIRE(contents);
    const auto says = [&] {
        int n = 0;
        for (int i = 0; i < contents->topLevelItemCount(); ++i)
            for (int c = 0; c < contents->columnCount(); ++c)
                n += contents->topLevelItem(i)->text(c).startsWith("Out of date");
        return n;
    };
    CHECK(says() == 0);
    // Something of the surface goes.
    const std::uint64_t bank = w.site().items[0]->id, other = w.site().items[1]->id;
    w.document().apply("Remove", [&](const site::Site& s) {
        const std::uint64_t id = s.makings[0].from[0].id == bank ? bank : other;
        const site::SitePtr now = site::activate(*site::set_visible(s, id, true), id);
        ElementSet some(now->active_item()->cloud->size());
        for (std::uint64_t e = 0; e < 40; ++e) some.insert(e);
        return site::remove_selection(*site::select(*now, some, site::Combine::New),
                                      {"Vegetation", site::said("test"), {}, nullptr});
    });
    REQUIRE(w.settle());
    CHECK(says() == 2);
    // Undone it is up to date again; redone and made again too.
    w.document().undo();
    REQUIRE(w.settle());
    CHECK(says() == 0);
    w.document().redo();
    REQUIRE(w.settle());
    w.window().commands().trigger("item.make_again");
    REQUIRE(w.wait([&] { return says() == 0 && !w.window().jobs().busy(); }));
    CHECK(w.site().items.size() == 3);
    // After closing and opening it is still known.
    w.document().save_as(folder / "a.pristine", false);
    REQUIRE(w.wait([&] { return w.document().has_file(); }));
    w.close();
    w.open_new();
    REQUIRE(w.open(folder / "a.pristine", 3));
    REQUIRE(w.site().makings.size() == 2);
    for (const site::Making& m : w.site().makings) CHECK(site::why_stale(w.site(), m).empty());
    w.close();
}

TEST_CASE("AnItemOfAnotherSystemIsMarkedAndConverted", "[window]") {
    const test::TemporaryFolder folder;
    const mesh::TriMesh m{
        {{500000, 5400000, 1}, {500100, 5400000, 1}, {500100, 5400100, 2}, {500000, 5400100, 1}},
        {{0, 1, 2}, {0, 2, 3}}};
    io::write_mesh(m, folder / "east.ply", false, "m", {}, "EPSG:25832");
    io::write_mesh(m, folder / "west.ply", false, "m", {}, "EPSG:25831");
    WindowDriver w(folder / "home");
    REQUIRE(w.open(folder / "east.ply"));
    REQUIRE(w.open(folder / "west.ply", 2));
    CHECK(site::differs_from_site(w.site(), *w.site().items[1]));
    w.document().apply("Work", [](const site::Site& s) { return site::activate(s, s.items[1]->id); });
    w.window().commands().trigger("item.to_site");
    REQUIRE(w.wait([&] { return w.site().items.size() == 3; }));
    REQUIRE(w.settle());
    CHECK_FALSE(site::differs_from_site(w.site(), w.item()));
    CHECK(w.item().cloud->bounds().lo.x != Approx(500000));
    // Stating a system by the dialog is one step, undone in one.
    w.window().commands().trigger("item.reference");
    auto* dialog = shown_dialog<app::ReferenceDialog>(w);
    REQUIRE(dialog);
    auto* system = dialog->findChild<QLineEdit*>("referenceSystem");
    system->setText("nonsense");
    CHECK_FALSE(dialog->findChild<QPushButton*>("referenceState")->isEnabled());
    system->clear();
    QTest::keyClicks(system, "EPSG:2277");
    CHECK(dialog->findChild<QComboBox*>("referenceUnit")->currentText() == "US survey feet");
    w.click(dialog->findChild<QPushButton*>("referenceState"));
    CHECK(w.item().cloud->unit() == "usft");
    w.document().undo();
    CHECK(w.item().cloud->unit() == "m");
    w.close();
}

TEST_CASE("AGridInDegreesIsOfferedItsZoneAndSeenThere", "[window]") {
    const test::TemporaryFolder folder;
    std::string text =
        "ncols 21\nnrows 21\nxllcorner 9.0\nyllcorner 48.0\ncellsize 0.0005\nNODATA_value -9999\n";
    for (int j = 0; j < 21; ++j)
        for (int i = 0; i < 21; ++i) text += std::to_string(300 + i + j) + (i == 20 ? "\n" : " ");
    test::write_file(folder / "dem.asc", text);
    io::write_sidecar(folder / "dem.asc", io::reference_of("EPSG:4326"), false);
    WindowDriver w(folder / "home");
    REQUIRE(w.open(folder / "dem.asc"));
    CHECK(w.item().cloud->unit() == "deg");
    CHECK(w.window().notice().text().contains("are degrees"));
    w.window().commands().trigger("tools.measure");
    REQUIRE(w.settle());
    CHECK(w.find<QLabel>("measureState")->text().contains("no areas and no volumes"));
    CHECK(board(w).isEmpty());
    w.click(w.find<QPushButton>("noticeFirst"));
    REQUIRE(w.wait([&] { return w.site().items.size() == 2; }));
    REQUIRE(w.settle());
    CHECK(w.item().cloud->unit() == "m");
    CHECK(io::system_of(w.item().cloud->crs()).code == "EPSG:32632");
    REQUIRE(w.wait([&] { return board(w).contains("Plan area"); }));
    // A degree of latitude is about 111.2 km here, one of longitude 74.6: 0.01 of each.
    const double area = board(w).section("<b>", 1).section(' ', 0, 0).remove(',').toDouble();
    CHECK(area == Approx(1112 * 746).epsilon(0.01));
    // The view went along: the surface fills a good part of it.
    const QImage picture = w.stage_picture();
    int drawn = 0;
    for (int y = 0; y < picture.height(); y += 4)
        for (int x = 0; x < picture.width(); x += 4) drawn += qGreen(picture.pixel(x, y)) > 90;
    CHECK(drawn > 800);
    // The mark before a name is no part of it.
    auto* contents = w.find<QTreeWidget>("contentsTree");
    for (int i = 0; i < contents->topLevelItemCount(); ++i)
        if (contents->topLevelItem(i)->text(1).startsWith(QStringLiteral("≠ ")))
            contents->topLevelItem(i)->setText(1, QStringLiteral("≠ Old"));
    CHECK(w.site().items[0]->name == "Old");
    w.close();
}

TEST_CASE("AMeshOfAMillionthIsSeen", "[window]") {
    const test::TemporaryFolder folder;
    test::write_file(folder / "tiny.off",
                     "OFF\n4 4 0\n0 0 0\n1e-6 0 0\n0 1e-6 0\n0 0 1e-6\n3 0 2 1\n3 0 1 3\n3 0 3 2\n3 1 2 3\n");
    WindowDriver w(folder / "home");
    REQUIRE(w.open(folder / "tiny.off"));
    const QImage picture = w.stage_picture();
    int drawn = 0;
    for (int y = 0; y < picture.height(); y += 4)
        for (int x = 0; x < picture.width(); x += 4) drawn += qGreen(picture.pixel(x, y)) > 75;
    CHECK(drawn > 400);
    w.close();
}

TEST_CASE("UnfinishedWorkIsListedOpenedAndThrownAway", "[window]") {
    const test::TemporaryFolder folder;
    demo::Options o;
    o.points = 20'000;
    demo::write_site(folder / "ashmere-lock", o);
    WindowDriver w(folder / "home");
    for (int k = 0; k < 2; ++k) {
        if (k > 0) w.open_new();
        REQUIRE(w.open(folder / "ashmere-lock" / "chamber-station-1.las"));
        w.document().apply("Rename", [&](const site::Site& s) {
            return site::rename_item(s, s.active, k ? "Second Böschung" : "First");
        });
        REQUIRE(w.settle());
        w.close();
    }
    REQUIRE(app::Document::left_drafts().size() == 2);
    w.open_new();
    w.window().offer_drafts();
    CHECK(w.window().notice().text().contains("2 sites that were never saved"));
    w.click(w.find<QPushButton>("noticeSecond"));
    auto* dialog = shown_dialog<app::UnfinishedDialog>(w);
    REQUIRE(dialog);
    auto* list = dialog->findChild<QTreeWidget*>("unfinishedList");
    REQUIRE(list->topLevelItemCount() == 2);
    CHECK(list->topLevelItem(0)->text(0).contains("Second Böschung"));
    CHECK(list->topLevelItem(1)->text(0).contains("First"));
    CHECK_FALSE(list->topLevelItem(0)->text(2).isEmpty());
    CHECK_FALSE(list->topLevelItem(0)->icon(0).isNull());  // a picture tells them apart
    list->setCurrentItem(list->topLevelItem(1));
    w.click(dialog->findChild<QPushButton*>("unfinishedAway"));
    CHECK(list->topLevelItemCount() == 1);
    CHECK(app::Document::left_drafts().size() == 1);
    w.click(dialog->findChild<QPushButton*>("unfinishedOpen"));
    REQUIRE(w.wait([&] { return w.site().items.size() == 1; }));
    CHECK(w.item().name == "Second Böschung");
    w.close();
}

TEST_CASE("HowFarFiguresMayBeOffHasTwoDigitsAndAUnit", "[window]") {
    const site::SitePtr metres = site::set_unit(site::Site{}, "m"), feet = site::set_unit(site::Site{}, "ft");
    const app::Lengths m(*metres);
    CHECK(m.spread(0.015769, 3) == "0.016 m³");
    CHECK(m.spread(0.000532) == "0.00053 m");
    CHECK(m.spread(12.345, 3) == "12 m³");
    CHECK(m.spread(0) == "0 m");
    CHECK(m.brief(0.0048199, 2) == "48.2 cm²");
    CHECK(m.brief(0.00004, 2) == "0.400 cm²");
    CHECK(m.brief(0.105, 2) == "0.105 m²");
    CHECK(m.brief(0.010162, 3) == "10.2 dm³");
    CHECK(m.brief(0.699, 1) == "0.699 m");
    CHECK(m.brief(1.5, 3) == "1.50 m³");
    CHECK(m.brief(2e-12, 3) == "0.00200 mm³");
    CHECK(app::Lengths(*feet).brief(0.015769, 2).endsWith(" ft²"));
    CHECK(app::Lengths(*feet).spread(0.015769, 3).endsWith(" ft³"));
    CHECK(app::Lengths(site::Site{}).spread(0.015769, 3) == "0.016 (unit not set)");
}
