// The steps of the ground, each alone, on land whose heights are known.

#include <catch2/catch.hpp>

#include <algorithm>
#include <cmath>
#include <functional>
#include <map>
#include <random>

#include "core/terrain/grid.h"
#include "demo/trials.h"
#include "support/cloud_makers.h"

using namespace pristine;
using terrain::Cell;
using terrain::Grid;

namespace {

using Height = std::function<double(double, double)>;

// Points on land of kSide metres, and what stands on it; coordinates from the corner of the site.
constexpr double kSide = 60;
struct Steps {
    std::vector<demo::TrialPoint> points;
    std::mt19937_64 dice;

    explicit Steps(std::uint64_t seed) : dice(seed) {}
    double any(double lo, double hi) { return std::uniform_real_distribution<double>(lo, hi)(dice); }
    void point(double x, double y, double z) { points.push_back({{x, y, z}, {}}); }
    void ground(const Height& height, int n = 90'000) {
        for (int i = 0; i < n; ++i) {
            const double x = any(0, kSide), y = any(0, kSide);
            point(x, y, height(x, y));
        }
    }
    // Lid of a thing; what lies beneath was not seen.
    void thing(double x0, double y0, double a, double b, double z) {
        std::erase_if(points, [&](const demo::TrialPoint& p) {
            return p.at.x > x0 && p.at.x < x0 + a && p.at.y > y0 && p.at.y < y0 + b;
        });
        for (double x = x0; x < x0 + a; x += 0.15)
            for (double y = y0; y < y0 + b; y += 0.15) point(x, y, z);
    }
    std::shared_ptr<const cloud::PointCloud> cloud() const {
        std::vector<demo::Truth> ignored;
        return demo::cloud_of({"land", points, {}}, ignored);
    }
};

// How far the steps are gone.
enum class Up { Gather, Trend, Objects, Planes, Faces };

Grid grid_after(Up to, const cloud::PointCloud& cloud, terrain::Options options = {}) {
    Progress& none = Progress::none();
    Grid g;
    gather(g, cloud, ElementSet::all(cloud.size()), options, none);
    if (to >= Up::Trend) find_trend_surface(g, options, none);
    if (to >= Up::Objects) take_objects_off(g, options, none);
    if (to >= Up::Planes) fit_planes(g, options, none);
    if (to >= Up::Faces) find_faces(g, options, none);
    return g;
}

// The middle of a cell, from the corner of the site.
struct Middle {
    double x, y;
};
Middle middle_of(const Grid& g, std::size_t c) {
    const auto nx = static_cast<std::size_t>(g.nx);
    return {(static_cast<double>(g.ix0) + static_cast<double>(c % nx) + 0.5) * g.side - demo::kSiteOrigin.x,
            (static_cast<double>(g.iy0) + static_cast<double>(c / nx) + 0.5) * g.side - demo::kSiteOrigin.y};
}
double world_height(const Grid& g, float z) {
    return static_cast<double>(z) + g.z0 - demo::kSiteOrigin.z;
}

// Calls work(cell, middle) for cells whose middles lie in a rectangle; how many there were.
template <class Work>
int in_rectangle(const Grid& g, double x0, double y0, double x1, double y1, Work&& work) {
    int n = 0;
    for (std::size_t c = 0; c < g.cells.size(); ++c) {
        const Middle m = middle_of(g, c);
        if (m.x < x0 || m.x > x1 || m.y < y0 || m.y > y1) continue;
        ++n;
        work(g.cells[c], m);
    }
    return n;
}

double share_in(const Grid& g, double x0, double y0, double x1, double y1,
                const std::function<bool(const Cell&)>& holds) {
    int yes = 0;
    const int n = in_rectangle(g, x0, y0, x1, y1, [&](const Cell& c, Middle) { yes += holds(c); });
    REQUIRE(n > 10);
    return static_cast<double>(yes) / n;
}

bool is_object(const Cell& c) {
    return c.taken_off;
}
bool is_ground(const Cell& c) {
    return c.state == Cell::State::Ground;
}

}  // namespace

