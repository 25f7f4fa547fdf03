// Three jobs from the files to the result, by mouse and keys alone, with the clicks counted.

#include <catch2/catch.hpp>

#include <QComboBox>
#include <QLabel>
#include <QMenu>
#include <QPushButton>
#include <QToolButton>
#include <QTreeWidget>
#include <cmath>
#include <iostream>
#include <map>

#include "app/cards/objects_card.h"
#include "app/cards/rule_card.h"
#include "app/panes/section_pane.h"
#include "core/cloud/classes.h"
#include "core/cloud/column.h"
#include "core/io/cloud_io.h"
#include "core/io/mapped_cloud.h"
#include "core/select/solid.h"
#include "demo/ashmere.h"
#include "demo/trials.h"
#include "job.h"

using namespace pristine;
using test::Job;

TEST_CASE("ABuildingWithSixScansIsCleanedMeasuredAndHandedOver", "[window][job]") {
    Job job("A building with six scans");
    const auto seed = test::seed_for("six scans");
    CAPTURE(seed);
    std::vector<demo::Truth> ignored;
    const demo::Trial trial = demo::make_trial("passers_6", seed % 1000, 0.4);
    io::write_cloud({{demo::cloud_of(trial, ignored)}}, job.folder / "hall.e57");
    job.open(job.folder / "hall.e57", 6);

    // What moved while the scanner went round, in all scans at once.
    job.command(Qt::Key_S);
    job.choose("ruleScore", "Seen through");
    job.tick("ruleAll");
    job.settle();
    job.wait_for_rule("through");
    job.click("ruleEverywhere");
    // Strays.
    job.choose("ruleScore", "Strays");
    job.wait_for_rule("stray");
    job.click("ruleEverywhere");
    // The width of the chamber, kept with the project.
    job.click("ruleClose");
    job.command(Qt::Key_1);
    job.command(Qt::Key_M, Qt::ShiftModifier);
    job.click(&job.w.stage(), job.pixel(demo::kSiteOrigin + Vec3{-2.4, 14, 0}));
    job.click(&job.w.stage(), job.pixel(demo::kSiteOrigin + Vec3{2.4, 14, 0}));
    REQUIRE(job.w.site().marks.size() == 1);
    job.export_to(job.folder / "hall-clean.e57");
    job.done();

    // Most of who walked by is out, and hardly anything that stood there.
    std::uint64_t moved = 0, moved_out = 0, stayed = 0, stayed_out = 0, total = 0, out = 0;
    for (std::size_t k = 0; k < 6; ++k) {
        std::vector<demo::Truth> truth;
        for (const demo::TrialPoint& p : trial.points)
            if (p.scan == k) truth.push_back(p.truth);
        const site::Item& item = *job.w.site().items[k];
        REQUIRE(item.cloud->size() == truth.size());
        total += truth.size();
        out += item.removed->count();
        for (std::size_t p = 0; p < item.cloud->page_count(); ++p) {
            const auto order = item.cloud->order()->page(p);
            for (std::size_t i = 0; i < order.size(); ++i) {
                const bool gone = item.removed->contains(p * kPageSize + i);
                const bool passer = truth[order[i]] == demo::Truth::Object;
                (passer ? moved : stayed) += 1;
                if (gone) (passer ? moved_out : stayed_out) += 1;
            }
        }
    }
    std::cout << "  of " << moved << " points that moved " << moved_out << " are out, of " << stayed
              << " that stayed " << stayed_out << "\n";
    CHECK(static_cast<double>(moved_out) > 0.6 * static_cast<double>(moved));
    CHECK(static_cast<double>(stayed_out) < 0.01 * static_cast<double>(stayed));
    io::ReadOptions apart;
    apart.scans_apart = true;
    const auto written = io::read_items(job.folder / "hall-clean.e57", apart);
    CHECK(written.size() == 6);
    std::uint64_t left = 0;
    for (const auto& scan : written) left += scan.cloud->size();
    CHECK(left == total - out);
}

