// Selecting with shapes in space, growing selections, and the ground.

#include <catch2/catch.hpp>

#include <array>
#include <cmath>
#include <queue>

#include "core/cloud/column.h"
#include "core/io/cloud_io.h"
#include "core/select/growth.h"
#include "core/select/panorama.h"
#include "core/select/solid.h"
#include "core/terrain/floors.h"
#include "demo/ashmere.h"
#include "support/cloud_makers.h"

using namespace pristine;

namespace {

template <class Holds>
ElementSet slow(const cloud::PointCloud& c, const ElementSet& eligible, Holds holds) {
    ElementSet s(c.size());
    eligible.for_each([&](std::uint64_t e) {
        if (holds(c.position(e))) s.insert(e);
    });
    return s;
}

ElementSet some_of(const cloud::PointCloud& c, std::mt19937_64& dice, unsigned one_in) {
    ElementSet s(c.size());
    for (std::uint64_t e = 0; e < c.size(); ++e)
        if (dice() % one_in == 0) s.insert(e);
    return s;
}

Vec3 random_point(const Box3& b, std::mt19937_64& dice) {
    std::uniform_real_distribution<double> u(-0.2, 1.2);
    return {b.lo.x + u(dice) * (b.hi.x - b.lo.x), b.lo.y + u(dice) * (b.hi.y - b.lo.y),
            b.lo.z + u(dice) * (b.hi.z - b.lo.z)};
}

double distance(Vec3 a, Vec3 b) {
    const Vec3 d = a - b;
    return std::sqrt(dot(d, d));
}

}  // namespace

