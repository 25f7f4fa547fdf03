// Points in cubes: nothing within a side of a place is missed.

#include "core/select/cell_index.h"

#include <catch2/catch.hpp>

#include <random>
#include <set>

#include "support/cloud_makers.h"

using namespace pristine;

TEST_CASE("TheCubesRoundAPlaceHoldAllThatIsNear") {
    std::mt19937_64 dice(test::seed_for("TheCubesRoundAPlaceHoldAllThatIsNear"));
    for (const auto shape :
         {test::Shape::Terrain, test::Shape::Clusters, test::Shape::OnePlace, test::Shape::WithFarStrays}) {
        const auto cloud = test::random_cloud(4'000, shape, dice());
        ElementSet half(cloud->size());
        for (std::uint64_t e = 0; e < cloud->size(); ++e)
            if (dice() % 2 == 0) half.insert(e);
        const double wanted = cloud->robust_bounds().diagonal() / 20 + 0.001;
        const select::CellIndex index(*cloud, half, wanted);
        CHECK(index.side() >= wanted);
        CHECK(index.entries().size() == half.count());
        std::set<std::uint32_t> elements;
        for (const auto& e : index.entries()) elements.insert(e.element);
        CHECK(elements.size() == half.count());
        std::size_t missed = 0;
        for (int turn = 0; turn < 50; ++turn) {
            const Vec3 at = cloud->position(dice() % cloud->size());
            const Vec3 own = at - index.origin();
            std::set<std::uint32_t> met;
            index.around(static_cast<float>(own.x), static_cast<float>(own.y), static_cast<float>(own.z),
                         [&](std::uint32_t first, std::uint32_t last) {
                             for (std::uint32_t i = first; i < last; ++i)
                                 met.insert(index.entries()[i].element);
                             return false;
                         });
            half.for_each([&](std::uint64_t e) {
                if (norm(cloud->position(e) - at) < 0.999 * index.side())
                    missed += !met.contains(static_cast<std::uint32_t>(e));
            });
        }
        CHECK(missed == 0);
    }
}

TEST_CASE("AnIndexOfNothingIsEmptyAndAVisitCanStop") {
    const auto cloud = test::random_cloud(500, test::Shape::OnePlace, 1);
    const select::CellIndex none(*cloud, ElementSet(cloud->size()), 1);
    CHECK(none.entries().empty());
    CHECK_FALSE(none.around(0, 0, 0, [](auto, auto) { return true; }));
    const select::CellIndex all(*cloud, ElementSet::all(cloud->size()), 1);
    const auto& e = all.entries()[0];
    int calls = 0;
    CHECK(all.around(e.x, e.y, e.z, [&](auto, auto) { return ++calls > 0; }));
    CHECK(calls == 1);
}
