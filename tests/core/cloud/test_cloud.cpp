#include <catch2/catch.hpp>

#include <algorithm>
#include <set>

#include "core/base/compress.h"
#include "core/base/parallel.h"
#include "core/cloud/column.h"
#include "core/cloud/curve.h"
#include "support/cloud_makers.h"

using namespace pristine;
using cloud::PointBatch;
using test::Shape;

TEST_CASE("TheCurveIsABijectionWhoseStepsAreNeighbours") {
    // All cells of an 8 x 8 x 8 corner: the first 512 places of the curve, each once, each next to the one
    // before.
    std::vector<std::array<int, 3>> at(512, {-1, -1, -1});
    for (int x = 0; x < 8; ++x)
        for (int y = 0; y < 8; ++y)
            for (int z = 0; z < 8; ++z) {
                const auto i =
                    cloud::curve_index(static_cast<std::uint32_t>(x), static_cast<std::uint32_t>(y),
                                       static_cast<std::uint32_t>(z));
                REQUIRE(i < 512);
                REQUIRE(at[i][0] == -1);
                at[i] = {x, y, z};
            }
    for (std::size_t i = 1; i < at.size(); ++i) {
        int steps = 0;
        for (std::size_t a = 0; a < 3; ++a) steps += std::abs(at[i][a] - at[i - 1][a]);
        REQUIRE(steps == 1);
    }
    std::mt19937_64 dice(1);
    std::set<std::uint64_t> seen;
    std::set<std::array<std::uint32_t, 3>> cells;
    for (int i = 0; i < 20000; ++i) {
        const std::array<std::uint32_t, 3> c{static_cast<std::uint32_t>(dice() & 32767),
                                             static_cast<std::uint32_t>(dice() & 32767),
                                             static_cast<std::uint32_t>(dice() & 32767)};
        if (cells.insert(c).second) REQUIRE(seen.insert(cloud::curve_index(c[0], c[1], c[2])).second);
    }
}

TEST_CASE("BuildingEqualsSortingEverythingForAnyNumberOfWorkers") {
    const std::uint64_t seed = test::seed_for("Building");
    CAPTURE(seed);
    for (const Shape shape :
         {Shape::Terrain, Shape::Clusters, Shape::OnePlace, Shape::Line, Shape::Grid, Shape::WithFarStrays})
        for (const std::uint64_t n : {1ull, 2ull, 8191ull, 65536ull, 65537ull, 700000ull}) {
            if (n == 700000 && shape != Shape::Terrain && shape != Shape::OnePlace) continue;
            CAPTURE(static_cast<int>(shape), n);
            const auto batches = test::random_batches(n, shape, seed);
            const test::ReferenceOrder expected = test::reference_order(batches);
            const auto build = [&](std::size_t workers) {
                const parallel::WorkerLimit limit(workers);
                return cloud::build(batches, {});
            };
            const auto one = build(1), many = build(0);
            REQUIRE(one->size() == n);
            bool same = true;
            for (std::size_t p = 0; p < one->page_count(); ++p) {
                const auto a = one->order()->page(p), b = many->order()->page(p);
                same &= a == b && std::ranges::equal(one->positions(p).x, many->positions(p).x) &&
                        one->info(p).spacing == many->info(p).spacing;
                for (std::size_t i = 0; i < a.size(); ++i) {
                    same &= a[i] == expected.records[p * kPageSize + i];
                    const PointBatch& from = batches[a[i] / 50000];
                    const std::size_t k = a[i] % 50000;
                    same &= one->positions(p).x[i] == from.x[k] && one->positions(p).y[i] == from.y[k] &&
                            one->positions(p).z[i] == from.z[k];
                    same &= one->intensity()->page(p)[i] == from.intensity[k] &&
                            one->colour()->page(p)[i] == from.colour[k] &&
                            one->classification()->page(p)[i] == from.classification[k];
                }
            }
            REQUIRE(same);
        }
}

TEST_CASE("PageAndBlockBoundsAreTight") {
    const auto c = test::random_cloud(150000, Shape::Clusters, 4);
    for (std::size_t p = 0; p < c->page_count(); ++p) {
        const auto& pos = c->positions(p);
        for (std::size_t b = 0; b * kBlockSize < pos.size(); ++b) {
            const auto first = pos.x.begin() + static_cast<std::ptrdiff_t>(b * kBlockSize);
            const auto last =
                pos.x.begin() + static_cast<std::ptrdiff_t>(std::min(pos.size(), (b + 1) * kBlockSize));
            CHECK(c->info(p).blocks[b].lo[0] == *std::min_element(first, last));
            CHECK(c->info(p).blocks[b].hi[0] == *std::max_element(first, last));
        }
        CHECK(c->info(p).bounds.hi[2] == *std::max_element(pos.z.begin(), pos.z.end()));
    }
}

