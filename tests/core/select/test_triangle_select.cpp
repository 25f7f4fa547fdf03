// Triangles taken as wholes: by fences, lines across, shapes in space; grown and connected. Against slow
// ways.

#include <catch2/catch.hpp>

#include <cmath>
#include <numbers>
#include <random>
#include <set>

#include "core/cloud/triangles.h"
#include "core/geometry/triangle.h"
#include "core/select/triangle_fence.h"
#include "core/select/triangle_growth.h"
#include "core/select/triangle_solid.h"

using namespace pristine;
using select::Reach;

namespace {

using CloudPtr = std::shared_ptr<const cloud::PointCloud>;

// Triangles anywhere: they overlap, and face any way.
CloudPtr soup(std::mt19937_64& dice, std::size_t n, double size = 1) {
    std::uniform_real_distribution<double> u(-1, 1);
    mesh::TriMesh m;
    for (std::size_t t = 0; t < n; ++t) {
        const Vec3 at{10 * u(dice), 10 * u(dice), 10 * u(dice)};
        for (int k = 0; k < 3; ++k)
            m.vertices.push_back(at + Vec3{size * u(dice), size * u(dice), size * u(dice)});
        const auto v = static_cast<std::uint32_t>(3 * t);
        m.triangles.push_back({v, v + 1, v + 2});
    }
    return cloud::cloud_of_triangles(m, {"m", "", false, {}, {}});
}

// A grid of n by n quads in plan, z by a function.
template <class Height>
CloudPtr grid(int n, Height height, bool surface = true) {
    mesh::TriMesh m;
    for (int y = 0; y <= n; ++y)
        for (int x = 0; x <= n; ++x)
            m.vertices.push_back({double(x), double(y), height(double(x), double(y))});
    const auto v = [&](int x, int y) { return static_cast<std::uint32_t>(y * (n + 1) + x); };
    for (int y = 0; y < n; ++y)
        for (int x = 0; x < n; ++x) {
            m.triangles.push_back({v(x, y), v(x + 1, y), v(x + 1, y + 1)});
            m.triangles.push_back({v(x, y), v(x + 1, y + 1), v(x, y + 1)});
        }
    return cloud::cloud_of_triangles(m, {"m", "", surface, {}, {}});
}

std::array<Vec3, 3> corners(const cloud::PointCloud& c, std::uint64_t t) {
    const auto& m = *c.triangles();
    return {m.vertices[m.triangles[t][0]], m.vertices[m.triangles[t][1]], m.vertices[m.triangles[t][2]]};
}

ViewFrame some_view(std::mt19937_64& dice, bool perspective) {
    std::uniform_real_distribution<double> u(-1, 1);
    ViewFrame v;
    v.ahead = normalized({u(dice), u(dice), u(dice)});
    v.right = normalized(cross(v.ahead, {0, 0, 1}));
    v.down = cross(v.ahead, v.right);
    v.perspective = perspective;
    v.eye = v.ahead * (perspective ? -6.0 : -40.0);  // inside the soup: the near plane cuts
    v.scale = perspective ? 500 : 30;
    v.width = 800, v.height = 600;
    v.centre_x = 400, v.centre_y = 300;
    v.near_depth = perspective ? 0.5 : -INFINITY;
    return v;
}

Polygon some_fence(std::mt19937_64& dice) {
    std::uniform_real_distribution<double> u(0, 1);
    Polygon p;
    const double r = 60 + 200 * u(dice), x = 200 + 400 * u(dice), y = 150 + 300 * u(dice);
    for (int i = 0; i < 9; ++i) {
        const double a = 2 * std::numbers::pi * (i + 0.4 * u(dice)) / 9, d = r * (0.4 + 0.6 * u(dice));
        p.push_back({x + d * std::cos(a), y + d * std::sin(a)});
    }
    return p;
}

// Places spread over the triangle that lie before the near plane, projected.
struct Sampled {
    int in = 0, all = 0, cut = 0;
};
Sampled sampled(const CloudPtr& c, std::uint64_t t, const ViewFrame& v, const Polygon& fence) {
    const auto w = corners(*c, t);
    Sampled s;
    constexpr int kSteps = 24;
    for (int i = 0; i <= kSteps; ++i)
        for (int j = 0; i + j <= kSteps; ++j) {
            const double a = double(i) / kSteps, b = double(j) / kSteps;
            const Vec3 p = w[0] * a + w[1] * b + w[2] * (1 - a - b);
            if (v.depth(p) < v.near_depth) {
                ++s.cut;
                continue;
            }
            ++s.all;
            s.in += contains(fence, v.project(p));
        }
    return s;
}

}  // namespace

