#include <catch2/catch.hpp>

#include <atomic>
#include <thread>

#include "core/base/bytes.h"
#include "core/base/disjoint_sets.h"
#include "core/base/file.h"
#include "core/base/memory.h"
#include "core/base/parallel.h"
#include "core/base/plain_array.h"
#include "core/base/progress.h"
#include "core/io/cloud_io.h"
#include "support/cloud_makers.h"

using namespace pristine;

TEST_CASE("AnErrorIsOneSentenceWithPlaceAndAdvice") {
    const Error e(ErrorCode::Format, "The header is cut off", "chamber.las, byte 94", "Copy it again.");
    CHECK(std::string(e.what()) == "The header is cut off (chamber.las, byte 94). Copy it again.");
    CHECK(e.where() == "chamber.las, byte 94");
    CHECK(e.code() == ErrorCode::Format);
    CHECK(std::string(Error(ErrorCode::Io, "No room").what()) == "No room.");
}

TEST_CASE("AnOutputFileIsWholeOrNotThere") {
    const test::TemporaryFolder f;
    {
        OutputFile out(f / "a.bin", false);
        out.write(std::string("half"));
    }  // never finished
    CHECK_FALSE(std::filesystem::exists(f / "a.bin"));
    CHECK(std::filesystem::is_empty(f.path()));
    {
        OutputFile out(f / "a.bin", false);
        out.write(std::string("0123456789"));
        out.write_at(2, "AB", 2);
        out.write(std::string("end"));
        CHECK(out.written() == 13);
        CHECK_FALSE(std::filesystem::exists(f / "a.bin"));
        out.finish();
    }
    CHECK(test::read_file(f / "a.bin") == "01AB456789end");
    CHECK_THROWS_AS(OutputFile(f / "a.bin", false), Error);
    CHECK_THROWS_AS(OutputFile(f / "no-folder" / "a.bin", false), Error);
    // Larger than the buffer, in odd pieces.
    std::string large;
    {
        OutputFile out(f / "large.bin", false);
        for (int i = 0; i < 300; ++i) {
            const std::string piece(static_cast<std::size_t>(31337 + i), static_cast<char>(i));
            out.write(piece);
            large += piece;
        }
        out.write(std::string(9u << 20, 'x'));
        large += std::string(9u << 20, 'x');
        out.finish();
    }
    CHECK((test::read_file(f / "large.bin") == large));
}

TEST_CASE("ReadingBeyondTheEndNamesTheByte") {
    const test::TemporaryFolder f;
    test::write_file(f / "a.bin", "0123456789");
    const InputFile in(f / "a.bin");
    CHECK(in.size() == 10);
    CHECK(in.read_string(8, 2) == "89");
    std::byte four[4];
    CHECK(in.read_some(8, four) == 2);
    try {
        in.read_at(8, four);
        FAIL("read beyond the end");
    } catch (const Error& e) {
        CHECK(std::string(e.what()).find("a.bin, byte 8") != std::string::npos);
    }
    CHECK_THROWS_AS(in.read_string(5, std::uint64_t{1} << 60), Error);  // nothing of that size is allocated
    CHECK_THROWS_AS(in.read_string(~std::uint64_t{0}, 1), Error);
    CHECK_THROWS_AS(InputFile(f / "missing"), Error);
    CHECK_THROWS_AS(InputFile(f.path()), Error);
}

TEST_CASE("BytesSwapAndComeBack") {
    CHECK(byte_swapped(std::uint32_t{0x01020304}) == 0x04030201u);
    CHECK(byte_swapped(byte_swapped(1.25)) == 1.25);
    std::string s;
    append_le(s, std::uint16_t{0x0201});
    CHECK(s == std::string("\x01\x02"));
    CHECK(load_le<std::uint16_t>(s.data()) == 0x0201);
}

TEST_CASE("ProgressFillsItsStretchAndCancelsAtTheNextPoll") {
    Progress p;
    p.stretch(0.5, 1, "Sorting");
    p.advance(0.5);
    CHECK(p.fraction() == 0.75);
    CHECK(p.label() == "Sorting");
    p.cancel();
    CHECK_THROWS_AS(p.advance(0.6), Cancelled);
    CHECK_THROWS_AS(p.check(), Cancelled);
}