TEST_CASE("TheRectangleRoundCellsHasTheLeastOutline") {
    std::vector<std::pair<int, int>> block, corner;
    for (int x = 0; x <= 12; ++x)
        for (int y = 0; y <= 4; ++y) block.push_back({x, y});
    terrain::Rectangle r = terrain::rectangle_round(block);
    CHECK(r.longer == Approx(12));
    CHECK(r.shorter == Approx(4));
    CHECK(terrain::rectangle_round({{7, -3}}).longer == 0);
    // Two walls at a corner: the rectangle of the building, not the one along the line from end to end.
    for (int k = 0; k <= 20; ++k) {
        corner.push_back({k, 0});
        corner.push_back({0, k});
    }
    r = terrain::rectangle_round(corner);
    CHECK(r.longer == Approx(20));
    CHECK(r.shorter == Approx(20));
}

TEST_CASE("ARectangleHoldsItsCellsHoweverTurned") {
    const std::uint64_t seed = test::seed_for("rectangle");
    CAPTURE(seed);
    std::mt19937_64 dice(seed);
    std::uniform_real_distribution<double> angle(0, 3.14159265358979), size(5, 60);
    for (int round = 0; round < 50; ++round) {
        const double a = angle(dice), length = size(dice), width = 0.3 * length;
        std::vector<std::pair<int, int>> cells;
        for (double u = 0; u <= length; u += 0.5)
            for (double v = 0; v <= width; v += 0.5)
                cells.push_back({static_cast<int>(std::lround(u * std::cos(a) - v * std::sin(a))),
                                 static_cast<int>(std::lround(u * std::sin(a) + v * std::cos(a)))});
        const terrain::Rectangle r = terrain::rectangle_round(cells);
        CAPTURE(a, length, width);
        // Cells are whole numbers, and angles are tried every five degrees.
        CHECK(r.longer == Approx(length).margin(1.5 + 0.05 * length));
        CHECK(r.shorter == Approx(width).margin(1.5 + 0.05 * length));
    }
}

TEST_CASE("SamplesLieInTheirCellsAndAscend") {
    const std::uint64_t seed = test::seed_for("gathered");
    CAPTURE(seed);
    Steps land(seed);
    land.ground([](double x, double y) { return 0.1 * x - 0.05 * y; });
    const auto cloud = land.cloud();
    const Grid g = grid_after(Up::Gather, *cloud);
    REQUIRE(g.first.size() == g.cells.size() + 1);
    CHECK(g.first.back() == cloud->size());
    const auto half = static_cast<float>(g.side / 2 + 1e-3);
    bool inside = true, ascending = true;
    for (std::size_t c = 0; c < g.cells.size(); ++c)
        for (std::size_t i = g.first[c]; i < g.first[c + 1]; ++i) {
            const terrain::Sample& s = g.samples[i];
            inside &= s.cell == c && std::fabs(s.x) <= half && std::fabs(s.y) <= half;
            ascending &= i == g.first[c] || s.z >= g.samples[i - 1].z;
        }
    CHECK(inside);
    CHECK(ascending);
    // Where there is land, a cell's height is that of its lowest point.
    std::map<std::pair<std::int64_t, std::int64_t>, double> lowest;
    for (std::uint64_t i = 0; i < cloud->size(); ++i) {
        const Vec3 w = cloud->position(i);
        const std::pair key{static_cast<std::int64_t>(std::floor(w.x / g.side)) - g.ix0,
                            static_cast<std::int64_t>(std::floor(w.y / g.side)) - g.iy0};
        const auto [at, fresh] = lowest.emplace(key, w.z);
        at->second = std::min(at->second, w.z);
    }
    for (const auto& [key, z] : lowest) {
        const Cell& c = g.cells[g.at(static_cast<int>(key.first), static_cast<int>(key.second))];
        REQUIRE(c.state == Cell::State::Ground);
        REQUIRE(static_cast<double>(c.low) + g.z0 == Approx(z).margin(1e-3));
    }
}

