// Rules on data unlike the demo: strays far away, sparse points, birds over gaps, first values from the
// points.

#include <catch2/catch.hpp>

#include <cmath>

#include "core/base/bytes.h"
#include "core/io/cloud_io.h"
#include "core/io/points.h"
#include "core/objects/objects.h"
#include "core/recipe/recipe.h"
#include "core/score/suggest.h"
#include "demo/wide_trials.h"
#include "support/cloud_makers.h"

using namespace pristine;

namespace {

std::shared_ptr<const cloud::PointCloud> cloud_of(std::vector<Vec3> points, const std::string& unit = "m") {
    return io::cloud_of_points({"", std::move(points)}, {"", unit, ""});
}

// Values in the order of the points that the cloud was made from.
std::vector<double> values(const cloud::PointCloud& c, const char* id, const score::Parameters& p = {}) {
    const ElementSet all = ElementSet::all(c.size());
    const score::Column column = score::compute(score::find(id), {c, all}, p);
    std::vector<double> out(c.size(), NAN);
    const auto order = c.order();
    for (std::size_t page = 0; page < c.page_count(); ++page) {
        const auto records = order->page(page);
        const auto v = column.values.page(page);
        for (std::size_t i = 0; i < records.size(); ++i)
            out[records[i]] = column.base + static_cast<double>(v[i]);
    }
    return out;
}

// A rolling field, so many points a square metre.
std::vector<Vec3> field(double side, double a_square_metre, std::mt19937_64& dice, double noise = 0.02) {
    std::uniform_real_distribution<double> u(0, side);
    std::normal_distribution<double> n(0, noise);
    std::vector<Vec3> out;
    for (int i = 0; i < static_cast<int>(side * side * a_square_metre); ++i) {
        const double x = u(dice), y = u(dice);
        out.push_back({x, y, 2 * std::sin(x / 40) + n(dice)});
    }
    return out;
}

}  // namespace

TEST_CASE("SinglePointsScoreHigherTheFartherTheyAre", "[score][property]") {
    const std::uint64_t seed = test::seed_for("far strays");
    CAPTURE(seed);
    std::mt19937_64 dice(seed);
    for (int round = 0; round < 6; ++round) {
        CAPTURE(round);
        std::vector<Vec3> points = field(40, round % 2 ? 4 : 25, dice);
        const std::size_t surface = points.size();
        std::vector<double> distances{20, 100, 1e3, 4e3, 2e4, 1e5, 1e6};
        for (std::size_t k = 0; k < distances.size(); ++k) {
            // Each in a direction of its own, so that none is beside another.
            const double turn = 2 * M_PI * static_cast<double>(k) / static_cast<double>(distances.size());
            points.push_back({20 + distances[k] * std::cos(turn), 20 + distances[k] * std::sin(turn),
                              round % 3 == 0 ? 0.0 : distances[k] / 3});
        }
        const auto v = values(*cloud_of(points), "stray");
        const double highest = *std::max_element(v.begin(), v.begin() + static_cast<std::ptrdiff_t>(surface));
        CAPTURE(highest);
        for (std::size_t k = 0; k < distances.size(); ++k) {
            CAPTURE(distances[k]);
            CHECK(v[surface + k] > 2.5);
            if (distances[k] >= 100) CHECK(v[surface + k] > highest);
            if (k > 0) CHECK(v[surface + k] > v[surface + k - 1]);
        }
        // The surface itself is not taken for strays.
        const auto taken = std::count_if(v.begin(), v.begin() + static_cast<std::ptrdiff_t>(surface),
                                         [](double s) { return s > 2.5; });
        CHECK(static_cast<double>(taken) < 0.01 * static_cast<double>(surface));
    }
}

