// Vectors, boxes and pixel points in double precision. World coordinates are right-handed with z up, in the
// site's unit.

#pragma once

#include <algorithm>
#include <array>
#include <cmath>
#include <limits>

namespace pristine {

/// A place or a direction in space; data unit.
struct Vec3 {
    double x = 0, y = 0, z = 0;

    double& operator[](int axis) { return axis == 0 ? x : axis == 1 ? y : z; }
    double operator[](int axis) const { return axis == 0 ? x : axis == 1 ? y : z; }
    bool operator==(const Vec3&) const = default;
};

inline Vec3 operator+(Vec3 a, Vec3 b) {
    return {a.x + b.x, a.y + b.y, a.z + b.z};
}
inline Vec3 operator-(Vec3 a, Vec3 b) {
    return {a.x - b.x, a.y - b.y, a.z - b.z};
}
inline Vec3 operator*(Vec3 a, double s) {
    return {a.x * s, a.y * s, a.z * s};
}
/// Scalar product, vector product, length.
inline double dot(Vec3 a, Vec3 b) {
    return a.x * b.x + a.y * b.y + a.z * b.z;
}
inline Vec3 cross(Vec3 a, Vec3 b) {
    return {a.y * b.z - a.z * b.y, a.z * b.x - a.x * b.z, a.x * b.y - a.y * b.x};
}
inline double norm(Vec3 a) {
    return std::sqrt(dot(a, a));
}
/// Length 1; the zero vector stays zero.
inline Vec3 normalized(Vec3 a) {
    const double n = norm(a);
    return n > 0 ? a * (1 / n) : a;
}

/// A point of the view, in pixels: x to the right, y downwards, (0,0) the upper left corner of the upper left
/// pixel.
struct PixelPoint {
    double x = 0, y = 0;
    bool operator==(const PixelPoint&) const = default;
};

/// An axis-parallel box; empty until something is added.
struct Box3 {
    Vec3 lo{std::numeric_limits<double>::infinity(), std::numeric_limits<double>::infinity(),
            std::numeric_limits<double>::infinity()};
    Vec3 hi{-std::numeric_limits<double>::infinity(), -std::numeric_limits<double>::infinity(),
            -std::numeric_limits<double>::infinity()};

    bool empty() const { return !(lo.x <= hi.x); }
    void add(Vec3 p) {
        for (int a = 0; a < 3; ++a) {
            lo[a] = std::min(lo[a], p[a]);
            hi[a] = std::max(hi[a], p[a]);
        }
    }
    void add(const Box3& b) {
        if (b.empty()) return;
        add(b.lo);
        add(b.hi);
    }
    Vec3 centre() const { return (lo + hi) * 0.5; }
    double diagonal() const { return empty() ? 0 : norm(hi - lo); }
};

/// An axis-parallel rectangle in pixels.
struct PixelRect {
    double x0 = 0, y0 = 0, x1 = 0, y1 = 0;
};

}  // namespace pristine
