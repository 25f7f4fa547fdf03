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
#include "support/cloud_makers.h"

using namespace pristine;
using score::Column;
using test::Shape;

namespace {

struct Small {
    std::shared_ptr<const cloud::PointCloud> cloud;
    ElementSet eligible;
    std::vector<std::uint64_t> members;
    std::vector<Vec3> at;  // of the members

    Small(Shape shape, std::uint64_t n, std::uint64_t seed) : cloud(test::random_cloud(n, shape, seed)) {
        eligible = ElementSet(n);
        for (std::uint64_t i = 0; i < n; ++i)
            if (i % 5 != 3) eligible.insert(i);  // not all of it
        eligible.for_each([&](std::uint64_t i) {
            members.push_back(i);
            at.push_back(cloud->position(i));
        });
    }
    Column of(const char* id, const score::Parameters& p = {}) const {
        return score::compute(score::find(id), {*cloud, eligible}, p);
    }
    // Distances to all others, nearest first, with their numbers.
    std::vector<std::pair<double, std::size_t>> others(std::size_t m) const {
        std::vector<std::pair<double, std::size_t>> d;
        for (std::size_t j = 0; j < at.size(); ++j) {
            const Vec3 v = at[j] - at[m];
            if (j != m) d.push_back({std::sqrt(dot(v, v)), j});
        }
        std::sort(d.begin(), d.end());
        return d;
    }
    double spacing(std::size_t m, std::size_t k) const {
        const auto d = others(m);
        double sum = 0;
        for (std::size_t j = 0; j < k; ++j) sum += d[j].first;
        return sum / static_cast<double>(k);
    }
};

double value(const Column& c, std::uint64_t element) {
    return c.base + static_cast<double>(c.values[element]);
}

// Others have no value.
void only_members(const Small& s, const Column& c) {
    REQUIRE(c.values.size() == s.cloud->size());
    for (std::uint64_t i = 0; i < s.cloud->size(); ++i)
        if (!s.eligible.contains(i)) REQUIRE(std::isnan(c.values[i]));
}

}  // namespace

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

TEST_CASE("LimitsTakeWhatLiesInThem") {
    std::mt19937_64 dice(1);
    std::vector<PagedArray<float>::PagePtr> pages;
    const std::uint64_t n = 3 * kPageSize - 77;
    for (std::size_t p = 0; p < 3; ++p) {
        auto page = std::make_shared<std::vector<float>>(page_length(n, p));
        for (float& v : *page) v = dice() % 50 == 0 ? NAN : static_cast<float>(dice() % 1000) / 8;
        pages.push_back(page);
    }
    const Column c{1000, PagedArray<float>(n, pages)};
    ElementSet eligible = ElementSet::all(n);
    eligible.set_page_none(1);
    for (const char* text :
         {">1003", ">=1003", "<1000.5", "<=1000.5", "1003..1035", "!1003..1035", "1010", "5..6", ">-5",
          "!0..2000", "1003.0000001..1035", ">=1000", "1000..1000.0000001", "<1000", ">-1e300", "<1e300"}) {
        CAPTURE(text);
        const score::Limits l = score::parse_limits(text);
        const ElementSet got = score::within(c, eligible, l);
        bool same = true;
        for (std::uint64_t i = 0; i < n; ++i) {
            const double v = value(c, i);
            const bool in = (l.lo_open ? v > l.lo : v >= l.lo) && (l.hi_open ? v < l.hi : v <= l.hi);
            const bool wanted = eligible.contains(i) && !std::isnan(v) && in != l.outside;
            same &= got.contains(i) == wanted;
        }
        CHECK(same);
        CHECK(score::text_of(score::parse_limits(score::text_of(l))) == score::text_of(l));
    }
    for (const char* wrong : {"", "3..", "..3", "x", "5..3", ">", "> 3", "1..2..3", "nan"})
        CHECK_THROWS_AS(score::parse_limits(wrong), Error);
    const score::Profile p = score::profile(c, false, 50);
    std::vector<double> all;
    for (std::uint64_t i = 0; i < n; ++i)
        if (!std::isnan(value(c, i))) all.push_back(value(c, i));
    std::sort(all.begin(), all.end());
    CHECK(p.count == all.size());
    CHECK(p.min == all.front());
    CHECK(p.max == all.back());
    CHECK(p.median == all[(all.size() - 1) / 2]);
    CHECK(std::accumulate(p.bins.begin(), p.bins.end(), std::uint64_t{0}) == all.size());
    const score::Profile log = score::profile(c, true, 50);
    CHECK(std::accumulate(log.bins.begin(), log.bins.end(), std::uint64_t{0}) == all.size());
    CHECK(log.value_at(log.place(1050)) == Approx(1050));
    CHECK(log.place(log.bin_lo) == Approx(0).margin(1e-12));
    // Colours span the bulk, however far the bins reach.
    CHECK(p.low == all[static_cast<std::size_t>(0.005 * static_cast<double>(all.size() - 1))]);
    CHECK(p.high == all[static_cast<std::size_t>(0.995 * static_cast<double>(all.size() - 1))]);
    CHECK((log.low == p.low && log.high == p.high));
    CHECK((log.bin_hi == p.max && p.bin_hi == p.high && p.high < p.max));
    // Where a rule begins has bins round it, but none beyond the greatest value.
    const double step = p.high - p.median;
    const score::Profile wide = score::profile(c, false, 50, p.median + 0.168 * step),
                         most = score::profile(c, false, 50, p.median + 100 * step);
    CHECK(wide.bin_hi == Approx(p.median + 1.008 * step).epsilon(1e-6));
    CHECK(wide.bin_lo == p.bin_lo);
    CHECK(most.bin_hi == p.max);
    CHECK(p.mad == Approx(31.25).margin(0.5));  // of even values over 125
}

