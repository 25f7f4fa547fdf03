// A part of a surface made anew: the rest stays to the bit, and both sides share the edges of the cut.

#include <catch2/catch.hpp>

#include <cmath>
#include <numbers>
#include <random>
#include <set>
#include <tuple>

#include "core/base/error.h"
#include "core/cloud/triangles.h"
#include "core/measure/contours.h"
#include "core/measure/figures.h"
#include "core/site/surface_edits.h"
#include "core/surface/definition.h"
#include "core/topology/adjacency.h"

using namespace pristine;
using namespace pristine::surface;

namespace {

constexpr Vec3 kAt{4'412'300, 5'218'930, 58};

std::vector<Vec3> tilted_ground(std::mt19937_64& dice, std::size_t n, double tilt = 0.1) {
    std::uniform_real_distribution<double> u(0, 1);
    std::vector<Vec3> p;
    for (std::size_t i = 0; i < n; ++i) {
        const double x = 80 * u(dice), y = 60 * u(dice);
        p.push_back(kAt + Vec3{x, y, tilt * x - 0.05 * y});
    }
    for (const double x : {-1.0, 81.0})
        for (const double y : {-1.0, 61.0}) p.push_back(kAt + Vec3{x, y, tilt * x - 0.05 * y});
    return p;
}

std::vector<Vec3> star(std::mt19937_64& dice, double x, double y, double r, int n) {
    std::uniform_real_distribution<double> u(0.5, 1);
    std::vector<Vec3> c;
    for (int i = 0; i < n; ++i) {
        const double a = 2 * std::numbers::pi * i / n, d = r * u(dice);
        c.push_back(kAt + Vec3{x + d * std::cos(a), y + d * std::sin(a), 0});
    }
    return c;
}

using Corner = std::tuple<double, double, double>;
std::multiset<std::array<Corner, 3>> places(const mesh::TriMesh& m) {
    std::multiset<std::array<Corner, 3>> all;
    for (const auto& t : m.triangles) {
        std::array<Corner, 3> c;
        for (std::size_t k = 0; k < 3; ++k) {
            const Vec3& v = m.vertices[t[k]];
            c[k] = {v.x, v.y, v.z};
        }
        std::rotate(c.begin(), std::min_element(c.begin(), c.end()), c.end());
        all.insert(c);
    }
    return all;
}

double plan(const mesh::TriMesh& m) {
    return measure::figures(m).plan_area;
}

}  // namespace

TEST_CASE("APartIsMadeAnewAndTheRestStaysToTheBit", "[surface][property]") {
    std::mt19937_64 dice(21);
    for (int round = 0; round < 30; ++round) {
        Definition d;
        d.points = tilted_ground(dice, 400);
        const mesh::TriMesh before = build(d).mesh;
        Patch patch;
        patch.outline = star(dice, 40, 30, 18, 5 + round % 9);
        if (round % 3 != 0)
            patch.lines = {
                {"bank", {kAt + Vec3{37, 29, 9}, kAt + Vec3{43, 30, 9}, kAt + Vec3{44, 33, 8}}, false}};
        const mesh::TriMesh after = replace_part(before, patch);
        // No gap and no overlap: the rim is the old one, edges have two triangles, areas are equal.
        const topology::Adjacency a = topology::adjacency(after.triangles),
                                  b = topology::adjacency(before.triangles);
        CHECK(a.boundary_edges == b.boundary_edges);
        CHECK(a.non_manifold_edges + a.inconsistent_edges == 0);
        CHECK(plan(after) == Approx(plan(before)).epsilon(1e-10));
        // What is wholly outside stands there as it was.
        const auto now = places(after),
                   rest = places(clip(before, {patch.outline}, Keep::Outside, Edges::Exact));
        for (const auto& t : rest) REQUIRE(now.contains(t));
        // Inside there is nothing but the outline, where it crossed edges, and the line.
        std::vector<std::uint32_t> fresh;
        for (std::uint32_t t = 0; t < after.triangles.size(); ++t)
            if (!rest.contains(*places(only(after, {t})).begin())) fresh.push_back(t);
        const mesh::TriMesh inside = only(after, fresh);
        std::set<Corner> line;
        for (const auto& l : patch.lines)
            for (const Vec3& p : l.points) line.insert({p.x, p.y, p.z});
        const topology::Adjacency of_inside = topology::adjacency(inside.triangles);
        std::set<std::uint32_t> rim;
        for (const auto& loop : topology::boundary_loops(inside.triangles, of_inside))
            rim.insert(loop.begin(), loop.end());
        std::size_t met = 0;
        for (std::uint32_t v = 0; v < inside.vertices.size(); ++v) {
            const Vec3& p = inside.vertices[v];
            if (rim.contains(v)) continue;
            ++met;
            CHECK(line.contains({p.x, p.y, p.z}));
        }
        CHECK(met == line.size());
    }
}

