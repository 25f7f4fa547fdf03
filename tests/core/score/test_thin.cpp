// Thinning: against the slow obvious way, and what it promises.

#include <catch2/catch.hpp>

#include <cmath>
#include <random>

#include "core/recipe/recipe.h"
#include "core/score/score.h"
#include "support/cloud_makers.h"

using namespace pristine;

namespace {

// Each point against all that stay so far.
std::vector<float> slow(const cloud::PointCloud& c, const ElementSet& eligible, double spacing, double height,
                        bool by_class) {
    std::vector<float> out(c.size(), NAN);
    std::vector<std::uint64_t> kept;
    eligible.for_each([&](std::uint64_t e) {
        const Vec3 p = c.position(e);
        const auto of = [&](std::uint64_t k) {
            return c.classification()->value(static_cast<std::size_t>(k / kPageSize), k % kPageSize);
        };
        double least = INFINITY;
        for (const std::uint64_t k : kept) {
            const Vec3 o = c.position(k);
            if (std::fabs(o.z - p.z) > height || (by_class && of(k) != of(e))) continue;
            least = std::min(least, norm(o - p));
        }
        if (least < spacing) {
            out[e] = static_cast<float>(std::min(1000.0, spacing / std::max(least, 1e-300)));
        } else {
            out[e] = 0;
            kept.push_back(e);
        }
    });
    return out;
}

}  // namespace

TEST_CASE("ThinningGivesWhatTheSlowWayGives") {
    const std::uint64_t seed = test::seed_for("thin");
    CAPTURE(seed);
    std::mt19937_64 dice(seed);
    for (const auto shape : {test::Shape::Terrain, test::Shape::Clusters, test::Shape::OnePlace,
                             test::Shape::Line, test::Shape::WithFarStrays}) {
        const auto c = test::random_cloud(1 + dice() % 4000, shape, dice());
        ElementSet eligible(c->size());
        for (std::uint64_t i = 0; i < c->size(); ++i)
            if (dice() % 5) eligible.insert(i);
        const double d = std::max(1e-3, c->robust_bounds().diagonal());
        std::uniform_real_distribution<double> part(0.005, 0.2);
        const double spacing = std::max(1e-3, d * part(dice)), height = dice() % 2 ? 0.3 * spacing : 0;
        const bool classes = dice() % 2;
        CAPTURE(static_cast<int>(shape), c->size(), spacing, height, classes);
        const score::Column fast =
            score::compute(score::find("thin"), {*c, eligible},
                           {{"spacing", spacing}, {"height", height}, {"classes", classes ? 1.0 : 0.0}});
        const std::vector<float> expected =
            slow(*c, eligible, spacing, height > 0 ? height : INFINITY, classes);
        bool same = true;
        for (std::uint64_t i = 0; i < c->size(); ++i) {
            const float a = fast.values[i], b = expected[i];
            same &= std::isnan(a) == std::isnan(b) &&
                    (std::isnan(a) || std::fabs(a - b) <= 1e-4f * std::max(1.0f, b));
        }
        CHECK(same);
    }
}

TEST_CASE("WhatStaysIsSpacedAndCoversWhatGoes") {
    const auto c = test::random_cloud(6000, test::Shape::Terrain, 12);
    const ElementSet all = ElementSet::all(c->size());
    const double spacing = c->robust_bounds().diagonal() / 40;
    const score::Recipe recipe{score::parse_step("thin[spacing=" + std::to_string(spacing) + "] >=1")};
    const ElementSet gone = score::run(recipe, *c, all)[0].elements, stays = all - gone;
    CHECK(gone.count() > 100);
    CHECK(stays.count() > 100);
    std::vector<Vec3> kept;
    stays.for_each([&](std::uint64_t e) { kept.push_back(c->position(e)); });
    double nearest = INFINITY;
    for (std::size_t i = 0; i < kept.size(); ++i)
        for (std::size_t k = 0; k < i; ++k) nearest = std::min(nearest, norm(kept[i] - kept[k]));
    CHECK(nearest >= spacing * 0.999999);
    double farthest = 0;
    gone.for_each([&](std::uint64_t e) {
        double least = INFINITY;
        for (const Vec3& k : kept) least = std::min(least, norm(c->position(e) - k));
        farthest = std::max(farthest, least);
    });
    CHECK(farthest < spacing);
    // Twice thinned is thinned once.
    const score::Column again =
        score::compute(score::find("thin"), {*c, stays}, {{"spacing", spacing * 0.999999}});
    CHECK(score::within(again, stays, score::parse_limits(">=1")).empty());
}

TEST_CASE("OnePointAndNoPointCanBeThinned") {
    const auto one = test::random_cloud(1, test::Shape::Terrain, 1);
    const score::Column c = score::compute(score::find("thin"), {*one, ElementSet::all(1)}, {{"spacing", 1}});
    CHECK(c.values[0] == 0);
    const score::Column none = score::compute(score::find("thin"), {*one, ElementSet(1)}, {{"spacing", 1}});
    CHECK(std::isnan(none.values[0]));
    CHECK_THROWS(score::compute(score::find("thin"), {*one, ElementSet::all(1)}, {{"spacing", 0}}));
}
