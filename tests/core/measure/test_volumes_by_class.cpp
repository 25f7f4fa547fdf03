// Areas and volumes of a map of change by class, against a grid of small squares.

#include <catch2/catch.hpp>

#include <algorithm>
#include <cmath>
#include <random>

#include "core/measure/change_map.h"
#include "core/measure/classes.h"
#include "core/measure/difference.h"
#include "core/surface/definition.h"

using namespace pristine;

TEST_CASE("ClassesOfAMapOfChangeAddUpToTheDifference") {
    const auto seed = std::random_device{}();
    CAPTURE(seed);
    std::mt19937_64 random(seed);
    std::uniform_real_distribution<double> u(0, 1), up(-1, 1);
    surface::Definition earlier, later;
    for (int i = 0; i <= 12; ++i)
        for (int k = 0; k <= 9; ++k) {
            const double x = i + (i > 0 && i < 12 ? 0.4 * up(random) : 0),
                         y = k + (k > 0 && k < 9 ? 0.4 * up(random) : 0);
            earlier.points.push_back({x, y, up(random)});
            later.points.push_back({12 - x, 9 - y, up(random)});
        }
    const mesh::TriMesh before = surface::build(earlier).mesh, after = surface::build(later).mesh;
    const measure::ChangeMap map = measure::change_map(before, after);
    const measure::Difference whole = measure::difference(before, after);
    const std::vector<double> limits{-0.8, -0.2, 0, 0.2, 0.8};
    const auto classes = measure::figures_by_class(map.mesh, map.change, limits);
    REQUIRE(classes.size() == 6);
    double area = 0, volume = 0;
    for (std::size_t k = 0; k < classes.size(); ++k) {
        area += classes[k].area;
        volume += classes[k].volume;
        if (classes[k].area > 0) {
            CHECK(classes[k].volume >= classes[k].from * classes[k].area - 1e-9);
            CHECK(classes[k].volume <= classes[k].to * classes[k].area + 1e-9);
        }
    }
    CHECK(area == Approx(12 * 9));
    CHECK(volume == Approx(whole.net()).margin(1e-9));
    // One class of everything; triangles without a value do not count.
    const auto all = measure::figures_by_class(map.mesh, map.change, {});
    REQUIRE(all.size() == 1);
    CHECK(all[0].area == Approx(area));
    std::vector<double> some = map.change;
    std::fill(some.begin(), some.begin() + static_cast<std::ptrdiff_t>(some.size() / 2), NAN);
    CHECK(measure::figures_by_class(map.mesh, some, {})[0].area < all[0].area - 1);
}
