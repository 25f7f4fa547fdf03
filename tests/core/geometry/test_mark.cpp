// Figures of marks, against ways to compute them that are known by heart.

#include "core/geometry/mark.h"

#include <catch2/catch.hpp>

#include <cmath>
#include <map>
#include <random>

#include "core/base/error.h"
#include "support/cloud_makers.h"

using namespace pristine;

namespace {

std::map<std::string, double> figures(MarkKind k, const std::vector<Vec3>& p) {
    std::map<std::string, double> all;
    for (const MarkFigure& f : mark_figures(k, p)) all[f.id] = f.value;
    return all;
}

}  // namespace

TEST_CASE("MarksSayWhatTheirPlacesAre") {
    const auto d = figures(MarkKind::Distance, {{0, 0, 0}, {3, 4, 12}});
    CHECK(d.at("distance") == Approx(13));
    CHECK(d.at("plan_distance") == Approx(5));
    CHECK(d.at("height_difference") == Approx(12));
    CHECK(d.at("slope") == Approx(240));
    // Upright: no slope, rather than one without an end.
    CHECK(figures(MarkKind::Distance, {{1, 1, 0}, {1, 1, 5}}).count("slope") == 0);
    CHECK(figures(MarkKind::Point, {{1, 2, 3}}).at("height") == 3);
    CHECK(figures(MarkKind::Path, {{0, 0, 0}, {3, 4, 0}, {3, 4, 2}}).at("length") == Approx(7));
    CHECK(figures(MarkKind::Path, {{0, 0, 0}, {3, 4, 0}, {3, 4, 2}}).at("plan_length") == Approx(5));
    CHECK(figures(MarkKind::Angle, {{1, 0, 0}, {0, 0, 0}, {0, 1, 1}}).at("angle") == Approx(90));
    CHECK(figures(MarkKind::Angle, {{1, 0, 1}, {0, 0, 0}, {0, 1, 1}}).at("angle") == Approx(60));
    CHECK(figures(MarkKind::Angle, {{1, 0, 1}, {0, 0, 0}, {0, 1, 1}}).at("plan_angle") == Approx(90));
    CHECK(figures(MarkKind::Above, {{1, 2, 7}, {1, 2, 4.5}}).at("above") == Approx(2.5));
    // A cross-fall of 2.5 % to the east.
    const auto f = figures(MarkKind::Fall, {{0, 0, 10}, {4, 0, 9.9}});
    CHECK(f.at("slope") == Approx(-2.5));
    CHECK(f.at("run_per_rise") == Approx(40));
    CHECK(f.at("direction") == Approx(90));
    CHECK(figures(MarkKind::Fall, {{4, 0, 9.9}, {0, 0, 10}}).at("direction") == Approx(90));
    CHECK(figures(MarkKind::Fall, {{0, 0, 1}, {0, -1, 2}}).at("direction") == Approx(0));
    CHECK(figures(MarkKind::Fall, {{0, 0, 1}, {5, 0, 1}}).count("run_per_rise") == 0);
}

TEST_CASE("AreasOfMarksAreThoseOfTheirPlane") {
    const auto seed = test::seed_for("mark areas");
    CAPTURE(seed);
    std::mt19937_64 dice(seed);
    std::uniform_real_distribution<double> any(-1, 1);
    for (int trial = 0; trial < 200; ++trial) {
        // A star round a middle in a plane that leans; its area is the sum of its triangles there.
        const Vec3 u = normalized({any(dice), any(dice), any(dice)});
        const Vec3 w = normalized({any(dice), any(dice), any(dice)});
        if (norm(cross(u, w)) < 0.1) continue;
        const Vec3 n = normalized(cross(u, w)), v = cross(n, u), middle{412300, 5218930, 58};
        const int corners = 3 + static_cast<int>(dice() % 20);
        std::vector<Vec3> ring;
        std::vector<double> radius;
        for (int k = 0; k < corners; ++k) {
            radius.push_back(1 + 4 * std::fabs(any(dice)));
            const double a = 2 * M_PI * k / corners;
            ring.push_back(middle + u * (radius.back() * std::cos(a)) + v * (radius.back() * std::sin(a)));
        }
        double area = 0;
        for (int k = 0; k < corners; ++k)
            area += 0.5 * radius[static_cast<std::size_t>(k)] *
                    radius[static_cast<std::size_t>((k + 1) % corners)] * std::sin(2 * M_PI / corners);
        const auto f = figures(MarkKind::Area, ring);
        REQUIRE(f.at("true_area") == Approx(area).epsilon(1e-7));
        REQUIRE(f.at("plan_area") == Approx(area * std::fabs(n.z)).epsilon(1e-6).margin(1e-7));
        REQUIRE(f.at("out_of_plane") < 1e-7);
    }
    // A wall has no area in plan.
    CHECK(figures(MarkKind::Area, {{0, 0, 0}, {2, 0, 0}, {2, 0, 3}, {0, 0, 3}}).at("plan_area") == Approx(0));
    CHECK(figures(MarkKind::Area, {{0, 0, 0}, {2, 0, 0}, {2, 0, 3}, {0, 0, 3}}).at("true_area") == Approx(6));
    CHECK(figures(MarkKind::Area, {{0, 0, 0}, {2, 0, 0}, {2, 2, 1}, {0, 2, 0}}).at("out_of_plane") > 0.1);
}

TEST_CASE("MarksWithoutAFigureAreRefused") {
    CHECK_THROWS_AS(mark_figures(MarkKind::Distance, std::vector<Vec3>{{0, 0, 0}}), Error);
    CHECK_THROWS_AS(mark_figures(MarkKind::Point, std::vector<Vec3>{{0, 0, 0}, {1, 1, 1}}), Error);
    CHECK_THROWS_AS(figures(MarkKind::Angle, {{0, 0, 0}, {0, 0, 0}, {1, 0, 0}}), Error);
    CHECK_THROWS_AS(figures(MarkKind::Fall, {{1, 1, 0}, {1, 1, 5}}), Error);
    CHECK_THROWS_AS(figures(MarkKind::Area, {{0, 0, 0}, {1, 1, 1}, {2, 2, 2}}), Error);
    // A bow tie.
    CHECK_THROWS_AS(figures(MarkKind::Area, {{0, 0, 0}, {2, 2, 0}, {2, 0, 0}, {0, 2.5, 0}}), Error);
    for (int k = 0; k < kMarkKinds; ++k)
        CHECK(mark_kind_of(id_of(static_cast<MarkKind>(k))) == static_cast<MarkKind>(k));
}