TEST_CASE("APointBelowTheGroundIsNoHeightOfItsCell") {
    const std::uint64_t seed = test::seed_for("below");
    CAPTURE(seed);
    Steps land(seed);
    land.ground([](double, double) { return 0.0; });
    std::vector<Middle> wells;
    for (int k = 0; k < 25; ++k) {
        wells.push_back({6.0 + 11 * (k % 5), 6.0 + 11 * (k / 5)});
        land.point(wells.back().x, wells.back().y, land.any(-9, -2));
    }
    const Grid g = grid_after(Up::Gather, *land.cloud());
    for (const Middle& w : wells)
        for (std::size_t c = 0; c < g.cells.size(); ++c) {
            const Middle m = middle_of(g, c);
            if (std::fabs(m.x - w.x) > g.side / 2 || std::fabs(m.y - w.y) > g.side / 2) continue;
            if (is_ground(g.cells[c])) CHECK(std::fabs(world_height(g, g.cells[c].low)) < 0.01);
        }
}

TEST_CASE("PointsThatAreOutMakeNoGround") {
    Steps land(7);
    land.ground([](double, double) { return 0.0; });
    const auto cloud = land.cloud();
    Grid g;
    gather(g, *cloud, ElementSet(cloud->size()), {}, Progress::none());
    CHECK(g.samples.empty());
    CHECK(std::none_of(g.cells.begin(), g.cells.end(), is_ground));
}

TEST_CASE("CellsLieInTheSamePlacesWhateverElseThereIs") {
    const std::uint64_t seed = test::seed_for("places");
    CAPTURE(seed);
    Steps land(seed);
    land.ground([](double x, double) { return 0.02 * x; });
    const terrain::Options options{.cell = 0.5};
    const Grid small = grid_after(Up::Gather, *land.cloud(), options);
    for (double x = 60; x < 130; x += 0.25)
        for (double y = -40; y < 60; y += 0.25) land.point(x, y, 0.02 * x);
    const Grid large = grid_after(Up::Gather, *land.cloud(), options);
    REQUIRE(small.z0 == large.z0);
    // Where both have cells, the same points fall together; the edge has points of both.
    int compared = 0;
    for (int y = 0; y < small.ny; ++y)
        for (int x = 0; x < small.nx; ++x) {
            const std::size_t c = small.at(x, y);
            const Middle m = middle_of(small, c);
            if (m.x < 1 || m.y < 1 || m.x > kSide - 1 || m.y > kSide - 1) continue;
            const std::size_t o = large.at(x + static_cast<int>(small.ix0 - large.ix0),
                                           y + static_cast<int>(small.iy0 - large.iy0));
            REQUIRE(small.first[c + 1] - small.first[c] == large.first[o + 1] - large.first[o]);
            REQUIRE(small.cells[c].low == Approx(large.cells[o].low).margin(2e-3));
            ++compared;
        }
    CHECK(compared > 5000);
}

TEST_CASE("AHillsideLiesOnItsTrendSurface") {
    const std::uint64_t seed = test::seed_for("hillside");
    CAPTURE(seed);
    Steps land(seed);
    const double a = land.any(-0.6, 0.6), b = land.any(-0.6, 0.6);
    CAPTURE(a, b);
    land.ground([&](double x, double y) { return a * x + b * y; });
    const Grid g = grid_after(Up::Trend, *land.cloud());
    // The lowest point of a cell lies below its middle, by no more than the slope across half a cell.
    const double most = 0.05 + (std::fabs(a) + std::fabs(b)) * g.side;
    in_rectangle(g, 2, 2, kSide - 2, kSide - 2, [&](const Cell& c, Middle) {
        if (is_ground(c)) REQUIRE(std::fabs(static_cast<double>(c.lie)) < most);
    });
}

