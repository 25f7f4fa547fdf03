// Features fitted to places, and moves that bring them to the axes.

#include <catch2/catch.hpp>

#include <cmath>
#include <numbers>
#include <random>

#include "core/base/error.h"
#include "core/geometry/features.h"

using namespace pristine;

namespace {

constexpr Vec3 kSite{412300, 5218930, 58};

Vec3 some_direction(std::mt19937_64& dice) {
    std::normal_distribution<double> n;
    return normalized({n(dice), n(dice), n(dice)});
}

double angle_between_lines(const Vec3& a, const Vec3& b) {
    return std::atan2(norm(cross(a, b)), std::fabs(dot(a, b)));
}

}  // namespace

TEST_CASE("PlanesSpheresAxesAndLinesAreFoundInPartsOfThem", "[geometry][property]") {
    std::mt19937_64 dice(3);
    std::uniform_real_distribution<double> u(-1, 1);
    for (int round = 0; round < 60; ++round) {
        const Vec3 axis = some_direction(dice), at = kSite + Vec3{u(dice), u(dice), u(dice)};
        const Vec3 e = normalized(cross(axis, some_direction(dice))), f = cross(axis, e);
        const double radius = 0.3 + 0.2 * u(dice);
        std::vector<Vec3> plane, sphere, line, round_places, normals;
        for (int i = 0; i < 200; ++i) {
            plane.push_back(at + e * u(dice) + f * u(dice));
            line.push_back(at + axis * u(dice));
            // A third of the way round only.
            const double a = 2 * std::numbers::pi / 3 * 0.5 * (u(dice) + 1);
            const Vec3 out = e * std::cos(a) + f * std::sin(a);
            round_places.push_back(at + axis * u(dice) + out * radius);
            normals.push_back(out);
            sphere.push_back(at + normalized(axis + some_direction(dice) * 0.7) * radius);
        }
        const Feature p = fit_plane_feature(plane), s = fit_sphere(sphere), l = fit_line(line),
                      c = fit_cylinder(round_places, normals);
        CHECK(angle_between_lines(p.direction, axis) < 1e-7);
        CHECK(std::fabs(dot(p.point - at, axis)) < 1e-8);
        CHECK(norm(s.point - at) < 1e-6);
        CHECK(s.radius == Approx(radius).epsilon(1e-6));
        CHECK(angle_between_lines(l.direction, axis) < 1e-7);
        CHECK(angle_between_lines(c.direction, axis) < 1e-6);
        CHECK(norm(cross(c.point - at, axis)) < 1e-6);
        CHECK(c.radius == Approx(radius).epsilon(1e-5));
        for (const Feature* all : {&p, &s, &l, &c}) CHECK(all->rms < 1e-7);
        CHECK(fit_point(plane).places == 200);
    }
    // Noise shows in the residual.
    std::normal_distribution<double> noise(0, 0.01);
    std::vector<Vec3> rough;
    for (int i = 0; i < 2000; ++i) rough.push_back({u(dice), u(dice), noise(dice)});
    CHECK(fit_plane_feature(rough).rms == Approx(0.01).epsilon(0.1));
}

TEST_CASE("WhatDeterminesNoFeatureIsRefused", "[geometry]") {
    std::vector<Vec3> line, grid, ball;
    for (int i = 0; i < 20; ++i) line.push_back({double(i), 0, 0});
    for (int i = 0; i < 20; ++i) grid.push_back({double(i % 5), double(i / 5), 0});
    std::mt19937_64 dice(1);
    for (int i = 0; i < 50; ++i) ball.push_back(some_direction(dice));
    CHECK_THROWS_AS(fit_plane_feature(line), Error);
    CHECK_THROWS_AS(fit_plane_feature(ball), Error);
    CHECK_THROWS_AS(fit_sphere(grid), Error);
    CHECK_THROWS_AS(fit_line(ball), Error);
    CHECK_THROWS_AS(fit_cylinder(ball, ball), Error);
    CHECK_THROWS_AS(fit_point({}), Error);
}

