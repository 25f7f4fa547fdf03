#include <catch2/catch.hpp>

#include "core/base/bytes.h"
#include "core/base/file.h"
#include "core/base/parallel.h"
#include "core/cloud/column.h"
#include "core/io/cloud_io.h"
#include "core/io/las/las_header.h"
#include "core/recipe/recipe.h"
#include "demo/ashmere.h"
#include "demo/scene.h"
#include "support/cloud_makers.h"

using namespace pristine;
using demo::Kind;

namespace {

struct Point {
    Vec3 at;
    Kind truth;
};

std::vector<Point> points_of(const std::filesystem::path& path) {
    const std::string raw = test::read_file(path);
    const io::LasHeader h = io::read_las_header(InputFile(path));
    std::vector<Point> points;
    for (std::uint64_t i = 0; i < h.point_count; ++i) {
        const char* r = raw.data() + h.points_offset + i * h.record_bytes;
        Vec3 p;
        for (int a = 0; a < 3; ++a) p[a] = load_le<std::int32_t>(r + 4 * a) * h.scale[a] + h.offset[a];
        points.push_back({p, static_cast<Kind>(r[36])});
    }
    return points;
}

}  // namespace

TEST_CASE("TheDemoSiteIsTheSameForAnyNumberOfWorkers") {
    const test::TemporaryFolder f;
    demo::Options o;
    o.points = 20'000;
    demo::write_site(f / "many", o);
    {
        const parallel::WorkerLimit alone(1);
        demo::write_site(f / "one", o);
    }
    for (const char* name : {"chamber-station-1.las", "chamber-station-2.las", "truth.json"})
        CHECK((test::read_file(f / "many" / name) == test::read_file(f / "one" / name)));
    CHECK_THROWS_AS(demo::write_site(f / "one", o), Error);  // not over existing files
    demo::write_chamber_with_stations(f / "many", o);
    {
        const parallel::WorkerLimit alone(1);
        demo::write_chamber_with_stations(f / "one", o);
    }
    CHECK((test::read_file(f / "many" / "chamber.e57") == test::read_file(f / "one" / "chamber.e57")));
}

TEST_CASE("TheTruthOfTheDemoSiteIsTrue") {
    const test::TemporaryFolder f;
    demo::Options o;
    o.points = 80'000;
    const auto scans = demo::write_site(f / "site", o);
    REQUIRE(scans.size() == 2);
    for (int station = 0; station < 2; ++station) {
        const auto points = points_of(f / "site" / scans[static_cast<std::size_t>(station)].file);
        CHECK(points.size() == scans[static_cast<std::size_t>(station)].points);
        std::array<std::uint64_t, demo::kKinds> counts{};
        for (const Point& p : points) {
            ++counts[static_cast<std::size_t>(p.truth)];
            if (p.truth == Kind::Floor) REQUIRE(std::fabs(p.at.z - 58) < 0.02);
            if (p.truth != Kind::Worker) continue;
            double nearest = 1e9;
            for (const Vec3& feet : demo::workers_at(station))
                nearest = std::min(nearest, std::hypot(p.at.x - feet.x, p.at.y - feet.y));
            REQUIRE(nearest < 0.45);
            REQUIRE(p.at.z > 57.98);
            REQUIRE(p.at.z < 60);
        }
        CHECK(counts == scans[static_cast<std::size_t>(station)].of_kind);
        for (const Kind k :
             {Kind::Floor, Kind::Wall, Kind::Gate, Kind::Ladder, Kind::Worker, Kind::Cart, Kind::Stray})
            CHECK(counts[static_cast<std::size_t>(k)] > 0);
    }
    CHECK(scans[0].points >= 80'000);
}

TEST_CASE("RaysMeetTheNearestSolidFromOutside") {
    const auto scene = demo::make_scene(0);
    const Vec3 eye{0, 4, 1.6};
    const auto down = demo::cast(scene, eye, {0, 0, -1});
    REQUIRE(down);
    CHECK(down->range == Approx(1.6));
    CHECK(down->normal.z == 1);
    const auto side = demo::cast(scene, eye, {1, 0, 0});
    REQUIRE(side);
    CHECK(side->range == Approx(3.2));
    CHECK(side->solid->kind == Kind::Wall);
    CHECK_FALSE(demo::cast(scene, eye, {0, 0, 1}));  // the sky
    const Vec3 feet = demo::workers_at(0)[0] - demo::kSiteOrigin;
    const auto worker = demo::cast(scene, eye, normalized(feet + Vec3{0, 0, 1.2} - eye));
    REQUIRE(worker);
    CHECK(worker->solid->kind == Kind::Worker);
}

TEST_CASE("WhatTheStationsOfTheDemoSiteSawThroughAreItsPeople") {
    const test::TemporaryFolder f;
    demo::Options o;
    o.points = 250'000;
    demo::write_chamber_with_stations(f.path(), o);
    const auto cloud = io::read_cloud(f / "chamber.e57").cloud;
    REQUIRE(cloud->stations().size() == 2);
    const auto gone = score::run({score::parse_step("through >0")}, *cloud, ElementSet::all(cloud->size()));
    const auto truth = cloud::fetch_column(*cloud, "truth");
    std::uint64_t people = 0, strays = 0, others = 0;
    gone[0].elements.for_each([&](std::uint64_t i) {
        const auto kind =
            static_cast<Kind>(static_cast<int>(truth->base + static_cast<double>(truth->values[i])));
        (kind == Kind::Worker || kind == Kind::Cart ? people : kind == Kind::Stray ? strays : others) += 1;
    });
    CAPTURE(people, strays, others);
    CHECK(people > 100);
    CHECK(others * 20 < people);
}
