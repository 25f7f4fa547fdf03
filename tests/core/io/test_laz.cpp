#include <catch2/catch.hpp>

#include "core/base/bytes.h"
#include "core/io/las/las.h"
#include "core/io/laz/chunk.h"
#include "core/io/laz/laz.h"
#include "support/cloud_makers.h"

using namespace pristine;
using test::LasSpec;

namespace {

std::string laz_evlr() {
    std::string s(60, '\0');
    s.replace(2, 7, "Ashmere");
    store_le(s.data() + 18, std::uint16_t{9});
    store_le(s.data() + 20, std::uint64_t{5});
    return s + "whole";
}

LasSpec spec_for(int pf, std::uint64_t points, std::size_t extra, bool scan_like) {
    LasSpec s;
    s.minor = pf >= 6 ? 4 : 3;
    s.point_format = pf;
    s.points = points;
    s.extra_bytes = extra;
    s.scan_like = scan_like;
    s.seed = static_cast<std::uint64_t>(pf) + points;
    if (s.minor == 4) s.after = laz_evlr();
    return s;
}

// Writes the content as a.las and a.laz, and returns what a.laz is turned back into.
std::string there_and_back(const test::TemporaryFolder& f, const std::string& content) {
    test::write_file(f / "a.las", content);
    io::write_cloud({{io::read_cloud(f / "a.las").cloud, nullptr}}, f / "a.laz", {true});
    io::write_cloud({{io::read_cloud(f / "a.laz").cloud, nullptr}}, f / "b.las", {true});
    return test::read_file(f / "b.las");
}

std::string laz_error(const std::filesystem::path& file) {
    try {
        io::read_cloud(file);
    } catch (const Error& e) {
        return e.what();
    }
    return {};
}

}  // namespace

TEST_CASE("LazTurnsBackIntoTheSameLasBitForBit") {
    const test::TemporaryFolder folder;
    for (int pf = 0; pf <= 10; ++pf)
        for (const bool scan_like : {false, true})
            for (const std::uint64_t points : {1u, 3u, 2000u})
                for (const std::size_t extra : {0u, 3u}) {
                    CAPTURE(pf, scan_like, points, extra);
                    const std::string in = test::las_file(spec_for(pf, points, extra, scan_like));
                    CHECK(there_and_back(folder, in) == in);
                }
}

