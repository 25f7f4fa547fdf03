// What made an entry: a value that comes back the same from wherever it was kept.

#include <catch2/catch.hpp>

#include <random>

#include "core/base/error.h"
#include "core/cloud/classes.h"
#include "core/site/site.h"
#include "core/store/project.h"
#include "support/cloud_makers.h"

using namespace pristine;
using site::Act;
using site::Cause;

namespace {

score::Step rule_by_chance(std::mt19937_64& dice) {
    const auto chance = [&](int n) { return static_cast<int>(dice() % static_cast<std::uint64_t>(n)); };
    const double v = std::round(std::uniform_real_distribution<double>(-5, 50)(dice) * 1000) / 1000;
    score::Step s;
    switch (chance(5)) {
        case 0:
            s.score = "stray";
            s.parameters = {{"neighbours", 3.0 + chance(20)}};
            s.limits = score::parse_limits(">" + std::to_string(chance(9)));
            break;
        case 1:
            s.score = "height";
            s.limits = score::parse_limits(chance(2) ? "!-0.25..0.07" : "<=0.5");
            s.keep = chance(2) == 1;
            break;
        case 2:
            s.score = "other";
            s.with = "Bank in May, ü";
            s.parameters = {{"reach", v > 0 ? v : 1}};
            s.limits = score::parse_limits(">0.2");
            break;
        case 3:
            s.score = "column";
            s.with = "code";
            s.words = {"TOE, east", "BANK", "a\"b", "in->out"};
            s.limits.outside = chance(2) == 1;
            break;
        default:  // bound to coordinates
            s.rings = {{{v, 1}, {v + 3, 1}, {v, 1.1}}};
            s.keep = chance(2) == 1;
    }
    s.reason = chance(2) ? "Noise" : "Passers-by, Tür";
    if (chance(4) == 0) s.to_class = static_cast<std::uint8_t>(chance(256));
    return s;
}

Act act_by_chance(std::mt19937_64& dice, int depth) {
    const auto chance = [&](int n) { return static_cast<int>(dice() % static_cast<std::uint64_t>(n)); };
    Act a;
    a.kind = static_cast<Act::Kind>(chance(16));
    a.id = std::vector<std::string>{"", "select.polygon", "select.grow", "repair.check"}[chance(4)];
    if (chance(2)) a.settings["visible_only"] = chance(2) == 1;
    if (chance(2)) a.settings["step"] = std::uniform_real_distribution<double>(0, 1e6)(dice);
    if (chance(3) == 0) a.settings["name"] = std::string("Haufen \"Ost\", ß");
    if (chance(4) == 0) a.settings["lines"] = std::vector<std::string>{"Toe", "Rim of pit", ""};
    if (a.kind == Act::Kind::Rule) a.rule = rule_by_chance(dice);
    for (int k = chance(3); k > 0 && depth < 3; --k) a.parts.push_back(act_by_chance(dice, depth + 1));
    a.how = static_cast<site::Combine>(chance(4));
    return a;
}

Cause cause_by_chance(std::mt19937_64& dice) {
    Cause c;
    for (int k = static_cast<int>(dice() % 4); k >= 0; --k) c.acts.push_back(act_by_chance(dice, 0));
    return c;
}

Act tool(const char* id, bool visible_only = false) {
    return {.kind = Act::Kind::Tool, .id = id, .settings = {{"visible_only", visible_only}}};
}

}  // namespace

