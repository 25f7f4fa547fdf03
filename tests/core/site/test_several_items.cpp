// Selections and decisions over several items, against sets that are kept one element at a time.

#include <catch2/catch.hpp>

#include <map>
#include <random>
#include <set>

#include "core/base/error.h"
#include "core/site/history.h"
#include "core/site/site.h"
#include "core/store/project.h"
#include "support/cloud_makers.h"

using namespace pristine;
using namespace pristine::site;

namespace {

constexpr std::uint64_t kSize = 300;
using Slow = std::map<std::uint64_t, std::set<std::uint64_t>>;  // item -> elements

SitePtr several(int n) {
    std::mt19937_64 random(5);
    SitePtr s = std::make_shared<const Site>();
    for (int i = 0; i < n; ++i)
        s = add_cloud(*s, test::random_cloud(kSize, test::Shape::Clusters, random()),
                      "Pier " + std::to_string(i + 1), "");
    return s;
}

Parts random_parts(const Site& s, const Reach& reach, std::mt19937_64& random) {
    Parts parts;
    for (const std::uint64_t id : reach) {
        ElementSet set(s.item(id)->cloud->size());
        for (std::uint64_t k = random() % 60; k > 0; --k) set.insert(random() % kSize);
        parts[id] = std::make_shared<const ElementSet>(std::move(set));
    }
    return parts;
}

std::set<std::uint64_t> members(const SetPtr& set) {
    std::set<std::uint64_t> out;
    if (set) set->for_each([&](std::uint64_t e) { out.insert(e); });
    return out;
}

Slow slow_of(const Parts& parts) {
    Slow out;
    for (const auto& [id, set] : parts)
        if (!members(set).empty()) out[id] = members(set);
    return out;
}

std::set<std::uint64_t> touchable(const Item& i) {
    std::set<std::uint64_t> out;
    if (!i.visible || i.locked) return out;
    for (std::uint64_t e = 0; e < kSize; ++e)
        if (!i.absent->contains(e) && !(i.guarded && i.guarded->contains(e))) out.insert(e);
    return out;
}

// One element after another.
Slow combined_slowly(const Site& s, const Slow& before, const Parts& fresh, Combine how) {
    Slow out = how == Combine::New ? Slow() : before;
    for (const auto& [id, set] : fresh) {
        const auto allowed = touchable(*s.item(id));
        std::set<std::uint64_t> now;
        for (std::uint64_t e = 0; e < kSize; ++e) {
            const bool was = before.contains(id) && before.at(id).contains(e);
            const bool is = set->contains(e) && allowed.contains(e);
            if (how == Combine::New        ? is
                : how == Combine::Add      ? was || is
                : how == Combine::TakeAway ? was && !is
                                           : was && is)
                now.insert(e);
        }
        if (now.empty())
            out.erase(id);
        else
            out[id] = now;
    }
    return out;
}

Decision decided(const char* reason) {
    return {reason, by({}), {"ada", "2026-11-30T08:00:00"}, nullptr};
}

}  // namespace

TEST_CASE("SelectionsOfSeveralItemsAreThoseOfEachItem", "[property]") {
    const auto seed = std::random_device{}();
    CAPTURE(seed);
    std::mt19937_64 random(seed);
    SitePtr s = several(4);
    for (int step = 0; step < 300; ++step) {
        CAPTURE(step);
        const std::uint64_t any = s->items[random() % s->items.size()]->id;
        const Reach reach = reach_of(*s, random() % 3 != 0);
        const auto how = static_cast<Combine>(random() % 4);
        const Slow before = s->of_removed ? Slow() : slow_of(s->selection);
        switch (random() % 9) {
            case 0:
                s = set_visible(*s, any, !s->item(any)->visible);
                break;
            case 1:
                s = set_locked(*s, any, !s->item(any)->locked);
                break;
            case 2:
                s = activate(*s, any);
                break;
            case 3:
                if (!s->selection.empty() && !s->of_removed) {
                    const Slow taken = slow_of(s->selection);
                    const std::uint64_t number = s->next_id;
                    s = remove_selection(*s, decided("Noise"));
                    CHECK(s->selection.empty());
                    CHECK(items_of_decision(*s, number).size() == taken.size());
                    for (const auto& [id, set] : taken)
                        CHECK(members(s->item(id)->entry(number)->elements) == set);
                    const bool lifted = random() % 2;
                    if (lifted) s = set_decision_active(*s, number, false);
                    for (const auto& [id, set] : taken)
                        for (const std::uint64_t e : set)
                            REQUIRE(s->item(id)->removed->contains(e) == !lifted);
                }
                break;
            case 4:
                if (!s->selection.empty()) s = guard(*s, s->selection, "Kept");
                break;
            default: {
                const Parts fresh = random_parts(*s, reach, random);
                const Slow expected = combined_slowly(*s, before, fresh, how);
                s = site::select(*s, fresh, how);
                CHECK(slow_of(s->selection) == expected);
            }
        }
        // Law 3.
        for (const auto& [id, set] : s->selection) {
            REQUIRE_FALSE(set->empty());
            const auto allowed = touchable(*s->item(id));
            for (const std::uint64_t e : members(set)) REQUIRE(allowed.contains(e));
        }
    }
}

