#include <catch2/catch.hpp>

#include "core/base/bytes.h"
#include "core/base/file.h"
#include "core/io/keep.h"
#include "core/io/las/las.h"
#include "support/cloud_makers.h"

using namespace pristine;
using test::LasSpec;

namespace {

std::string evlr() {
    std::string s(60, '\0');
    s.replace(2, 7, "Ashmere");
    store_le(s.data() + 18, std::uint16_t{9});
    store_le(s.data() + 20, std::uint64_t{5});
    return s + "whole";
}

struct Written {
    std::string before, after;
    std::shared_ptr<const cloud::PointCloud> cloud;
};

Written round_trip(const test::TemporaryFolder& folder, const std::string& content,
                   const std::function<bool(std::uint64_t)>& dropped) {
    test::write_file(folder / "in.las", content);
    Written w{content, {}, io::read_cloud(folder / "in.las").cloud};
    auto keep = std::make_shared<io::KeepBits>(w.cloud->size());
    for (std::uint64_t i = 0; i < w.cloud->size(); ++i)
        if (dropped(i)) keep->drop(i);
    io::write_cloud({{w.cloud, keep}}, folder / "out.las", {true});
    w.after = test::read_file(folder / "out.las");
    return w;
}

}  // namespace

TEST_CASE("UntouchedPointsAreWrittenBackBitForBit") {
    const test::TemporaryFolder folder;
    for (const int minor : {0, 1, 2, 3, 4})
        for (int pf = 0; pf <= 10; ++pf) {
            if (minor < 4 && pf > 5) continue;
            CAPTURE(minor, pf);
            const LasSpec spec{minor,
                               pf,
                               1000,
                               static_cast<std::size_t>(pf % 3),
                               minor == 4 ? evlr() : "tail",
                               static_cast<std::uint64_t>(pf)};
            const std::string in = test::las_file(spec);
            CHECK(round_trip(folder, in, [](auto) { return false; }).after == in);
            const Written w = round_trip(folder, in, [](auto i) { return i % 3 == 1; });
            const io::LasHeader h = io::read_las_header(InputFile(folder / "out.las"));
            REQUIRE(h.point_count == 667);
            std::string expected;
            const std::size_t at = h.points_offset, n = h.record_bytes;
            for (std::size_t i = 0; i < 1000; ++i)
                if (i % 3 != 1) expected += in.substr(at + i * n, n);
            CHECK(w.after.substr(at, expected.size()) == expected);
            CHECK(w.after.substr(at + expected.size()) == spec.after);
            CHECK(w.after.substr(h.header_bytes, at - h.header_bytes) ==
                  in.substr(h.header_bytes, at - h.header_bytes));
            if (minor == 4) {
                std::vector<std::string> warnings;
                CHECK(h.evlr_offset == at + expected.size());
                const auto vlrs = io::read_las_vlrs(InputFile(folder / "out.las"), h, warnings);
                REQUIRE(vlrs.size() == 2);
                CHECK(vlrs[1].data == "whole");
                CHECK(warnings.empty());
            }
        }
}

TEST_CASE("HeaderCountsAndBoundsFollowWhatIsLeft") {
    const test::TemporaryFolder folder;
    const std::string in = test::las_file({2, 1, 500, 0, "", 3});
    round_trip(folder, in, [](auto i) { return i >= 100; });
    const InputFile out(folder / "out.las");
    const io::LasHeader h = io::read_las_header(out);
    CHECK(h.point_count == 100);
    double lo = 1e300;
    std::uint32_t first_returns = 0;
    const std::string raw = test::read_file(folder / "out.las");
    for (std::size_t i = 0; i < 100; ++i) {
        const char* r = raw.data() + h.points_offset + i * h.record_bytes;
        lo = std::min(lo, load_le<std::int32_t>(r) * 0.001 + 412300);
        first_returns += (r[14] & 7) == 1;
    }
    CHECK(h.lo.x == lo);
    CHECK(load_le<std::uint32_t>(raw.data() + 111) == first_returns);
}

TEST_CASE("ElementsAndRecordsAreTheSamePoints") {
    const test::TemporaryFolder folder;
    test::write_file(folder / "a.las", test::las_file({4, 7, 70000, 1, "", 12}));
    const auto c = io::read_cloud(folder / "a.las").cloud;
    const auto records = c->records();
    std::vector<std::byte> raw(records->count() * records->layout().record_bytes);
    records->read(0, raw);
    const cloud::Field* x = records->layout().find("x");
    for (std::size_t p = 0; p < c->page_count(); ++p) {
        const auto order = c->order()->page(p);
        for (std::size_t i = 0; i < order.size(); i += 97) {
            const std::byte* r = raw.data() + order[i] * records->layout().record_bytes;
            REQUIRE(c->position(p * kPageSize + i).x == value(*x, r));
            REQUIRE(c->intensity()->page(p)[i] == load_le<std::uint16_t>(r + 12));
            REQUIRE(c->classification()->page(p)[i] == static_cast<std::uint8_t>(r[16]));
        }
    }
    // Dropping elements drops exactly their records.
    ElementSet set(c->size());
    for (const std::uint64_t e : {0ull, 5ull, 69999ull}) set.insert(e);
    const auto keep = io::keep_all_but(*c, set);
    CHECK(keep->count() == 69997);
    for (const std::uint64_t e : {0ull, 5ull, 69999ull})
        CHECK_FALSE((*keep)[c->order()->page(e / kPageSize)[e % kPageSize]]);
}