TEST_CASE("AThingStandsAboveTheTrendSurfaceByItsHeight") {
    Steps land(11);
    land.ground([](double x, double) { return 0.3 * x; });
    land.thing(25, 25, 8, 8, 0.3 * 29 + 5);
    const Grid g = grid_after(Up::Trend, *land.cloud());
    std::vector<double> over;
    in_rectangle(g, 28.5, 26, 29.5, 32, [&](const Cell& c, Middle) {
        if (is_ground(c)) over.push_back(static_cast<double>(c.lie));
    });
    REQUIRE(over.size() > 10);
    std::sort(over.begin(), over.end());
    CHECK(over[over.size() / 2] == Approx(5).margin(0.5));
}

TEST_CASE("ThingsAreTakenOffAndGroundStays") {
    const std::uint64_t seed = test::seed_for("things");
    CAPTURE(seed);
    Steps land(seed);
    const double slope = land.any(-0.4, 0.4);
    CAPTURE(slope);
    land.ground([&](double x, double) { return slope * x; });
    struct Thing {
        double x, y, a, b, high;
    };
    const std::vector<Thing> things{{8, 8, 2, 5, 1.6}, {30, 10, 10, 12, 7}, {12, 40, 3, 3, 2.5}};
    for (const Thing& t : things)
        land.thing(t.x, t.y, t.a, t.b, slope * t.x + std::max(0.0, slope * t.a) + t.high);
    const Grid g = grid_after(Up::Objects, *land.cloud());
    for (const Thing& t : things)
        CHECK(share_in(g, t.x + 0.4, t.y + 0.4, t.x + t.a - 0.4, t.y + t.b - 0.4, is_object) > 0.99);
    CHECK(share_in(g, 44, 30, 58, 58, is_ground) > 0.99);
    CHECK(share_in(g, 44, 30, 58, 58, is_object) == 0);
}

TEST_CASE("ATerraceIsGroundOnBothLevels") {
    Steps land(13);
    land.ground([](double x, double) { return x < 30 ? 0.0 : 4.0; });
    const Grid g = grid_after(Up::Planes, *land.cloud());
    CHECK(share_in(g, 3, 3, 28, 57, is_ground) > 0.99);
    CHECK(share_in(g, 32, 3, 57, 57, is_ground) > 0.99);
    // The edge is known as one: what lies between the levels is ground too.
    std::map<int, bool> broken;  // by row
    in_rectangle(g, 29, 5, 31, 55, [&](const Cell& c, Middle m) {
        broken[static_cast<int>(std::floor(m.y / g.side))] |= c.broken;
    });
    const auto rows = std::count_if(broken.begin(), broken.end(), [](const auto& row) { return row.second; });
    CHECK(static_cast<double>(rows) > 0.95 * static_cast<double>(broken.size()));
    CHECK(share_in(g, 5, 5, 25, 55, [](const Cell& c) { return c.broken; }) == 0);
}

TEST_CASE("AThingLargerThanTheLargestIsGround") {
    Steps land(17);
    land.ground([](double, double) { return 0.0; });
    land.thing(20, 20, 12, 12, 3);
    const auto cloud = land.cloud();
    const Grid small = grid_after(Up::Objects, *cloud, {.largest_object = 6});
    const Grid large = grid_after(Up::Objects, *cloud, {.largest_object = 25});
    CHECK(share_in(small, 22.5, 22.5, 29.5, 29.5, is_object) == 0);
    CHECK(share_in(large, 21, 21, 31, 31, is_object) > 0.99);
}

TEST_CASE("WhatHangsInTheAirIsTakenOff") {
    Steps land(19);
    // Nothing was seen round the bird: a gap wider than any object.
    land.ground([](double, double) { return 0.0; });
    std::erase_if(land.points,
                  [](const demo::TrialPoint& p) { return std::hypot(p.at.x - 30, p.at.y - 30) < 12; });
    for (int k = 0; k < 12; ++k) land.point(30 + 0.05 * k, 30, 15);
    const Grid g = grid_after(Up::Objects, *land.cloud(), {.largest_object = 8});
    // Ground rises by 0.7 m a metre at most: 15 m above what lies 12 m away is in the air.
    int cells = 0;
    in_rectangle(g, 29, 29, 31.5, 31, [&](const Cell& c, Middle) {
        if (c.state == Cell::State::Empty) return;
        ++cells;
        CHECK(is_object(c));
    });
    CHECK(cells > 0);
}