TEST_CASE("StraysThatAreFarFromEverythingAreNoSurface", "[score]") {
    // They are as far from each other as from the site, and so usual among themselves.
    const std::uint64_t seed = test::seed_for("strays among strays");
    CAPTURE(seed);
    for (std::uint64_t k = 0; k < 3; ++k) {
        std::vector<demo::Truth> truth;
        const auto c = demo::cloud_of(demo::make_wide_trial("strays_far", seed + k, 0.25), truth);
        const ElementSet all = ElementSet::all(c->size());
        const ElementSet gone = score::run({score::parse_step("stray >2.5")}, *c, all).front().elements;
        std::size_t kept = 0, lost = 0;
        for (std::size_t i = 0; i < truth.size(); ++i) {
            kept += truth[i] == demo::Truth::Noise && !gone.contains(i);
            lost += truth[i] == demo::Truth::Ground && gone.contains(i);
        }
        CHECK(kept == 0);
        CHECK(lost < truth.size() / 2000);
    }
}

TEST_CASE("TheScatterOfTheGroundShowsBesideTallBuildings", "[score]") {
    // 30 m of roofs in a histogram leave no bin narrow enough to see the scatter of 6 cm.
    const std::uint64_t seed = test::seed_for("tall");
    CAPTURE(seed);
    std::mt19937_64 dice(seed);
    for (const double feet : {1.0, 1 / 0.3048}) {
        auto points = field(200, 1, dice, 0.06);
        for (Vec3& p : points)
            if (p.x > 80 && p.x < 120 && p.y > 80 && p.y < 130) p.z += 30;
        for (Vec3& p : points) p = p * feet;
        const auto c = cloud_of(points, feet == 1 ? "m" : "ft");
        const auto& ground = score::find("ground");
        const auto column = score::compute(ground, {*c, ElementSet::all(c->size())}, {});
        const auto range = score::first_range(
            ground, score::profile(column, ground.logarithmic, score::kUsualBins, ground.begins), column, *c);
        REQUIRE(range);
        CHECK(range->limits.lo > 0.12 * feet);
        CHECK(range->limits.lo < 0.30 * feet);
    }
}

TEST_CASE("FirstValuesFollowTheSpacing", "[score]") {
    std::mt19937_64 dice(11);
    const auto sparse = cloud_of(field(200, 0.25, dice));
    const double spacing = score::spacing_of(*sparse);
    CHECK(spacing > 0.5);
    CHECK(spacing < 3);
    const auto gap = score::suggested(score::find("group"), *sparse);
    REQUIRE(gap.parameters.contains("gap"));
    CHECK(gap.parameters.at("gap") == Approx(3 * spacing).epsilon(0.1));
    CHECK_THAT(gap.why, Catch::Contains("spacing") && Catch::Contains("gap") && Catch::Contains(" m"));
    // In feet the same, and within what the parameter allows.
    std::vector<Vec3> feet;
    for (const Vec3& p : field(200, 0.25, dice)) feet.push_back(p * (1 / 0.3048));
    const auto in_feet = score::suggested(score::find("group"), *cloud_of(feet, "ft"));
    CHECK(in_feet.parameters.at("gap") * 0.3048 == Approx(gap.parameters.at("gap")).epsilon(0.15));
    CHECK_NOTHROW(score::complete(score::find("group"), in_feet.parameters, 1 / 0.3048));
    // Dense points keep the usual values, and nothing is said.
    const auto dense = score::suggested(score::find("group"), *cloud_of(field(3, 5000, dice)));
    CHECK(dense.parameters.empty());
    CHECK(dense.why.empty());
    // One point, or none that has a neighbour.
    CHECK(score::spacing_of(*cloud_of({{1, 2, 3}})) == 0);
    CHECK(score::suggested(score::find("group"), *cloud_of({{1, 2, 3}})).parameters.empty());
}

TEST_CASE("GroupsAreSmallOnesAtFirst", "[score]") {
    std::mt19937_64 dice(12);
    auto points = field(30, 20, dice);
    for (int i = 0; i < 20; ++i) points.push_back({static_cast<double>(i), 5, 30});
    const auto c = cloud_of(points);
    const ElementSet all = ElementSet::all(c->size());
    const auto& group = score::find("group");
    const auto column = score::compute(group, {*c, all}, score::suggested(group, *c).parameters);
    const auto range = score::first_range(group, score::profile(column, group.logarithmic), column, *c);
    REQUIRE(range);
    CHECK(range->limits.hi < 100);
    CHECK(range->limits.lo == -INFINITY);
}