TEST_CASE("LyingHeadersGetAnErrorThatSaysWhatAndWhere") {
    const test::TemporaryFolder folder;
    const std::string good = test::las_file({4, 7, 100, 0, "", 1});
    const auto refused = [&](const std::string& content, const std::string& word) {
        test::write_file(folder / "bad.las", content);
        try {
            io::read_cloud(folder / "bad.las");
        } catch (const Error& e) {
            CAPTURE(e.what());
            CHECK(std::string(e.what()).find(word) != std::string::npos);
            CHECK(std::string(e.what()).find("bad.las") != std::string::npos);
            return true;
        }
        return false;
    };
    const auto patched = [&](std::size_t at, auto v) {
        std::string s = good;
        store_le(s.data() + at, v);
        return s;
    };
    CHECK(refused(good.substr(0, 50), "cut off"));
    CHECK(refused(good.substr(0, 300), "cut off"));
    CHECK(refused(good.substr(0, good.size() - 100), "announces 100 points"));
    CHECK(refused(patched(247, std::uint64_t{1} << 60), "announces"));
    CHECK(refused(patched(96, std::uint32_t{4000000000}), "start at byte"));
    CHECK(refused(patched(96, std::uint32_t{10}), "start at byte"));
    CHECK(refused(patched(105, std::uint16_t{5}), "Records are said"));
    CHECK(refused(patched(104, std::uint8_t{11}), "Point format 11"));
    CHECK(refused(patched(104, std::uint8_t{7 | 128}), "nothing says how"));
    CHECK(refused(patched(25, std::uint8_t{9}), "version 1.9"));
    CHECK(refused(patched(131, 0.0), "scale factor"));
    CHECK(refused(patched(94, std::uint16_t{100}), "The header says"));
}

TEST_CASE("APartOfABrokenFileCanBeReadOnRequest") {
    const test::TemporaryFolder folder;
    const std::string good = test::las_file({4, 7, 100, 0, "", 1});
    test::write_file(folder / "cut.las", good.substr(0, good.size() - 36 * 10 - 5));
    io::ReadOptions options;
    options.accept_partial = true;
    const auto r = io::read_cloud(folder / "cut.las", options);
    CHECK(r.cloud->size() == 89);
    REQUIRE(r.warnings.size() == 1);
    CHECK(r.warnings[0].find("ends after 89") != std::string::npos);
}

TEST_CASE("OddVlrsAreKeptWithAWarning") {
    const test::TemporaryFolder folder;
    std::string s = test::las_file({2, 0, 10, 0, "", 1});
    store_le(s.data() + 100, std::uint32_t{5});  // five VLRs announced, one there
    test::write_file(folder / "odd.las", s);
    const auto r = io::read_cloud(folder / "odd.las");
    CHECK(r.cloud->size() == 10);
    CHECK(r.warnings.size() == 1);
}

TEST_CASE("EightBitColoursAreRecognised") {
    const test::TemporaryFolder folder;
    for (const bool eight : {true, false}) {
        std::string s = test::las_file({4, 7, 50, 0, "", 1});
        const std::size_t at = s.size() - 50 * 36;
        for (std::size_t i = 0; i < 50; ++i)
            for (std::size_t c = 0; c < 3; ++c)
                store_le(s.data() + at + i * 36 + 30 + 2 * c,
                         static_cast<std::uint16_t>(eight ? 200 : 200 * 256));
        test::write_file(folder / "c.las", s);
        CHECK((*io::read_cloud(folder / "c.las").cloud->colour())[7] == 0xC8C8C8u);
    }
}

TEST_CASE("WhatIsRemovedCanBeMarkedInTheFileInstead") {
    const test::TemporaryFolder folder;
    const int pf = GENERATE(1, 7);
    const std::string in = test::las_file({4, pf, 200, 0, "", 4});
    test::write_file(folder / "in.las", in);
    const auto cloud = io::read_cloud(folder / "in.las").cloud;
    auto keep = std::make_shared<io::KeepBits>(200);
    for (std::uint64_t i = 0; i < 200; i += 4) keep->drop(i);
    std::vector<io::Dropped> ways{io::Dropped::Withheld, io::Dropped::Noise};
    if (pf == 7)
        ways.push_back(io::Dropped::HighNoise);
    else
        CHECK_THROWS_AS(io::write_cloud({{cloud, keep, io::Dropped::HighNoise}}, folder / "no.las"), Error);
    for (const io::Dropped how : ways)
        for (const char* name : {"out.las", "out.laz"}) {
            CHECK(io::write_cloud({{cloud, keep, how}}, folder / name, {true}) == 200);
            const auto back = io::read_cloud(folder / name).cloud->records();
            const auto& layout = back->layout();
            const cloud::Field& mark = *layout.find(how == io::Dropped::Withheld ? "withheld" : "class");
            std::vector<std::byte> now(200 * layout.record_bytes), before = now;
            back->read(0, now);
            cloud->records()->read(0, before);
            for (std::size_t i = 0; i < 200; ++i) {
                std::byte* b = before.data() + i * layout.record_bytes;
                if (i % 4 == 0)
                    put(mark, b, how == io::Dropped::Noise ? 7 : how == io::Dropped::HighNoise ? 18 : 1);
            }
            CHECK(now == before);  // nothing but the mark has changed
        }
    CHECK_THROWS_AS(io::write_cloud({{cloud, keep, io::Dropped::Withheld}}, folder / "out.ply"), Error);
    test::write_file(folder / "a.xyz", "1 2 3\n4 5 6\n");
    CHECK_THROWS_AS(io::write_cloud({{io::read_cloud(folder / "a.xyz").cloud, nullptr, io::Dropped::Noise}},
                                    folder / "b.las"),
                    Error);
}
