// Three jobs from the files to figures that can be signed, by mouse and keys alone, with the clicks counted:
// a yard on two dates, a tunnel, a carved stone.

#include <catch2/catch.hpp>

#include <QDoubleSpinBox>
#include <QPushButton>
#include <cmath>
#include <numbers>
#include <random>
#include <sstream>

#include "app/cards/markers_card.h"
#include "app/cards/measure_card.h"
#include "app/cards/mesh_card.h"
#include "app/cards/piles_card.h"
#include "app/cards/tunnel_card.h"
#include "core/cloud/triangles.h"
#include "core/io/cloud_io.h"
#include "core/io/mesh/mesh_cloud.h"
#include "core/io/mesh/mesh_io.h"
#include "core/io/points.h"
#include "demo/culvert.h"
#include "demo/milestone.h"
#include "job.h"

using namespace pristine;
using test::Job;

namespace {

struct Heap {
    double x, y, radius, height;
    double volume() const { return std::numbers::pi * radius * radius * height / 3; }
};

// A yard that falls to the east, with cones on it, scanned with a noise of 8 mm.
void write_yard(const std::filesystem::path& file, const std::vector<Heap>& heaps, std::uint64_t seed) {
    std::mt19937_64 dice(seed);
    std::normal_distribution<double> noise(0, 0.008);
    std::uniform_real_distribution<double> u(0, 1);
    io::PointList list;
    list.name = "Yard";
    for (int k = 0; k < 30'000; ++k) {
        const double x = 100 * u(dice), y = 60 * u(dice);
        double z = 58 - 0.01 * x + noise(dice);
        for (const Heap& h : heaps)
            z += std::max(0.0, h.height * (1 - std::hypot(x - h.x, y - h.y) / h.radius));
        list.points.push_back({412300 + x, 5218930 + y, z});
    }
    io::write_cloud({{io::cloud_of_points(list, cloud::Reference{"m", {}, {}})}}, file);
}

}  // namespace

TEST_CASE("AYardOnTwoDatesIsWeighedAndCompared", "[window][job]") {
    Job job("A stockpile yard on two dates");
    const std::uint64_t seed = test::seed_for("yard");
    CAPTURE(seed);
    const std::vector<Heap> october{{25, 30, 10, 5}, {70, 28, 8, 3.2}},
        november{{25, 30, 8, 4}, {70, 28, 9, 3.6}, {48, 48, 6, 2.4}};
    write_yard(job.folder / "yard 2026-10-05.las", october, seed);
    write_yard(job.folder / "yard 2026-11-03.las", november, seed + 1);
    for (const auto& [file, items] : {std::pair{"yard 2026-10-05.las", 1}, {"yard 2026-11-03.las", 3}}) {
        job.open(job.folder / file, static_cast<std::size_t>(items));
        if (items > 1) job.take(QString::fromStdString(job.w.site().items.back()->name));
        job.command(Qt::Key_T, Qt::ControlModifier);
        job.click("surfaceBuild");
        REQUIRE(job.w.wait([&] { return job.w.site().items.size() == static_cast<std::size_t>(items) + 1; },
                           30000));
        job.settle();
        job.click("surfaceClose");
    }
    // The heaps of November: lines proposed, weighed, written down.
    job.menu("tools.piles");
    job.click("pilesPropose");
    auto* piles = job.w.window().findChild<app::PilesCard*>();
    REQUIRE(job.w.wait([&] { return piles->piles().size() == 3 && !job.w.window().jobs().busy(); }));
    job.type(job.w.find<QDoubleSpinBox>("pilesDensity"), "1.8");
    job.answer(job.folder / "heaps.csv");
    job.click("pilesSave");
    job.click("pilesClose");
    // What came and went since October: a band from what is known, each line as a work area.
    job.command(Qt::Key_M, Qt::ControlModifier);
    job.choose("measureBase", "another surface");
    auto* board = job.w.window().findChild<app::MeasureCard*>();
    REQUIRE(job.w.wait([&] { return board->figures() && board->figures()->difference; }, 30000));
    job.click("measurePropose");
    job.choose("measureWithin", "each closed");
    REQUIRE(job.w.wait([&] { return job.w.find<QPushButton>("measureSaveAreas")->isVisible(); }, 30000));
    job.settle();
    job.answer(job.folder / "areas.csv");
    job.click("measureSaveAreas");
    job.done();

    // The heaps within two percent of the truth and three deviations of it.
    double truth = 0, found = 0;
    for (const Heap& h : november) truth += h.volume();
    for (const auto& p : piles->piles()) found += p.pile.volume;
    CHECK(found == Approx(truth).epsilon(0.03));
    const std::string heaps = test::read_file(job.folder / "heaps.csv");
    CHECK(heaps.find("mass [t]") != std::string::npos);
    const measure::Difference d = *board->figures()->difference;
    double net = 0;
    for (const Heap& h : november) net += h.volume();
    for (const Heap& h : october) net -= h.volume();
    CHECK(d.sigma_net > 0);
    CHECK(std::fabs(d.net() - net) < 3 * d.sigma_net + 0.02 * std::fabs(net));
    const std::string areas = test::read_file(job.folder / "areas.csv");
    CHECK(std::count(areas.begin(), areas.end(), '\n') >= 5);
}