// What sampling finds inside must be touched; what is held wholly has no sample outside; and the other way
// round, up to what lies between samples.
TEST_CASE("FencesOnTrianglesAgreeWithManySamplesOfThem", "[select][property]") {
    std::mt19937_64 dice(11);
    const CloudPtr c = soup(dice, 1500);
    const ElementSet all = ElementSet::all(c->size());
    for (int round = 0; round < 8; ++round) {
        const ViewFrame v = some_view(dice, round % 2 == 1);
        const Polygon fence = some_fence(dice);
        select::FenceOptions o;
        o.reach = Reach::Touches;
        const ElementSet touched = select::fence(*c, {v, fence}, all, o);
        o.reach = Reach::Whole;
        const ElementSet whole = select::fence(*c, {v, fence}, all, o);
        CHECK((whole - touched).empty());
        std::size_t unsure = 0;
        for (std::uint64_t t = 0; t < c->size(); ++t) {
            const Sampled s = sampled(c, t, v, fence);
            if (s.in > 0) CHECK(touched.contains(t));
            if (whole.contains(t)) CHECK((s.in == s.all && s.cut == 0));
            unsure += touched.contains(t) && s.in == 0;
            unsure += !whole.contains(t) && s.cut == 0 && s.in == s.all;
        }
        CHECK(touched.count() > 20);
        CHECK(unsure < 12);
    }
}

TEST_CASE("ALineAcrossTakesWhatItCrosses", "[select]") {
    const CloudPtr c = grid(20, [](double, double) { return 0.0; });
    ViewFrame v;  // from above, ten pixels a unit
    v.scale = 10;
    v.eye = {0, 0, 100};
    v.width = v.height = 400;
    const auto px = [&](double x, double y) { return v.project({x, y, 0}); };
    const ElementSet all = ElementSet::all(c->size());
    const ElementSet hit = select::across_line(*c, v, {px(0.5, 5.2), px(12.5, 5.2)}, all, {});
    for (std::uint64_t t = 0; t < c->size(); ++t) {
        const auto w = corners(*c, t);
        double lo = 1e9, hi = -1e9, left = 1e9, right = -1e9;
        // The stretch of the triangle at y = 5.2.
        for (int k = 0; k < 3; ++k) {
            const Vec3 a = w[std::size_t(k)], b = w[std::size_t(k + 1) % 3];
            lo = std::min(lo, a.y), hi = std::max(hi, a.y);
            if ((a.y < 5.2) != (b.y < 5.2)) {
                const double x = a.x + (5.2 - a.y) / (b.y - a.y) * (b.x - a.x);
                left = std::min(left, x), right = std::max(right, x);
            }
        }
        CHECK(hit.contains(t) == (lo < 5.2 && hi > 5.2 && right >= 0.5 && left <= 12.5));
    }
    CHECK(select::across_line(*c, v, {px(3, 3)}, all, {}).empty());
    // The edge that is nearest, and none from afar.
    std::uint64_t t = 0;
    while (!(std::fabs(c->position(t).x - 7.667) < 0.01 && std::fabs(c->position(t).y - 4.333) < 0.01)) ++t;
    const auto edge = select::edge_near(*c, v, t, px(7.97, 4.4), 3);  // the upright one at x = 8
    REQUIRE(edge);
    const auto w = corners(*c, t);
    CHECK(w[std::size_t(*edge + 1) % 3].x == 8);
    CHECK(w[std::size_t(*edge + 2) % 3].x == 8);
    CHECK(!select::edge_near(*c, v, t, px(7.667, 4.333), 1));
}

