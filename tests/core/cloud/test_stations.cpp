// Stations: what each saw, and those that a person gives.

#include <catch2/catch.hpp>

#include <cmath>

#include "core/base/error.h"
#include "core/cloud/column.h"
#include "core/cloud/stations.h"
#include "core/io/cloud_io.h"
#include "core/score/score.h"
#include "core/site/site.h"
#include "core/store/project.h"
#include "demo/trials.h"
#include "support/cloud_makers.h"

using namespace pristine;
using cloud::Station;

namespace {

// Two stations, and which points are of which.
std::shared_ptr<const cloud::PointCloud> two_stations(int points) {
    demo::Trial t{"two", {}, {{0, 0, 2}, {10, 0, 2}}};
    for (int i = 0; i < points; ++i) {
        t.points.push_back({{0.01 * i, std::sin(0.1 * i), 0}, {}});
        t.points.back().scan = static_cast<decltype(t.points.back().scan)>(i % 3 == 0);
    }
    std::vector<demo::Truth> ignored;
    return demo::cloud_of(t, ignored);
}

}  // namespace

TEST_CASE("EachStationSawItsOwnPoints") {
    const auto c = two_stations(5000);
    REQUIRE(c->stations().size() == 2);
    REQUIRE(cloud::knows_stations(*c));
    const ElementSet all = ElementSet::all(c->size());
    const auto scan = cloud::fetch_column(*c, "scan");
    std::uint64_t sum = 0;
    for (std::size_t k = 0; k < 2; ++k) {
        const ElementSet saw = cloud::of_station(*c, all, k);
        bool right = true;
        for (std::uint64_t i = 0; i < c->size(); ++i)
            right &= saw.contains(i) ==
                     (scan->base + static_cast<double>(scan->values[i]) == static_cast<double>(k));
        CHECK(right);
        sum += saw.count();
        // Only of what is eligible.
        ElementSet half(c->size());
        for (std::uint64_t i = 0; i < c->size(); i += 2) half.insert(i);
        CHECK(cloud::of_station(*c, half, k) == (saw & half));
    }
    CHECK(sum == c->size());
    CHECK(cloud::of_station(*c, all, 2).empty());
}

TEST_CASE("ACloudWithoutStationsKnowsNone") {
    const auto c = test::random_cloud(100, test::Shape::Terrain, 1);
    CHECK_FALSE(cloud::knows_stations(*c));
    CHECK_THROWS_AS(cloud::of_station(*c, ElementSet::all(100), 0), Error);
    const auto given = cloud::with_stations(c, std::vector<Station>{{"Pier", {1, 2, 3}}});
    CHECK(cloud::knows_stations(*given));
    CHECK(cloud::of_station(*given, ElementSet::all(100), 0).count() == 100);
}

TEST_CASE("GivenStationsAndAReferenceDoNotDisturbEachOther") {
    const auto c = test::random_cloud(1000, test::Shape::Terrain, 1);
    const std::vector<Station> pier{{"Pier", {1, 2, 3}}};
    const auto given = cloud::with_stations(c, pier);
    CHECK(given->stations() == pier);
    CHECK(given->stations_given());
    CHECK(given->base() == c);
    CHECK(cloud::with_stations(given, pier) == given);
    const auto feet = cloud::with_reference(given, {"", "usft", ""});
    CHECK(feet->unit() == "usft");
    CHECK(feet->stations() == pier);
    CHECK(feet->base() == c);
    const auto back = cloud::with_stations(feet, std::nullopt);
    CHECK(back->unit() == "usft");
    CHECK_FALSE(back->stations_given());
    CHECK(back->stations() == c->stations());
    CHECK(cloud::with_stations(given, std::nullopt) == c);
    CHECK(cloud::with_stations(c, std::nullopt) == c);
}

TEST_CASE("RangeIsCountedFromAStationThatWasGiven") {
    const auto c = test::random_cloud(3000, test::Shape::Terrain, 3);
    const ElementSet all = ElementSet::all(c->size());
    CHECK_THROWS_AS(score::compute(score::find("range"), {*c, all}, {}), Error);
    const Vec3 at = c->robust_bounds().centre();
    const auto given = cloud::with_stations(c, std::vector<Station>{{"Pier", at}});
    const score::Column range = score::compute(score::find("range"), {*given, all}, {});
    for (std::uint64_t i = 0; i < c->size(); i += 37)
        CHECK(range.base + static_cast<double>(range.values[i]) ==
              Approx(norm(c->position(i) - at)).margin(1e-3));
}

TEST_CASE("AGivenStationIsOfTheItemAndInTheProject") {
    const test::TemporaryFolder f;
    const auto c = test::random_cloud(1000, test::Shape::Terrain, 3);
    site::SitePtr s = site::add_cloud({}, c, "Quay", "");
    const std::vector<Station> pier{{"Pfeiler Süd", {412300.5, 5218930.25, 59.75}}};
    s = site::set_stations(*s, s->active, pier);
    CHECK(s->active_item()->cloud->stations() == pier);
    {
        const auto p = store::Project::create(f / "a.pristine");
        p->write({1, "start", s}, Progress::none());
        s = site::set_stations(*s, s->active, std::nullopt);
        p->write({2, "as the file says", s}, Progress::none());
    }
    const auto p = store::Project::open(f / "a.pristine");
    auto history = p->load(Progress::none());
    CHECK(history.now()->active_item()->cloud->stations().empty());
    history.undo();
    CHECK(history.now()->active_item()->cloud->stations() == pier);
    CHECK(history.now()->active_item()->cloud->stations_given());
    // A file of several scans says itself where they stood.
    const site::SitePtr two = site::add_cloud({}, two_stations(100), "Chamber", "");
    CHECK_THROWS_AS(site::set_stations(*two, two->active, pier), Error);
}

TEST_CASE("AGivenStationLeavesALasFileAsItIs") {
    const test::TemporaryFolder f;
    test::LasSpec spec;
    test::write_file(f / "in.las", test::las_file(spec));
    const auto c = io::read_cloud(f / "in.las").cloud;
    io::write_cloud({{cloud::with_stations(c, std::vector<Station>{{"Pier", {1, 2, 3}}})}}, f / "out.las");
    CHECK(test::read_file(f / "out.las") == test::read_file(f / "in.las"));
}