TEST_CASE("ATunnelIsEmptiedMeasuredAndHandedOver", "[window][job]") {
    Job job("A tunnel");
    demo::write_culvert(job.folder.path(), 120'000, test::seed_for("tunnel job"), false);
    job.open(job.folder / "culvert.las", 1);
    job.answer(job.folder / "culvert-line.geojson");
    job.command(Qt::Key_O, Qt::ControlModifier);
    REQUIRE(job.w.wait([&] { return job.w.site().lines.size() == 1; }));
    job.settle();
    job.menu("select.tunnel");
    auto* card = job.w.window().findChild<app::TunnelCard*>();
    REQUIRE(job.w.wait([&] { return card->inside() != nullptr; }, 30000));
    job.click("tunnelTake");
    job.remove();
    job.export_to(job.folder / "culvert-clean.las");
    job.click("tunnelMesh");
    REQUIRE(job.w.wait([&] { return job.w.site().items.size() == 2; }));
    job.settle();
    job.answer(job.folder / "volumes.csv");
    job.click("tunnelReport");
    REQUIRE(std::filesystem::exists(job.folder / "volumes.csv"));
    job.done();

    CHECK(job.w.site().items[0]->removed->count() > 500);
    CHECK(job.w.site().items[0]->ledger[0].reason == "Inside the lining");
    // The report, the card and the mesh tell one volume.
    double report = 0;
    std::istringstream rows(test::read_file(job.folder / "volumes.csv"));
    std::string row;
    std::getline(rows, row);
    while (std::getline(rows, row)) {
        std::istringstream cells(row);
        std::string cell;
        for (int c = 0; c < 3; ++c) std::getline(cells, cell, ',');
        report += std::stod(cell);
    }
    CHECK(report == Approx(mesh::signed_volume(*job.w.site().items[1]->cloud->triangles())).epsilon(1e-6));
}

TEST_CASE("ACarvedStoneIsCleanedRepairedAndMeasured", "[window][job]") {
    Job job("A carved stone");
    demo::write_milestone(job.folder.path(), false);
    job.open(job.folder / "milestone-scan.ply", 1);
    // The table goes by a fence from the front, taken whole; the rest that is not the stone, by what hangs
    // together.
    job.command(Qt::Key_2);
    job.command(Qt::Key_R);
    job.click("triangles2");
    const Box3 box = job.w.item().cloud->bounds();
    const Vec3 c = box.centre();
    job.drag(job.pixel({box.lo.x - 0.05, c.y, -0.002}), job.pixel({box.hi.x + 0.05, c.y, box.lo.z - 0.05}));
    REQUIRE(job.w.site().selected() > 0);
    job.remove();
    job.drag(job.pixel({-0.03, c.y, 0.3}), job.pixel({0.03, c.y, 0.36}));
    REQUIRE(job.w.site().selected() > 0);
    job.menu("decide.keep_connected");
    REQUIRE(job.w.wait([&] { return job.w.item().ledger.size() == 2; }));
    job.settle();
    // Markers are healed over, then everything that is left.
    job.menu("tools.markers");
    auto* list = job.w.find<QTreeWidget>("markersList");
    REQUIRE(list->topLevelItemCount() == 2);
    for (int k = 0; k < 2; ++k) {  // a click on the kind, and the space bar ticks all of it
        job.click(list->viewport(), list->visualItemRect(list->topLevelItem(k)).center());
        job.key(Qt::Key_Space);
    }
    job.click("markersHeal");
    REQUIRE(job.w.wait([&] { return job.w.item().ledger.size() == 3; }));
    job.settle();
    job.click("markersClose");
    job.command(Qt::Key_R, Qt::ControlModifier);
    auto* card = job.w.window().findChild<app::MeshCard*>();
    REQUIRE(job.w.wait([&] { return card->findings() && !job.w.window().jobs().busy(); }));
    job.click("meshRepairAll");
    REQUIRE(job.w.wait([&] { return job.w.item().ledger.size() == 4; }));
    REQUIRE(job.w.wait([&] { return card->findings() && !job.w.window().jobs().busy(); }));
    job.settle();
    job.type(job.w.find<QDoubleSpinBox>("meshDensity"), "2600");
    job.export_to(job.folder / "milestone.stl");
    job.done();

    CHECK(card->findings()->sound());
    const double volume = mesh::signed_volume(io::mesh_of(*job.w.item().cloud, ~*job.w.item().absent));
    const double truth = mesh::signed_volume(demo::milestone());
    std::cout << "  volume " << 100 * (volume / truth - 1) << " % off\n";
    CHECK(volume == Approx(truth).epsilon(0.002));
    CHECK(job.w.find<QLabel>("meshFigures")->text().contains("Mass <b>1"));  // 0.0556 m³ of 2.6 t
    CHECK(mesh::signed_volume(io::read_mesh(job.folder / "milestone.stl").mesh) ==
          Approx(volume).epsilon(1e-5));
}