TEST_CASE("TheFarthestValuesOfARuleArePlacesApart") {
    const auto c = test::random_cloud(3'000, Shape::Clusters, 21);
    const ElementSet all = ElementSet::all(c->size());
    const Column height = score::compute(score::find("height"), {*c, all}, {});
    const double usual = 0, apart = 1.5;
    const std::vector<Vec3> places = score::extremes(height, all, usual, *c, apart);
    REQUIRE(places.size() > 1);
    double farthest = 0;
    for (std::uint64_t i = 0; i < c->size(); ++i)
        farthest = std::max(farthest, std::fabs(c->position(i).z - usual));
    CHECK(std::fabs(places[0].z - usual) == Approx(farthest));
    for (std::size_t i = 0; i < places.size(); ++i)
        for (std::size_t j = 0; j < i; ++j) {
            CHECK(norm(places[i] - places[j]) > apart);
            CHECK(std::fabs(places[i].z) <= std::fabs(places[j].z) + 1e-3);
        }
    // A level band is an outline at its height; what has no place has no lines.
    const auto lines = score::limit_lines(score::parse_step("height 2..3"), *c);
    REQUIRE(lines.size() == 2);
    for (const Vec3& p : lines[0]) CHECK(p.z == 2);
    for (const Vec3& p : lines[1]) CHECK(p.z == 3);
    CHECK(score::limit_lines(score::parse_step("stray >2"), *c).empty());
}

TEST_CASE("AProfileOfValuesThatAreNearlyAllTheSameShowsTheOthers") {
    std::vector<float> v(100'000, 0.0f);
    for (std::size_t i = 0; i < 100; ++i) v[i * 997] = 0.1f + 0.05f * static_cast<float>(i);
    std::vector<PagedArray<float>::PagePtr> pages;
    for (std::size_t at = 0; at < v.size(); at += kPageSize)
        pages.push_back(std::make_shared<const std::vector<float>>(
            v.begin() + static_cast<std::ptrdiff_t>(at),
            v.begin() + static_cast<std::ptrdiff_t>(std::min(v.size(), at + kPageSize))));
    score::Column c;
    c.values = {v.size(), std::move(pages)};
    const score::Profile p = score::profile(c);
    CHECK(p.median == 0);
    CHECK(p.mad == 0);
    CHECK(p.bin_lo == 0);
    CHECK(p.bin_hi == Approx(5.05).epsilon(1e-6));
    CHECK(p.bins.front() >= v.size() - 100);
    CHECK(p.bins.back() > 0);
    CHECK(std::accumulate(p.bins.begin(), p.bins.end(), std::uint64_t{0}) == v.size());
}

TEST_CASE("RecipesCompareWithWhatIsNamedAndGoByLinesOfTheirOwn") {
    const auto c = test::random_cloud(4'000, Shape::Clusters, 11),
               o = test::random_cloud(5'000, Shape::Clusters, 12);
    const ElementSet all = ElementSet::all(c->size()), others = ElementSet::all(o->size());
    const score::Step compares = score::parse_step("other[reach=2] \"Bank, 3 May\" >0.05");
    CHECK(compares.with == "Bank, 3 May");
    CHECK_FALSE(compares.bound());
    CHECK(score::text_of(compares) == "other[reach=2] \"Bank, 3 May\" >0.05");
    CHECK_THROWS_AS(score::parse_step("other[reach=2] \"Bank >0.05"), Error);
    // A name may hold a quote: the rule can still be read.
    score::Step quoted = compares;
    quoted.with = "12\" pipe";
    CHECK(score::parse_step(score::text_of(quoted)).with == "12' pipe");

    const score::Recipe recipe = score::recipe_from_json(score::json_of({compares}));
    CHECK(recipe[0].with == "Bank, 3 May");
    score::ScanContext company;
    std::string asked;
    company.other = [&](const std::string& name) {
        asked = name;
        return name == "Bank, 3 May" ? score::OtherScan{o.get(), &others} : score::OtherScan{};
    };
    const auto gone = score::run(recipe, *c, all, Progress::none(), company);
    const score::Column far =
        score::compute(score::find("other"), {*c, all, o.get(), &others}, {{"reach", 2}});
    CHECK(asked == "Bank, 3 May");
    CHECK(gone[0].elements == score::within(far, all, score::parse_limits(">0.05")));
    CHECK(gone[0].elements.count() > 0);
    CHECK_THROWS_WITH(score::run({quoted}, *c, all, Progress::none(), company),
                      Catch::Contains("12\" pipe") && Catch::Contains("not here"));
    CHECK_THROWS_AS(score::run(recipe, *c, all), Error);

    // A tunnel along a line: the recipe brings it, or whoever runs it has one of that name.
    std::vector<Vec3> axis{{0, 0, 1}, {0, 20, 1}};
    cloud::PointBatch batch;
    std::mt19937 dice(5);
    std::uniform_real_distribution<double> u(0, 1);
    for (int i = 0; i < 40'000; ++i) {
        const double a = 6.2831853 * u(dice), r = i % 50 == 0 ? 1 : 2;
        batch.x.push_back(static_cast<std::int32_t>(1000 * r * std::cos(a)));
        batch.y.push_back(static_cast<std::int32_t>(20000 * u(dice)));
        batch.z.push_back(static_cast<std::int32_t>(1000 * (1 + r * std::sin(a))));
    }
    cloud::PointCloud::Parts parts;
    parts.grid = {{0.001, 0.001, 0.001}, {}};
    const auto tunnel = cloud::build({batch}, std::move(parts));
    const ElementSet whole = ElementSet::all(tunnel->size());
    score::Step along = score::parse_step("lining \"Axis\" >0.5");
    CHECK_THROWS_WITH(score::run({along}, *tunnel, whole), Catch::Contains("Axis"));
    score::ScanContext with_line;
    with_line.line = [&](const std::string& name) { return name == "Axis" ? &axis : nullptr; };
    const auto inside = score::run({along}, *tunnel, whole, Progress::none(), with_line)[0].elements;
    CHECK(inside.count() == 800);
    along.line = axis;
    CHECK(along.bound());
    const score::Recipe bound = score::recipe_from_json(score::json_of({along}));
    CHECK(bound[0].line == axis);
    CHECK(bound[0].bound());
    CHECK(score::run(bound, *tunnel, whole)[0].elements == inside);
    CHECK_THROWS_AS(
        score::recipe_from_json(
            R"({"pristine_recipe":1,"steps":[{"score":"lining","range":">1","line":[[0,0,0]]}]})"),
        Error);
}

TEST_CASE("RecipesAreReadWrittenAndRunStepByStep") {
    const auto c = test::random_cloud(30'000, Shape::WithFarStrays, 6);
    const ElementSet all = ElementSet::all(c->size());
    score::Recipe recipe{score::parse_step("stray[neighbours=12] >4"),
                         score::parse_step("group[gap=0.5] <=3")};
    recipe[1].reason = "Dust";
    score::Step fence;
    fence.score.clear();
    const Box3 b = c->robust_bounds();
    fence.rings = {{{b.lo.x, b.lo.y},
                    {b.hi.x, b.lo.y},
                    {b.hi.x, (b.lo.y + b.hi.y) / 2},
                    {b.lo.x, (b.lo.y + b.hi.y) / 2}}};
    fence.keep = true;
    recipe.push_back(fence);
    const auto removed = score::run(recipe, *c, all);
    REQUIRE(removed.size() == 3);
    CHECK(removed[1].reason == "Dust");
    // Each step sees only what the ones before have left.
    const score::Column first = score::compute(score::find("stray"), {*c, all}, {{"neighbours", 12}});
    CHECK(removed[0].elements == score::within(first, all, score::parse_limits(">4")));
    const ElementSet left = all - removed[0].elements;
    const score::Column second = score::compute(score::find("group"), {*c, left}, {{"gap", 0.5}});
    CHECK(removed[1].elements == score::within(second, left, score::parse_limits("<=3")));
    CHECK((removed[2].elements & (removed[0].elements | removed[1].elements)).empty());
    const score::Recipe back = score::recipe_from_json(score::json_of(recipe));
    CHECK(score::json_of(back) == score::json_of(recipe));
    CHECK(back[2].bound());
    const auto again = score::run(back, *c, all);
    for (std::size_t i = 0; i < 3; ++i) CHECK(again[i].elements == removed[i].elements);
    CHECK(score::text_of(recipe[0]) == "stray[neighbours=12] >4");
    CHECK_THROWS_AS(score::run({score::parse_step("height >-1e9")}, *c, all), Error);  // would leave nothing
    for (const char* wrong : {"", "stray", "nothing >3", "stray[neighbours] >3", "stray[neighbours=2 >3",
                              "stray[k=3] >3", "stray[neighbours=12] >"})
        CHECK_THROWS_AS(score::parse_step(wrong), Error);
    for (const char* wrong : {"", "{}", "[]", R"({"pristine_recipe":2,"steps":[]})",
                              R"({"pristine_recipe":1,"steps":[{"score":"x","range":">1"}]})",
                              R"({"pristine_recipe":1,"steps":[{"score":"stray","range":"x"}]})",
                              R"({"pristine_recipe":1,"steps":[{"fence":[[[0,0],[1,1]]]}]})"})
        CHECK_THROWS_AS(score::recipe_from_json(wrong), Error);
}

// docs/manual/rules.md is made from the registry; PRISTINE_WRITE_COMMANDS=1 writes it anew.
TEST_CASE("TheManualSaysOfEveryScoreWhatTheRegistrySays") {
    std::string page =
        "# Choosing a rule\n\n"
        "**Select › By a rule…** (S) opens the rule card: a number for each point, its histogram (heights by "
        "the logarithm of the "
        "count), and the range that is taken.\nDrag the ends, or type them; *Inside* and *Outside* turn the "
        "range round. While you drag, "
        "what would be taken is shown; let go, and it is\nselected, to be removed, kept or guarded like any "
        "selection. Rules go together with "
        "what is selected by *or*, *but not*, *and*. The ledger says\nwhich rule with which numbers took "
        "something away. The pointer tells each point's value and what is usual; *Colour by it* shows all "
        "values in the stage,\n*Fly to extremes* looks at the places farthest from the usual, one "
        "after the other; limits that have a place (ranges, levels,\nplanes) are drawn in the stage.\n\n"
        "| To find | take |\n|---|---|\n"
        "| noise, single strays | *Strays* above 2.5 |\n"
        "| clumps of noise, birds | *Group size*, a few points and less |\n"
        "| everything that stands on the ground | *Height above ground*, outside of -0.25 to 0.07 m (more "
        "where points scatter by more than 2 cm) |\n"
        "| what stands on a floor, in a building or under a bridge | *Height above floor* |\n"
        "| passers-by | *Seen through*, with all scans of the site shown |\n"
        "| people, pipes, ducts in a tunnel | *Depth inside the lining* above 0.05 m |\n"
        "| colour of the sky on rims | *Distance to colours* below 14 |\n"
        "| rims between two surfaces | *Mixed pixels* above 3 |\n"
        "| what changed between two scans | *Distance to another cloud* |\n"
        "| points with a code or a name, of a survey list | *Column of the file*, and tick the words |\n\n"
        "*All scans that are shown* judges every one of them with one histogram; *Remove from all scans* is "
        "one step of undo.\n\n"
        "Rules are saved and run again as [recipes](recipes.md). "
        "Without a window: `pristine scores`, `score`, `clean`, `run`; see [the command "
        "line](command-line.md). Lengths are in the unit "
        "of the data there,\nin the unit of the site on the card; those that are not given are usual ones in "
        "metres, converted.\n\n"
        "Gaps and radii begin at a few spacings of the points, groups with the small ones, heights above the "
        "ground above the scatter of sparse ground; the card says so (\"From the points: spacing 0.52 m, so "
        "gap "
        "1.6 m\"). A rule comes back with the parameters it was left with. *Largest object* is 0 at first: "
        "it is "
        "found from the points (25, 50, 100 or 200 m), and the card says which size was taken and where a "
        "smaller one would call things ground. Give a number where heaps or terraces are taken for "
        "things.\n\n"
        "*Strays*: a point far from everything scores higher the farther it is. What hangs over a gap in the "
        "ground, higher than ground could rise on the way across, is not ground.\n\n";
    for (const score::Score& s : score::scores()) {
        page += "## " + s.title + " (`" + s.id + "`" + (s.unit.empty() ? "" : ", " + s.unit) + ")\n\n";
        page += "- High: " + s.high + ".\n- Low: " + s.low + ".\n";
        if (!s.wrong.empty()) page += "- When it is wrong: " + s.wrong + "\n";
        for (const score::Parameter& p : s.parameters)
            page += "- `" + p.name + "` – " + p.title + ": " + p.help + ".\n";
        page += "\n";
    }
    const std::filesystem::path file = std::string(PRISTINE_SOURCE_DIR) + "/docs/manual/rules.md";
    if (std::getenv("PRISTINE_WRITE_COMMANDS")) test::write_file(file, page);
    CHECK(test::read_file(file) == page);
}

// Usual lengths are metres: data in feet get them in feet.
TEST_CASE("UsualLengthsAreConvertedToTheUnitOfTheData") {
    const score::Score& group = score::find("group");
    CHECK(score::complete(group, {}).at("gap") == Approx(0.1));
    CHECK(score::complete(group, {}, 1 / 0.3048).at("gap") == Approx(0.1 / 0.3048));
    CHECK(score::complete(group, {{"gap", 2}}, 1 / 0.3048).at("gap") == 2);
    CHECK(score::complete(group, {{"gap", 200}}, 1 / 0.3048).at("gap") == 200);  // 61 m
    CHECK_THROWS_AS(score::complete(group, {{"gap", 200}}), Error);
    CHECK(score::complete(score::find("stray"), {}, 1 / 0.3048).at("neighbours") == 4);  // no length
}
