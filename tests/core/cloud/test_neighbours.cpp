#include <catch2/catch.hpp>

#include <algorithm>
#include <cmath>
#include <random>

#include "core/base/memory.h"
#include "core/base/parallel.h"
#include "core/cloud/neighbours.h"
#include "support/cloud_makers.h"

using namespace pristine;
using cloud::NeighbourIndex;
using test::Shape;

namespace {

// Squared distances to the k nearest, by looking at all; positions as the index has them.
std::vector<float> slow_nearest(const NeighbourIndex& index, std::size_t q, unsigned k) {
    std::vector<float> all;
    const auto p = index.position(q);
    for (std::size_t i = 0; i < index.size(); ++i) {
        if (i == q) continue;
        const auto o = index.position(i);
        const float dx = o[0] - p[0], dy = o[1] - p[1], dz = o[2] - p[2];
        all.push_back(dx * dx + dy * dy + dz * dz);
    }
    std::sort(all.begin(), all.end());
    all.resize(std::min<std::size_t>(all.size(), k));
    return all;
}

}  // namespace

TEST_CASE("NearestNeighboursEqualLookingAtAll") {
    const std::uint64_t seed = test::seed_for("Neighbours");
    CAPTURE(seed);
    for (const Shape shape :
         {Shape::Terrain, Shape::Clusters, Shape::OnePlace, Shape::Line, Shape::Grid, Shape::WithFarStrays})
        for (const std::uint64_t n : {1ull, 7ull, 2000ull, 3000ull, 90000ull}) {
            if (n == 90000 && shape == Shape::OnePlace) continue;
            CAPTURE(static_cast<int>(shape), n);
            const auto c = test::random_cloud(n, shape, seed);
            const NeighbourIndex index(*c, ElementSet::all(n));
            REQUIRE(index.size() == n);
            const unsigned k = n == 3000 ? 16 : n == 2000 ? 24 : 8;  // each way of keeping the list
            std::vector<std::vector<float>> found(n);
            std::vector<std::atomic<int>> visits(n);
            std::atomic<int> wrong{0};
            index.for_each_nearest(k, [&](std::size_t i, const NeighbourIndex::Nearest& nearest) {
                ++visits[i];
                found[i].assign(nearest.squared.begin(), nearest.squared.end());
                wrong += !std::is_sorted(found[i].begin(), found[i].end());
                for (std::size_t j = 0; j < nearest.index.size(); ++j) {
                    const auto a = index.position(i), b = index.position(nearest.index[j]);
                    const float dx = b[0] - a[0], dy = b[1] - a[1], dz = b[2] - a[2];
                    wrong += dx * dx + dy * dy + dz * dz != nearest.squared[j] || nearest.index[j] == i;
                }
            });
            CHECK(wrong == 0);
            std::mt19937_64 dice(seed);
            bool once = true, same = true;
            for (std::size_t i = 0; i < n; ++i) once &= visits[i] == 1;
            for (int probe = 0; probe < 120; ++probe) {
                const std::size_t q =
                    probe < 20 ? dice() % n : (dice() % 50 + n - std::min<std::uint64_t>(n, 50)) % n;
                same &= found[q] == slow_nearest(index, q, k);
            }
            CHECK(once);
            CHECK(same);
        }
}

TEST_CASE("NeighboursAreThoseOfTheSetAndTheSameForAnyNumberOfWorkers") {
    const auto c = test::random_cloud(150'000, Shape::Clusters, 9);
    ElementSet even(c->size());
    std::vector<PageBits> pages(c->page_count());
    for (std::uint64_t i = 0; i < c->size(); i += 2) pages[i / kPageSize].set(i % kPageSize);
    for (std::size_t p = 0; p < pages.size(); ++p) even.set_page(p, pages[p]);
    const auto sums = [&](std::size_t workers) {
        const parallel::WorkerLimit limit(workers);
        const NeighbourIndex index(*c, even);
        std::vector<double> sum(c->size(), 0);
        index.for_each_nearest(5, [&](std::size_t i, const NeighbourIndex::Nearest& nearest) {
            for (const float d : nearest.squared) sum[index.element(i)] += static_cast<double>(std::sqrt(d));
        });
        return sum;
    };
    const auto one = sums(1), many = sums(0);
    CHECK(one == many);
    for (std::uint64_t i = 1; i < c->size(); i += 2) REQUIRE(one[i] == 0);
    CHECK(one[2] > 0);
    CHECK_THROWS_AS(NeighbourIndex(*c, even).for_each_nearest(0, {}), Error);
    CHECK_THROWS_AS(NeighbourIndex(*c, even).for_each_nearest(65, {}), Error);
    Progress cancelled;
    cancelled.cancel();
    CHECK_THROWS_AS(NeighbourIndex(*c, even, cancelled), Cancelled);
    CHECK(NeighbourIndex(*c, ElementSet(c->size())).size() == 0);
}
