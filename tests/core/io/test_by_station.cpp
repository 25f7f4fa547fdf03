// Kept records station by station, against a list that is made one record at a time.

#include "core/io/by_station.h"

#include <catch2/catch.hpp>

#include <map>
#include <random>

#include "core/io/keep.h"
#include "support/cloud_makers.h"

using namespace pristine;

namespace {

struct Group {
    std::string station;
    std::uint64_t told = 0;
    std::vector<std::string> records;
};

std::vector<Group> groups_of(const io::WriteItem& item, std::uint64_t& total) {
    std::vector<Group> groups;
    const std::size_t bytes = item.cloud->records()->layout().record_bytes;
    io::StationVisitor v;
    bool open = false;
    v.begin = [&](const cloud::Station* s, std::uint64_t n) {
        CHECK_FALSE(open);
        open = true;
        groups.push_back({s ? s->name : "", n, {}});
    };
    v.add = [&](const std::byte* r) {
        groups.back().records.emplace_back(reinterpret_cast<const char*>(r), bytes);
    };
    v.end = [&] { open = false; };
    total = io::for_each_station(item, Progress::none(), 0, 1, v);
    CHECK_FALSE(open);
    return groups;
}

// The places of kept points, by the number in the column "scan".
std::map<std::string, std::vector<std::string>> expected(const io::WriteItem& item) {
    std::map<std::string, std::vector<std::string>> all;
    const auto records = item.cloud->records();
    const cloud::RecordLayout& l = records->layout();
    std::vector<bool> placed(records->count(), false);
    for (std::size_t p = 0; p < item.cloud->page_count(); ++p)
        for (const std::uint32_t r : item.cloud->order()->page(p)) placed[r] = true;
    std::vector<std::byte> one(l.record_bytes);
    for (std::uint64_t r = 0; r < records->count(); ++r) {
        if (!placed[r] || (item.keep && !(*item.keep)[r])) continue;
        records->read(r, one);
        const auto scan = static_cast<std::size_t>(cloud::value(*l.find("scan"), one.data()));
        all[item.cloud->stations().at(scan).name].emplace_back(reinterpret_cast<const char*>(one.data()),
                                                               one.size());
    }
    return all;
}

}  // namespace

TEST_CASE("RecordsComeStationByStation") {
    std::mt19937_64 dice(test::seed_for("RecordsComeStationByStation"));
    const test::TemporaryFolder f;
    io::write_cloud({{test::e57_scans(4'000, dice()), nullptr}}, f / "two.e57");
    const auto cloud = io::read_cloud(f / "two.e57").cloud;
    REQUIRE(cloud->stations().size() == 2);
    REQUIRE(cloud->records()->layout().find("scan"));
    for (const int kept_of_ten : {10, 5, 0}) {
        auto keep = std::make_shared<io::KeepBits>(cloud->records()->count(), true);
        for (std::uint64_t r = 0; r < cloud->records()->count(); ++r)
            if (static_cast<int>(dice() % 10) >= kept_of_ten) keep->drop(r);
        io::WriteItem item{cloud, keep};
        std::uint64_t total = 0;
        const auto groups = groups_of(item, total);
        const auto wanted = expected(item);
        CAPTURE(kept_of_ten);
        std::uint64_t records = 0;
        for (const Group& g : groups) {
            records += g.records.size();
            CHECK(g.told == g.records.size());
            if (!g.records.empty()) CHECK(g.records == wanted.at(g.station));
        }
        CHECK(total == records);
        if (kept_of_ten == 0) {
            REQUIRE(groups.size() == 1);
            CHECK(groups[0].told == 0);
        } else {
            CHECK(groups.size() == wanted.size());
        }
    }
}

TEST_CASE("RecordsWithoutAStationComeByThemselves") {
    const auto cloud = test::random_cloud(1000, test::Shape::Terrain, 3);
    std::uint64_t total = 0;
    const auto groups = groups_of({cloud, nullptr}, total);
    REQUIRE(groups.size() == 1);
    CHECK(groups[0].station.empty());
    CHECK(total == 1000);
}