TEST_CASE("ShapesInSpaceSelectWhatTestingEveryPointWould") {
    const auto seed = test::seed_for("shapes");
    CAPTURE(seed);
    std::mt19937_64 dice(seed);
    for (const auto shape :
         {test::Shape::Terrain, test::Shape::OnePlace, test::Shape::Line, test::Shape::WithFarStrays}) {
        const auto c = test::random_cloud(80'000, shape, dice());
        const ElementSet eligible = ~some_of(*c, dice, 5);
        for (int round = 0; round < 6; ++round) {
            const Vec3 at = random_point(c->robust_bounds(), dice);
            const double size = c->robust_bounds().diagonal() * static_cast<double>(1 + dice() % 40) / 100;
            CHECK(select::in_ball(*c, at, size, eligible) == slow(*c, eligible, [&](Vec3 p) {
                      const Vec3 d = p - at;
                      return dot(d, d) <= size * size;
                  }));
            CHECK(select::in_cylinder(*c, at.x, at.y, size, at.z - size, at.z + 1, eligible) ==
                  slow(*c, eligible, [&](Vec3 p) {
                      const double dx = p.x - at.x, dy = p.y - at.y;
                      return dx * dx + dy * dy <= size * size && p.z >= at.z - size && p.z <= at.z + 1;
                  }));
            const auto planes =
                select::half_spaces({at, {size, size / 2, size / 3}, static_cast<double>(dice() % 360)});
            CHECK(select::inside(*c, planes, eligible) == slow(*c, eligible, [&](Vec3 p) {
                      for (const auto& h : planes)
                          if (dot(h.normal, p) > h.offset) return false;
                      return true;
                  }));
        }
        CHECK(select::inside(*c, {}, eligible) == eligible);
        CHECK(select::in_ball(*c, {}, -1, eligible).empty());
    }
}

TEST_CASE("APlaneIsFittedThroughWhatLiesOnItOutliersAside") {
    const std::uint64_t seed = test::seed_for("PlaneFit");
    CAPTURE(seed);
    std::mt19937_64 dice(seed);
    std::normal_distribution<double> noise(0, 0.002);
    std::uniform_real_distribution<double> side(-2, 2);
    for (int round = 0; round < 20; ++round) {
        Vec3 n{side(dice), side(dice), side(dice)};
        n = n * (1 / std::sqrt(dot(n, n)));
        if (n.z < 0) n = n * -1.0;
        Vec3 u = cross(n, std::fabs(n.x) < 0.8 ? Vec3{1, 0, 0} : Vec3{0, 1, 0});
        u = u * (1 / std::sqrt(dot(u, u)));
        const Vec3 v = cross(n, u), centre{412300, 5218930, 58};
        std::vector<Vec3> points;
        for (int i = 0; i < 2000; ++i)
            points.push_back(centre + u * side(dice) + v * side(dice) + n * noise(dice));
        for (int i = 0; i < 500; ++i)  // a fifth stands on one side of it
            points.push_back(centre + u * side(dice) + v * side(dice) + n * (0.05 + std::fabs(side(dice))));
        const auto fit = fit_plane(points);
        REQUIRE(fit);
        CHECK(dot(fit->normal, n) > std::cos(0.0004));
        CHECK(std::fabs(dot(fit->point - centre, n)) < 0.0005);
        CHECK(fit->rms == Approx(0.002).epsilon(0.15));
    }
    CHECK_FALSE(fit_plane(std::vector<Vec3>{{0, 0, 0}, {1, 1, 1}}));
    CHECK_FALSE(fit_plane(std::vector<Vec3>{{0, 0, 0}, {1, 1, 1}, {2, 2, 2}, {5, 5, 5}}));
    CHECK_FALSE(fit_plane(std::vector<Vec3>(10, {4, 4, 4})));
    const auto level = fit_plane(std::vector<Vec3>{{0, 0, 7}, {1, 0, 7}, {0, 1, 7}, {3, 3, 7}});
    REQUIRE(level);
    CHECK(level->normal.z == 1);
    CHECK(level->rms == 0);
}

TEST_CASE("AStripLiesAlongItsLine") {
    const auto box = select::strip({0, 0, 0}, {10, 10, 5}, 2, -1, 9);
    const auto planes = select::half_spaces(box);
    const auto in = [&](Vec3 p) {
        for (const auto& h : planes)
            if (dot(h.normal, p) > h.offset + 1e-9) return false;
        return true;
    };
    CHECK(in({5, 5, 0}));
    CHECK(in({5.7, 4.3, 8.9}));      // 0.99 m off the line
    CHECK_FALSE(in({5.8, 4.2, 0}));  // 1.13 m
    CHECK_FALSE(in({-0.1, -0.1, 0}));
    CHECK_FALSE(in({5, 5, 9.1}));
    CHECK_THROWS_AS(select::strip({1, 1, 0}, {1, 1, 5}, 2, 0, 1), Error);
    const auto plane = select::plane_through({0, 0, 1}, {0, 5, 1}, {5, 0, 2});
    CHECK(plane.normal.z > 0);
    CHECK(dot(plane.normal, Vec3{10, 3, 3}) == Approx(plane.offset));
    CHECK_THROWS_AS(select::plane_through({0, 0, 0}, {1, 1, 1}, {2, 2, 2}), Error);
}

TEST_CASE("GrowingShrinkingAndConnectingEqualTheSlowWay") {
    const auto seed = test::seed_for("growth");
    CAPTURE(seed);
    std::mt19937_64 dice(seed);
    for (const auto shape :
         {test::Shape::Clusters, test::Shape::Grid, test::Shape::OnePlace, test::Shape::WithFarStrays}) {
        const auto c = test::random_cloud(1500, shape, dice());
        const ElementSet eligible = ~some_of(*c, dice, 4);
        const double reach = c->robust_bounds().diagonal() / static_cast<double>(10 + dice() % 60) + 1e-3;
        // Exactly at the limit single precision may decide either way: distances there are no test.
        bool at_limit = false;
        std::vector<Vec3> p;
        for (std::uint64_t e = 0; e < c->size(); ++e) p.push_back(c->position(e));
        const auto is_near = [&](std::uint64_t a, std::uint64_t b) {
            const double d = distance(p[a], p[b]);
            at_limit |= std::fabs(d - reach) < 1e-4 * reach;
            return d <= reach;
        };
        const ElementSet set = some_of(*c, dice, 40) & eligible;
        ElementSet grown = set, shrunk = set;
        for (std::uint64_t e = 0; e < c->size(); ++e)
            for (std::uint64_t s = 0; s < c->size(); ++s) {
                if (!eligible.contains(e) || set.contains(e) || !set.contains(s) || !is_near(e, s)) continue;
                grown.insert(e);
                ElementSet one(c->size());
                one.insert(s);
                shrunk = shrunk - one;
            }
        ElementSet reached(c->size());
        std::queue<std::uint64_t> open;
        const std::uint64_t start = 7;
        reached.insert(start);
        open.push(start);
        while (!open.empty()) {
            const std::uint64_t a = open.front();
            open.pop();
            for (std::uint64_t e = 0; e < c->size(); ++e)
                if (eligible.contains(e) && !reached.contains(e) && is_near(a, e)) {
                    reached.insert(e);
                    open.push(e);
                }
        }
        if (at_limit) continue;
        CHECK(select::grown(*c, set, eligible, reach) == grown);
        CHECK(select::shrunk(*c, set, eligible, reach) == shrunk);
        ElementSet seed_set(c->size());
        seed_set.insert(start);
        CHECK(select::connected(*c, seed_set, eligible, {reach, -1}) == reached);
    }
    const auto c = test::random_cloud(100, test::Shape::Clusters, 1);
    CHECK(select::grown(*c, ElementSet(c->size()), ElementSet::all(c->size()), 1).empty());
}

TEST_CASE("ConnectingByColourStopsWhereColourChanges") {
    // A line of points 1 apart whose colour steps by 10, then jumps.
    std::vector<cloud::PointBatch> batches(1);
    std::string raw;
    for (int i = 0; i < 20; ++i) {
        batches[0].x.push_back(i * 1000);
        batches[0].y.push_back(0);
        batches[0].z.push_back(0);
        batches[0].colour.push_back(static_cast<std::uint32_t>((i < 12 ? i * 10 : 200) << 8));
        raw += '\0';
    }
    cloud::PointCloud::Parts parts;
    parts.grid.scale = {1e-3, 1e-3, 1e-3};
    cloud::RecordLayout layout;
    layout.record_bytes = 1;
    parts.records = std::make_shared<cloud::MemoryRecords>(layout, raw);
    const auto c = cloud::build(std::move(batches), std::move(parts));
    ElementSet seed(20);
    for (std::uint64_t e = 0; e < 20; ++e)
        if (c->position(e).x == 0) seed.insert(e);
    const ElementSet all = ElementSet::all(20);
    CHECK(select::connected(*c, seed, all, {1.01, 10}).count() == 12);
    CHECK(select::connected(*c, seed, all, {1.01, 9}).count() == 1);
    CHECK(select::connected(*c, seed, all, {1.01, -1}).count() == 20);
    CHECK(select::connected(*c, seed, all, {0.99, -1}).count() == 1);
}

namespace {

// Points of two floors above each other, the upper with an opening, walls, and boxes standing about.
std::shared_ptr<const cloud::PointCloud> two_floors(std::uint64_t seed, std::vector<int>& kinds) {
    std::mt19937_64 dice(seed);
    std::normal_distribution<double> noise(0, 0.004);
    std::uniform_real_distribution<double> unit(0, 1);
    std::vector<cloud::PointBatch> batches(1);
    std::string raw;
    const auto add = [&](Vec3 p, int kind) {
        cloud::PointBatch& b = batches[0];
        b.x.push_back(static_cast<std::int32_t>(std::lround(p.x * 1000)));
        b.y.push_back(static_cast<std::int32_t>(std::lround(p.y * 1000)));
        b.z.push_back(static_cast<std::int32_t>(std::lround(p.z * 1000)));
        kinds.push_back(kind);
        raw += '\0';
    };
    const auto lower = [](double x, double y) { return 0.08 * x + 0.05 * std::sin(y); };
    for (int i = 0; i < 90'000; ++i) {
        const double x = 12 * unit(dice), y = 10 * unit(dice);
        // The floor is in shadow under the machine (x 4..5, y 4..5).
        if (!(x > 4 && x < 5 && y > 4 && y < 5)) add({x, y, lower(x, y) + noise(dice)}, 0);
        if (x > 6) add({x, y, 4 + 0.02 * y + noise(dice)}, 1);
    }
    for (int i = 0; i < 20'000; ++i) add({0, 10 * unit(dice), 4 * unit(dice)}, 2);  // a wall
    for (int i = 0; i < 8'000; ++i) {  // the machine, and a person on the upper floor
        add({4 + unit(dice), 4 + unit(dice), lower(4.5, 4.5) + 0.1 + 1.2 * unit(dice)}, 3);
        add({9 + 0.4 * unit(dice), 5 + 0.4 * unit(dice), 4.2 + 1.6 * unit(dice)}, 4);
    }
    cloud::PointCloud::Parts parts;
    parts.grid.scale = {1e-3, 1e-3, 1e-3};
    cloud::RecordLayout layout;
    layout.record_bytes = 1;
    parts.records = std::make_shared<cloud::MemoryRecords>(layout, raw);
    return cloud::build(std::move(batches), std::move(parts));
}

}  // namespace

TEST_CASE("TheGroundGuardHoldsEveryFloorAndNothingThatStandsOnIt") {
    std::vector<int> kinds;
    const auto c = two_floors(test::seed_for("floors"), kinds);
    const ElementSet all = ElementSet::all(c->size());
    const terrain::GroundModel ground(*c, all);
    const double margin = 0.05;
    const ElementSet guarded = terrain::ground_guard(*c, ground, all, margin);
    int lost[5] = {}, of[5] = {};
    for (std::size_t p = 0; p < c->page_count(); ++p) {
        const auto order = c->order()->page(p);
        for (std::size_t i = 0; i < order.size(); ++i) {
            const int kind = kinds[order[i]];
            ++of[kind];
            lost[kind] += guarded.contains(p * kPageSize + i) ? 0 : 1;
        }
    }
    CHECK(lost[0] == 0);
    CHECK(lost[1] == 0);
    CHECK(lost[3] == of[3]);  // begins 0.1 m above the floor
    CHECK(lost[4] == of[4]);
    CHECK(lost[2] > of[2] * 9 / 10);  // of the wall only its foot
    // Between the floors the lower one counts; above the upper one that.
    CHECK(*ground.below(9, 5, 2) == Approx(0.08 * 9 + 0.05 * std::sin(5.0)).margin(0.02));
    CHECK(*ground.below(9, 5, 5) == Approx(4.1).margin(0.02));
    CHECK(*ground.below(4.5, 4.5, 1) ==
          Approx(0.08 * 4.5 + 0.05 * std::sin(4.5)).margin(0.05));  // in the shadow
    CHECK_FALSE(ground.below(100, 100, 5));
}

TEST_CASE("WithTheGuardAFenceThroughBootsAndFloorLeavesTheFloor") {
    const test::TemporaryFolder folder;
    demo::Options o;
    o.points = 1'000'000;
    demo::write_site(folder / "ashmere-lock", o);
    const auto c = io::read_cloud(folder / "ashmere-lock" / "chamber-station-1.las").cloud;
    const auto truth = cloud::fetch_column(*c, "truth");
    const ElementSet all = ElementSet::all(c->size());
    const terrain::GroundModel ground(*c, all);
    const double margin = 0.05;
    const ElementSet guarded = terrain::ground_guard(*c, ground, all, margin);
    // A fence from the side, drawn carelessly: from 0.3 m below the boots to above the head of each worker.
    for (const Vec3& feet : demo::workers_at(0)) {
        select::Fence fence;
        fence.view.eye = feet + Vec3{0, -20, 1};
        fence.view.right = {1, 0, 0};
        fence.view.down = {0, 0, -1};
        fence.view.ahead = {0, 1, 0};
        fence.view.scale = 100;
        const auto at = [&](double x, double z) { return fence.view.project(feet + Vec3{x, 0, z}); };
        fence.corners = {at(-0.7, -0.3), at(0.7, -0.3), at(0.7, 2.2), at(-0.7, 2.2)};
        const ElementSet taken = select::fence(*c, fence, all - guarded);
        const ElementSet meant = select::fence(*c, fence, all);
        std::uint64_t floor_lost = 0, floor_meant = 0, person_left = 0, person_taken = 0;
        meant.for_each([&](std::uint64_t e) {
            const auto kind = static_cast<demo::Kind>(
                static_cast<int>(truth->base + static_cast<double>(truth->values[e])));
            const bool goes = taken.contains(e);
            if (kind == demo::Kind::Floor) {
                ++floor_meant;
                floor_lost += goes;
            }
            if (kind == demo::Kind::Worker) {
                const Vec3 w = c->position(e);
                const auto h = ground.below(w.x, w.y, w.z, margin);
                person_left += !goes && !(h && w.z <= *h + margin);
                person_taken += goes;
            }
        });
        CHECK(floor_meant > 0);
        CHECK(floor_lost == 0);
        CHECK(person_left == 0);
        CHECK(person_taken > 0);
    }
}

TEST_CASE("APanoramaShowsTheNearestInEachDirectionAndFencesEqualTheSlowWay") {
    select::PanoramaFrame f;
    f.station = {10, 20, 5};
    f.pixels_per_deg = 2;
    f.width = 720;
    f.height = 360;
    double range = 0;
    CHECK(f.project({10, 30, 5}, range).x == Approx(0).margin(1e-9));  // north, level
    CHECK(f.project({10, 30, 5}, range).y == Approx(180));
    CHECK(f.project({20, 20, 15}, range).x == Approx(180));  // east, 45 degrees up
    CHECK(f.project({20, 20, 15}, range).y == Approx(90));
    CHECK(range == Approx(std::sqrt(200.0)));
    CHECK(f.project({9.999, 30, 5}, range).x > 719);

    const auto seed = test::seed_for("panorama");
    CAPTURE(seed);
    std::mt19937_64 dice(seed);
    const auto c = test::random_cloud(70'000, test::Shape::Clusters, dice());
    const ElementSet eligible = ~some_of(*c, dice, 6);
    const std::array<select::PanoramaSource, 1> source{{{c.get(), &eligible}}};
    const auto frame = select::panorama_for(source, c->robust_bounds().centre(), 500);
    const auto seen = select::draw_panorama(source, frame);
    std::vector<float> nearest(seen.range.size(), INFINITY);
    const Polygon fence{{50, 20}, {300, 40}, {260, 90}, {90, 120}};
    const ElementSet through = select::panorama_fence(*c, frame, fence, eligible);
    const ElementSet visible = select::panorama_fence(*c, frame, fence, eligible, &seen);
    ElementSet want(c->size());
    eligible.for_each([&](std::uint64_t e) {
        double r = 0;
        const PixelPoint q = frame.project(c->position(e), r);
        if (r > 0 && contains(fence, q)) want.insert(e);
        if (r <= 0 || !(q.y >= 0 && q.y < frame.height)) return;
        float& n = nearest[static_cast<std::size_t>(q.y) * static_cast<std::size_t>(frame.width) +
                           static_cast<std::size_t>(std::min(static_cast<int>(q.x), frame.width - 1))];
        n = std::min(n, static_cast<float>(r));
    });
    CHECK(through == want);
    CHECK(seen.range == nearest);
    CHECK((visible - through).empty());
    for (std::size_t i = 0; i < seen.range.size(); ++i)
        if (std::isfinite(seen.range[i]) && through.contains(seen.element[i]))
            REQUIRE(visible.contains(seen.element[i]));
}

TEST_CASE("APanoramaOfSeveralCloudsFollowsWhatComesAndGoes") {
    const auto seed = test::seed_for("panorama of several");
    CAPTURE(seed);
    std::mt19937_64 dice(seed);
    // Two clouds of one place: equal ranges happen, and the first wins.
    const auto a = test::random_cloud(90'000, test::Shape::Clusters, dice());
    const auto b = test::random_cloud(dice() % 100'000 + 1, test::Shape::Clusters, dice());
    const Vec3 station = dice() % 2 ? a->robust_bounds().centre() : a->robust_bounds().hi * 1.5;
    std::array<ElementSet, 3> now{~some_of(*a, dice, 6), ~some_of(*b, dice, 3), ~some_of(*a, dice, 2)};
    const std::array<select::PanoramaSource, 3> sources{
        {{a.get(), &now[0]}, {b.get(), &now[1]}, {a.get(), &now[2]}}};
    const auto frame = select::panorama_for(sources, station, 360 * static_cast<int>(1 + dice() % 3));
    auto seen = select::draw_panorama(sources, frame);
    for (int step = 0; step < 6; ++step) {
        CAPTURE(step);
        const std::array<ElementSet, 3> before = now;
        const std::array<const ElementSet*, 3> was{&before[0], &before[1], &before[2]};
        for (ElementSet& s : now) switch (dice() % 4) {
                case 0:
                    s = s - some_of(s.size() == a->size() ? *a : *b, dice, 4);
                    break;
                case 1:
                    s = s | some_of(s.size() == a->size() ? *a : *b, dice, 9);
                    break;
                case 2:
                    s = dice() % 3 ? s : ElementSet(s.size());
                    break;
                default:
                    break;
            }
        select::redraw_panorama(seen, sources, was, frame);
        const auto anew = select::draw_panorama(sources, frame);
        REQUIRE(seen.range == anew.range);
        for (std::size_t i = 0; i < seen.range.size(); ++i)
            if (std::isfinite(seen.range[i])) {
                REQUIRE(seen.element[i] == anew.element[i]);
                REQUIRE(seen.source[i] == anew.source[i]);
            }
    }
}

TEST_CASE("PanoramaFencesOfAnySizeEqualTheSlowWay") {
    const auto seed = test::seed_for("panorama fences");
    CAPTURE(seed);
    std::mt19937_64 dice(seed);
    const auto c = test::random_cloud(150'000, test::Shape::Clusters, dice());
    const ElementSet eligible = ~some_of(*c, dice, 6);
    const std::array<select::PanoramaSource, 1> source{{{c.get(), &eligible}}};
    const Box3 box = c->robust_bounds();
    for (const Vec3 station : {box.centre(), box.hi, box.hi + (box.hi - box.lo) * 3.0,
                               box.centre() + Vec3{0, 0, box.diagonal()}}) {
        auto frame = select::panorama_for(source, station, 1440);
        frame.left_deg = static_cast<double>(dice() % 360) - 180;
        for (int k = 0; k < 8; ++k) {
            const double x = static_cast<double>(dice() % 1440), w = static_cast<double>(1 + dice() % 200);
            const double y = static_cast<double>(dice() % static_cast<unsigned>(frame.height));
            const Polygon fence{{x - w, y - w / 3}, {x + w, y}, {x, y + w}};
            ElementSet want(c->size());
            eligible.for_each([&](std::uint64_t e) {
                double r = 0;
                const PixelPoint q = frame.project(c->position(e), r);
                if (r > 0 && contains(fence, q)) want.insert(e);
            });
            REQUIRE(select::panorama_fence(*c, frame, fence, eligible) == want);
        }
    }
}
