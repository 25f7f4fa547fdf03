// Large blocks that are kept for whoever asks next: never more than allowed, never one block for two.

#include <catch2/catch.hpp>
#include <cstring>
#include <memory>
#include <random>
#include <thread>
#include <vector>

#include "core/base/kept_blocks.h"

using namespace pristine;

namespace {

constexpr std::size_t kMiB = std::size_t{1} << 20;

// A block whose bytes all say whose it is.
struct Block {
    Block(std::size_t size, unsigned char of) : bytes(size), mark(of) { std::memset(bytes.data(), of, size); }
    bool whole() const {
        for (const unsigned char b : bytes)
            if (b != mark) return false;
        return true;
    }
    std::vector<unsigned char> bytes;
    unsigned char mark;
};

}  // namespace

TEST_CASE("ALargeBlockThatWasLetGoIsTheNextOneOfItsSize") {
    if (!keeps_blocks()) {
        CHECK(kept_blocks() == 0);
        return;
    }
    let_kept_blocks_go();
    REQUIRE(kept_blocks() == 0);
    void* first = ::operator new(3 * kMiB);
    ::operator delete(first);
    CHECK(kept_blocks() >= 3 * kMiB);
    SECTION("for the same size, or a little less") {
        void* again = ::operator new(3 * kMiB - 4096);
        CHECK(again == first);
        CHECK(kept_blocks() == 0);
        ::operator delete(again);
    }
    SECTION("not for much less or for more") {
        void* smaller = ::operator new(2 * kMiB);
        void* larger = ::operator new(4 * kMiB);
        CHECK(kept_blocks() >= 3 * kMiB);
        ::operator delete(smaller);
        ::operator delete(larger);
    }
    let_kept_blocks_go();
    CHECK(kept_blocks() == 0);
}

TEST_CASE("NoMoreIsKeptThanIsAllowed") {
    if (!keeps_blocks()) {
        CHECK(kept_blocks() == 0);
        return;
    }
    let_kept_blocks_go();
    {
        std::vector<std::unique_ptr<char[]>> many;
        for (int i = 0; i < 40; ++i) many.push_back(std::make_unique_for_overwrite<char[]>(5 * kMiB));
    }
    CHECK(kept_blocks() <= kMostKept);
    CHECK(kept_blocks() > kMostKept - 6 * kMiB);
    // Far more small ones than there are places for.
    {
        std::vector<std::unique_ptr<char[]>> many;
        for (int i = 0; i < 400; ++i) many.push_back(std::make_unique_for_overwrite<char[]>(200 * 1024));
    }
    CHECK(kept_blocks() <= kMostKept);
    // Neither what is small nor what is very large is kept.
    let_kept_blocks_go();
    ::operator delete(::operator new(100 * 1024));
    ::operator delete(::operator new(40 * kMiB));
    CHECK(kept_blocks() == 0);
}

TEST_CASE("BlocksThatAreInUseAreNobodyElses") {
    std::vector<char> sound(4, 1);
    std::vector<std::thread> threads;
    for (std::size_t t = 0; t < sound.size(); ++t)
        threads.emplace_back([&sound, t] {
            std::mt19937 dice(static_cast<unsigned>(t));
            std::vector<Block> held;
            for (int i = 0; i < 300; ++i) {
                const std::size_t size = 64 * 1024 + dice() % (512 * 1024);
                held.emplace_back(size, static_cast<unsigned char>(64 * t + dice() % 64));
                if (held.size() < 6) continue;
                const auto at = held.begin() + static_cast<std::ptrdiff_t>(dice() % held.size());
                if (!at->whole()) sound[t] = 0;
                held.erase(at);
            }
            for (const Block& b : held)
                if (!b.whole()) sound[t] = 0;
        });
    for (std::thread& t : threads) t.join();
    CHECK(sound == std::vector<char>(4, 1));
    CHECK(kept_blocks() <= kMostKept);
}
