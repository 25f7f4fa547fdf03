// Files of many scans: each scan by itself, and all together again.

#include <catch2/catch.hpp>

#include <random>
#include <set>

#include "core/base/error.h"
#include "core/cloud/by_records.h"
#include "core/io/cloud_io.h"
#include "core/io/e57/e57.h"
#include "core/io/keep.h"
#include "core/io/scans.h"
#include "core/site/scans.h"
#include "demo/trials.h"
#include "support/cloud_makers.h"

using namespace pristine;

namespace {

std::string records_of(const cloud::PointCloud& c) {
    std::vector<std::byte> raw(c.records()->count() * c.records()->layout().record_bytes);
    c.records()->read(0, raw);
    return {reinterpret_cast<const char*>(raw.data()), raw.size()};
}

std::vector<io::ReadResult> read_apart(const std::filesystem::path& p) {
    io::ReadOptions each;
    each.scans_apart = true;
    return io::read_items(p, each);
}

// A trial site as one file of as many scans as it has stations.
std::filesystem::path six_scans(const std::filesystem::path& folder, const char* ending) {
    std::vector<demo::Truth> ignored;
    const demo::Trial t = demo::make_trial("passers", 11, 0.05);
    REQUIRE(t.stations.size() > 2);
    const auto file = folder / (std::string("halle süd.") + ending);
    io::write_cloud({{demo::cloud_of(t, ignored)}}, file);
    return file;
}

void check_apart(const std::filesystem::path& file, const std::filesystem::path& again) {
    const auto whole = io::read_cloud(file).cloud;
    const auto parts = read_apart(file);
    REQUIRE(parts.size() == whole->stations().size());
    std::uint64_t points = 0;
    for (std::size_t k = 0; k < parts.size(); ++k) {
        const cloud::PointCloud& c = *parts[k].cloud;
        points += c.size();
        REQUIRE(c.stations().size() == 1);
        CHECK(c.stations()[0].name == whole->stations()[k].name);
        CHECK(c.stations()[0].position == whole->stations()[k].position);
        CHECK_FALSE(parts[k].name.empty());
        CHECK(c.unit() == whole->unit());
        CHECK(c.crs() == whole->crs());
    }
    CHECK(points == whole->size());

    // Written from the parts it is the file that the whole makes.
    std::vector<io::WriteItem> items;
    for (const auto& p : parts) items.push_back({p.cloud});
    io::write_cloud(items, again);
    const auto back = io::read_cloud(again).cloud;
    CHECK(records_of(*back) == records_of(*whole));
    CHECK(back->stations().size() == whole->stations().size());

    // DisjointSets in memory too, and parted again.
    std::vector<std::shared_ptr<const cloud::PointCloud>> clouds;
    for (const auto& p : parts) clouds.push_back(p.cloud);
    const auto joined = io::joined_scans(clouds);
    CHECK(records_of(*joined) == records_of(*whole));
    CHECK(joined->records()->layout().head == whole->records()->layout().head);
    CHECK(joined->size() == whole->size());
    CHECK(io::has_several_scans(*joined));
    CHECK_FALSE(io::has_several_scans(*clouds[0]));
    const auto once_more = io::parted_by_scan(*joined);
    REQUIRE(once_more.size() == parts.size());
    for (std::size_t k = 0; k < parts.size(); ++k) {
        CHECK(once_more[k].name == parts[k].name);
        CHECK(once_more[k].cloud->size() == parts[k].cloud->size());
        CHECK(once_more[k].cloud->intensity_range() == parts[k].cloud->intensity_range());
    }
    // Two joined, then the others: the same again.
    if (clouds.size() < 3) return;
    std::vector<std::shared_ptr<const cloud::PointCloud>> rest(clouds.begin() + 2, clouds.end());
    rest.insert(rest.begin(), io::joined_scans({clouds[0], clouds[1]}));
    CHECK(records_of(*io::joined_scans(rest)) == records_of(*whole));
}

}  // namespace

TEST_CASE("EachScanOfAnE57IsAnItemAndTogetherTheyAreTheFile") {
    const test::TemporaryFolder f;
    check_apart(six_scans(f / "", "e57"), f / "again.e57");
    // Two scans of different channels: cartesian with a grid, spherical in floats.
    io::write_cloud({{test::e57_scans(3000, 4), nullptr}}, f / "two.e57");
    check_apart(f / "two.e57", f / "two again.e57");
}

TEST_CASE("EachScanOfAPtxIsAnItemAndTogetherTheyAreTheFile") {
    const test::TemporaryFolder f;
    test::write_file(f / "two.ptx", test::ptx_text(40, 30, true));
    check_apart(f / "two.ptx", f / "again.ptx");
    // The very text, from the parts as from the whole.
    io::write_cloud({{io::read_cloud(f / "two.ptx").cloud}}, f / "whole.ptx");
    CHECK(test::read_file(f / "again.ptx") == test::read_file(f / "whole.ptx"));
}

TEST_CASE("AFileOfOneScanIsOneItemHoweverItIsAskedFor") {
    const test::TemporaryFolder f;
    const auto file = six_scans(f / "", "e57");
    auto parts = read_apart(file);
    io::write_cloud({{parts[0].cloud}}, f / "one.e57");
    CHECK(read_apart(f / "one.e57").size() == 1);
    CHECK_THROWS_AS(io::parted_by_scan(*parts[0].cloud), Error);
    io::write_cloud({{parts[1].cloud}}, f / "one.las");
    CHECK_THROWS_AS(io::joined_scans({parts[0].cloud, io::read_cloud(f / "one.las").cloud}), Error);
    CHECK_THROWS_AS(io::joined_scans({parts[0].cloud}), Error);
}

