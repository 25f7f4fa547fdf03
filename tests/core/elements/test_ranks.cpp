// Members of a set by rank, against a list of all members.

#include "core/elements/ranks.h"

#include <catch2/catch.hpp>

#include <random>

#include "support/cloud_makers.h"

using namespace pristine;

namespace {

ElementSet scattered(std::uint64_t size, std::mt19937_64& dice) {
    ElementSet s(size);
    for (std::size_t p = 0; p < s.page_count(); ++p) {
        const auto kind = dice() % 4;
        if (kind == 0) continue;
        if (kind == 1) {
            s.set_page_all(p);
            continue;
        }
        PageBits bits;
        for (std::size_t i = 0; i < page_length(size, p); ++i)
            if (dice() % (kind == 2 ? 2 : 1000) == 0) bits.set(i);
        s.set_page(p, bits);
    }
    return s;
}

std::vector<std::uint64_t> listed(const ElementSet& s) {
    std::vector<std::uint64_t> all;
    s.for_each([&](std::uint64_t e) { all.push_back(e); });
    return all;
}

}  // namespace

TEST_CASE("MembersAreFoundByRank") {
    std::mt19937_64 dice(test::seed_for("MembersAreFoundByRank"));
    for (const std::uint64_t size : {std::uint64_t{0}, std::uint64_t{1}, 3 * kPageSize, 5 * kPageSize + 77}) {
        const ElementSet of = scattered(size, dice);
        const auto all = listed(of);
        CAPTURE(size, all.size());
        std::vector<std::uint32_t> ranks;
        ElementSet wanted(size);
        for (int i = 0; i < 300 && !all.empty(); ++i) {
            ranks.push_back(static_cast<std::uint32_t>(dice() % all.size()));
            wanted.insert(all[ranks.back()]);
        }
        if (!all.empty()) ranks.push_back(ranks.front());                     // a double
        ranks.push_back(static_cast<std::uint32_t>(all.size()));              // beyond
        ranks.push_back(static_cast<std::uint32_t>(all.size()) + 1'000'000);  // far beyond
        CHECK(members_at(of, ranks) == wanted);
        CHECK(members_at(of, {}).empty());
    }
}

TEST_CASE("FlagsByRankGoThereAndBack") {
    std::mt19937_64 dice(test::seed_for("FlagsByRankGoThereAndBack"));
    const std::uint64_t size = 4 * kPageSize + 5;
    for (int turn = 0; turn < 5; ++turn) {
        const ElementSet of = scattered(size, dice), in = scattered(size, dice);
        const auto all = listed(of);
        const std::vector<char> flags = flags_of(of, in);
        REQUIRE(flags.size() == all.size());
        std::size_t wrong = 0;
        for (std::size_t k = 0; k < all.size(); ++k) wrong += (flags[k] != 0) != in.contains(all[k]);
        CHECK(wrong == 0);
        CHECK(members_flagged(of, flags) == (of & in));
        // Members without a flag are left out.
        std::vector<char> few(all.size() / 2, 1);
        CHECK(members_flagged(of, few).count() == few.size());
    }
}
