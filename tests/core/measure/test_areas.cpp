// Work areas beside each other, and their sum against the whole.

#include "core/measure/areas.h"

#include <catch2/catch.hpp>

#include <random>

#include "core/base/error.h"
#include "core/surface/clip.h"
#include "core/surface/definition.h"

using namespace pristine;
using measure::WorkArea;

namespace {

constexpr Vec3 kOrigin{412300, 5218930, 50};

mesh::TriMesh random_ground(std::mt19937_64& dice) {
    std::uniform_real_distribution<double> u(0, 40), z(0, 2);
    surface::Definition d;
    for (const auto& [x, y] : {std::pair{0, 0}, {40, 0}, {40, 40}, {0, 40}})
        d.points.push_back({kOrigin.x + x, kOrigin.y + y, kOrigin.z});
    for (int i = 0; i < 500; ++i)
        d.points.push_back({kOrigin.x + u(dice), kOrigin.y + u(dice), kOrigin.z + z(dice)});
    return surface::build(d).mesh;
}

WorkArea area(const char* name, double x0, double y0, double x1, double y1) {
    const auto at = [&](double x, double y) { return Vec3{kOrigin.x + x, kOrigin.y + y, 0}; };
    return {name, {at(x0, y0), at(x1, y0), at(x1, y1), at(x0, y1)}};
}

}  // namespace

TEST_CASE("AreasAndRestAddUpToTheWhole", "[property]") {
    const auto seed = std::random_device{}();
    CAPTURE(seed);
    std::mt19937_64 dice(seed);
    const mesh::TriMesh before = random_ground(dice), after = random_ground(dice);
    // Two that share an edge, one by itself, one that reaches over the rim.
    const std::vector<WorkArea> areas{area("Hof Süd", 2, 2, 10, 12), area("yard", 10, 2, 21, 12),
                                      area("bank", 5, 20, 15, 35), area("edge", 30, 30, 60, 39)};
    const measure::DifferenceOptions o{0.1, {.noise = 0.01, .systematic = 0.01}, {.noise = 0.02}};
    const measure::AreaTable t = measure::difference_by_area(before, after, areas, o);
    REQUIRE(t.rows.size() == 4);
    REQUIRE(t.together);
    CHECK(t.overlapping.empty());
    CHECK(t.mismatch < 1e-8);
    double cut = 0, fill = 0, common = 0;
    for (std::size_t i = 0; i < areas.size(); ++i) {
        const auto& row = t.rows[i];
        CHECK(row.name == areas[i].name);
        const auto inside = [&](const mesh::TriMesh& m) {
            return surface::clip(m, {areas[i].outline}, surface::Keep::Inside, surface::Edges::Exact);
        };
        const measure::Difference alone = measure::difference(inside(before), inside(after), o);
        CHECK(row.change.cut == alone.cut);
        CHECK(row.change.sigma_net == Approx(alone.sigma_net));
        cut += row.change.cut, fill += row.change.fill, common += row.change.overlap_area;
    }
    CHECK(t.rows[0].area == Approx(80));
    CHECK(t.rows[3].area == Approx(270));
    CHECK(t.rows[3].change.overlap_area == Approx(90));  // the rest of it lies off the surfaces
    CHECK(t.together->cut == Approx(cut));
    CHECK(t.together->fill == Approx(fill));
    CHECK(t.together->overlap_area == Approx(common));
    CHECK(cut + t.rest.cut == Approx(t.whole.cut));
    // What all heights share does not average out over areas.
    double squares = 0;
    for (const auto& row : t.rows) squares += row.change.sigma_net * row.change.sigma_net;
    CHECK(t.together->sigma_net > std::sqrt(squares));
}

TEST_CASE("AreasThatOverlapHaveNoSumAndBadOnesAreNamed") {
    std::mt19937_64 dice(5);
    const mesh::TriMesh before = random_ground(dice), after = random_ground(dice);
    const measure::AreaTable t = measure::difference_by_area(
        before, after, {area("a", 2, 2, 10, 12), area("b", 9, 2, 20, 12), area("c", 25, 2, 30, 12)});
    CHECK_FALSE(t.together);
    CHECK(t.overlapping == std::vector<std::pair<std::size_t, std::size_t>>{{0, 1}});
    CHECK(t.rest.overlap_area == Approx(1600 - 18 * 10 - 50));
    const auto said = [&](const std::vector<WorkArea>& areas) -> std::string {
        try {
            measure::difference_by_area(before, after, areas);
        } catch (const Error& e) {
            return e.what();
        }
        return {};
    };
    CHECK(said({area("Lager", 100, 100, 110, 110)}).find("Lager") != std::string::npos);
    WorkArea crossed = area("bow", 2, 2, 10, 12);
    std::swap(crossed.outline[1], crossed.outline[2]);
    CHECK(said({crossed}).find("bow") != std::string::npos);
    CHECK_FALSE(said({}).empty());
}
