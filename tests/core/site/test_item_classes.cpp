// Classes as decisions: given, lifted, given again over each other, hidden, kept, written.

#include <catch2/catch.hpp>

#include <map>
#include <random>

#include "core/cloud/classes.h"
#include "core/cloud/triangles.h"
#include "core/io/cloud_io.h"
#include "core/io/keep.h"
#include "core/site/history.h"
#include "core/site/item_classes.h"
#include "core/store/database.h"
#include "core/store/project.h"
#include "support/cloud_makers.h"

using namespace pristine;
using namespace pristine::site;

namespace {

Decision decision(const std::string& reason = "Building") {
    return {reason, said("polygon fence"), {"ada", "2026-11-25T08:41:00"}, nullptr};
}

ElementSet random_set(std::uint64_t n, double share, std::mt19937_64& dice) {
    ElementSet s(n);
    std::bernoulli_distribution in(share);
    for (std::uint64_t i = 0; i < n; ++i)
        if (in(dice)) s.insert(i);
    return s;
}

SitePtr give(const SitePtr& s, const ElementSet& set, std::uint8_t code) {
    return class_selection(*site::select(*s, set, Combine::New), code, decision());
}

std::vector<std::uint8_t> all_classes(const Item& item) {
    std::vector<std::uint8_t> out;
    for (std::uint64_t i = 0; i < item.cloud->size(); ++i) out.push_back(class_of(item, i));
    return out;
}

SitePtr scan(std::uint64_t n, std::uint64_t seed) {
    return add_cloud(Site{}, test::random_cloud(n, test::Shape::Terrain, seed), "Quay", "quay.las");
}

}  // namespace

TEST_CASE("TheLastActiveDecisionGivesTheClass") {
    const std::uint64_t seed = test::seed_for("classes");
    CAPTURE(seed);
    std::mt19937_64 dice(seed);
    for (int round = 0; round < 6; ++round) {
        const std::uint64_t n = 1 + dice() % 80000;
        SitePtr s = scan(n, dice());
        const std::vector<std::uint8_t> own = all_classes(*s->active_item());
        struct Given {
            ElementSet set;
            std::uint8_t code;
            bool active = true;
        };
        std::vector<Given> given;
        for (int k = 0; k < 6; ++k) {
            if (!given.empty() && dice() % 3 == 0) {
                // Lift or apply one again.
                const std::size_t at = dice() % given.size();
                given[at].active = !given[at].active;
                s = set_decision_active(*s, s->active_item()->ledger[at].id, given[at].active);
                continue;
            }
            Given g{random_set(n, 0.3, dice), static_cast<std::uint8_t>(dice() % 7)};
            if (g.set.empty()) continue;
            s = give(s, g.set, g.code);
            given.push_back(std::move(g));
        }
        // The slow obvious twin.
        std::vector<std::uint8_t> expected = own;
        for (const Given& g : given)
            if (g.active) g.set.for_each([&](std::uint64_t i) { expected[i] = g.code; });
        const Item& item = *s->active_item();
        CHECK(all_classes(item) == expected);
        std::map<std::uint8_t, std::uint64_t> counts;
        for (const std::uint8_t c : expected) ++counts[c];
        CHECK(class_counts(item) == counts);
        for (int code = 0; code < 8; ++code) {
            const ElementSet of = of_class(item, static_cast<std::uint8_t>(code));
            bool same = true;
            for (std::uint64_t i = 0; i < n; ++i) same &= of.contains(i) == (expected[i] == code);
            CHECK(same);
        }
        // Nothing went out for it.
        CHECK(item.removed->empty());
        CHECK(item.shown() == n);
    }
}

TEST_CASE("AClassIsNoRemoval") {
    std::mt19937_64 dice(3);
    SitePtr s = scan(5000, 3);
    s = give(s, random_set(5000, 0.5, dice), 6);
    CHECK(s->active_item()->reasons().empty());
    CHECK(s->active_item()->out_for("Building").empty());
    CHECK(s->active_item()->taken().empty());
    CHECK(s->selected() == 0);
    CHECK(s->last_selection.size() == 1);
    CHECK(s->active_item()->ledger.front().to_class == std::uint8_t{6});
    // What is removed keeps its class for when it comes back, and is not counted meanwhile.
    const std::uint64_t sixes = class_counts(*s->active_item()).at(6);
    s = remove_selection(*site::select(*s, of_class(*s->active_item(), 6), Combine::New), decision("Noise"));
    CHECK(class_counts(*s->active_item()).contains(6) == false);
    s = set_decision_active(*s, s->active_item()->ledger.back().id, false);
    CHECK(class_counts(*s->active_item()).at(6) == sixes);
}

