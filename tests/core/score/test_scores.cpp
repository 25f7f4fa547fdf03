// Every score against a slow obvious twin.

#include <catch2/catch.hpp>

#include <Eigen/Eigenvalues>
#include <algorithm>
#include <cmath>
#include <numeric>
#include <random>

#include "core/base/parallel.h"
#include "core/recipe/places.h"
#include "core/recipe/recipe.h"
#include "core/score/colour.h"
#include "core/score/limits.h"
#include "core/score/score.h"
#include "core/terrain/floors.h"
#include "demo/trials.h"
#include "support/small_scores.h"

using namespace pristine;
using score::Column;
using test::only_members;
using test::Shape;
using test::Small;
using test::value;

TEST_CASE("EveryScoreOfTheRegistryIsCompleteAndSaysWhatItMeans") {
    std::vector<std::string> ids;
    for (const score::Score& s : score::scores()) {
        CAPTURE(s.id);
        ids.push_back(s.id);
        CHECK_FALSE(s.title.empty());
        CHECK_FALSE(s.high.empty());
        CHECK_FALSE(s.low.empty());
        CHECK(s.compute);
        for (const score::Parameter& p : s.parameters) {
            CHECK_FALSE(p.help.empty());
            CHECK(p.least <= p.usual);
            CHECK(p.usual <= p.most);
        }
    }
    std::sort(ids.begin(), ids.end());
    CHECK(std::adjacent_find(ids.begin(), ids.end()) == ids.end());
    CHECK_THROWS_AS(score::find("nothing"), Error);
    CHECK_THROWS_AS(score::complete(score::find("spacing"), {{"neighbors", 8}}), Error);
    CHECK_THROWS_AS(score::complete(score::find("spacing"), {{"neighbours", 8.5}}), Error);
    CHECK_THROWS_AS(score::complete(score::find("spacing"), {{"neighbours", 0}}), Error);
    CHECK(score::complete(score::find("spacing"), {}).at("neighbours") == 8);
}

TEST_CASE("SpacingAndStraysEqualTheSlowWay") {
    const std::uint64_t seed = test::seed_for("Spacing");
    CAPTURE(seed);
    for (const Shape shape : {Shape::Terrain, Shape::Clusters, Shape::WithFarStrays}) {
        CAPTURE(static_cast<int>(shape));
        const Small s(shape, 1500, seed);
        const Column spacing = s.of("spacing", {{"neighbours", 6}}),
                     stray = s.of("stray", {{"neighbours", 9}});
        only_members(s, spacing);
        only_members(s, stray);
        std::vector<double> own;
        for (std::size_t m = 0; m < s.members.size(); ++m) own.push_back(s.spacing(m, 9));
        for (std::size_t m = 0; m < s.members.size(); m += 17) {
            CHECK(value(spacing, s.members[m]) == Approx(s.spacing(m, 6)).epsilon(1e-3).margin(1e-4));
            // Cubes of the world that are at least eight spacings wide: this one and those round it.
            const double level = std::clamp(std::ceil(std::log2(8 * own[m] / 0.03125)), 0.0, 13.0),
                         side = 0.03125 * std::exp2(level);
            double sum = 0, n = 0;
            for (std::size_t j = 0; j < s.at.size(); ++j) {
                bool near = true;
                for (int a = 0; a < 3; ++a)
                    near &= std::fabs(std::floor(s.at[j][a] / side) - std::floor(s.at[m][a] / side)) <= 1;
                if (!near) continue;
                n += 1;
                sum += std::log(std::max(0.001, own[j]));
            }
            const auto d = s.others(m);
            Eigen::Vector3d middle = Eigen::Vector3d::Zero();
            const auto to = [&](std::size_t j) {
                const Vec3 v = s.at[d[j].second] - s.at[m];
                return Eigen::Vector3d(v.x, v.y, v.z);
            };
            double away = 0;
            for (std::size_t j = 0; j < 9; ++j) {
                middle += to(j) / 9;
                away += to(j).norm() / 9;
            }
            Eigen::Matrix3d spread = Eigen::Matrix3d::Zero();
            for (std::size_t j = 0; j < 9; ++j) spread += (to(j) - middle) * (to(j) - middle).transpose() / 9;
            Eigen::SelfAdjointEigenSolver<Eigen::Matrix3d> e(spread);
            const double off = std::fabs(middle.dot(e.eigenvectors().col(0))),
                         thick = std::sqrt(std::max(0.0, e.eigenvalues()(0))),
                         uneven = std::hypot(off, thick) / away,
                         alone = std::clamp((off / thick - 3) / 9, 0.0, 1.0) *
                                 std::clamp((off / own[m] - 0.6) / 0.2, 0.0, 1.0);
            // Neighbours at nearly the same distance may be exchanged by rounding: then a plane near by.
            CHECK(value(stray, s.members[m]) ==
                  Approx(own[m] / std::exp(sum / n) * std::clamp(uneven / 0.2, 0.05, 1.0) *
                         (0.47 + 1.53 * alone))
                      .epsilon(0.05));
        }
    }
}

