#include <catch2/catch.hpp>

#include "core/base/error.h"
#include "core/base/units.h"
#include "core/site/history.h"
#include "support/cloud_makers.h"

using namespace pristine;
using namespace pristine::site;

namespace {

SitePtr with_cloud(std::uint64_t points = 1000) {
    return add_cloud(Site{}, test::random_cloud(points, test::Shape::Terrain, 1), "Chamber", "chamber.las");
}

ElementSet some(std::uint64_t size, std::initializer_list<std::uint64_t> members) {
    ElementSet s(size);
    for (const auto m : members) s.insert(m);
    return s;
}

SitePtr pick(const SitePtr& s, std::initializer_list<std::uint64_t> members, Combine how = Combine::New) {
    return site::select(*s, some(s->active_item()->cloud->size(), members), how);
}

Decision person() {
    return {"Person", site::said("polygon fence"), {"ada", "2026-11-25T08:41:00"}, nullptr};
}

}  // namespace

TEST_CASE("SelectionsCombineAsTheyAreNamed") {
    SitePtr s = pick(with_cloud(), {1, 2, 3});
    s = pick(s, {3, 4}, Combine::Add);
    CHECK(s->selected() == 4);
    s = pick(s, {2, 9}, Combine::TakeAway);
    CHECK(*s->selection_in_work() == some(1000, {1, 3, 4}));
    s = pick(s, {3, 4, 5}, Combine::Both);
    CHECK(*s->selection_in_work() == some(1000, {3, 4}));
    s = pick(s, {7});
    CHECK(*s->selection_in_work() == some(1000, {7}));
    s = pick(s, {8}, Combine::Both);
    CHECK(s->selection_in_work() == nullptr);
}

TEST_CASE("WhatIsOutIsTheUnionOfActiveEntries") {
    SitePtr s = remove_selection(*pick(with_cloud(), {1, 2, 3}), person());
    const auto id = s->active;
    const auto first = s->active_item()->ledger[0].id;
    CHECK(s->active_item()->shown() == 997);
    CHECK(s->selection_in_work() == nullptr);
    s = pick(s, {2, 3, 4});  // 2 and 3 are out already and cannot be selected again
    CHECK(s->selected() == 1);
    s = remove_selection(*s, person());
    const auto second = s->active_item()->ledger[1].id;
    CHECK(s->active_item()->shown() == 996);
    s = set_entry_active(*s, id, first, false);
    CHECK(*s->active_item()->removed == some(1000, {4}));
    s = remove_selection(*pick(s, {1, 4, 6}), person());  // overlaps the lifted entry
    s = set_entry_active(*s, id, first, true);
    CHECK(*s->active_item()->removed == some(1000, {1, 2, 3, 4, 6}));
    s = set_entry_active(*s, id, second, false);
    CHECK(*s->active_item()->removed == some(1000, {1, 2, 3, 6}));
    s = set_entry_active(*s, id, first, false);
    CHECK(*s->active_item()->removed == some(1000, {1, 6}));
}

TEST_CASE("ApplyingAnEntryAgainTakesItOffTheSelection") {
    SitePtr s = remove_selection(*pick(with_cloud(), {1, 2}), person());
    s = set_entry_active(*s, s->active, s->active_item()->ledger[0].id, false);
    s = pick(s, {2, 3});
    s = set_entry_active(*s, s->active, s->active_item()->ledger[0].id, true);
    CHECK(*s->selection_in_work() == some(1000, {3}));
}

TEST_CASE("KeepOnlyTakesEverythingElseAndRefusesToLeaveNothing") {
    SitePtr s = pick(with_cloud(), {5, 6});
    const SitePtr kept = keep_only_selection(*s, person());
    CHECK(*kept->active_item()->removed == ~some(1000, {5, 6}));
    CHECK_THROWS_AS(keep_only_selection(*with_cloud(), person()), Error);
    CHECK_THROWS_AS(keep_only_selection(*invert_selection(*with_cloud()), person()), Error);
    CHECK_THROWS_AS(remove_selection(*with_cloud(), person()), Error);
}

