#include <catch2/catch.hpp>

#include "core/base/error.h"
#include "core/elements/element_set.h"
#include "core/elements/paged_array.h"
#include "support/cloud_makers.h"

using namespace pristine;

namespace {

using Reference = std::vector<bool>;

// Sets that like to be empty, full, or nearly so on a whole page, where the normal form matters.
std::pair<ElementSet, Reference> random_set(std::uint64_t size, std::mt19937_64& dice) {
    ElementSet s(size);
    Reference r(size, false);
    for (std::size_t p = 0; p < s.page_count(); ++p) {
        PageBits bits;
        const auto kind = dice() % 5;
        const std::size_t n = page_length(size, p);
        for (std::size_t i = 0; i < n; ++i) {
            const bool in = kind == 0   ? false
                            : kind == 1 ? true
                            : kind == 2 ? i != n / 2
                            : kind == 3 ? i == n / 2
                                        : dice() % 3 == 0;
            if (in) bits.set(i);
            r[p * kPageSize + i] = in;
        }
        s.set_page(p, bits);
    }
    return {s, r};
}

bool equal(const ElementSet& s, const Reference& r) {
    std::uint64_t n = 0;
    for (std::size_t i = 0; i < r.size(); ++i) {
        if (s.contains(i) != r[i]) return false;
        n += r[i];
    }
    return s.count() == n;
}

Reference combined(const Reference& a, const Reference& b, bool (*op)(bool, bool)) {
    Reference r(a.size());
    for (std::size_t i = 0; i < a.size(); ++i) r[i] = op(a[i], b[i]);
    return r;
}

}  // namespace

TEST_CASE("SetAlgebraIsThatOfPlainBooleans") {
    const std::uint64_t seed = test::seed_for("SetAlgebra");
    CAPTURE(seed);
    std::mt19937_64 dice(seed);
    for (const std::uint64_t size : {0ull, 1ull, 63ull, 64ull, 65536ull, 65537ull, 200001ull}) {
        CAPTURE(size);
        for (int round = 0; round < 6; ++round) {
            const auto [a, ra] = random_set(size, dice);
            const auto [b, rb] = random_set(size, dice);
            REQUIRE(equal(a, ra));
            CHECK(equal(a | b, combined(ra, rb, [](bool x, bool y) { return x || y; })));
            CHECK(equal(a & b, combined(ra, rb, [](bool x, bool y) { return x && y; })));
            CHECK(equal(a - b, combined(ra, rb, [](bool x, bool y) { return x && !y; })));
            CHECK(equal(~a, combined(ra, ra, [](bool x, bool) { return !x; })));
            CHECK((~~a == a));
            CHECK(ElementSet::unpacked(a.packed()) == a);
        }
    }
}

TEST_CASE("FullAndEmptyPagesAreInNormalForm") {
    ElementSet s(70000);
    PageBits bits;
    for (std::size_t i = 0; i < kPageSize; ++i) bits.set(i);
    s.set_page(0, bits);
    s.set_page(1, bits);  // bits beyond the end of the last page must not count
    CHECK(s.kind(0) == ElementSet::Kind::All);
    CHECK(s.kind(1) == ElementSet::Kind::All);
    CHECK(s.count() == 70000);
    CHECK((s - s).kind(0) == ElementSet::Kind::None);
    CHECK(s == ElementSet::all(70000));
}

TEST_CASE("PagesThatDoNotChangeStayShared") {
    std::mt19937_64 dice(5);
    ElementSet a(kPageSize * 2), b(kPageSize * 2);
    a.insert(7);
    a.insert(kPageSize + 9);
    b.insert(7);
    const ElementSet u = a | b;
    CHECK(u.bits_ptr(0) == a.bits_ptr(0));
    CHECK(u.bits_ptr(1) == a.bits_ptr(1));
    CHECK(u.same_pages(a));
    const ElementSet d = a - b;
    CHECK(d.bits_ptr(1) == a.bits_ptr(1));
}

TEST_CASE("ForEachVisitsMembersInOrder") {
    std::mt19937_64 dice(11);
    const auto made = random_set(150000, dice);
    const auto& [s, reference] = made;
    const auto& r = reference;
    std::uint64_t last = 0, n = 0;
    bool ascending = true, members = true;
    s.for_each([&](std::uint64_t i) {
        ascending &= n == 0 || i > last;
        members &= r[i];
        last = i;
        ++n;
    });
    CHECK(ascending);
    CHECK(members);
    CHECK(n == s.count());
}

TEST_CASE("DamagedStoredSetsAreRefused") {
    std::mt19937_64 dice(3);
    const std::string good = random_set(200000, dice).first.packed();
    CHECK_THROWS_AS(ElementSet::unpacked(good.substr(0, good.size() / 2)), Error);
    CHECK_THROWS_AS(ElementSet::unpacked("nonsense"), Error);
    CHECK_THROWS_AS(ElementSet::unpacked(""), Error);
}

TEST_CASE("EditingACopyLeavesTheOriginalAlone") {
    PagedArray<int> a(kPageSize * 2 + 5, 1);
    PagedArray<int> b = a;
    b.edit(1)[3] = 9;
    CHECK(a[kPageSize + 3] == 1);
    CHECK(b[kPageSize + 3] == 9);
    CHECK(a.page_ptr(0) == b.page_ptr(0));
    CHECK(a.page_ptr(2) == b.page_ptr(2));
    const auto* before = b.page(1).data();
    b.edit(1)[4] = 8;  // nobody shares this page: nothing is copied
    CHECK(b.page(1).data() == before);
    CHECK(a.page(2).size() == 5);
}