TEST_CASE("AStrayStandsOutOfASurfaceThatIsThinlyMeasuredItself") {
    std::mt19937_64 dice(3);
    std::normal_distribution<double> shift(0, 0.004), rough(0, 0.001);
    demo::Trial t{"sheet", {}, {}};
    for (int y = 0; y < 60; ++y)
        for (int x = 0; x < 60; ++x)
            t.points.push_back({{0.05 * x + shift(dice), 0.05 * y + shift(dice), rough(dice)}, {}});
    for (int i = 1; i < 6; ++i)  // no farther from it than three points of it are from each other
        t.points.push_back({{0.5 * i, 1.5, 0.09}, {}, 0, demo::Truth::Noise});
    std::vector<demo::Truth> truth;
    const auto cloud = demo::cloud_of(t, truth);
    const Column stray = score::compute(score::find("stray"), {*cloud, ElementSet::all(cloud->size())}, {});
    for (std::size_t i = 0; i < truth.size(); ++i)
        CHECK((value(stray, i) > 2.5) == (truth[i] == demo::Truth::Noise));
}

TEST_CASE("GroupsAndDensityEqualTheSlowWay") {
    const std::uint64_t seed = test::seed_for("Groups");
    CAPTURE(seed);
    std::mt19937_64 dice(seed);
    for (const Shape shape : {Shape::Clusters, Shape::Terrain, Shape::Line}) {
        const Small s(shape, 1200, seed);
        // A gap that cuts some: about the usual spacing.
        std::vector<double> nearest;
        for (std::size_t m = 0; m < s.at.size(); m += 11) nearest.push_back(s.others(m)[0].first);
        std::sort(nearest.begin(), nearest.end());
        const double gap = std::clamp(1.4 * nearest[nearest.size() * 3 / 4], 0.001, 100.0);
        const Column group = s.of("group", {{"gap", gap}}), density = s.of("density", {{"radius", gap}});
        only_members(s, group);
        std::vector<std::size_t> label(s.at.size());
        std::iota(label.begin(), label.end(), std::size_t{0});
        const auto root = [&](std::size_t i) {
            while (label[i] != i) i = label[i];
            return i;
        };
        std::vector<int> count(s.at.size(), 0);
        double closest_call = 1;  // no pair may lie on the border, where floats and doubles disagree
        for (std::size_t i = 0; i < s.at.size(); ++i)
            for (std::size_t j = i + 1; j < s.at.size(); ++j) {
                const Vec3 v = s.at[i] - s.at[j];
                const double d = std::sqrt(dot(v, v));
                closest_call = std::min(closest_call, std::fabs(d - gap) / gap);
                if (d > gap) continue;
                ++count[i];
                ++count[j];
                const std::size_t a = root(i), b = root(j);
                label[std::max(a, b)] = std::min(a, b);
            }
        if (closest_call < 1e-6) continue;
        std::vector<int> size(s.at.size(), 0);
        for (std::size_t i = 0; i < s.at.size(); ++i) ++size[root(i)];
        bool groups = true, counts = true;
        for (std::size_t i = 0; i < s.at.size(); ++i) {
            groups &= value(group, s.members[i]) == size[root(i)];
            counts &= value(density, s.members[i]) == count[i];
        }
        CHECK(groups);
        CHECK(counts);
    }
}