TEST_CASE("KeepingOnlyTheSelectionOfAllThatIsShownLeavesNothingElse") {
    SitePtr s = several(3);
    s = set_locked(*s, s->items[2]->id, true);
    const Reach reach = reach_of(*s, true);
    REQUIRE(reach.size() == 2);
    ElementSet one(kSize);
    one.insert(7);
    s = site::select(*s, Parts{{reach[0], std::make_shared<const ElementSet>(one)}}, Combine::New);
    const SitePtr alone = keep_only_selection(*s, decided("Else"));
    CHECK(alone->items[0]->shown() == 1);
    CHECK(alone->items[1]->shown() == kSize);
    const SitePtr all = keep_only_selection(*s, decided("Else"), reach);
    CHECK(all->items[0]->shown() == 1);
    CHECK(all->items[1]->shown() == 0);
    CHECK(all->items[2]->shown() == kSize);
    CHECK(all->items[0]->ledger[0].id == all->items[1]->ledger[0].id);
    const SitePtr back = set_entry_active(*all, reach[1], all->items[1]->ledger[0].id, false);
    CHECK(back->items[1]->shown() == kSize);
    CHECK(back->items[0]->shown() == 1);
    CHECK(set_decision_active(*back, all->items[0]->ledger[0].id, false)->items[0]->shown() == kSize);
}

TEST_CASE("AKeptSelectionOfSeveralItemsComesBackWhole") {
    std::mt19937_64 random(3);
    SitePtr s = several(3);
    s = site::select(*s, random_parts(*s, reach_of(*s, true), random), Combine::New);
    const Slow kept = slow_of(s->selection);
    s = keep_selection(*s, "Formwork");
    const std::uint64_t id = s->items[0]->kept[0].id;
    s = clear_selection(*s);
    CHECK(slow_of(reselect(*s)->selection) == kept);
    CHECK(slow_of(use_kept(*s, id, Combine::New)->selection) == kept);
    const SitePtr gone = drop_kept(*s, id);
    for (const ItemPtr& i : gone->items) CHECK(i->kept.empty());
    CHECK_THROWS_AS(use_kept(*gone, id, Combine::New), Error);
}

TEST_CASE("PartsOfSeveralItemsArePutBackSetApartAndHidden") {
    std::mt19937_64 random(9);
    SitePtr s = several(3);
    s = site::select(*s, random_parts(*s, reach_of(*s, true), random), Combine::New);
    const Slow chosen = slow_of(s->selection);
    const SitePtr hidden = hide_selection(*s);
    for (const auto& [id, set] : chosen) CHECK(hidden->item(id)->shown() == kSize - set.size());
    const SitePtr only = show_only_selection(*s, reach_of(*s, true));
    for (const ItemPtr& i : only->items)
        CHECK(i->shown() == (chosen.contains(i->id) ? chosen.at(i->id).size() : 0));
    const SitePtr apart = set_apart(*s, "Scaffold", true);
    REQUIRE(apart->items.size() == 3 + chosen.size());
    CHECK(apart->items[3]->name == "Scaffold of Pier 1");
    CHECK(apart->items[3]->shown() == chosen.begin()->second.size());

    // A part of a decision comes back; the rest of it is one decision again.
    SitePtr out = remove_selection(*s, decided("Person"));
    Parts some;
    for (const ItemPtr& i : out->items) {
        ElementSet first(kSize);
        if (!i->ledger.empty()) first.insert(*members(i->ledger[0].elements).begin());
        some[i->id] = std::make_shared<const ElementSet>(first);
    }
    const std::uint64_t number = out->next_id;
    out = put_back_selection(*select_removed(*out, some, Combine::New));
    for (const auto& [id, set] : chosen) CHECK(out->item(id)->removed->count() == set.size() - 1);
    CHECK(items_of_decision(*out, number).size() == chosen.size());
}