TEST_CASE("HiddenAndLockedItemsAreSafeFromTools") {
    const SitePtr s = pick(with_cloud(), {1});
    for (const SitePtr& safe : {set_visible(*s, s->active, false), set_locked(*s, s->active, true)}) {
        CHECK(safe->selection_in_work() == nullptr);
        CHECK_THROWS_AS(pick(safe, {2}), Error);
        CHECK(eligible(*safe->active_item()).empty());
    }
    CHECK(pick(set_visible(*set_visible(*s, s->active, false), s->active, true), {2})->selected() == 1);
}

TEST_CASE("ChangingTheItemInWorkDropsTheSelection") {
    SitePtr s = pick(with_cloud(), {1});
    s = add_cloud(*s, test::random_cloud(10, test::Shape::Line, 2), "Second", "second.las");
    CHECK(s->selected() == 1);  // the first stays in work
    s = activate(*s, s->items[1]->id);
    CHECK(s->selection_in_work() == nullptr);
    CHECK_THROWS_AS(activate(*s, 999), Error);
    CHECK(drop_item(*s, s->active)->active == s->items[0]->id);
}

TEST_CASE("ASnapshotSharesWhatDidNotChange") {
    const SitePtr a = remove_selection(*pick(with_cloud(), {1}), person());
    const SitePtr b = rename_item(*pick(a, {2}), a->active, "Other");
    CHECK(a->active_item()->name == "Chamber");
    CHECK(b->active_item()->cloud == a->active_item()->cloud);
    CHECK(b->active_item()->removed == a->active_item()->removed);
    CHECK(b->active_item()->ledger[0].elements == a->active_item()->ledger[0].elements);
    CHECK(set_entry_reason(*b, b->active, b->active_item()->ledger[0].id, "Noise")
              ->active_item()
              ->ledger[0]
              .reason == "Noise");
    CHECK(a->active_item()->ledger[0].reason == "Person");
}

TEST_CASE("ADuplicateSharesPointsAndGoesItsOwnWay") {
    SitePtr s = remove_selection(*pick(with_cloud(), {1}), person());
    s = duplicate_item(*s, s->active);
    REQUIRE(s->items.size() == 2);
    CHECK(s->items[1]->cloud == s->items[0]->cloud);
    CHECK(s->items[1]->id != s->items[0]->id);
    CHECK(s->items[1]->ledger[0].id != s->items[0]->ledger[0].id);
    const SitePtr lifted = set_entry_active(*s, s->items[1]->id, s->items[1]->ledger[0].id, false);
    CHECK(lifted->items[1]->removed->empty());
    CHECK(lifted->items[0]->removed->count() == 1);
}

TEST_CASE("AGroupIsShownAndHiddenInOneStep") {
    SitePtr s = pick(with_cloud(), {1});
    s = duplicate_item(*s, s->active);
    s = duplicate_item(*s, s->active);
    s = set_group(*set_group(*s, s->items[0]->id, "Chamber"), s->items[1]->id, "Chamber");
    const SitePtr hidden = set_group_visible(*s, "Chamber", false);
    CHECK_FALSE(hidden->items[0]->visible);
    CHECK_FALSE(hidden->items[1]->visible);
    CHECK(hidden->items[2]->visible);
    CHECK(hidden->selection_in_work() == nullptr);  // the item in work is hidden with its group
    CHECK(set_group_visible(*hidden, "Chamber", true)->items[1]->visible);
    CHECK(s->items[0]->visible);
}

TEST_CASE("ReasonsGatherTheirActiveEntries") {
    SitePtr s = remove_selection(*pick(with_cloud(), {1, 2}), person());
    Decision noise = person();
    noise.reason = "Noise";
    s = remove_selection(*pick(s, {5}), noise);
    s = remove_selection(*pick(s, {7}), person());
    const Item& item = *s->active_item();
    CHECK(item.reasons() == std::vector<std::string>{"Person", "Noise"});
    CHECK(item.out_for("Person") == some(1000, {1, 2, 7}));
    s = set_entry_active(*s, s->active, item.ledger[0].id, false);
    CHECK(s->active_item()->out_for("Person") == some(1000, {7}));
}