TEST_CASE("APatchWithoutLinesIsFlatBetweenItsOutline", "[surface]") {
    std::mt19937_64 dice(4);
    Definition d;
    d.points = tilted_ground(dice, 300);
    const mesh::TriMesh bare = build(d).mesh;
    d.points.push_back(kAt + Vec3{40, 30, 30});  // a heap on a plane
    d.points.push_back(kAt + Vec3{41, 31, 30});
    d.patches = {{star(dice, 40.5, 30.5, 25, 24), {}}};
    const mesh::TriMesh m = build(d).mesh;
    // The heap reaches no farther than the triangles at it, which are small: the plane is back.
    const measure::Volumes a = measure::volumes(m, measure::level(50)),
                           b = measure::volumes(bare, measure::level(50));
    CHECK(a.above == Approx(b.above).epsilon(1e-9));
}

TEST_CASE("OutlinesThatCannotBeReplacedAreRefusedWithTheReason", "[surface]") {
    std::mt19937_64 dice(4);
    Definition d;
    d.points = tilted_ground(dice, 300);
    const mesh::TriMesh m = build(d).mesh;
    const auto refused = [&](const Patch& p, const char* why) {
        try {
            replace_part(m, p);
            FAIL("it was taken");
        } catch (const Error& e) {
            CHECK_THAT(std::string(e.what()), Catch::Contains(why));
        }
    };
    refused({star(dice, 79, 30, 20, 12), {}}, "leaves the surface");
    refused({{kAt, kAt + Vec3{20, 20, 0}, kAt + Vec3{20, 0, 0}, kAt + Vec3{0, 20, 0}}, {}}, "cross");
    // An outline like a U, and a line across its gap.
    const std::vector<Vec3> u{kAt + Vec3{20, 20, 0}, kAt + Vec3{60, 20, 0}, kAt + Vec3{60, 50, 0},
                              kAt + Vec3{50, 50, 0}, kAt + Vec3{50, 30, 0}, kAt + Vec3{30, 30, 0},
                              kAt + Vec3{30, 50, 0}, kAt + Vec3{20, 50, 0}};
    refused({u, {{"drain", {kAt + Vec3{25, 40, 1}, kAt + Vec3{55, 41, 1}}, false}}}, "'drain' crosses");
}

TEST_CASE("APatchIsPartOfWhatASurfaceIsBuiltFromAndFollowsItsLines", "[site]") {
    using namespace pristine::site;
    std::mt19937_64 dice(12);
    // A surface as it came from a file: its own triangles are kept.
    Definition d;
    d.points = tilted_ground(dice, 300);
    const auto c = cloud::cloud_of_triangles(build(d).mesh, {"m", "", true, {}, {}});
    SitePtr s = add_cloud(Site(), c, "Surface 2026-11-03", "surface.xml");
    CHECK(s->items[0]->date == "2026-11-03");
    s = activate(*s, s->items[0]->id);
    const std::uint64_t id = s->items[0]->id;
    Line outline{0, "outline", star(dice, 40, 30, 15, 12), true, true},
        toe{0, "toe", {kAt + Vec3{38, 30, 7}, kAt + Vec3{42, 30, 7}}, false, true},
        far{0, "far", {kAt + Vec3{5, 5, 7}, kAt + Vec3{6, 5, 7}}, false, true};
    s = put_lines(*s, {outline, toe, far});
    const SourcePtr source = with_patch(*source_of(*s->item(id)), *s->lines[0], s->lines).source;
    REQUIRE(source->definition.patches.size() == 1);
    CHECK(source->definition.patches[0].lines.size() == 1);  // the far one lies outside
    CHECK_THROWS_AS(with_patch(*source, *s->lines[1], s->lines), Error);
    s = replace_surface(*s, id, rebuild(*s->item(id), *source));
    const auto height = [&](double x, double y) {
        double z = -1;
        for (const Vec3& v : s->item(id)->cloud->triangles()->vertices)
            if (v.x == kAt.x + x && v.y == kAt.y + y) z = v.z - kAt.z;
        return z;
    };
    CHECK(height(38, 30) == Approx(7));
    // Stored and back.
    const SurfaceSource back = unpacked_source(packed(*s->item(id)->source));
    CHECK(back.definition.given.triangles == source->definition.given.triangles);
    CHECK(back.definition.patches[0].outline == outline.points);
    CHECK(back.definition.patches[0].lines[0].points == toe.points);
    // Its line moves: the surface is out of date, and follows.
    Line moved = *s->lines[1];
    moved.points[0].z += 2;
    s = put_lines(*s, {moved});
    const SourcePtr fresh = with_lines_of(*s->item(id)->source, *s);
    REQUIRE(fresh);
    s = replace_surface(*s, id, rebuild(*s->item(id), *fresh));
    CHECK(height(38, 30) == Approx(9));
}