TEST_CASE("ACauseComesBackTheSameFromJsonAndFromAProject", "[site][property]") {
    const std::uint64_t seed = test::seed_for("causes");
    CAPTURE(seed);
    std::mt19937_64 dice(seed);
    const test::TemporaryFolder f;
    auto s = std::make_shared<site::Site>();
    s = std::make_shared<site::Site>(
        *site::add_cloud(*s, test::random_cloud(40, test::Shape::Terrain, 3), "Bank", ""));
    std::vector<Cause> causes;
    for (std::uint64_t k = 0; k < 30; ++k) {
        causes.push_back(cause_by_chance(dice));
        CHECK(site::cause_from_json(site::json_of(causes.back())) == causes.back());
        CHECK_FALSE(site::told(causes.back()).empty());
        ElementSet one(40);
        one.insert(k);
        const auto chosen = site::select(*s, one, site::Combine::New, {causes.back(), "Person"});
        s = std::make_shared<site::Site>(
            *site::remove_selection(*chosen, {"Person", causes.back(), {"ada", "2026-11-30T08:00:00"}, {}}));
    }
    ElementSet rest(40);
    rest.insert(35);
    s = std::make_shared<site::Site>(*site::select(*s, rest, site::Combine::New, {causes[0], "Cart"}));
    s = std::make_shared<site::Site>(*site::keep_selection(*s, "Last"));
    {
        auto project = store::Project::create(f / "p.pristine");
        project->write({1, "all", s}, Progress::none());
    }
    const auto project = store::Project::open(f / "p.pristine");
    const site::SitePtr back = project->load_commit(1);
    REQUIRE(back->items[0]->ledger.size() == causes.size());
    for (std::size_t k = 0; k < causes.size(); ++k) CHECK(back->items[0]->ledger[k].cause == causes[k]);
    CHECK(back->origin.cause == causes[0]);
    CHECK(back->origin.reason == "Cart");
    REQUIRE(back->items[0]->kept.size() == 1);
    CHECK(back->items[0]->kept[0].origin == s->items[0]->kept[0].origin);
}

TEST_CASE("ARuleComesBackTheSameFromTextAndFromARecipe", "[score][property]") {
    const std::uint64_t seed = test::seed_for("steps");
    CAPTURE(seed);
    std::mt19937_64 dice(seed);
    for (int k = 0; k < 300; ++k) {
        const score::Step step = rule_by_chance(dice);
        const auto back = score::recipe_from_json(score::json_of(score::Recipe{step}));
        REQUIRE(back.size() == 1);
        CHECK(back[0] == step);
        if (step.bound()) continue;  // coordinates are in no sentence
        score::Step again = score::parse_step(score::text_of(step));
        again.reason = step.reason;  // nor is the reason
        CHECK(again == step);
    }
}

TEST_CASE("ASentenceOfAProjectOfBeforeIsKept", "[site]") {
    CHECK(site::cause_of_sentence("").empty());
    for (const char* before : {"polygon fence, through", "rule inside 2 lines", "rule of thumb",
                               "keep only what was selected by ball", "rule stray[neighbours=16]>3"}) {
        const Cause c = site::cause_of_sentence(before);
        CHECK(site::told(c) == before);
        CHECK_FALSE(site::rule_of(c));
    }
    const Cause rule = site::cause_of_sentence("rule stray[neighbours=16] >3");
    REQUIRE(site::rule_of(rule));
    CHECK(site::rule_of(rule)->parameters.at("neighbours") == 16);
    CHECK(site::told(rule) == "rule stray[neighbours=16] >3");
}

TEST_CASE("CausesAreToldAsTheyCameAbout", "[site]") {
    const Cause polygon = site::by(tool("select.polygon")), brush = site::by(tool("select.brush", true));
    CHECK(site::told(polygon) == "polygon fence, through");
    Cause c = site::combined(polygon, brush, site::Combine::Add);
    CHECK(site::told(c) == "polygon fence, through; with disc brush, visible only");
    // Each once, however often it was drawn; but taken away is another thing than added.
    CHECK(site::combined(c, brush, site::Combine::Add) == c);
    CHECK(site::combined(c, polygon, site::Combine::Add) == c);
    c = site::combined(c, brush, site::Combine::TakeAway);
    CHECK(site::told(c) ==
          "polygon fence, through; with disc brush, visible only; without disc brush, visible only");
    CHECK(site::combined(c, polygon, site::Combine::New) == polygon);
    // Of two that are each combined, the second stays together.
    CHECK(site::told(site::combined(brush, site::combined(polygon, brush, site::Combine::Both),
                                    site::Combine::TakeAway)) ==
          "disc brush, visible only; without (polygon fence, through; only within disc brush, visible only)");
    Cause grown = site::grown(polygon, "select.grow", {{"step", 0.05}});
    CHECK(site::told(grown) == "polygon fence, through, grown by 0.05");
    grown = site::grown(grown, "select.grow", {{"step", 0.05}});
    CHECK(site::told(grown) == "polygon fence, through, grown by 0.05, 2 times");
    CHECK(site::tool_of(grown) == "select.polygon");
    CHECK(site::tool_of(site::said("x")).empty());
    CHECK(site::told(site::wrapped(brush, Act::Kind::KeepOnly)) ==
          "keep only what was selected by disc brush, visible only");
    CHECK(site::told(site::wrapped({}, Act::Kind::Inverse)) == "inverse of a selection");
    // In the words and the unit of the reader.
    site::Wording w;
    w.length = [](double v) { return std::to_string(static_cast<int>(v * 100)) + " cm"; };
    w.phrase = [](const char* english) {
        return std::string(english) == "polygon fence" ? "Vieleck" : std::string(english);
    };
    CHECK(site::told(grown, w) == "Vieleck, through, grown by 5 cm, 2 times");
}

