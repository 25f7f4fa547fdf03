// Planes, axes, spheres, lines and points fitted to places, what they meet in, and the move that brings them
// to the axes.

#pragma once

#include <array>
#include <optional>
#include <span>
#include <string>
#include <vector>

#include "core/geometry/vec.h"

namespace pristine {

/// A plane, axis, sphere, line or point that was fitted to places.
struct Feature {
    enum class Kind : std::uint8_t { Point, Line, Plane, Cylinder, Sphere } kind = Kind::Point;
    std::string name;
    Vec3 point;         ///< on it: of a sphere the centre, of a cylinder on its axis
    Vec3 direction;     ///< unit: along a line or axis, across a plane; zero for points and spheres
    double radius = 0;  ///< of cylinders and spheres
    double rms = 0;     ///< root mean square distance of the places from it, data unit
    std::size_t places = 0;
};

/// Fitted to places (and, for cylinders, the normals there) by least squares of distances. Throws
/// Error(Usage) when they are too few or do not determine it, and says why.
Feature fit_point(std::span<const Vec3>);  ///< the centroid
Feature fit_line(std::span<const Vec3>);
Feature fit_plane_feature(std::span<const Vec3>);
Feature fit_sphere(std::span<const Vec3>);
Feature fit_cylinder(std::span<const Vec3> places, std::span<const Vec3> normals);

/// A line (or axis) and a plane meet in a point, two planes in a line, two points (centres) span a line.
/// Throws Error(Usage) for other pairs, for parallel ones, and for points in one place.
Feature meet(const Feature&, const Feature&);

/// A rigid move: x' = rotation x + shift. Rotation by rows.
struct RigidMove {
    std::array<double, 9> rotation{1, 0, 0, 0, 1, 0, 0, 0, 1};
    Vec3 shift;
    Vec3 operator()(const Vec3&) const;
    Vec3 turned(const Vec3&) const;  ///< of a direction
    /// First `first`, then this.
    RigidMove after(const RigidMove& first) const;
    RigidMove inverse() const;
    std::array<double, 16> matrix() const;  ///< by rows
};

/// What is brought where, one step after the other; each keeps what the ones before fixed.
struct Alignment {
    std::optional<Vec3> origin;     ///< this place goes to 0, 0, 0
    std::optional<Vec3> direction;  ///< this direction goes along `axis`
    int axis = 2;                   ///< 0, 1, 2: x, y, z
    std::optional<Vec3> clocking;   ///< this one goes into the plane of `axis` and `clock_axis`, to its side
    int clock_axis = 0;
};
/// Throws Error(Usage): a clocking without a direction, or parallel to it; both axes the same.
RigidMove align(const Alignment&);
/// How many of the six freedoms are left: three of place, three of turning.
int freedoms_left(const Alignment&);

}  // namespace pristine