TEST_CASE("ShapesOfSurroundingsEqualTheSlowWay") {
    const std::uint64_t seed = test::seed_for("Shapes");
    CAPTURE(seed);
    const Small s(Shape::Terrain, 1500, seed);
    const score::Parameters k{{"neighbours", 12}};
    const Column rough = s.of("roughness", k), linear = s.of("linear", k), planar = s.of("planar", k),
                 scattered = s.of("scattered", k);
    for (std::size_t m = 0; m < s.at.size(); m += 23) {
        const auto d = s.others(m);
        if (d[11].first * 1.0001 > d[12].first) continue;  // which is the twelfth is a matter of rounding
        Eigen::MatrixXd p(12, 3);
        for (int j = 0; j < 12; ++j) {
            const Vec3 v = s.at[d[static_cast<std::size_t>(j)].second] - s.at[m];
            p.row(j) << v.x, v.y, v.z;
        }
        const Eigen::RowVector3d middle = p.colwise().mean();
        p.rowwise() -= middle;
        const Eigen::SelfAdjointEigenSolver<Eigen::Matrix3d> e(Eigen::Matrix3d(p.transpose() * p / 12));
        const double a = std::sqrt(e.eigenvalues()(2)), b = std::sqrt(e.eigenvalues()(1)),
                     c = std::sqrt(std::max(0.0, e.eigenvalues()(0)));
        CHECK(value(rough, s.members[m]) ==
              Approx(std::fabs(middle.dot(e.eigenvectors().col(0)))).margin(2e-3 * a));
        CHECK(value(linear, s.members[m]) == Approx((a - b) / a).margin(2e-3));
        CHECK(value(planar, s.members[m]) == Approx((b - c) / a).margin(2e-3));
        CHECK(value(scattered, s.members[m]) == Approx(c / a).margin(2e-3));
    }
}