TEST_CASE("UndoRedoDoAfterUndo") {
    const SitePtr first = with_cloud();
    History h(first);
    CHECK_FALSE(h.can_undo());
    const SitePtr second = pick(first, {1});
    h.commit(second, "Select 1 point");
    const SitePtr third = remove_selection(*second, person());
    h.commit(third, "Remove 1 point");
    CHECK(h.undo_title() == "Remove 1 point");
    h.undo();
    CHECK(h.now() == second);
    CHECK(h.now()->selected() == 1);  // the selection came back too
    h.undo();
    CHECK(h.now() == first);
    CHECK(h.redo_title() == "Select 1 point");
    h.redo();
    h.redo();
    CHECK(h.now() == third);
    CHECK_FALSE(h.can_redo());
    h.undo();
    const auto number = h.commit(pick(second, {7}), "Select another").number;
    CHECK_FALSE(h.can_redo());
    CHECK(number > 2);
    CHECK_THROWS_AS(h.go_to(17), Error);
    CHECK(h.commits().size() == 3);
}

TEST_CASE("GuardedAndHiddenElementsAreSafeFromEveryDecision") {
    SitePtr s = guard(*with_cloud(), some(1000, {1, 2, 3}), "Ground");
    s = pick(s, {2, 3, 4});
    CHECK(*s->selection_in_work() == some(1000, {4}));
    CHECK(*invert_selection(*s)->selection_in_work() == ~some(1000, {1, 2, 3, 4}));
    const SitePtr kept = keep_only_selection(*s, person());
    CHECK(*kept->active_item()->removed == ~some(1000, {1, 2, 3, 4}));
    CHECK(kept->active_item()->shown() == 4);
    // A guard on what is selected lets go of it; lifted, all can be taken again.
    const SitePtr late = guard(*pick(with_cloud(), {5, 6}), some(1000, {5}), "Selection");
    CHECK(*late->selection_in_work() == some(1000, {6}));
    const SitePtr lifted = lift_guard(*s, s->active, s->active_item()->guards[0].id);
    CHECK(lifted->active_item()->guarded == nullptr);
    CHECK(pick(lifted, {2})->selected() == 1);
    CHECK_THROWS_AS(lift_guard(*lifted, s->active, 99), Error);
    CHECK_THROWS_AS(guard(*s, ElementSet(1000), "Nothing"), Error);

    s = hide_selection(*pick(with_cloud(), {7, 8}));
    CHECK(s->active_item()->shown() == 998);
    CHECK(s->selection_in_work() == nullptr);
    CHECK(pick(s, {7})->selection_in_work() == nullptr);
    CHECK(keep_only_selection(*pick(s, {1}), person())->active_item()->removed->contains(7) == false);
    s = show_only_selection(*pick(s, {1, 2}));
    CHECK(s->active_item()->shown() == 2);
    CHECK(show_all(*s, s->active)->active_item()->shown() == 1000);
    CHECK_THROWS_AS(show_all(*with_cloud(), with_cloud()->active), Error);
}

TEST_CASE("APartOfARemovedEntryIsPutBack") {
    SitePtr s = remove_selection(*pick(with_cloud(), {1, 2, 3}), person());
    Decision noise = person();
    noise.reason = "Noise";
    s = remove_selection(*pick(s, {8, 9}), noise);
    CHECK(select_removed(*s, some(1000, {5}), Combine::New)->selection_in_work() == nullptr);  // 5 is not out
    s = select_removed(*s, some(1000, {2, 3, 5, 9}), Combine::New);
    CHECK(s->of_removed);
    CHECK(*s->selection_in_work() == some(1000, {2, 3, 9}));
    CHECK_THROWS_AS(remove_selection(*s, person()), Error);
    CHECK(*invert_selection(*s)->selection_in_work() == some(1000, {1, 8}));
    const SitePtr back = put_back_selection(*s);
    CHECK(*back->active_item()->removed == some(1000, {1, 8}));
    CHECK(back->active_item()->ledger.size() == 4);  // two lifted, two with the rest
    CHECK(back->active_item()->ledger[2].reason == "Person");
    CHECK(back->active_item()->ledger[3].reason == "Noise");
    CHECK(*back->active_item()->ledger[0].elements == some(1000, {1, 2, 3}));  // nothing is edited in place
    CHECK_FALSE(back->of_removed);
    // All of an entry: it is lifted and nothing follows.
    const SitePtr all = put_back_selection(*select_removed(*back, some(1000, {1}), Combine::New));
    CHECK(*all->active_item()->removed == some(1000, {8}));
    CHECK(all->active_item()->ledger.size() == 4);
    CHECK_THROWS_AS(put_back_selection(*all), Error);
    // A selection of the one kind does not go on with the other.
    CHECK(*site::select(*s, some(1000, {4}), Combine::Add)->selection_in_work() == some(1000, {4}));
}

