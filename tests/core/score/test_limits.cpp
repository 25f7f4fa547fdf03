// Ranges of values, how values are spread, and where the farthest of them are.

#include <catch2/catch.hpp>

#include <Eigen/Eigenvalues>
#include <algorithm>
#include <cmath>
#include <numeric>
#include <random>

#include "core/base/parallel.h"
#include "core/recipe/places.h"
#include "core/recipe/recipe.h"
#include "core/score/colour.h"
#include "core/score/limits.h"
#include "core/score/score.h"
#include "core/terrain/floors.h"
#include "demo/trials.h"
#include "support/small_scores.h"

using namespace pristine;
using score::Column;
using test::Shape;
using test::value;

TEST_CASE("LimitsTakeWhatLiesInThem") {
    std::mt19937_64 dice(1);
    std::vector<PagedArray<float>::PagePtr> pages;
    const std::uint64_t n = 3 * kPageSize - 77;
    for (std::size_t p = 0; p < 3; ++p) {
        auto page = std::make_shared<std::vector<float>>(page_length(n, p));
        for (float& v : *page) v = dice() % 50 == 0 ? NAN : static_cast<float>(dice() % 1000) / 8;
        pages.push_back(page);
    }
    const Column c{1000, PagedArray<float>(n, pages)};
    ElementSet eligible = ElementSet::all(n);
    eligible.set_page_none(1);
    for (const char* text :
         {">1003", ">=1003", "<1000.5", "<=1000.5", "1003..1035", "!1003..1035", "1010", "5..6", ">-5",
          "!0..2000", "1003.0000001..1035", ">=1000", "1000..1000.0000001", "<1000", ">-1e300", "<1e300"}) {
        CAPTURE(text);
        const score::Limits l = score::parse_limits(text);
        const ElementSet got = score::within(c, eligible, l);
        bool same = true;
        for (std::uint64_t i = 0; i < n; ++i) {
            const double v = value(c, i);
            const bool in = (l.lo_open ? v > l.lo : v >= l.lo) && (l.hi_open ? v < l.hi : v <= l.hi);
            const bool wanted = eligible.contains(i) && !std::isnan(v) && in != l.outside;
            same &= got.contains(i) == wanted;
        }
        CHECK(same);
        CHECK(score::text_of(score::parse_limits(score::text_of(l))) == score::text_of(l));
    }
    for (const char* wrong : {"", "3..", "..3", "x", "5..3", ">", "> 3", "1..2..3", "nan"})
        CHECK_THROWS_AS(score::parse_limits(wrong), Error);
    const score::Profile p = score::profile(c, false, 50);
    std::vector<double> all;
    for (std::uint64_t i = 0; i < n; ++i)
        if (!std::isnan(value(c, i))) all.push_back(value(c, i));
    std::sort(all.begin(), all.end());
    CHECK(p.count == all.size());
    CHECK(p.min == all.front());
    CHECK(p.max == all.back());
    CHECK(p.median == all[(all.size() - 1) / 2]);
    CHECK(std::accumulate(p.bins.begin(), p.bins.end(), std::uint64_t{0}) == all.size());
    const score::Profile log = score::profile(c, true, 50);
    CHECK(std::accumulate(log.bins.begin(), log.bins.end(), std::uint64_t{0}) == all.size());
    CHECK(log.value_at(log.place(1050)) == Approx(1050));
    CHECK(log.place(log.bin_lo) == Approx(0).margin(1e-12));
    // Colours span the bulk, however far the bins reach.
    CHECK(p.low == all[static_cast<std::size_t>(0.005 * static_cast<double>(all.size() - 1))]);
    CHECK(p.high == all[static_cast<std::size_t>(0.995 * static_cast<double>(all.size() - 1))]);
    CHECK((log.low == p.low && log.high == p.high));
    CHECK((log.bin_hi == p.max && p.bin_hi == p.high && p.high < p.max));
    // Where a rule begins has bins round it, but none beyond the greatest value.
    const double step = p.high - p.median;
    const score::Profile wide = score::profile(c, false, 50, p.median + 0.168 * step),
                         most = score::profile(c, false, 50, p.median + 100 * step);
    CHECK(wide.bin_hi == Approx(p.median + 1.008 * step).epsilon(1e-6));
    CHECK(wide.bin_lo == p.bin_lo);
    CHECK(most.bin_hi == p.max);
    CHECK(p.mad == Approx(31.25).margin(0.5));  // of even values over 125
}

TEST_CASE("TheFarthestValuesOfARuleArePlacesApart") {
    const auto c = test::random_cloud(3'000, Shape::Clusters, 21);
    const ElementSet all = ElementSet::all(c->size());
    const Column height = score::compute(score::find("height"), {*c, all}, {});
    const double usual = 0, apart = 1.5;
    const std::vector<Vec3> places = score::extremes(height, all, usual, *c, apart);
    REQUIRE(places.size() > 1);
    double farthest = 0;
    for (std::uint64_t i = 0; i < c->size(); ++i)
        farthest = std::max(farthest, std::fabs(c->position(i).z - usual));
    CHECK(std::fabs(places[0].z - usual) == Approx(farthest));
    for (std::size_t i = 0; i < places.size(); ++i)
        for (std::size_t j = 0; j < i; ++j) {
            CHECK(norm(places[i] - places[j]) > apart);
            CHECK(std::fabs(places[i].z) <= std::fabs(places[j].z) + 1e-3);
        }
    // A level band is an outline at its height; what has no place has no lines.
    const auto lines = score::limit_lines(score::parse_step("height 2..3"), *c);
    REQUIRE(lines.size() == 2);
    for (const Vec3& p : lines[0]) CHECK(p.z == 2);
    for (const Vec3& p : lines[1]) CHECK(p.z == 3);
    CHECK(score::limit_lines(score::parse_step("stray >2"), *c).empty());
}

TEST_CASE("AProfileOfValuesThatAreNearlyAllTheSameShowsTheOthers") {
    std::vector<float> v(100'000, 0.0f);
    for (std::size_t i = 0; i < 100; ++i) v[i * 997] = 0.1f + 0.05f * static_cast<float>(i);
    std::vector<PagedArray<float>::PagePtr> pages;
    for (std::size_t at = 0; at < v.size(); at += kPageSize)
        pages.push_back(std::make_shared<const std::vector<float>>(
            v.begin() + static_cast<std::ptrdiff_t>(at),
            v.begin() + static_cast<std::ptrdiff_t>(std::min(v.size(), at + kPageSize))));
    score::Column c;
    c.values = {v.size(), std::move(pages)};
    const score::Profile p = score::profile(c);
    CHECK(p.median == 0);
    CHECK(p.mad == 0);
    CHECK(p.bin_lo == 0);
    CHECK(p.bin_hi == Approx(5.05).epsilon(1e-6));
    CHECK(p.bins.front() >= v.size() - 100);
    CHECK(p.bins.back() > 0);
    CHECK(std::accumulate(p.bins.begin(), p.bins.end(), std::uint64_t{0}) == v.size());
}