TEST_CASE("StraysDoNotDecideTheRobustBounds") {
    const auto c = test::random_cloud(300000, Shape::WithFarStrays, 8);
    CHECK(c->bounds().diagonal() > 1e6);
    const Box3 robust = c->robust_bounds();
    CHECK(robust.hi.x - robust.lo.x < 8);  // the cluster is 5 m wide
    CHECK(robust.lo.x > 412299);
    // Pages stay compact in spite of them: the median page is far smaller than the cluster.
    std::vector<double> sizes;
    for (std::size_t p = 0; p < c->page_count(); ++p)
        for (std::size_t b = 0; b < kBlocksPerPage && b * kBlockSize < c->positions(p).size(); ++b)
            sizes.push_back(cloud::world_box(c->info(p).blocks[b], c->grid()).diagonal());
    std::nth_element(sizes.begin(), sizes.begin() + static_cast<std::ptrdiff_t>(sizes.size() / 2),
                     sizes.end());
    CHECK(sizes[sizes.size() / 2] < 5);
}

TEST_CASE("AnyPrefixOfABlockIsAnEvenSample") {
    const auto c = test::random_cloud(kPageSize, Shape::Terrain, 2);
    const auto& pos = c->positions(0);
    for (std::size_t b = 0; b < kBlocksPerPage; ++b) {
        const auto mean = [&](std::size_t n) {
            double sum = 0;
            for (std::size_t i = 0; i < n; ++i) sum += pos.x[b * kBlockSize + i];
            return sum / static_cast<double>(n);
        };
        const auto& box = c->info(0).blocks[b];
        CHECK(std::fabs(mean(800) - mean(kBlockSize)) < 0.06 * (box.hi[0] - box.lo[0]));
    }
}

TEST_CASE("CoordinatesAreExactFarFromTheOrigin") {
    PointBatch b;
    b.x = {0, 1, 123456789};
    b.y = {0, 1, 2};
    b.z = {0, 1, 2};
    cloud::PointCloud::Parts parts;
    parts.grid = {{1e-4, 1e-4, 1e-4}, {9'000'000, 9'999'000, 100}};
    const auto c = cloud::build({b}, std::move(parts));
    for (std::uint64_t i = 0; i < 3; ++i) {
        const auto k = c->order()->page(0)[i];
        CHECK(std::fabs(c->position(i).x - (9'000'000 + b.x[k] * 1e-4)) < 1e-8);
    }
}

TEST_CASE("SpacingOfAGridIsAboutItsStep") {
    const auto c =
        test::random_cloud(90000, Shape::Grid, 1);  // 10 mm steps; on a grid 2 x nearest overestimates by two
    for (std::size_t b = 0; b < kBlocksPerPage; ++b)
        CHECK(c->info(0).spacing[b] == Approx(0.02).epsilon(0.05));
}

TEST_CASE("DeltasAndPlanesPackWithoutLoss") {
    std::mt19937_64 dice(6);
    for (const std::size_t n : {0u, 1u, 7u, 65536u}) {
        std::vector<std::uint32_t> v(n);
        for (auto& x : v) x = static_cast<std::uint32_t>(dice());
        CHECK(unpack_deltas(pack_deltas(v), n) == v);
        CHECK_THROWS_AS(unpack_deltas(pack_deltas(v), n + 1), Error);
    }
    const std::string text = "abcdefghijkl";
    CHECK(from_planes(to_planes(text, 3), 3) == text);
    CHECK_THROWS_AS(unpack(pack(std::string(1000, 'x')), 999), Error);
}

TEST_CASE("AFetchedColumnHasTheValueOfEachElementsOwnRecord") {
    const auto c = test::random_cloud(150000, Shape::Clusters, 31);
    const auto column = cloud::fetch_column(*c, "number");
    REQUIRE(column->values.size() == c->size());
    for (std::size_t p = 0; p < c->page_count(); ++p) {
        const auto order = c->order()->page(p);
        for (std::size_t i = 0; i < order.size(); i += 53)
            REQUIRE(column->base + static_cast<double>(column->values.page(p)[i]) == order[i]);
    }
    CHECK(column->lo < column->hi);
    CHECK_THROWS_AS(cloud::fetch_column(*c, "no such column"), Error);
    Progress cancelled;
    cancelled.cancel();
    CHECK_THROWS_AS(cloud::fetch_column(*c, "number", cancelled), Cancelled);
}

TEST_CASE("BuildingCanBeCancelledAtAnyPoll") {
    const auto batches = test::random_batches(200000, Shape::Terrain, 3);
    Progress p;
    p.cancel();
    CHECK_THROWS_AS(cloud::build(batches, {}, p), Cancelled);
}