TEST_CASE("EveryIndexIsWorkedOnceForAnyNumberOfWorkers") {
    for (const std::size_t limit : {std::size_t{1}, std::size_t{0}}) {
        const parallel::WorkerLimit workers(limit);
        std::vector<std::atomic<int>> seen(1000);
        parallel::for_each(seen.size(), [&](std::size_t i) { ++seen[i]; });
        parallel::for_ranges(seen.size(), 7, [&](std::size_t a, std::size_t b) {
            for (std::size_t i = a; i < b; ++i) ++seen[i];
        });
        for (const auto& n : seen) REQUIRE(n == 2);
        const auto squares = parallel::map<std::size_t>(100, [](std::size_t i) { return i * i; });
        CHECK(squares[99] == 9801);
        CHECK_THROWS_AS(parallel::for_each(100,
                                           [](std::size_t i) {
                                               if (i == 57) throw Error(ErrorCode::Usage, "57");
                                           }),
                        Error);
        parallel::for_each(0, [](std::size_t) { FAIL("there is nothing to do"); });
    }
}

TEST_CASE("OneWorkerGoesInOrderOnTheCallingThread") {
    const parallel::WorkerLimit alone(1);
    CHECK(parallel::workers() == 1);
    std::size_t next = 0;
    parallel::for_each(50, [&](std::size_t i) { REQUIRE(i == next++); });
    const auto memory = resident_memory();  // asked once: it grows between two questions
    CHECK(memory.now > 0);
    CHECK(memory.peak >= memory.now);
}

TEST_CASE("CancellingAtAnyMomentGivesTheWholeResultOrNone") {
    const test::TemporaryFolder f;
    test::write_file(f / "a.las", test::las_file({4, 7, 300'000, 0, "", 1}));
    const std::uint64_t seed = test::seed_for("Cancel");
    CAPTURE(seed);
    std::mt19937_64 dice(seed);
    int cancelled = 0;
    for (int round = 0; round < 25; ++round) {
        Progress p;
        std::thread other([&, wait = dice() % 60'000] {
            std::this_thread::sleep_for(std::chrono::microseconds(wait));
            p.cancel();
        });
        const auto target = f / ("out" + std::to_string(round) + ".ply");
        bool whole = false;
        try {
            const auto c = io::read_cloud(f / "a.las", {}, p).cloud;
            REQUIRE(c->size() == 300'000);
            io::write_cloud({{c, nullptr}}, target, {}, p);
            whole = true;
        } catch (const Cancelled&) {
            ++cancelled;
        }
        other.join();
        CHECK(std::filesystem::exists(target) == whole);
    }
    CHECK(cancelled > 0);
}

TEST_CASE("ThingsThatAreJoinedBelongTogether") {
    std::mt19937 dice(12);
    const std::int32_t n = 300;
    DisjointSets joined(n);
    std::vector<std::int32_t> label(n);  // the slow way
    std::iota(label.begin(), label.end(), 0);
    for (int k = 0; k < 250; ++k) {
        const auto a = static_cast<std::int32_t>(dice() % n), b = static_cast<std::int32_t>(dice() % n);
        joined.join(a, b);
        const std::int32_t x = label[static_cast<std::size_t>(a)], y = label[static_cast<std::size_t>(b)];
        for (std::int32_t& l : label)
            if (l == x || l == y) l = std::min(x, y);
        for (std::int32_t i = 0; i < n; ++i) REQUIRE(joined.find(i) == label[static_cast<std::size_t>(i)]);
    }
}

TEST_CASE("PlainArraysOfAnySizeHoldWhatIsPutIn") {
    // Nothing, a few, and more than a large page.
    for (const std::size_t n : {std::size_t{0}, std::size_t{1}, std::size_t{1000}, std::size_t{3'000'000}}) {
        PlainArray<std::uint32_t> a(n);
        REQUIRE(a.size() == n);
        for (std::size_t i = 0; i < n; ++i) a[i] = static_cast<std::uint32_t>(7 * i);
        const std::uint32_t* at = a.data();
        PlainArray<std::uint32_t> b(std::move(a));
        CHECK(b.data() == at);
        std::size_t wrong = 0;
        for (std::size_t i = 0; i < n; ++i) wrong += b[i] != static_cast<std::uint32_t>(7 * i);
        CHECK(wrong == 0);
        CHECK(static_cast<std::size_t>(b.end() - b.begin()) == n);
    }
}
