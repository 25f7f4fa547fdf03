// What a rule takes does not depend on how a site was cut into tiles.

#include <catch2/catch.hpp>

#include <map>

#include "core/base/bytes.h"
#include "core/cloud/builder.h"
#include "core/cloud/join.h"
#include "core/recipe/recipe.h"
#include "demo/trials.h"
#include "support/cloud_makers.h"

using namespace pristine;

namespace {

// The points of a trial that fall into each of n x n tiles; their numbers in the trial.
struct Tiles {
    std::vector<demo::Trial> trials;
    std::vector<std::vector<std::size_t>> number;
    Tiles(const demo::Trial& whole, int n, double size)
        : trials(static_cast<std::size_t>(n * n)), number(trials.size()) {
        for (std::size_t i = 0; i < whole.points.size(); ++i) {
            const auto cell = [&](double v) { return std::clamp(static_cast<int>(v / size * n), 0, n - 1); };
            const auto t =
                static_cast<std::size_t>(cell(whole.points[i].at.y) * n + cell(whole.points[i].at.x));
            trials[t].points.push_back(whole.points[i]);
            number[t].push_back(i);
        }
    }
};

// Numbers of the points of a set, in the order they came.
std::vector<std::size_t> numbers(const cloud::PointCloud& c, const ElementSet& set,
                                 const std::vector<std::size_t>& of) {
    std::vector<std::size_t> out;
    const auto order = c.order();
    for (std::size_t p = 0; p < c.page_count(); ++p) {
        const auto original = order->page(p);
        set.for_each_in_page(p, [&](std::size_t i) { out.push_back(of[original[i]]); });
    }
    return out;
}

}  // namespace

TEST_CASE("OneFileAndSixteenTilesGiveTheSameSet") {
    demo::Trial whole = demo::make_trial("flat_air", 4, 0.08);
    std::vector<demo::Truth> ignored;
    const auto one = demo::cloud_of(whole, ignored);
    for (const char* rule :
         {"stray >2", "spacing >0.4", "group[gap=0.7] <=5", "density[radius=0.8] <=3", "scattered >0.4",
          "roughness >0.05", "planar >0.6", "ground[object=8,cell=0.6] !-0.25..0.07", "floor >0.1"}) {
        CAPTURE(rule);
        const score::Recipe recipe{score::parse_step(rule)};
        std::vector<std::size_t> all(whole.points.size());
        for (std::size_t i = 0; i < all.size(); ++i) all[i] = i;
        auto expected =
            numbers(*one, score::run(recipe, *one, ElementSet::all(one->size()))[0].elements, all);
        std::sort(expected.begin(), expected.end());
        const Tiles tiles(whole, 4, 80);
        std::vector<std::shared_ptr<const cloud::PointCloud>> clouds;
        for (const demo::Trial& t : tiles.trials) clouds.push_back(demo::cloud_of(t, ignored));
        std::vector<std::size_t> got;
        for (std::size_t t = 0; t < clouds.size(); ++t) {
            std::vector<std::shared_ptr<const cloud::PointCloud>> others;
            for (std::size_t k = 0; k < clouds.size(); ++k)
                if (k != t) others.push_back(clouds[k]);
            const cloud::WithNeighbours joined(clouds[t], others, 40);
            const auto gone = score::run(recipe, joined.cloud(), ElementSet::all(joined.cloud().size()));
            const auto part = numbers(*clouds[t], joined.own_part(gone[0].elements), tiles.number[t]);
            got.insert(got.end(), part.begin(), part.end());
        }
        std::sort(got.begin(), got.end());
        CHECK(expected.size() > 10);
        CHECK(got == expected);
    }
}

TEST_CASE("TilesOfDifferentColumnsAreNotJoined") {
    std::vector<demo::Truth> ignored;
    const auto a = demo::cloud_of(demo::make_trial("flat_air", 4, 0.01), ignored);
    const auto b = test::random_cloud(100, test::Shape::Terrain, 1);
    CHECK_THROWS_AS(cloud::WithNeighbours(a, {b}, 1), Error);
    // No neighbours: the cloud itself.
    const cloud::WithNeighbours alone(a, {}, 1);
    CHECK(alone.own_part(ElementSet::all(alone.cloud().size())) == ElementSet::all(a->size()));
}