TEST_CASE("OnlyWhatFacesTheViewIsTakenWhenAsked", "[select]") {
    std::mt19937_64 dice(3);
    const CloudPtr c = soup(dice, 600);
    const ElementSet all = ElementSet::all(c->size());
    for (const bool perspective : {false, true}) {
        const ViewFrame v = some_view(dice, perspective);
        const ElementSet towards = select::facing(*c, v, all);
        for (std::uint64_t t = 0; t < c->size(); ++t) {
            const auto w = corners(*c, t);
            bool before = true;
            for (const Vec3& p : w) before &= v.depth(p) >= 0.5;
            if (!before) continue;
            // Seen from the front, the corners turn against the clock on a screen whose y points down.
            const PixelPoint a = v.project(w[0]), b = v.project(w[1]), d = v.project(w[2]);
            const double turn = (b.x - a.x) * (d.y - a.y) - (b.y - a.y) * (d.x - a.x);
            CHECK(towards.contains(t) == (turn < 0));
        }
        select::FenceOptions o;
        o.towards_only = true;
        const Polygon everything{{-1e5, -1e5}, {1e5, -1e5}, {1e5, 1e5}, {-1e5, 1e5}};
        const ElementSet plain = select::fence(*c, {v, everything}, all);
        CHECK(select::fence(*c, {v, everything}, all, o) == (plain & towards));
    }
}

TEST_CASE("ShapesInSpaceOnTrianglesAgreeWithManySamples", "[select][property]") {
    std::mt19937_64 dice(5);
    const CloudPtr c = soup(dice, 1500, 2);
    const ElementSet all = ElementSet::all(c->size());
    struct Shape {
        std::function<ElementSet(Reach)> take;
        std::function<bool(Vec3)> holds;
    };
    const select::Box box{{1, 2, -1}, {3, 4, 2}, 30};
    const auto planes = select::half_spaces(box);
    const Shape shapes[] = {
        {[&](Reach r) { return select::inside(*c, planes, all, r); },
         [&](Vec3 p) {
             return std::all_of(planes.begin(), planes.end(),
                                [&](const auto& h) { return dot(h.normal, p) <= h.offset; });
         }},
        {[&](Reach r) {
             return select::in_ball(*c, {2, -1, 1}, 4, all, r);
         },
         [](Vec3 p) {
             return norm(p - Vec3{2, -1, 1}) <= 4;
         }},
        {[&](Reach r) { return select::in_cylinder(*c, -2, 1, 3, -4, 5, all, r); },
         [](Vec3 p) { return std::hypot(p.x + 2, p.y - 1) <= 3 && p.z >= -4 && p.z <= 5; }}};
    for (const Shape& s : shapes) {
        const ElementSet touched = s.take(Reach::Touches), whole = s.take(Reach::Whole);
        std::size_t unsure = 0;
        for (std::uint64_t t = 0; t < c->size(); ++t) {
            const auto w = corners(*c, t);
            int in = 0, n = 0;
            for (int i = 0; i <= 24; ++i)
                for (int j = 0; i + j <= 24; ++j, ++n)
                    in += s.holds(w[0] * (i / 24.) + w[1] * (j / 24.) + w[2] * ((24 - i - j) / 24.));
            if (in > 0) CHECK(touched.contains(t));
            CHECK(whole.contains(t) == (s.holds(w[0]) && s.holds(w[1]) && s.holds(w[2])));
            unsure += touched.contains(t) && in == 0;
        }
        CHECK(touched.count() > whole.count());
        CHECK(unsure < 10);
    }
}