TEST_CASE("TheGroundOfABeachIsNotTakenForThingsOnIt", "[score]") {
    const std::uint64_t seed = test::seed_for("beach");
    CAPTURE(seed);
    std::mt19937_64 dice(seed);
    // Two metres between points, ripples and a survey that scatters by 8 cm.
    const auto c = cloud_of(field(400, 0.25, dice, 0.08));
    const ElementSet all = ElementSet::all(c->size());
    const auto& ground = score::find("ground");
    const auto column = score::compute(ground, {*c, all}, {});
    const auto profile = score::profile(column, ground.logarithmic, score::kUsualBins, ground.begins);
    const auto range = score::first_range(ground, profile, column, *c);
    REQUIRE(range);
    CHECK_THAT(range->why, Catch::Contains("scatters by"));
    std::size_t taken = 0, usual = 0;
    for (const double v : values(*c, "ground")) {
        taken += v >= range->limits.lo;
        usual += v >= 0.07;
    }
    CHECK(usual > c->size() / 10);
    CHECK(taken < c->size() / 50);
}

TEST_CASE("ThingsAreFoundOnTheGroundHoweverDenseItIs", "[score]") {
    const std::uint64_t seed = test::seed_for("sparse things");
    CAPTURE(seed);
    std::mt19937_64 dice(seed);
    for (const double density : {1.0, 4.0, 50.0}) {
        CAPTURE(density);
        auto points = field(120, density, dice);
        // Six houses of 12 m by 8 m, 5 m high: their roofs are measured as densely as the ground, which is
        // not measured below them.
        std::vector<Vec3> corners;
        for (int k = 0; k < 6; ++k) corners.push_back({15.0 + 35 * (k % 3), 25.0 + 50 * (k / 3), 0});
        for (Vec3& p : points)
            for (const Vec3& c : corners)
                if (p.x > c.x && p.x < c.x + 12 && p.y > c.y && p.y < c.y + 8) p.z += 5;
        const auto cloud = cloud_of(points);
        const ElementSet all = ElementSet::all(cloud->size());
        const score::Input in{*cloud, all};
        const score::Objects found(in, score::compute(score::find("ground"), in, {}),
                                   score::suggested_objects(*cloud));
        int houses = 0;
        for (const score::Object& o : found.list())
            for (const Vec3& c : corners)
                houses += o.length > 8 && std::hypot(o.centre.x - c.x - 6, o.centre.y - c.y - 4) < 3;
        CHECK(houses == 6);
        CHECK(found.list().size() < 20);
    }
}

TEST_CASE("BirdsOverGapsInTheGroundAreNotGround", "[score]") {
    const std::uint64_t seed = test::seed_for("birds");
    CAPTURE(seed);
    std::mt19937_64 dice(seed);
    std::vector<Vec3> points;
    const std::vector<Vec3> ponds{{25, 25, 8}, {70, 30, 14}, {45, 75, 11}};  // z: radius
    for (const Vec3& p : field(100, 20, dice))
        if (std::none_of(ponds.begin(), ponds.end(),
                         [&](const Vec3& w) { return std::hypot(p.x - w.x, p.y - w.y) < w.z; }))
            points.push_back(p);
    const std::size_t land = points.size();
    std::uniform_real_distribution<double> u(-0.6, 0.6), up(18, 57);
    for (const Vec3& w : ponds)
        for (int k = 0; k < 12; ++k) points.push_back({w.x + u(dice) * w.z, w.y + u(dice) * w.z, up(dice)});
    const auto v = values(*cloud_of(points), "ground");
    int ground = 0;
    for (std::size_t i = land; i < points.size(); ++i) ground += std::fabs(v[i]) < 1;
    CHECK(ground == 0);
    std::size_t lost = 0;
    for (std::size_t i = 0; i < land; ++i) lost += !(std::fabs(v[i]) < 0.3);
    CHECK(lost < land / 50);
}