TEST_CASE("PuttingBackLeavesClassesAlone") {
    std::mt19937_64 dice(4);
    SitePtr s = scan(5000, 4);
    const ElementSet some = random_set(5000, 0.4, dice);
    s = give(s, some, 9);
    s = remove_selection(*site::select(*s, some, Combine::New), decision("Noise"));
    s = select_removed(*s, {{s->active, std::make_shared<const ElementSet>(some)}}, Combine::New);
    s = put_back_selection(*s);
    CHECK(s->active_item()->removed->empty());
    CHECK(s->active_item()->ledger[0].active);
    CHECK(of_class(*s->active_item(), 9).count() >= some.count());
}

TEST_CASE("AHiddenClassIsSafeFromEveryTool") {
    std::mt19937_64 dice(5);
    SitePtr s = scan(20000, 5);
    s = give(s, random_set(20000, 0.3, dice), 2);
    const ElementSet ground = of_class(*s->active_item(), 2);
    s = site::select(*s, ElementSet::all(20000), Combine::New);
    s = show_class(*s, s->active, 2, false);
    CHECK(*s->selection_in_work() == ~ground);
    CHECK((*s->active_item()->absent & ground) == ground);
    s = site::select(*s, ElementSet::all(20000), Combine::New);
    CHECK(*s->selection_in_work() == ~ground);
    // What becomes of that class goes out of sight as well, and out of the selection.
    s = give(s, *s->selection_in_work(), 2);
    CHECK(s->active_item()->shown() == 0);
    s = show_class(*s, s->active, 2, true);
    CHECK(s->active_item()->shown() == 20000);
    CHECK(s->active_item()->unseen_classes.empty());
}

TEST_CASE("APieceThatIsPutBackKeepsItsClasses") {
    std::mt19937_64 dice(21);
    SitePtr s = scan(5000, 21);
    s = give(s, random_set(5000, 0.5, dice), 6);
    const std::vector<std::uint8_t> before = all_classes(*s->active_item());
    s = set_apart(*site::select(*s, random_set(5000, 0.3, dice), Combine::New), "Gate", true);
    REQUIRE(s->items.size() == 2);
    const ElementSet of_piece = *s->items[1]->scope;
    const std::vector<std::uint8_t> piece = all_classes(*s->items[1]);
    bool kept = true;
    of_piece.for_each([&](std::uint64_t e) { kept &= piece[e] == before[e]; });
    CHECK(kept);
    s = merge_items(*s, s->items[0]->id, s->items[1]->id);
    REQUIRE(s->items.size() == 1);
    CHECK(all_classes(*s->items[0]) == before);
    CHECK(s->items[0]->removed->empty());
    CHECK(s->items[0]->ledger.size() == 1);
}

TEST_CASE("OneDecisionClassesSeveralItems") {
    SitePtr s = scan(3000, 6);
    s = add_cloud(*s, test::random_cloud(4000, test::Shape::Clusters, 7), "Gate", "");
    const std::uint64_t a = s->items[0]->id, b = s->items[1]->id;
    const Parts parts{{a, std::make_shared<const ElementSet>(ElementSet::all(3000))},
                      {b, std::make_shared<const ElementSet>(ElementSet::all(4000))}};
    s = class_parts(*s, parts, 17, decision("Bridge deck"));
    const std::uint64_t entry = s->items[0]->ledger[0].id;
    CHECK(items_of_decision(*s, entry).size() == 2);
    s = set_entry_active(*s, b, entry, false);
    CHECK(class_counts(*s->items[0]).at(17) == 3000);
    CHECK(all_classes(*s->items[1]) ==
          all_classes(*add_cloud(Site{}, s->items[1]->cloud, "Gate", "")->active_item()));
}

TEST_CASE("ClassesThatMakeNoSenseAreRefused") {
    SitePtr s = scan(100, 8);
    CHECK_THROWS_AS(class_selection(*s, 2, decision()), Error);
    CHECK_THROWS_AS(class_parts(*s, {}, 2, decision()), Error);
    s = set_locked(*s, s->active, true);
    const Parts all{{s->active, std::make_shared<const ElementSet>(ElementSet::all(100))}};
    CHECK_THROWS_AS(class_parts(*s, all, 2, decision()), Error);
    const mesh::TriMesh m{{{0, 0, 0}, {1, 0, 0}, {0, 1, 0}}, {{0, 1, 2}}};
    const auto c = cloud::cloud_of_triangles(m, {"m", ""});
    const SitePtr t = add_cloud(Site{}, c, "Mesh", "");
    CHECK_THROWS_AS(
        class_parts(*t, {{t->active, std::make_shared<const ElementSet>(ElementSet::all(1))}}, 2, decision()),
        Error);
    CHECK_THROWS_AS(show_class(*t, t->active, 2, false), Error);
    CHECK_THROWS_AS(put_class(*t, {70, "Lock gate", 0x1000000}), Error);
}