TEST_CASE("TheNearestPlaceOfATriangleIsNoFartherThanAnySample", "[geometry][property]") {
    std::mt19937_64 dice(8);
    std::uniform_real_distribution<double> u(-1, 1);
    for (int round = 0; round < 400; ++round) {
        const Vec3 a{u(dice), u(dice), u(dice)}, p{2 * u(dice), 2 * u(dice), 2 * u(dice)};
        // Some are flat: a line, a point.
        const Vec3 b = round % 10 == 0 ? a : Vec3{u(dice), u(dice), u(dice)};
        const Vec3 d = round % 7 == 0 ? a + (b - a) * 0.3 : Vec3{u(dice), u(dice), u(dice)};
        const Vec3 q = closest_on_triangle(p, a, b, d);
        double best = INFINITY;
        for (int i = 0; i <= 60; ++i)
            for (int j = 0; i + j <= 60; ++j)
                best = std::min(best, norm(a * (i / 60.) + b * (j / 60.) + d * ((60 - i - j) / 60.) - p));
        CHECK(norm(q - p) <= best + 1e-12);
        CHECK(norm(q - p) >= best - 0.06);
    }
}

TEST_CASE("RingsOfTrianglesGrowAndShrinkByTheirCorners", "[select]") {
    const CloudPtr c = grid(40, [](double x, double y) { return 0.1 * x * y; });
    const auto& m = *c->triangles();
    ElementSet set(c->size());
    for (std::uint64_t t = 0; t < c->size(); ++t) {
        const Vec3 p = c->position(t);
        if (std::hypot(p.x - 12, p.y - 20) < 4) set.insert(t);
    }
    ElementSet eligible = ElementSet::all(c->size());
    for (std::uint64_t t = 0; t < c->size(); ++t)
        if (c->position(t).x > 15)
            eligible = eligible - [&] {
                ElementSet one(c->size());
                one.insert(t);
                return one;
            }();
    const ElementSet grown = select::grown_by_ring(*c, set, eligible),
                     shrunk = select::shrunk_by_ring(*c, set, eligible);
    std::set<std::uint32_t> of_set, of_rest;
    for (std::uint64_t t = 0; t < c->size(); ++t)
        for (const std::uint32_t v : m.triangles[t]) {
            if (set.contains(t)) of_set.insert(v);
            if (!set.contains(t) && eligible.contains(t)) of_rest.insert(v);
        }
    const auto any = [&](const std::set<std::uint32_t>& s, std::uint64_t t) {
        return std::any_of(m.triangles[t].begin(), m.triangles[t].end(),
                           [&](std::uint32_t v) { return s.contains(v); });
    };
    for (std::uint64_t t = 0; t < c->size(); ++t) {
        CHECK(grown.contains(t) == (set.contains(t) || (eligible.contains(t) && any(of_set, t))));
        CHECK(shrunk.contains(t) == (set.contains(t) && !any(of_rest, t)));
    }
}

TEST_CASE("ConnectedTrianglesStopAtCreasesAndAtWhatMayNotBeTouched", "[select]") {
    // Two slopes that meet in a ridge at x = 10: 53 degrees between their normals.
    const CloudPtr c = grid(20, [](double x, double) { return -0.5 * std::fabs(x - 10); });
    const ElementSet all = ElementSet::all(c->size());
    ElementSet seed(c->size());
    std::uint64_t left = 0;
    for (std::uint64_t t = 0; t < c->size(); ++t) {
        if (c->position(t).x < 3 && seed.empty()) seed.insert(t);
        left += c->position(t).x < 10;
    }
    CHECK(select::connected_triangles(*c, seed, all, 20).count() == left);
    CHECK(select::connected_triangles(*c, seed, all, 60).count() == c->size());
    CHECK(select::connected_triangles(*c, seed, all).count() == c->size());
    // A wall of what is not eligible.
    ElementSet open = all;
    ElementSet wall(c->size());
    for (std::uint64_t t = 0; t < c->size(); ++t)
        if (std::fabs(c->position(t).y - 10.5) < 0.5) wall.insert(t);
    const bool below = [&] {
        bool b = false;
        seed.for_each([&](std::uint64_t t) { b = c->position(t).y < 10; });
        return b;
    }();
    const ElementSet reached = select::connected_triangles(*c, seed, open - wall);
    for (std::uint64_t t = 0; t < c->size(); ++t)
        CHECK(reached.contains(t) == (!wall.contains(t) && (c->position(t).y < 10.5) == below));
}