TEST_CASE("PlaneHeightsFieldsAndFloorAreThoseOfEachPoint") {
    const Small s(Shape::Clusters, 70'000, 3);
    const Column plane = s.of("plane", {{"x", 412300}, {"y", 5218930}, {"z", 50}, {"nx", 1}, {"nz", 2}});
    const Column height = s.of("height"), east = s.of("east"), intensity = s.of("intensity");
    const Column floor = s.of("floor");
    terrain::GroundOptions options;
    options.steepest = std::tan(35 * 3.14159265358979323846 / 180);
    const terrain::GroundModel model(*s.cloud, s.eligible, options);
    only_members(s, plane);
    only_members(s, intensity);
    for (std::size_t m = 0; m < s.members.size(); m += 101) {
        const Vec3 w = s.at[m];
        CHECK(value(plane, s.members[m]) ==
              Approx(((w.x - 412300) + 2 * (w.z - 50)) / std::sqrt(5.0)).margin(1e-3));
        CHECK(value(height, s.members[m]) == Approx(w.z).margin(1e-5 * (1 + std::fabs(w.z))));
        CHECK(value(east, s.members[m]) == Approx(w.x).margin(1e-2));
        CHECK(value(intensity, s.members[m]) == (*s.cloud->intensity())[s.members[m]]);
        const auto h = model.below(w.x, w.y, w.z, model.column());
        if (h)
            CHECK(value(floor, s.members[m]) == Approx(w.z - *h).margin(1e-4));
        else
            CHECK(std::isnan(value(floor, s.members[m])));
    }
    CHECK_THROWS_AS(s.of("plane", {{"nz", 0}}), Error);
    CHECK_THROWS_AS(s.of("time"), Error);   // no such column
    CHECK_THROWS_AS(s.of("range"), Error);  // no stations
}

TEST_CASE("ColourDistanceIsThatOfTheStandard") {
    // Seven pairs of Sharma, Wu & Dalal 2005, table 1.
    const auto is = [](score::Lab a, score::Lab b, double d) {
        CHECK(score::ciede2000(a, b) == Approx(d).margin(5e-5));
        CHECK(score::ciede2000(b, a) == Approx(d).margin(5e-5));
    };
    is({50, 2.6772, -79.7751}, {50, 0, -82.7485}, 2.0425);
    is({50, 0, 0}, {50, -1, 2}, 2.3669);
    is({50, 2.4900, -0.0010}, {50, -2.4900, 0.0009}, 7.1792);
    is({50, -0.0010, 2.4900}, {50, 0.0009, -2.4900}, 4.8045);
    is({50, 2.5, 0}, {73, 25, -18}, 27.1492);
    is({60.2574, -34.0099, 36.2677}, {60.4626, -34.1751, 39.4387}, 1.2644);
    is({2.0776, 0.0795, -1.1350}, {0.9033, -0.0636, -0.5514}, 0.9082);
    CHECK(score::lab_of(0xFFFFFF).l == Approx(100).margin(0.001));
    CHECK(score::lab_of(0xFFFFFF).a == Approx(0).margin(0.01));
    const Small s(Shape::Grid, 4000, 2);
    const Column c = s.of("colour", {{"red", 10}, {"green", 200}, {"blue", 77}});
    only_members(s, c);
    for (std::size_t m = 0; m < s.members.size(); m += 97)
        CHECK(value(c, s.members[m]) ==
              Approx(score::ciede2000(score::lab_of((*s.cloud->colour())[s.members[m]]),
                                      score::lab_of(0x0AC84D)))
                  .margin(1e-4));
}

TEST_CASE("DuplicatesLeaveOneInEachPlace") {
    cloud::PointBatch b;
    std::mt19937_64 dice(4);
    for (int place = 0; place < 300; ++place) {
        const auto x = static_cast<std::int32_t>(dice() % 100'000),
                   y = static_cast<std::int32_t>(dice() % 100'000);
        for (int copy = 0; copy <= place % 4; ++copy) {
            b.x.push_back(x);
            b.y.push_back(y);
            b.z.push_back(0);
        }
    }
    cloud::PointCloud::Parts parts;
    parts.grid = {{0.001, 0.001, 0.001}, {412300, 5218930, 58}};
    const auto c = cloud::build({b}, std::move(parts));
    const ElementSet all = ElementSet::all(c->size());
    const Column d = score::compute(score::find("duplicate"), {*c, all}, {});
    const ElementSet extra = score::within(d, all, score::parse_limits(">0"));
    CHECK(all.count() - extra.count() == 300);
    // What is left has no two in one place.
    const Column again = score::compute(score::find("duplicate"), {*c, all - extra}, {});
    CHECK(score::within(again, all - extra, score::parse_limits(">0")).empty());
}

TEST_CASE("ScoresDoNotDependOnTheNumberOfWorkersAndCanBeCancelled") {
    const Small s(Shape::Clusters, 40'000, 8);
    for (const char* id : {"stray", "group", "floor", "ground", "scattered"}) {
        CAPTURE(id);
        const auto with = [&](std::size_t workers) {
            const parallel::WorkerLimit limit(workers);
            return s.of(id);
        };
        const Column one = with(1), many = with(0);
        bool same = true;
        for (const std::uint64_t m : s.members)
            same &=
                one.values[m] == many.values[m] || (std::isnan(one.values[m]) && std::isnan(many.values[m]));
        CHECK(same);
        Progress cancelled;
        cancelled.cancel();
        CHECK_THROWS_AS(score::compute(score::find(id), {*s.cloud, s.eligible}, {}, cancelled), Cancelled);
    }
}
