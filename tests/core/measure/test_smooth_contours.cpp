// Smoothed contours keep their laws on random ground, by the slow obvious way.

#include "core/measure/smooth_contours.h"

#include <catch2/catch.hpp>

#include <random>

#include "core/base/error.h"
#include "core/geometry/predicates.h"
#include "core/surface/definition.h"

using namespace pristine;
using measure::Contour;

namespace {

mesh::TriMesh random_ground(std::mt19937_64& dice, int n, double rough) {
    std::uniform_real_distribution<double> u(0, 30), bump(-rough, rough);
    surface::Definition d;
    for (int i = 0; i < n; ++i) {
        const double x = u(dice), y = u(dice);
        d.points.push_back(
            {412300 + x, 5218930 + y, 50 + 2 * std::sin(x / 6) + 1.5 * std::cos(y / 5) + bump(dice)});
    }
    return surface::build(d).mesh;
}

// The height of the surface at a place; not a number beside it.
double height_at(const mesh::TriMesh& m, double x, double y) {
    for (const auto& t : m.triangles) {
        const Vec3 &a = m.vertices[t[0]], &b = m.vertices[t[1]], &c = m.vertices[t[2]];
        const double w = (b.x - a.x) * (c.y - a.y) - (b.y - a.y) * (c.x - a.x),
                     u = ((x - a.x) * (c.y - a.y) - (y - a.y) * (c.x - a.x)) / w,
                     v = ((b.x - a.x) * (y - a.y) - (b.y - a.y) * (x - a.x)) / w;
        if (u >= -1e-9 && v >= -1e-9 && u + v <= 1 + 1e-9) return a.z + u * (b.z - a.z) + v * (c.z - a.z);
    }
    return NAN;
}

std::size_t segments_of(const Contour& c) {
    return c.points.size() - (c.closed ? 0 : 1);
}
std::pair<Vec3, Vec3> segment(const Contour& c, std::size_t i) {
    return {c.points[i], c.points[(i + 1) % c.points.size()]};
}

// Pairs of segments that cross properly, none counted that meet at a shared place.
int crossings(const std::vector<Contour>& all) {
    std::vector<std::pair<Vec3, Vec3>> s;
    for (const Contour& c : all)
        for (std::size_t i = 0; i < segments_of(c); ++i) s.push_back(segment(c, i));
    const auto side = [](const Vec3& a, const Vec3& b, const Vec3& p) {
        return orientation(a.x, a.y, b.x, b.y, p.x, p.y);
    };
    int n = 0;
    for (std::size_t i = 0; i < s.size(); ++i)
        for (std::size_t j = i + 1; j < s.size(); ++j) {
            const auto& [a, b] = s[i];
            const auto& [c, d] = s[j];
            n += side(a, b, c) * side(a, b, d) < 0 && side(c, d, a) * side(c, d, b) < 0;
        }
    return n;
}

double turning(const std::vector<Contour>& all) {
    double sum = 0;
    for (const Contour& c : all)
        for (std::size_t i = c.closed ? 0 : 1; i < c.points.size() - (c.closed ? 0 : 1); ++i) {
            const std::size_t n = c.points.size();
            const Vec3 a = c.points[i] - c.points[(i + n - 1) % n], b = c.points[(i + 1) % n] - c.points[i];
            sum += std::fabs(std::atan2(a.x * b.y - a.y * b.x, a.x * b.x + a.y * b.y));
        }
    return sum;
}

}  // namespace

TEST_CASE("SmoothedContoursStayNearNeverCrossAndSwingLess", "[property]") {
    const auto seed = std::random_device{}();
    CAPTURE(seed);
    std::mt19937_64 dice(seed);
    for (const double rough : {0.02, 0.15, 0.6}) {
        CAPTURE(rough);
        const mesh::TriMesh m = random_ground(dice, 400, rough);
        const double interval = 0.5, most = 0.4;
        const auto before = measure::contours(m, interval);
        const measure::SmoothContours after = measure::smoothed(m, before, interval, most);
        REQUIRE(after.contours.size() == before.size());
        double plan = 0, height = 0;
        for (std::size_t k = 0; k < before.size(); ++k) {
            const Contour &b = before[k], &a = after.contours[k];
            REQUIRE(a.points.size() == b.points.size());
            CHECK((a.level == b.level && a.closed == b.closed));
            for (std::size_t i = 0; i < a.points.size(); ++i) {
                plan =
                    std::max(plan, std::hypot(a.points[i].x - b.points[i].x, a.points[i].y - b.points[i].y));
                REQUIRE(a.points[i].z == b.points[i].z);
            }
            if (!a.closed) {
                CHECK(norm(a.points.front() - b.points.front()) == 0);
                CHECK(norm(a.points.back() - b.points.back()) == 0);
            }
            for (std::size_t i = 0; i < segments_of(a); i += 3) {
                const auto [p, q] = segment(a, i);
                for (const double t : {0.25, 0.5, 0.75}) {
                    const double z = height_at(m, p.x + t * (q.x - p.x), p.y + t * (q.y - p.y));
                    if (std::isnan(z)) continue;  // beside the rim by rounding
                    height = std::max(height, std::fabs(z - a.level));
                }
            }
        }
        CHECK(plan <= most + 1e-8);  // digits of the coordinates
        CHECK(after.plan == Approx(plan));
        CHECK(height <= 0.45 * interval + 1e-9);
        CHECK(height <= after.height + 1e-9);
        CHECK(crossings(after.contours) == 0);
        CHECK(turning(after.contours) < 0.8 * turning(before));
    }
}

TEST_CASE("OnAPlaneContoursAreStraightAlready") {
    mesh::TriMesh m{{{0, 0, 0}, {10, 0, 0}, {10, 10, 5}, {0, 10, 5}}, {{0, 1, 2}, {0, 2, 3}}};
    const auto before = measure::contours(m, 1);
    const measure::SmoothContours after = measure::smoothed(m, before, 1, 0.5);
    CHECK(after.plan < 1e-12);
    CHECK(after.held == 0);
    CHECK_THROWS_AS(measure::smoothed(m, before, 1, 0), Error);
    CHECK(measure::smoothed(m, {}, 1, 1).contours.empty());
}