TEST_CASE("ASiteHasNamesAndColoursOfItsOwn") {
    SitePtr s = std::make_shared<const Site>();
    CHECK(class_name(*s, 6) == "Building");
    CHECK(class_name(*s, 70) == "Class 70");
    s = put_class(*s, {70, "Lock gate", 0x112233});
    s = put_class(*s, {6, "", 0x445566});
    CHECK(class_name(*s, 70) == "Lock gate");
    CHECK(class_colour(*s, 70) == 0x112233);
    CHECK(class_name(*s, 6) == "Building");
    CHECK(class_colour(*s, 6) == 0x445566);
    REQUIRE(s->classes.size() == 2);
    CHECK(s->classes[0].code == 6);
    s = put_class(*s, {70, "Gate", 0x112233});
    CHECK(s->classes.size() == 2);
    s = drop_class(*s, 70);
    CHECK(class_name(*s, 70) == "Class 70");
}

TEST_CASE("DecidedClassesAreInTheProject") {
    const test::TemporaryFolder f;
    std::mt19937_64 dice(9);
    SitePtr s = scan(70000, 9);
    s = give(s, random_set(70000, 0.5, dice), 6);
    s = give(s, random_set(70000, 0.2, dice), 70);
    s = set_decision_active(*s, s->active_item()->ledger[0].id, false);
    s = put_class(*s, {70, "Schleusentor Süd", 0x334455});
    s = show_class(*s, s->active, 70, false);
    {
        const auto p = store::Project::create(f / "site.pristine");
        p->write({1, "start", s}, Progress::none());
    }
    const auto p = store::Project::open(f / "site.pristine");
    const SitePtr back = p->load(Progress::none()).now();
    const Item &a = *s->active_item(), &b = *back->active_item();
    CHECK(all_classes(a) == all_classes(b));
    CHECK(b.unseen_classes == std::vector<std::uint8_t>{70});
    CHECK(*a.absent == *b.absent);
    CHECK(back->classes == s->classes);
    CHECK(b.ledger[0].to_class == std::uint8_t{6});
    CHECK_FALSE(b.ledger[0].active);
    CHECK(back->active_item()->removed->empty());
}

TEST_CASE("AProjectThatIsWrittenToIsOfThisFormat") {
    // An older program would read classes as removals: it must refuse the file.
    const test::TemporaryFolder f;
    const SitePtr s = scan(100, 9);
    const auto version = [&] {
        store::Database db(f / "a.pristine", store::Database::Mode::ReadWrite);
        store::Statement s = db.prepare("PRAGMA user_version");
        s.step();
        return static_cast<int>(s.number(0));
    };
    store::Project::create(f / "a.pristine")->write({1, "start", s}, Progress::none());
    const int current = version();
    CHECK(current >= 4);
    std::string bytes = test::read_file(f / "a.pristine");
    bytes[63] = 3;
    test::write_file(f / "a.pristine", bytes);
    {
        const auto p = store::Project::open(f / "a.pristine");
        CHECK(p->load(Progress::none()).now()->items.size() == 1);
        p->write({2, "more", s}, Progress::none());
    }
    CHECK(version() == current);
    bytes[63] = static_cast<char>(current + 1);
    test::write_file(f / "b.pristine", bytes);
    CHECK_THROWS_WITH(store::Project::open(f / "b.pristine"), Catch::Contains("later version"));
}

TEST_CASE("ClassSetsOfACloudAreThoseOfItsColumn") {
    for (const auto n : {std::uint64_t{1}, std::uint64_t{65536}, std::uint64_t{140000}}) {
        const auto c = test::random_cloud(n, test::Shape::Clusters, n);
        std::uint64_t all = 0;
        const auto sets = cloud::class_sets(c);
        for (const auto& [code, set] : *sets) {
            all += set.count();
            bool right = true;
            set.for_each([&, code = code](std::uint64_t i) {
                right &= c->classification()->value(static_cast<std::size_t>(i / kPageSize), i % kPageSize) ==
                         code;
            });
            CHECK(right);
        }
        CHECK(all == n);
        CHECK(cloud::class_sets(c) == sets);  // remembered
    }
}