TEST_CASE("FeaturesMeetInPointsAndLines", "[geometry]") {
    using Kind = Feature::Kind;
    const Feature top{Kind::Plane, {}, {0, 0, 2}, {0, 0, 1}, 0, 0, 3},
        side{Kind::Plane, {}, {5, 1, 1}, {1, 0, 0}, 0, 0, 3};
    const Feature axis{Kind::Cylinder, {}, {3, 4, 0}, normalized({0, 1, 1}), 1, 0, 9};
    CHECK(norm(meet(axis, top).point - Vec3{3, 6, 2}) < 1e-12);
    CHECK(norm(meet(top, axis).point - Vec3{3, 6, 2}) < 1e-12);
    const Feature edge = meet(top, side);
    CHECK(edge.kind == Kind::Line);
    CHECK(angle_between_lines(edge.direction, {0, 1, 0}) < 1e-12);
    CHECK(edge.point.x == Approx(5));
    CHECK(edge.point.z == Approx(2));
    const Feature a{Kind::Sphere, {}, {1, 1, 1}, {}, 1, 0, 4}, b{Kind::Point, {}, {4, 5, 1}, {}, 0, 0, 1};
    CHECK(norm(meet(a, b).direction - Vec3{0.6, 0.8, 0}) < 1e-12);
    CHECK_THROWS_AS(meet(top, top), Error);
    CHECK_THROWS_AS(meet(a, a), Error);
    CHECK_THROWS_AS(meet(a, top), Error);
    const Feature level{Kind::Line, {}, {0, 0, 0}, {1, 0, 0}, 0, 0, 2};
    CHECK_THROWS_AS(meet(level, top), Error);
}

TEST_CASE("AlignmentGoesStepByStepAndEachStepKeepsTheOnesBefore", "[geometry][property]") {
    std::mt19937_64 dice(9);
    for (int round = 0; round < 200; ++round) {
        Alignment a;
        const Vec3 place = kSite + some_direction(dice);
        CHECK(freedoms_left(a) == 6);
        a.origin = place;
        CHECK(norm(align(a)(place)) < 1e-8);
        CHECK(freedoms_left(a) == 3);
        a.axis = round % 3;
        a.direction = round == 0 ? Vec3{1, 0, 0} : round == 3 ? Vec3{-1, 0, 0} : some_direction(dice);
        const RigidMove turned = align(a);
        Vec3 target;
        target[a.axis] = 1;
        CHECK(norm(turned.turned(*a.direction) - target) < 1e-12);
        CHECK(norm(turned(place)) < 1e-8);
        CHECK(freedoms_left(a) == 1);
        // The shortest turn: what is across both directions stays.
        const Vec3 across = cross(*a.direction, target);
        if (norm(across) > 1e-3) CHECK(norm(turned.turned(across) - across) < 1e-9);
        a.clock_axis = (a.axis + 1 + round % 2) % 3;
        a.clocking = some_direction(dice);
        const RigidMove m = align(a);
        CHECK(freedoms_left(a) == 0);
        CHECK(norm(m.turned(*a.direction) - target) < 1e-12);
        const Vec3 clocked = m.turned(*a.clocking);
        CHECK(clocked[3 - a.axis - a.clock_axis] == Approx(0).margin(1e-12));
        CHECK(clocked[a.clock_axis] > 0);
        // A rotation, and its way back.
        const Vec3 p = kSite + some_direction(dice) * 3.0, q = kSite + some_direction(dice);
        CHECK(norm(m(p) - m(q)) == Approx(norm(p - q)).epsilon(1e-9));
        CHECK(dot(m.turned({1, 0, 0}), cross(m.turned({0, 1, 0}), m.turned({0, 0, 1}))) == Approx(1));
        CHECK(norm(m.inverse()(m(p)) - p) < 1e-7);
        CHECK(norm(m.after(turned)(p) - m(turned(p))) < 1e-6);
    }
    Alignment a;
    a.clocking = Vec3{1, 0, 0};
    CHECK_THROWS_AS(align(a), Error);
    a.direction = Vec3{2, 0, 0};
    CHECK_THROWS_AS(align(a), Error);
    a.clocking = Vec3{0, 1, 0};
    a.clock_axis = a.axis;
    CHECK_THROWS_AS(align(a), Error);
}