TEST_CASE("ASelectionInAnotherItemStaysWhenThatComesInWork") {
    SitePtr s = several(2);
    ElementSet one(kSize);
    one.insert(4);
    const std::uint64_t other = s->items[1]->id;
    const SitePtr there =
        site::select(*s, Parts{{other, std::make_shared<const ElementSet>(one)}}, Combine::New);
    CHECK(activate(*there, other)->selected() == 1);
    const SitePtr here = site::select(*s, one, Combine::New);
    CHECK(activate(*here, other)->selected() == 0);
    CHECK(drop_item(*there, other)->selection.empty());
}

TEST_CASE("AProjectKeepsWhatIsSelectedInSeveralItems") {
    const test::TemporaryFolder f;
    std::mt19937_64 random(21);
    SitePtr s = several(3);
    s = site::select(*s, random_parts(*s, reach_of(*s, true), random), Combine::New);
    const Slow first = slow_of(s->selection);
    s = remove_selection(*s, decided("Person"));
    s = site::select(*s, random_parts(*s, reach_of(*s, true), random), Combine::New);
    History h(s);
    {
        const auto p = store::Project::create(f / "a.pristine");
        p->write(h.current(), Progress::none());
    }
    const auto p = store::Project::open(f / "a.pristine");
    const SitePtr back = p->load(Progress::none()).now();
    CHECK(slow_of(back->selection) == slow_of(s->selection));
    CHECK(slow_of(back->last_selection) == first);
    CHECK(items_of_decision(*back, back->items[0]->ledger[0].id).size() == first.size());
}

TEST_CASE("ManyDecisionsAtOnceAreAsOneAfterTheOther", "[property]") {
    const auto seed = std::random_device{}();
    CAPTURE(seed);
    std::mt19937_64 random(seed);
    for (int round = 0; round < 20; ++round) {
        CAPTURE(round);
        SitePtr s = several(3);
        std::vector<std::uint64_t> numbers;
        for (int i = 0; i < 8; ++i) {
            s = site::select(*s, random_parts(*s, reach_of(*s, true), random), Combine::New);
            if (s->selection.empty()) continue;
            numbers.push_back(s->next_id);
            s = remove_selection(*s, decided("Noise"));
        }
        std::vector<std::uint64_t> chosen;
        for (const std::uint64_t id : numbers)
            if (random() % 2) chosen.push_back(id);
        if (chosen.empty() || chosen.size() == numbers.size()) continue;
        std::shuffle(chosen.begin(), chosen.end(), random);
        SitePtr one = s;
        for (auto id = numbers.rbegin(); id != numbers.rend(); ++id)
            if (std::find(chosen.begin(), chosen.end(), *id) != chosen.end())
                one = set_decision_active(*one, *id, false);
        const SitePtr lifted = set_decisions_active(*s, chosen, false);
        // Those that are lifted already are left alone; all of them so is nothing to do.
        const SitePtr more = set_decisions_active(*lifted, numbers, false);
        CHECK_THROWS_AS(set_decisions_active(*more, numbers, false), Error);
        const SitePtr again = set_decisions_active(*more, numbers, true);
        for (std::size_t i = 0; i < s->items.size(); ++i) {
            CHECK(members(lifted->items[i]->removed) == members(one->items[i]->removed));
            CHECK(more->items[i]->shown() == kSize);
            CHECK(members(again->items[i]->removed) == members(s->items[i]->removed));
        }
    }
    CHECK_THROWS_AS(set_decisions_active(*several(1), {}, false), Error);
}

TEST_CASE("AKeptSelectionHasItsNewNameInAllItems") {
    std::mt19937_64 random(4);
    SitePtr s = several(3);
    s = keep_selection(*site::select(*s, random_parts(*s, reach_of(*s, true), random), Combine::New), "Form");
    std::uint64_t id = 0;
    for (const ItemPtr& i : s->items)
        if (!i->kept.empty()) id = i->kept[0].id;
    const SitePtr named = rename_kept(*s, id, "Formwork");
    for (const ItemPtr& i : named->items)
        for (const KeptSelection& k : i->kept) CHECK(k.name == "Formwork");
    CHECK_THROWS_AS(rename_kept(*s, id, ""), Error);
    CHECK_THROWS_AS(rename_kept(*s, id + 999, "Formwork"), Error);
}