TEST_CASE("ARuleThatChangedASelectionOfUnknownCauseDidNotMakeItAlone", "[site]") {
    // Everything, less what a rule takes: run again as that rule it would remove the opposite.
    site::SitePtr s = site::add_cloud({}, test::random_cloud(40, test::Shape::Terrain, 3), "Bank", "");
    s = site::invert_selection(*s);
    REQUIRE(s->selected() == 40);
    ElementSet taken(40);
    for (std::uint64_t e = 0; e < 10; ++e) taken.insert(e);
    const Cause rule = site::by_rule(score::parse_step("height >3"));
    s = site::select(*s, taken, site::Combine::TakeAway, {rule, "Noise"});
    REQUIRE(s->selected() == 30);
    CHECK_FALSE(site::rule_of(s->origin.cause));
    CHECK(site::told(s->origin.cause) == "a selection; without rule height >3");
    s = site::select(*s, taken, site::Combine::New, {rule, "Noise"});
    CHECK(site::rule_of(s->origin.cause));
    // The other way round: something unknown was added to what a rule took.
    s = site::select(*s, ElementSet::all(40), site::Combine::Add);
    CHECK_FALSE(site::rule_of(s->origin.cause));
}

TEST_CASE("DamagedCausesAreRefused", "[site]") {
    for (const char* wrong :
         {"", "{", "[{}]", "[{\"kind\":\"magic\"}]", "[{\"kind\":\"tool\",\"settings\":{\"a\":{}}}]",
          "[{\"kind\":\"rule\",\"rule\":{\"score\":\"none\",\"range\":\">1\"}}]", "[{\"kind\":7}]"})
        CHECK_THROWS_AS(site::cause_from_json(wrong), Error);
    std::string deep = "[";
    for (int k = 0; k < 3000; ++k) deep += "{\"kind\":\"kept\",\"parts\":[";
    deep += "{\"kind\":\"tool\"}";
    for (int k = 0; k < 3000; ++k) deep += "]}";
    CHECK_THROWS_AS(site::cause_from_json(deep + "]"), Error);
}

TEST_CASE("ClassesAreCountedAndNamed", "[cloud]") {
    CHECK(cloud::class_name(2) == "Ground");
    CHECK(cloud::class_name(8).empty());
    CHECK(cloud::class_name(64).empty());
    CHECK(cloud::class_name(-1).empty());
    CHECK(cloud::class_counts(*test::random_cloud(0, test::Shape::Terrain, 1)).empty());
    const auto c = test::random_cloud(5000, test::Shape::Terrain, 7);
    std::uint64_t all = 0;
    for (const auto& [code, count] : cloud::class_counts(*c)) {
        std::uint64_t slow = 0;
        for (std::size_t p = 0; p < c->page_count(); ++p)
            for (const std::uint8_t k : c->classification()->page(p)) slow += k == code;
        CHECK(count == slow);
        all += count;
    }
    CHECK(all == (c->classification() ? c->size() : 0));
}