TEST_CASE("PlanesOfGroundAreThoseOfTheLand") {
    const std::uint64_t seed = test::seed_for("planes");
    CAPTURE(seed);
    Steps land(seed);
    const double a = land.any(-0.5, 0.5), b = land.any(-0.5, 0.5);
    CAPTURE(a, b);
    land.ground([&](double x, double y) { return a * x + b * y; });
    land.thing(20, 20, 6, 6, std::max({0.0, a * 26}) + std::max(0.0, b * 26) + 4);
    const Grid g = grid_after(Up::Planes, *land.cloud());
    in_rectangle(g, 32, 32, 56, 56, [&](const Cell& c, Middle m) {
        if (!is_ground(c)) return;
        REQUIRE(static_cast<double>(c.plane.b) == Approx(a).margin(0.01));
        REQUIRE(static_cast<double>(c.plane.c) == Approx(b).margin(0.01));
        REQUIRE(world_height(g, c.plane.a) == Approx(a * m.x + b * m.y).margin(0.01));
    });
    // Under the thing the ground goes on.
    int filled = 0;
    in_rectangle(g, 20.5, 20.5, 25.5, 25.5, [&](const Cell& c, Middle m) {
        if (c.state != Cell::State::Filled) return;
        ++filled;
        CHECK(world_height(g, c.plane.a) == Approx(a * m.x + b * m.y).margin(0.1));
    });
    CHECK(filled > 30);
}

TEST_CASE("AFaceOfWhichNobodySawTheTopIsGroundAndAShortWallIsNot") {
    Steps land(23);
    // Below the face is level ground; behind it nothing was seen.
    for (int i = 0; i < 60'000; ++i) land.point(land.any(0, 50), land.any(0, 30), 0);
    for (double x = 2; x < 48; x += 0.05)
        for (double z = 0; z < 3.5; z += 0.1) land.point(x, 30, z);
    // A board of 1.5 m, with ground on both sides.
    for (double x = 20; x < 21.5; x += 0.04)
        for (double z = 0; z < 2; z += 0.1) land.point(x, 12, z);
    const Grid g = grid_after(Up::Faces, *land.cloud(), {.cell = 0.5});
    std::map<int, float> tallest;  // by column
    in_rectangle(g, 5, 28.5, 45, 31, [&](const Cell& c, Middle m) {
        float& t = tallest[static_cast<int>(std::floor(m.x / g.side))];
        t = std::max(t, c.face);
    });
    const auto high =
        std::count_if(tallest.begin(), tallest.end(), [](const auto& t) { return t.second > 3; });
    CHECK(static_cast<double>(high) > 0.9 * static_cast<double>(tallest.size()));
    in_rectangle(g, 18, 10.5, 23.5, 13.5, [&](const Cell& c, Middle) { CHECK(c.face == 0); });
}

TEST_CASE("EachStepCanBeCancelled") {
    Steps land(29);
    land.ground([](double, double) { return 0.0; });
    const auto cloud = land.cloud();
    Progress stopped;
    stopped.cancel();
    Grid g;
    CHECK_THROWS_AS(gather(g, *cloud, ElementSet::all(cloud->size()), {}, stopped), Cancelled);
    g = grid_after(Up::Gather, *cloud);
    CHECK_THROWS_AS(find_trend_surface(g, {}, stopped), Cancelled);
    CHECK_THROWS_AS(take_objects_off(g, {}, stopped), Cancelled);
    CHECK_THROWS_AS(fit_planes(g, {}, stopped), Cancelled);
    CHECK_THROWS_AS(find_faces(g, {}, stopped), Cancelled);
}
