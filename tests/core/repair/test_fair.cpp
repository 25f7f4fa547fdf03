// Where the vertices of a patch go: on flat, bent and round surroundings the patch is flat, bent and round.

#include "core/repair/fair.h"

#include <catch2/catch.hpp>

#include <cmath>
#include <random>

#include "support/cloud_makers.h"

using namespace pristine;
using repair::FairProblem;

namespace {

// A grid of 17 x 17 vertices at heights z(x, y); the middle 5 x 5 are free and lie wrongly, patch triangles
// first.
template <class Height>
FairProblem problem(Height&& z, std::mt19937_64& dice) {
    constexpr int n = 17;
    std::uniform_real_distribution<double> off(-0.4, 0.4);
    FairProblem p;
    const auto at = [&](int x, int y) { return static_cast<std::uint32_t>(y * n + x); };
    const auto inner = [&](int v) { return v >= 6 && v <= 10; };
    for (int y = 0; y < n; ++y)
        for (int x = 0; x < n; ++x) {
            const double px = x - 8.0, py = y - 8.0;
            const bool free = inner(x) && inner(y);
            p.free.push_back(free);
            p.vertices.push_back({px, py, z(px, py) + (free ? off(dice) : 0)});
        }
    std::vector<std::array<std::uint32_t, 3>> around;
    for (int y = 0; y + 1 < n; ++y)
        for (int x = 0; x + 1 < n; ++x) {
            const bool patch = x >= 5 && x <= 10 && y >= 5 && y <= 10;
            auto& to = patch ? p.triangles : around;
            to.push_back({at(x, y), at(x + 1, y), at(x + 1, y + 1)});
            to.push_back({at(x, y), at(x + 1, y + 1), at(x, y + 1)});
        }
    p.patch = p.triangles.size();
    p.triangles.insert(p.triangles.end(), around.begin(), around.end());
    return p;
}

template <class Height>
double farthest(const FairProblem& p, Height&& z) {
    double worst = 0;
    for (std::size_t v = 0; v < p.vertices.size(); ++v)
        worst = std::max(worst, std::abs(p.vertices[v].z - z(p.vertices[v].x, p.vertices[v].y)));
    return worst;
}

}  // namespace

TEST_CASE("APatchInAPlaneIsFlat") {
    std::mt19937_64 dice(test::seed_for("APatchInAPlaneIsFlat"));
    const auto plane = [](double x, double y) { return 3 + 0.5 * x - 0.25 * y; };
    for (auto* fair : {&repair::fair_flat, &repair::fair_tangent}) {
        FairProblem p = problem(plane, dice);
        const FairProblem before = p;
        fair(p);
        CHECK(farthest(p, plane) < 1e-6);
        for (std::size_t v = 0; v < p.vertices.size(); ++v)
            if (!p.free[v]) CHECK(p.vertices[v] == before.vertices[v]);
        CHECK(p.triangles == before.triangles);
    }
}

TEST_CASE("APatchInAPlaneFollowsItsCurvatureWhichIsNone") {
    std::mt19937_64 dice(3);
    const auto plane = [](double x, double y) { return 0.1 * x + 0.2 * y; };
    FairProblem p = problem(plane, dice);
    repair::fair_tangent(p);
    repair::follow_curvature(p);
    CHECK(farthest(p, plane) < 1e-6);
}

TEST_CASE("ATangentPatchGoesOnAsItsSurroundingsRunUp") {
    std::mt19937_64 dice(test::seed_for("ATangentPatchGoesOnAsItsSurroundingsRunUp"));
    const auto ball = [](double x, double y) { return std::sqrt(900 - x * x - y * y) - 30; };
    FairProblem flat = problem(ball, dice), tangent = flat;
    repair::fair_flat(flat);
    repair::fair_tangent(tangent);
    // The film sags below the ball; the plate does not, or far less.
    CHECK(farthest(tangent, ball) < 0.3 * farthest(flat, ball));
    FairProblem curved = tangent;
    REQUIRE(repair::follow_curvature(curved));
    CHECK(farthest(curved, ball) < 0.02);
    CHECK(farthest(curved, ball) <= farthest(tangent, ball) + 1e-9);
}

TEST_CASE("SurroundingsOnNoQuadricAreNotFollowed") {
    std::mt19937_64 dice(test::seed_for("SurroundingsOnNoQuadricAreNotFollowed"));
    const auto rough = [](double x, double y) { return 2.5 * std::sin(1.7 * x) * std::cos(1.3 * y); };
    FairProblem p = problem(rough, dice);
    repair::fair_tangent(p);
    const FairProblem before = p;
    CHECK_FALSE(repair::follow_curvature(p));
    CHECK(p.vertices == before.vertices);
}
