// Distance from a line in plan, against every segment for every point.

#include <catch2/catch.hpp>

#include <cmath>
#include <random>

#include "core/base/error.h"
#include "core/recipe/recipe.h"
#include "core/score/score.h"
#include "support/cloud_makers.h"
#include "support/wkt.h"

using namespace pristine;

namespace {

double slow(const std::vector<Vec3>& line, const Vec3& p) {
    double least = INFINITY;
    for (std::size_t i = 1; i < line.size(); ++i) {
        const Vec3 a{line[i - 1].x, line[i - 1].y, 0}, b{line[i].x, line[i].y, 0}, q{p.x, p.y, 0};
        const Vec3 d = b - a;
        const double t = dot(d, d) > 0 ? std::min(1.0, std::max(0.0, dot(q - a, d) / dot(d, d))) : 0;
        least = std::min(least, norm(q - (a + d * t)));
    }
    return least;
}

}  // namespace

TEST_CASE("DistancesFromALineAreThoseToItsNearestPlace") {
    std::mt19937_64 dice(test::seed_for("DistancesFromALine"));
    std::uniform_real_distribution<double> some(-0.2, 1.2);
    for (const auto shape : {test::Shape::Terrain, test::Shape::Clusters, test::Shape::OnePlace}) {
        const auto cloud = test::random_cloud(3'000, shape, dice());
        const Box3 box = cloud->bounds();
        std::vector<Vec3> line;
        for (int i = 0; i < 40; ++i)
            line.push_back({box.lo.x + some(dice) * (box.hi.x - box.lo.x + 1),
                            box.lo.y + some(dice) * (box.hi.y - box.lo.y + 1), 1000 * some(dice)});
        line.insert(line.begin() + 7, line[6]);  // a doubled place
        const ElementSet all = ElementSet::all(cloud->size());
        score::Input in{*cloud, all};
        in.line = &line;
        const score::Column c = score::compute(score::find("line"), in, {});
        double worst = 0;
        for (std::uint64_t e = 0; e < cloud->size(); ++e)
            worst =
                std::max(worst, std::abs(static_cast<double>(c.values[e]) - slow(line, cloud->position(e))));
        CHECK(worst < 1e-3);
    }
}

TEST_CASE("ARuleAlongALineKnowsWhichLine") {
    const auto cloud = test::random_cloud(500, test::Shape::Terrain, 3);
    const ElementSet all = ElementSet::all(cloud->size());
    CHECK_THROWS_AS(score::compute(score::find("line"), {*cloud, all}, {}), Error);
    // By name, in a recipe.
    const Vec3 middle = (cloud->bounds().lo + cloud->bounds().hi) * 0.5;
    const std::vector<Vec3> line{{cloud->bounds().lo.x, middle.y, 0}, {cloud->bounds().hi.x, middle.y, 0}};
    score::ScanContext around;
    around.line = [&](const std::string& name) { return name == "kerb" ? &line : nullptr; };
    const double width = 0.1 * (cloud->bounds().hi.y - cloud->bounds().lo.y);
    const score::Step step = score::parse_step("line \"kerb\" <" + std::to_string(width));
    const auto removed = score::run({step}, *cloud, all, Progress::none(), around);
    REQUIRE(removed.size() == 1);
    std::uint64_t wanted = 0;
    for (std::uint64_t e = 0; e < cloud->size(); ++e)
        wanted += std::abs(cloud->position(e).y - middle.y) < width;
    CHECK(removed[0].elements.count() == wanted);
    CHECK(wanted > 0);
}