TEST_CASE("AStreetFromTheAirBecomesAClassifiedFile", "[window][job]") {
    Job job("A street from the air");
    const auto seed = test::seed_for("street from the air");
    CAPTURE(seed);
    std::vector<demo::Truth> truth;
    const demo::Trial trial = demo::make_trial("flat_air", seed % 1000, 0.3);
    io::write_cloud({{demo::cloud_of(trial, truth)}}, job.folder / "street.las");
    job.open(job.folder / "street.las", 1);

    job.command(Qt::Key_Insert, Qt::ControlModifier);  // ground, vegetation, noise
    REQUIRE(job.w.item().decided);
    // Buildings and whatever else stands there, by kind.
    job.command(Qt::Key_1);
    job.command(Qt::Key_R);
    // Water, by hand: a pond in the corner.
    const Box3 box = job.w.item().cloud->robust_bounds();
    const Vec3 corner = box.lo, inner = box.lo + (box.hi - box.lo) * 0.12;
    job.drag(job.pixel(corner), job.pixel({inner.x, inner.y, corner.z}));
    REQUIRE(job.w.site().selected() > 0);
    const std::uint64_t water = job.w.site().selected();
    job.command(Qt::Key_Insert);
    job.key(Qt::Key_9);
    job.export_to(job.folder / "street-classified.las");
    job.done();

    const auto cloud = io::read_cloud(job.folder / "street-classified.las").cloud;
    CHECK(cloud->size() == job.w.item().cloud->size());
    const auto sets = cloud::class_sets(cloud);
    const auto count = [&](int code) {
        const auto at = sets->find(static_cast<std::uint8_t>(code));
        return at == sets->end() ? std::uint64_t{0} : at->second.count();
    };
    CHECK(count(9) == water);
    CHECK(count(2) > cloud->size() / 5);
    // What is called ground is ground, and most of the ground is called so.
    std::uint64_t right = 0, called = 0, ground = 0;
    std::uint64_t standing = 0;
    std::vector<std::uint64_t> records;  // of each element
    for (std::size_t p = 0; p < cloud->page_count(); ++p)
        for (const auto r : cloud->order()->page(p)) records.push_back(r);
    std::map<std::pair<double, double>, double> floor;  // the lowest true ground of each square metre
    for (std::uint64_t e = 0; e < cloud->size(); ++e) {
        const auto record = records[e];
        if (truth[record] != demo::Truth::Ground) continue;
        const Vec3 p = cloud->position(e);
        const auto [at, fresh] = floor.try_emplace({std::floor(p.x), std::floor(p.y)}, p.z);
        if (!fresh) at->second = std::min(at->second, p.z);
    }
    for (std::uint64_t e = 0; e < cloud->size(); ++e) {
        const auto record = records[e];
        const bool is = truth[record] == demo::Truth::Ground;
        const auto in_ground = sets->find(2);
        const bool said = in_ground != sets->end() && in_ground->second.contains(e);
        ground += is;
        called += said;
        if (!said || is) {
            right += is && said;
            continue;
        }
        // Called ground and of something else: how high above the true ground beside it?
        const Vec3 p = cloud->position(e);
        const auto beside = floor.find({std::floor(p.x), std::floor(p.y)});
        standing += beside == floor.end() || p.z > beside->second + 0.25;
    }
    std::cout << "  of " << called << " points called ground " << right << " are; of " << ground
              << " points of ground " << right << " are called so\n";
    std::cout << "  " << standing << " points called ground stand more than 0.25 m above it\n";
    CHECK(static_cast<double>(standing) < 0.02 * static_cast<double>(called));
    CHECK(static_cast<double>(right) > 0.75 * static_cast<double>(ground));
}

TEST_CASE("APhotogrammetricCloudIsScaledLevelledAndCleaned", "[window][job]") {
    Job job("A photogrammetric cloud");
    // The chamber without unit, system or size, and inclined.
    demo::Options options;
    options.points = 120'000;
    demo::write_site(job.folder / "site", options);
    const auto straight = io::read_cloud(job.folder / "site" / "chamber-station-1.las").cloud;
    const Vec3 floor = demo::kSiteOrigin;
    const Similarity crooked = Similarity::about({}, {0, 0, 1}, 0, 0.31, floor * -0.31)
                                   .after(Similarity::about(floor, normalized({1, 0.4, 0}), 6, 1, {}));
    io::write_cloud({{io::placed(straight, crooked, {})}}, job.folder / "pictures.ply");
    job.open(job.folder / "pictures.ply", 1);
    const auto seen_at = [&](const Vec3& place) { return job.pixel(crooked(place)); };

    // The floor is fenced and made level; a door of 4.80 m between two nails gives the size.
    job.command(Qt::Key_1);
    job.command(Qt::Key_R);
    job.drag(seen_at(floor + Vec3{-1.2, 3.4, 0}), seen_at(floor + Vec3{1.2, 5.4, 0}));
    REQUIRE(job.w.site().selected() > 100);
    job.w.window().commands().trigger("item.place");  // by the menu: two clicks
    job.clicks += 2;
    job.settle();
    job.choose("placeWay", "Level");
    job.click("placeLevelSelection");
    job.click("placeDistanceAdd");
    const auto pick = [&](const Vec3& place) {
        const QPoint p = seen_at(place);
        const auto picture = job.w.stage().picture();
        const auto id = picture->id_near(p.x(), p.y(), 3);
        REQUIRE(id);
        const Vec3 at = picture->position(*id);
        job.click(&job.w.stage(), p);
        return at;
    };
    const Vec3 a = pick(floor + Vec3{-1, 3.5, 0}), b = pick(floor + Vec3{1, 8.3, 0});
    auto* list = job.w.find<QTreeWidget>("placeDistances");
    REQUIRE(list->topLevelItemCount() == 1);
    const double truth = norm(b - a) / 0.31;
    job.click(list->viewport(), list->visualItemRect(list->topLevelItem(0)).topLeft() +
                                    QPoint(list->columnViewportPosition(2) + 8, 8));
    job.type(QApplication::focusWidget(), QString::number(truth, 'f', 3));
    CHECK(list->topLevelItem(0)->text(2).toDouble() == Approx(truth).margin(1e-3));
    job.click("placePlace");
    REQUIRE(job.w.wait([&] { return job.w.site().items.size() == 2; }));
    job.settle();
    job.click("placeClose");
    job.command(Qt::Key_S);
    job.choose("ruleScore", "Strays");
    job.wait_for_rule("stray");
    if (job.w.site().selected() > 0) job.remove();
    job.export_to(job.folder / "pictures-placed.las");
    job.done();

    const auto placed = io::read_cloud(job.folder / "pictures-placed.las").cloud;
    const double size = placed->robust_bounds().diagonal() / straight->robust_bounds().diagonal();
    std::cout << "  size " << size << " of the truth\n";
    CHECK(size == Approx(1).epsilon(0.02));
    const Box3 box = placed->robust_bounds();
    ElementSet low(placed->size());
    for (std::uint64_t e = 0; e < placed->size(); ++e)
        if (placed->position(e).z < box.lo.z + 0.1 * (box.hi.z - box.lo.z)) low.insert(e);
    const auto plane = select::fitted_plane(*placed, low);
    REQUIRE(plane);
    CHECK(plane->normal.z > std::cos(0.3 * M_PI / 180));
}