TEST_CASE("LazOfSeveralChunksHoldsTheSamePointsAndIsSmaller") {
    const test::TemporaryFolder folder;
    const std::string in = test::las_file(spec_for(7, 170'000, 1, true));
    CHECK(there_and_back(folder, in) == in);
    CHECK(test::read_file(folder / "a.laz").size() < in.size() / 2);
    CHECK(io::read_cloud(folder / "a.laz").format == "LAZ 1.4, point format 7");
    // In any order, and across chunks.
    const auto records = io::read_cloud(folder / "a.laz").cloud->records();
    const std::size_t step = records->layout().record_bytes,
                      at = in.size() - laz_evlr().size() - 170'000 * step;
    for (const std::uint64_t first : {169'990u, 49'995u, 0u, 99'999u, 50'000u}) {
        std::vector<std::byte> some(10 * step);
        records->read(first, some);
        CHECK(std::memcmp(some.data(), in.data() + at + first * step, some.size()) == 0);
    }
    std::vector<std::byte> beyond(step);
    CHECK_THROWS_AS(records->read(170'000, beyond), Error);
}

TEST_CASE("WhatIsLeftInLazIsTheComplementBitForBit") {
    const test::TemporaryFolder folder;
    test::write_file(folder / "a.las", test::las_file(spec_for(6, 60'000, 0, true)));
    const auto cloud = io::read_cloud(folder / "a.las").cloud;
    auto keep = std::make_shared<io::KeepBits>(cloud->size());
    for (std::uint64_t i = 0; i < cloud->size(); i += 7) keep->drop(i);
    CHECK(io::write_cloud({{cloud, keep}}, folder / "plain.las") == keep->count());
    io::write_cloud({{cloud, keep}}, folder / "small.laz");
    io::write_cloud({{io::read_cloud(folder / "small.laz").cloud, nullptr}}, folder / "back.las");
    CHECK(test::read_file(folder / "back.las") == test::read_file(folder / "plain.las"));
}

TEST_CASE("ChunksOfTheirOwnSizesAreRead") {
    const test::TemporaryFolder folder;
    const std::string in = test::las_file(spec_for(3, 900, 2, true));
    test::write_file(folder / "a.las", in);
    const std::size_t step = 36, at = in.size() - 900 * step;
    io::laz::Scheme scheme = io::laz::scheme_for(3, step);
    scheme.chunk_points = UINT32_MAX;
    std::string file = io::compressed_las_head(in.substr(0, at), io::laz::scheme_bytes(scheme));
    const std::size_t place = file.size();
    file += std::string(8, '\0');
    io::laz::ChunkEncoder encoder(scheme);
    std::vector<io::laz::Chunk> chunks;
    std::uint64_t first = 0;
    for (const std::uint64_t count : {1u, 500u, 2u, 397u}) {
        const auto bytes = std::as_bytes(std::span(in)).subspan(at + first * step, count * step);
        const std::string chunk = encoder.encode(bytes);
        chunks.push_back({file.size(), chunk.size(), first, count});
        file += chunk;
        first += count;
    }
    const bool at_the_end = GENERATE(false, true);  // as written to a pipe: the place of the table comes last
    const auto table = static_cast<std::int64_t>(file.size());
    store_le(file.data() + place, at_the_end ? std::int64_t{-1} : table);
    file += io::laz::chunk_table(chunks, true);
    if (at_the_end) append_le(file, table);
    test::write_file(folder / "own.laz", file);
    io::write_cloud({{io::read_cloud(folder / "own.laz").cloud, nullptr}}, folder / "back.las");
    CHECK(test::read_file(folder / "back.las").substr(0, in.size()) == in);
}

TEST_CASE("BytesThatNothingSpeaksOfAreKeptInLasAndSaidToBeLostInLaz") {
    const test::TemporaryFolder folder;
    const std::string las = test::las_file(spec_for(1, 300, 0, true));
    test::write_file(folder / "t.las", las + "seventeen bytes!!");
    const auto cloud = io::read_cloud(folder / "t.las").cloud;
    io::write_cloud({{cloud, nullptr}}, folder / "copy.las");
    CHECK(test::read_file(folder / "copy.las") == las + "seventeen bytes!!");
    CHECK(io::lost_in({{cloud, nullptr}}, folder / "t.las").empty());
    const auto said = io::lost_in({{cloud, nullptr}}, folder / "t.laz");
    REQUIRE(said.size() == 1);
    CHECK(said[0].find("17 bytes after the last point") != std::string::npos);
    io::write_cloud({{cloud, nullptr}}, folder / "t.laz");
    CHECK(test::read_file(folder / "t.laz").find("seventeen") == std::string::npos);
    io::write_cloud({{io::read_cloud(folder / "t.laz").cloud, nullptr}}, folder / "back.las");
    CHECK(test::read_file(folder / "back.las") == las);
}

TEST_CASE("DamagedLazSaysWhatAndWhereAndWhatIsWholeCanBeRead") {
    const test::TemporaryFolder folder;
    there_and_back(folder, test::las_file(spec_for(1, 120'000, 0, true)));
    const std::string good = test::read_file(folder / "a.laz");
    const auto put = [&](const std::string& s) { test::write_file(folder / "bad.laz", s); };
    io::ReadOptions partial;
    partial.accept_partial = true;

    put(good.substr(0, good.size() - 30));  // the table is cut
    CHECK(laz_error(folder / "bad.laz").find("bad.laz") != std::string::npos);
    put(good.substr(0, good.size() / 2));
    CHECK(laz_error(folder / "bad.laz").find("table of compressed chunks") != std::string::npos);
    const auto rest = io::read_cloud(folder / "bad.laz", partial);
    CHECK(rest.cloud->size() == 50'000);
    CHECK(rest.warnings.size() == 2);

    std::string broken = good;  // a chunk in the middle: noise instead of a layer
    for (std::size_t i = 0; i < 2000; ++i) broken[good.size() / 2 + i] = static_cast<char>(i * 37);
    put(broken);
    if (laz_error(folder / "bad.laz").empty()) {
        // The arithmetic coder cannot notice every change; what it decodes is then noise, but all of it is
        // there.
        CHECK(io::read_cloud(folder / "bad.laz").cloud->size() == 120'000);
    } else {
        CHECK(io::read_cloud(folder / "bad.laz", partial).cloud->size() < 120'000);
    }

    std::string lying = good;
    store_le(lying.data() + 107, std::uint32_t{4'000'000'000});
    put(lying);
    CHECK(laz_error(folder / "bad.laz").find("announces 4000000000 points") != std::string::npos);
    CHECK(io::read_cloud(folder / "bad.laz", partial).cloud->size() <= 150'000);

    std::string unknown = good;  // the version of the first part, in the VLR right after the header
    unknown[235 + 54 + 34 + 4] = 1;
    put(unknown);
    CHECK(laz_error(folder / "bad.laz").find("version 1; version 2 can be read") != std::string::npos);
    unknown[235 + 54] = 9;
    put(unknown);
    CHECK(laz_error(folder / "bad.laz").find("Compressor 9") != std::string::npos);
    unknown = good;
    store_le(unknown.data() + 235 + 18, std::uint16_t{1});
    put(unknown);
    CHECK(laz_error(folder / "bad.laz").find("nothing says how") != std::string::npos);
}

TEST_CASE("EveryCutOfALazFileIsAnErrorOrAWholeResult") {
    const test::TemporaryFolder folder;
    const int pf = GENERATE(3, 8);
    there_and_back(folder, test::las_file(spec_for(pf, 300, 1, true)));
    const std::string good = test::read_file(folder / "a.laz");
    io::ReadOptions partial;
    partial.accept_partial = true;
    for (std::size_t cut = 0; cut < good.size(); cut += 13) {
        test::write_file(folder / "cut.laz", good.substr(0, cut));
        for (const io::ReadOptions& o : {io::ReadOptions{}, partial}) try {
                const auto size = io::read_cloud(folder / "cut.laz", o).cloud->size();
                CHECK(size <= 300);
            } catch (const Error&) {
            }
    }
}

TEST_CASE("DarkChunksOfAFileWithDeepColoursStayDark") {
    const test::TemporaryFolder folder;
    std::string in = test::las_file(spec_for(2, 100'000, 0, true));
    const std::size_t at = in.size() - 100'000 * 26;
    const bool deep = GENERATE(false, true);
    for (std::size_t i = 0; i < 100'000; ++i)
        for (std::size_t c = 0; c < 3; ++c)
            store_le(in.data() + at + i * 26 + 20 + 2 * c,
                     static_cast<std::uint16_t>(i < 50'000 || !deep ? 77 : 0x5500));
    there_and_back(folder, in);
    const auto plain = io::read_cloud(folder / "a.las").cloud,
               packed = io::read_cloud(folder / "a.laz").cloud;
    for (std::uint64_t i = 0; i < 100'000; i += 501) REQUIRE((*packed->colour())[i] == (*plain->colour())[i]);
}