TEST_CASE("RoundAHoleIsEveryTriangleWithACornerOnItsRim", "[select]") {
    const CloudPtr c = grid(30, [](double, double) { return 1.0; });
    const auto& m = *c->triangles();
    ElementSet hole(c->size());
    for (std::uint64_t t = 0; t < c->size(); ++t) {
        const Vec3 p = c->position(t);
        if (std::hypot(p.x - 15, p.y - 14) < 4) hole.insert(t);
    }
    const ElementSet open = ElementSet::all(c->size()) - hole;
    std::set<std::uint32_t> rim;
    for (std::uint64_t t = 0; t < c->size(); ++t)
        if (hole.contains(t))
            for (const std::uint32_t v : m.triangles[t]) rim.insert(v);
    std::uint64_t start = 0;
    for (std::uint64_t t = 0; t < c->size(); ++t)
        if (norm(c->position(t) - Vec3{21, 14, 1}) < norm(c->position(start) - Vec3{21, 14, 1})) start = t;
    const ElementSet found = select::round_rim(*c, start, open);
    for (std::uint64_t t = 0; t < c->size(); ++t) {
        const bool on = open.contains(t) && std::any_of(m.triangles[t].begin(), m.triangles[t].end(),
                                                        [&](std::uint32_t v) { return rim.contains(v); });
        CHECK(found.contains(t) == on);
    }
    // From the corner of the site it is the outer rim.
    std::uint64_t corner = 0;
    for (std::uint64_t t = 0; t < c->size(); ++t)
        if (c->position(t).x + c->position(t).y < c->position(corner).x + c->position(corner).y) corner = t;
    const ElementSet outer = select::round_rim(*c, corner, open);
    CHECK((outer & found).empty());
    CHECK(outer.contains(corner));
    CHECK(select::round_rim(*c, start, ElementSet(c->size())).empty());
}

TEST_CASE("PlanFencesHoldWholeTrianglesAndSkipHoles", "[select]") {
    const CloudPtr c = grid(20, [](double x, double y) { return std::sin(x) + y; });
    const ElementSet all = ElementSet::all(c->size());
    const std::vector<Polygon> rings{{{2, 2}, {18, 2}, {18, 18}, {2, 18}},
                                     {{8, 8}, {12, 8}, {12, 12}, {8, 12}}};
    const auto count = [&](Reach r) {
        return select::plan_fence(*c, rings, all, Progress::none(), r).count();
    };
    CHECK(count(Reach::Whole) == 2 * (16 * 16 - 4 * 4));
    CHECK(count(Reach::Middle) == 2 * (16 * 16 - 4 * 4));
    // Shifted by half a cell the rings cut a frame of cells.
    const std::vector<Polygon> half{{{2.5, 2.5}, {17.5, 2.5}, {17.5, 17.5}, {2.5, 17.5}}};
    CHECK(select::plan_fence(*c, half, all, Progress::none(), Reach::Whole).count() == 2 * 14 * 14);
    // Every cell of the frame is cut; of its two triangles both are touched but at corners cut off.
    CHECK(select::plan_fence(*c, half, all, Progress::none(), Reach::Touches).count() == 2 * 16 * 16 - 0);
}