TEST_CASE("DecisionsStayWithTheirPointsWhenScansArePartedAndJoined", "[property]") {
    const auto seed = std::random_device{}();
    CAPTURE(seed);
    std::mt19937_64 random(seed);
    const test::TemporaryFolder f;
    const auto whole = io::read_cloud(six_scans(f / "", "e57")).cloud;
    site::SitePtr s = site::add_cloud({}, whole, "Hall", "");
    const std::uint64_t id = s->active;
    const auto any = [&](std::uint64_t n) {
        ElementSet set(whole->size());
        for (std::uint64_t i = 0; i < n; ++i) set.insert(random() % whole->size());
        return set;
    };
    const auto decide = [&](const char* reason) {
        s = site::select(*s, any(2000), site::Combine::New);
        s = site::remove_selection(*s, {reason, site::by({}), {"ada", "2026-11-30T08:00:00"}, nullptr});
    };
    decide("Noise");
    decide("Person");
    const std::uint64_t person = s->active_item()->ledger[1].id;
    s = site::set_entry_active(*s, id, person, false);
    s = site::guard(*s, any(500), "Edge");
    s = site::select(*s, any(700), site::Combine::New);
    s = site::hide_selection(*s);
    s = site::select(*s, any(300), site::Combine::New);
    s = site::keep_selection(*s, "Wall");
    const site::ItemPtr before = s->active_item();

    const site::SitePtr parted = site::part_scans(*s, id, io::parted_by_scan(*whole));
    std::uint64_t out = 0, hidden = 0, guarded = 0, shown = 0;
    site::Reach ids;
    std::vector<std::shared_ptr<const cloud::PointCloud>> clouds;
    for (const site::ItemPtr& i : parted->items) {
        ids.push_back(i->id);
        clouds.push_back(i->cloud);
        out += i->removed->count();
        hidden += i->hidden ? i->hidden->count() : 0;
        guarded += i->guarded ? i->guarded->count() : 0;
        shown += i->shown();
        CHECK(i->group == "Hall");
    }
    CHECK(out == before->removed->count());
    CHECK(hidden == before->hidden->count());
    CHECK(guarded == before->guarded->count());
    CHECK(shown == before->shown());
    CHECK(site::items_of_decision(*parted, person).size() > 1);

    const site::SitePtr joined = site::join_scans(*parted, ids, io::joined_scans(clouds), "Hall");
    REQUIRE(joined->items.size() == 1);
    const site::Item& after = *joined->items[0];
    const auto same = [&](const ElementSet& a, const ElementSet& b) {
        return cloud::moved_by_records(a, *before->cloud, *after.cloud, 0) == b;
    };
    REQUIRE(after.ledger.size() == 2);
    for (std::size_t k = 0; k < 2; ++k) {
        CHECK(after.ledger[k].id == before->ledger[k].id);
        CHECK(after.ledger[k].active == before->ledger[k].active);
        CHECK(same(*before->ledger[k].elements, *after.ledger[k].elements));
    }
    CHECK(same(*before->removed, *after.removed));
    CHECK(same(*before->hidden, *after.hidden));
    CHECK(same(*before->guarded, *after.guarded));
    REQUIRE(after.kept.size() == 1);
    CHECK(same(*before->kept[0].elements, *after.kept[0].elements));
    CHECK(after.shown() == before->shown());

    // A decision that is lifted in one scan only becomes two.
    const site::ItemPtr one = site::items_of_decision(*parted, before->ledger[0].id)[0];
    const site::SitePtr lifted = site::set_entry_active(*parted, one->id, before->ledger[0].id, false);
    const site::SitePtr two = site::join_scans(*lifted, ids, io::joined_scans(clouds), "Hall");
    CHECK(two->items[0]->ledger.size() == 3);
    CHECK(two->items[0]->removed->count() ==
          before->removed->count() - one->entry(before->ledger[0].id)->elements->count());
    CHECK_THROWS_AS(
        site::join_scans(*site::set_locked(*parted, ids[0], true), ids, io::joined_scans(clouds), "Hall"),
        Error);
}

TEST_CASE("AFileForEachScanHasANameOfItsOwn") {
    const auto names = [](const std::vector<std::string>& scans) {
        std::vector<std::string> out;
        for (const auto& p : io::files_by_scan("/tmp/halle süd.e57", scans)) {
            CHECK(p.parent_path() == "/tmp");
            out.push_back(p.filename().string());
        }
        return out;
    };
    CHECK(names({"Nave", "nave", "Türme", "", "  a/b:c. "}) ==
          std::vector<std::string>{"halle süd - Nave.e57", "halle süd - nave 2.e57", "halle süd - Türme.e57",
                                   "halle süd - 4.e57", "halle süd - a_b_c.e57"});
    CHECK(names({}).empty());
    // Cut at a whole character, and short enough for every file system.
    std::string umlauts;
    for (int i = 0; i < 90; ++i) umlauts += "ü";
    const std::string cut = names({"x" + umlauts})[0];
    CHECK(cut.size() < 255);
    CHECK(cut.find("ü.e57") == cut.size() - 6);
    // "nave 2" may be the name of a scan itself.
    const auto three = names({"nave", "nave 2", "nave"});
    CHECK(std::set<std::string>(three.begin(), three.end()).size() == 3);
}