TEST_CASE("PiecesAreSetApartAndPutTogetherAgain") {
    SitePtr s = remove_selection(*pick(with_cloud(), {1}), person());
    s = set_apart(*pick(s, {5, 6, 7}), "Cart", true);
    REQUIRE(s->items.size() == 2);
    const ItemPtr cart = s->items[1];
    CHECK(cart->total() == 3);
    CHECK(cart->cloud == s->items[0]->cloud);  // shared, not copied
    CHECK(s->items[0]->total() == 997);
    CHECK(s->items[0]->shown() == 996);
    CHECK(pick(s, {5})->selection_in_work() == nullptr);
    SitePtr t =
        remove_selection(*site::select(*activate(*s, cart->id), some(1000, {5, 9}), Combine::New), person());
    CHECK(*t->items[1]->removed == some(1000, {5}));
    t = merge_items(*t, t->items[0]->id, cart->id);
    REQUIRE(t->items.size() == 1);
    CHECK(t->items[0]->scope == nullptr);
    CHECK(*t->items[0]->removed == some(1000, {1, 5}));
    CHECK(t->active == t->items[0]->id);
    // A copy leaves the original whole; put back, what the one shows is shown.
    SitePtr copy = set_apart(*pick(with_cloud(), {5, 6}), "Copy", false);
    CHECK(copy->items[0]->total() == 1000);
    copy = remove_selection(*pick(copy, {5, 7}), person());
    copy = merge_items(*copy, copy->items[0]->id, copy->items[1]->id);
    CHECK(*copy->items[0]->removed == some(1000, {7}));
    CHECK_THROWS_AS(set_apart(*invert_selection(*with_cloud()), "All", true), Error);
    CHECK_THROWS_AS(set_apart(*with_cloud(), "None", true), Error);
    const SitePtr other = add_cloud(*with_cloud(), test::random_cloud(10, test::Shape::Grid, 1), "Other", "");
    CHECK_THROWS_AS(merge_items(*other, other->items[0]->id, other->items[1]->id), Error);
}

TEST_CASE("SelectionsAreKeptByNameAndTheLastOneComesBack") {
    SitePtr s = keep_selection(*pick(with_cloud(), {1, 2}), "Left wall");
    const std::uint64_t id = s->active_item()->kept[0].id;
    s = clear_selection(*s);
    CHECK(*reselect(*s)->selection_in_work() == some(1000, {1, 2}));
    CHECK_THROWS_AS(reselect(*with_cloud()), Error);
    s = pick(s, {2, 9});
    CHECK(*use_kept(*s, id, Combine::Add)->selection_in_work() == some(1000, {1, 2, 9}));
    s = remove_selection(*s, person());
    CHECK(*use_kept(*s, id, Combine::New)->selection_in_work() == some(1000, {1}));  // 2 is out meanwhile
    CHECK(reselect(*s)->selection_in_work() == nullptr);
    s = keep_selection(*pick(s, {4}), "Left wall");
    CHECK(s->active_item()->kept.size() == 1);
    CHECK(drop_kept(*s, s->active_item()->kept[0].id)->active_item()->kept.empty());
    CHECK_THROWS_AS(use_kept(*s, 77, Combine::New), Error);
}

