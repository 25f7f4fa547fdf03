#include <catch2/catch.hpp>

#include <cmath>

#include "core/geometry/polygon.h"
#include "core/geometry/predicates.h"
#include "core/geometry/view_frame.h"
#include "support/cloud_makers.h"

using namespace pristine;

namespace {

// The slow obvious twin: 128-bit integers, for coordinates on a grid of eighths.
int orientation_of_eighths(long ax, long ay, long bx, long by, long cx, long cy) {
    const __int128 d =
        static_cast<__int128>(ax - cx) * (by - cy) - static_cast<__int128>(ay - cy) * (bx - cx);
    return d > 0 ? 1 : d < 0 ? -1 : 0;
}

}  // namespace

TEST_CASE("OrientationIsExactAtNationalGridCoordinates") {
    const std::uint64_t seed = test::seed_for("Orientation");
    CAPTURE(seed);
    std::mt19937_64 dice(seed);
    for (int i = 0; i < 200000; ++i) {
        // Nearly collinear on purpose: c close to the line a b, far from the origin.
        const long ox = 41230000000, oy = 521893000000;
        const long ax = ox + static_cast<long>(dice() % 16), ay = oy + static_cast<long>(dice() % 16);
        const long dx = static_cast<long>(dice() % 64), dy = static_cast<long>(dice() % 64),
                   k = static_cast<long>(dice() % 1000);
        const long bx = ax + dx * 1000, by = ay + dy * 1000;
        const long cx = ax + dx * k + static_cast<long>(dice() % 3) - 1, cy = ay + dy * k;
        const auto d = [](long v) { return static_cast<double>(v) / 8; };
        const int expected = orientation_of_eighths(ax, ay, bx, by, cx, cy);
        REQUIRE(orientation(d(ax), d(ay), d(bx), d(by), d(cx), d(cy)) == expected);
        REQUIRE(orientation_exact(d(ax), d(ay), d(bx), d(by), d(cx), d(cy)) == expected);
        REQUIRE(orientation(d(bx), d(by), d(ax), d(ay), d(cx), d(cy)) == -expected);
    }
}

TEST_CASE("OrientationSeesDifferencesBelowTheRoundingOfItsProducts") {
    // 0.5 + k ulp on the diagonal: the plain formula gives noise here (Shewchuk 1997, figure 2).
    const double ulp = std::nextafter(0.5, 1) - 0.5;
    for (int i = 0; i < 32; ++i)
        for (int j = 0; j < 32; ++j) {
            const int expected = j > i ? 1 : j < i ? -1 : 0;
            CHECK(orientation(12, 12, 24, 24, 0.5 + i * ulp, 0.5 + j * ulp) == expected);
        }
}

TEST_CASE("PolygonsThatTileThePlaneShareNoPoint") {
    const Polygon left{{0, 0}, {5, 0}, {5, 10}, {0, 10}}, right{{5, 0}, {10, 0}, {10, 10}, {5, 10}};
    for (double x = 0; x <= 10; x += 0.5)
        for (double y = 0; y <= 10; y += 0.5)
            CHECK_FALSE((contains(left, {x, y}) && contains(right, {x, y})));
    CHECK(contains(left, {0, 0}));
    CHECK(contains(right, {5, 5}));
    CHECK_FALSE(contains(left, {5, 5}));
}

TEST_CASE("AMaskNeverContradictsThePolygon") {
    const std::uint64_t seed = test::seed_for("Mask");
    CAPTURE(seed);
    std::mt19937_64 dice(seed);
    std::uniform_real_distribution<double> spread(-300, 900);
    for (int round = 0; round < 40; ++round) {
        Polygon p;
        const int corners = 3 + static_cast<int>(dice() % 30);
        for (int i = 0; i < corners; ++i) p.push_back({spread(dice), spread(dice)});
        if (round % 5 == 0) p.push_back(p[0]);  // a doubled corner
        const PolygonMask mask(p, round % 2 ? 2048 : 100);
        for (int i = 0; i < 3000; ++i) {
            const PixelPoint q{spread(dice) * 1.2, spread(dice) * 1.2};
            const auto cell = mask.at(q);
            REQUIRE(mask.contains_exactly(q) == contains(p, q));
            if (cell == PolygonMask::Edge) continue;
            const double cell_px = 0.9 / mask.cells_per_pixel();
            for (const PixelPoint near :
                 {q, PixelPoint{q.x + cell_px, q.y - cell_px}, PixelPoint{q.x - cell_px, q.y + cell_px}})
                REQUIRE(contains(p, near) == (cell == PolygonMask::Inside));
        }
        for (int i = 0; i < 300; ++i) {
            const double x = spread(dice), y = spread(dice);
            const PixelRect r{x, y, x + 30, y + 20};
            const auto verdict = mask.classify(r);
            if (verdict == PolygonMask::Edge) continue;
            for (const PixelPoint c :
                 {PixelPoint{r.x0, r.y0}, PixelPoint{r.x1, r.y1}, PixelPoint{x + 11, y + 7}})
                REQUIRE(contains(p, c) == (verdict == PolygonMask::Inside));
        }
    }
}

TEST_CASE("AViewLiftsWhatItProjects") {
    std::mt19937_64 dice(9);
    std::uniform_real_distribution<double> unit(-1, 1);
    for (int i = 0; i < 1000; ++i) {
        ViewFrame f;
        f.ahead = normalized({unit(dice), unit(dice), unit(dice) + 0.01});
        f.right = normalized(cross(f.ahead, {0.1, 0.2, 0.9}));
        f.down = cross(f.ahead, f.right);
        f.eye = {412300, 5218930, 58};
        f.perspective = i % 2;
        f.scale = 500;
        const Vec3 p = f.eye + f.ahead * 7 + Vec3{unit(dice), unit(dice), unit(dice)};
        CHECK(norm(f.lift(f.project(p), f.depth(p)) - p) < 1e-6);
    }
}
