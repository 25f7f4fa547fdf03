// Recipes read, written and run, and the manual page of all rules.

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
using test::Shape;
using test::value;

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

TEST_CASE("AStepThatGivesAClassTakesNothingAway") {
    const auto c = test::random_cloud(30'000, Shape::WithFarStrays, 6);
    const ElementSet all = ElementSet::all(c->size());
    const score::Step high = score::parse_step("height >0.3 -> class 5");
    CHECK(high.to_class == std::uint8_t{5});
    CHECK(score::text_of(high) == "height >0.3 -> class 5");
    CHECK(score::parse_step("height >0.3->5") == high);
    const score::Recipe recipe{high, score::parse_step("stray[neighbours=12] >4"),
                               score::parse_step("height <=0.3 -> class 2")};
    const auto steps = score::run(recipe, *c, all);
    REQUIRE(steps.size() == 3);
    // The one after it sees all that it saw.
    const score::Column stray = score::compute(score::find("stray"), {*c, all}, {{"neighbours", 12}});
    CHECK(steps[1].elements == score::within(stray, all, score::parse_limits(">4")));
    CHECK((steps[2].elements & steps[1].elements).empty());
    // All of them may be given a class; that leaves no less than before.
    CHECK(score::run({score::parse_step("height >-1e9 -> class 1")}, *c, all).size() == 1);
    const score::Recipe back = score::recipe_from_json(score::json_of(recipe));
    CHECK(back == recipe);
    for (const char* wrong : {"height >3 -> class 256", "height >3 -> class -1", "height >3 ->",
                              "height >3 -> building", "height >3 -> class 2.5", "-> class 2"})
        CHECK_THROWS_AS(score::parse_step(wrong), Error);
    for (const char* wrong : {"256", "-1", "\"six\"", "null"})
        CHECK_THROWS_AS(
            score::recipe_from_json(std::string(R"({"pristine_recipe":1,"steps":[{"score":"height",)") +
                                    R"("range":">1","class":)" + wrong + "}]}"),
            Error);
}

TEST_CASE("AnArrowInAWordIsNoClass") {
    const score::Step s = score::parse_step("column \"code\" =\"TOE -> class 3\"");
    CHECK_FALSE(s.to_class);
    CHECK(s.words == std::vector<std::string>{"TOE -> class 3"});
    const score::Step both = score::parse_step("column \"code\" =\"TOE->3\",BANK -> class 9");
    CHECK(both.to_class == std::uint8_t{9});
    CHECK(both.words == std::vector<std::string>{"TOE->3", "BANK"});
    CHECK(score::parse_step(score::text_of(both)) == both);
    CHECK(score::parse_step(score::text_of(s)) == s);
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