TEST_CASE("DatesAreFoundInNamesAndNonsenseIsRefused", "[site]") {
    using namespace pristine::site;
    CHECK(date_in("spoil 2026-10-05") == "2026-10-05");
    CHECK(date_in("bank_20261103_b") == "2026-11-03");
    CHECK(date_in("survey.2024.02.29") == "2024-02-29");
    CHECK(date_in("survey 2023-02-29").empty());
    CHECK(date_in("station 4412300").empty());
    CHECK(date_in("pad 2026 11 03") == "2026-11-03");  // as file names are spoken
    CHECK(date_in("2026-1103").empty());
    std::mt19937_64 dice(1);
    Definition d;
    d.points = tilted_ground(dice, 20);
    const SitePtr s =
        add_cloud(Site(), cloud::cloud_of_triangles(build(d).mesh, {"m", "", true, {}, {}}), "A", "");
    CHECK(set_date(*s, s->items[0]->id, "2026-11-25")->items[0]->date == "2026-11-25");
    CHECK(set_date(*s, s->items[0]->id, "")->items[0]->date.empty());
    CHECK_THROWS_AS(set_date(*s, s->items[0]->id, "25.11.2026"), Error);
}

TEST_CASE("APlaneThroughALineIsTheBestOneAndExactForThree", "[measure]") {
    const auto z = [](double x, double y) { return 58 + 0.02 * x - 0.03 * y; };
    std::vector<Vec3> corners;
    for (const auto& [x, y] : {std::pair{0., 0.}, {40., 3.}, {30., 50.}, {-5., 30.}})
        corners.push_back({kAt.x + x, kAt.y + y, z(x, y)});
    const measure::Base b = measure::plane_of(corners);
    CHECK(b.east == Approx(0.02));
    CHECK(b.north == Approx(-0.03));
    CHECK(b.height(kAt.x + 10, kAt.y + 10) == Approx(z(10, 10)).epsilon(1e-12));
    const measure::Base three = measure::plane_of({corners[0], corners[1], corners[2]});
    CHECK(three.height(corners[2].x, corners[2].y) == Approx(corners[2].z).epsilon(1e-14));
    CHECK_THROWS_AS(measure::plane_of({corners[0], corners[1]}), Error);
    CHECK_THROWS_AS(measure::plane_of({kAt, kAt + Vec3{1, 1, 5}, kAt + Vec3{2, 2, 3}, kAt + Vec3{3, 3, 4}}),
                    Error);
}

TEST_CASE("SlopeArrowsPointDownThePlaneAndAreLongerWhereItIsSteep", "[measure]") {
    const auto plane = [](double tilt) {
        Definition d;
        for (int y = 0; y <= 20; ++y)
            for (int x = 0; x <= 20; ++x) d.points.push_back(kAt + Vec3{double(x), double(y), tilt * x});
        return measure::slope_arrows(build(d).mesh, 100);
    };
    const auto length = [](const std::vector<Vec3>& a) { return norm(a[1] - a[0]); };
    const auto gentle = plane(0.1), steep = plane(1);
    CHECK(gentle.size() >= 80);
    CHECK(gentle.size() <= 130);
    for (const auto& a : gentle) {
        CHECK(a[1].x < a[0].x);
        CHECK(a[1].y == Approx(a[0].y));
        CHECK((a[0].z - a[1].z) / (a[0].x - a[1].x) == Approx(0.1));
    }
    CHECK(length(steep[0]) > length(gentle[0]));
    CHECK(plane(0).empty());
}