TEST_CASE("AClipBoxShowsItsInsideOnlyAndToolsKeepToIt") {
    SitePtr s = with_cloud();
    const Box3 b = s->active_item()->cloud->robust_bounds();
    const select::Box box{
        {b.lo.x, b.lo.y, (b.lo.z + b.hi.z) / 2}, {(b.hi.x - b.lo.x) / 2, (b.hi.y - b.lo.y) / 2, 1000}, 0};
    const ElementSet in =
        select::inside(*s->active_item()->cloud, select::half_spaces(box), ElementSet::all(1000));
    REQUIRE(in.count() > 10);
    REQUIRE(in.count() < 900);
    s = use_clip(*site::select(*s, ElementSet::all(1000), Combine::New), {0, "Corner", box});
    CHECK(*s->selection_in_work() == in);
    CHECK(s->active_item()->shown() == in.count());
    REQUIRE(s->clip_in_force());
    CHECK(s->clip_in_force()->name == "Corner");
    // Removing all that is shown leaves what is outside.
    const SitePtr gone = clear_clip(*remove_selection(*s, person()));
    CHECK(gone->active_item()->shown() == 1000 - in.count());
    CHECK(gone->clip_in_force() == nullptr);
    CHECK(gone->clips.size() == 1);
    // The same box moved; a cloud that comes later is clipped too.
    ClipBox moved = *s->clip_in_force();
    moved.box.centre.x += 1e6;
    const SitePtr empty = use_clip(*s, moved);
    CHECK(empty->clips.size() == 1);
    CHECK(empty->active_item()->shown() == 0);
    CHECK(add_cloud(*empty, test::random_cloud(50, test::Shape::Grid, 2), "Later", "")->items[1]->shown() ==
          0);
    CHECK(drop_clip(*empty, moved.id)->active_item()->shown() == 1000);
    CHECK_THROWS_AS(clear_clip(*gone), Error);
    moved.box.half.z = 0;
    CHECK_THROWS_AS(use_clip(*s, moved), Error);
}

TEST_CASE("LinesArePutChangedAndDropped") {
    const SitePtr none = std::make_shared<const Site>();
    CHECK_THROWS_AS(put_lines(*none, {{0, "short", {{0, 0, 0}}, false, true}}), Error);
    CHECK_THROWS_AS(put_lines(*none, {{0, "flat", {{0, 0, 0}, {1, 0, 0}}, true, true}}), Error);
    CHECK_THROWS_AS(put_lines(*none, {{9, "unknown", {{0, 0, 0}, {1, 0, 0}}, false, true}}), Error);
    const SitePtr two = put_lines(*none, {{0, "edge", {{0, 0, 0}, {3, 4, 0}}, false, true},
                                          {0, "ring", {{0, 0, 0}, {3, 0, 0}, {3, 4, 0}}, true, true}});
    REQUIRE(two->lines.size() == 2);
    CHECK(two->lines[0]->id != two->lines[1]->id);
    CHECK(length_of(*two->lines[0]) == 5);
    CHECK(length_of(*two->lines[1]) == 12);
    Line changed = *two->lines[0];
    changed.points.push_back({3, 4, 12});
    const SitePtr after = put_lines(*two, {changed});
    CHECK(length_of(*after->line(changed.id)) == 17);
    CHECK(after->lines[1] == two->lines[1]);  // shared
    CHECK(length_of(*two->lines[0]) == 5);    // never changed in place
    const SitePtr one = drop_line(*after, changed.id);
    CHECK(one->lines.size() == 1);
    CHECK(one->line(changed.id) == nullptr);
    CHECK_THROWS_AS(drop_line(*one, changed.id), Error);
}

TEST_CASE("TheUnitOfASiteIsOneOfThoseThatThereAre") {
    const SitePtr none = std::make_shared<const Site>();
    CHECK(set_unit(*none, "usft")->unit == "usft");
    CHECK(set_unit(*set_unit(*none, "mm"), "")->unit.empty());
    CHECK_THROWS_AS(set_unit(*none, "cubit"), Error);
    CHECK(length_unit("usft").metres * 3937 == Approx(1200));
    CHECK(length_unit("").metres == 1);
}

TEST_CASE("LinesOfOneGroupAreShownAndDroppedTogether") {
    const SitePtr none = std::make_shared<const Site>();
    std::vector<Line> lines;
    for (int i = 0; i < 5; ++i) {
        lines.push_back(
            {0, "contour " + std::to_string(i), {{0, 0, double(i)}, {1, 0, double(i)}}, false, true});
        if (i < 3) lines.back().group = "contours";
    }
    const SitePtr five = put_lines(*none, lines);
    const SitePtr hidden = show_lines(*five, "contours", false);
    for (std::size_t i = 0; i < 5; ++i) {
        CHECK(hidden->lines[i]->visible == (i >= 3));
        CHECK(five->lines[i]->visible);  // the snapshot before stays
    }
    const SitePtr left = drop_lines(*hidden, "contours");
    REQUIRE(left->lines.size() == 2);
    CHECK(left->lines[0]->name == "contour 3");
    CHECK_THROWS_AS(drop_lines(*left, "contours"), Error);
    CHECK_THROWS_AS(show_lines(*left, "contours", true), Error);
}