TEST_CASE("TheLargestObjectIsFoundFromThePoints", "[score]") {
    const std::uint64_t seed = test::seed_for("largest object");
    CAPTURE(seed);
    std::mt19937_64 dice(seed);
    for (const double density : {0.5, 1.0, 4.0}) {
        for (const double feet : {1.0, 1 / 0.3048}) {
            CAPTURE(density, feet);
            // A hall of 90 m by 70 m with a courtyard, ten sheds of 8 m, trees of 5 m.
            auto points = field(300, density, dice, 0.05);
            std::vector<char> thing(points.size(), 0);
            std::uniform_real_distribution<double> u(0, 1);
            std::vector<Vec3> trees;
            for (int k = 0; k < 40; ++k) trees.push_back({300 * u(dice), 60 * u(dice), 0});
            for (std::size_t i = 0; i < points.size(); ++i) {
                Vec3& p = points[i];
                const bool hall = p.x > 110 && p.x < 200 && p.y > 120 && p.y < 190 &&
                                  !(p.x > 140 && p.x < 165 && p.y > 145 && p.y < 165);
                const bool shed = p.y > 240 && p.y < 248 && std::fmod(p.x, 30) < 8;
                if (hall || shed) p.z += hall ? 11 : 3.5;
                thing[i] = hall || shed;
                for (const Vec3& t : trees)
                    if (!thing[i] && std::hypot(p.x - t.x, p.y - t.y) < 2.5 && u(dice) < 0.7) {
                        p.z += 3 + 5 * u(dice);
                        thing[i] = 1;
                    }
            }
            for (Vec3& p : points) p = p * feet;
            const auto c = cloud_of(points, feet == 1 ? "m" : "ft");
            const auto v = values(*c, "ground");
            double missed = 0, lost = 0, things = 0;
            for (std::size_t i = 0; i < points.size(); ++i) {
                const bool taken = v[i] > 1.5 * feet;
                things += thing[i];
                missed += thing[i] && !taken;
                lost += !thing[i] && taken;
            }
            CHECK(missed < 0.05 * things);
            CHECK(lost < 0.03 * static_cast<double>(points.size()));
            // The note says which size was taken, and where another gives something else.
            const ElementSet all = ElementSet::all(c->size());
            const auto column = score::compute(score::find("ground"), {*c, all}, {});
            CHECK_THAT(column.note,
                       Catch::Contains("Largest object") && Catch::Contains(feet == 1 ? " m" : " ft"));
            // With the usual size of before the roof was ground.
            const auto fixed = values(*c, "ground", {{"object", 25 * feet}});
            double roof = 0;
            for (std::size_t i = 0; i < points.size(); ++i) roof += thing[i] && !(fixed[i] > 1.5 * feet);
            CHECK(roof > 0.3 * things);
        }
    }
}

TEST_CASE("HillsAreNoObjects", "[score]") {
    const std::uint64_t seed = test::seed_for("hills");
    CAPTURE(seed);
    std::mt19937_64 dice(seed);
    auto points = field(400, 1, dice, 0.05);
    for (Vec3& p : points) p.z += 25 * std::exp(-(std::pow(p.x - 200, 2) + std::pow(p.y - 200, 2)) / 5000);
    const auto v = values(*cloud_of(points), "ground");
    double lost = 0;
    for (const double h : v) lost += !(std::fabs(h) < 0.5);
    CHECK(lost < 0.02 * static_cast<double>(points.size()));
}

TEST_CASE("AScanWithoutAStationSaysSoBesideScansThatHaveSome", "[score]") {
    const test::TemporaryFolder f;
    io::write_cloud({{test::e57_scans(200, 3)}}, f / "two.e57");
    const auto two = io::read_cloud(f / "two.e57").cloud;
    REQUIRE(two->stations().size() == 2);
    const auto none = cloud_of({{0, 0, 0}, {1, 0, 0}, {0, 1, 0}});
    const ElementSet of_two = ElementSet::all(two->size()), of_none = ElementSet::all(none->size());
    const auto& through = score::find("through");
    // The file with two stations is enough by itself, and beside a scan without any.
    CHECK(through.why_not({*two, of_two}) == "");
    score::Input in{*two, of_two};
    in.beside.push_back({none.get(), &of_none});
    CHECK(through.why_not(in) == "");
    // The other one has no place to look from; that is what is said.
    score::Input other{*none, of_none};
    other.beside.push_back({two.get(), &of_two});
    CHECK_THAT(through.why_not(other), Catch::Contains("does not say where its station stood"));
    CHECK_THAT(through.why_not({*none, of_none}), Catch::Contains("two stations"));
}
