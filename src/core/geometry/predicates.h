// Exact geometric decisions.
//
// Law 1: orientation(a,b,c) has the sign of the exact determinant of the given doubles, for all finite inputs
// whose
//        products neither overflow nor underflow.
// Law 2: swapping two arguments flips the sign. The same holds for in_circle and side_of_plane and their
// determinants.
//
// Method: a floating-point filter first, then exact expansion arithmetic (Shewchuk 1997, "Adaptive precision
// floating-point arithmetic and fast robust geometric predicates"). Unlike Shewchuk we have one exact stage,
// not three.

#pragma once

#include <cmath>
#include <limits>

#include "core/geometry/vec.h"

namespace pristine {

/// The exact rungs alone, without the filters: the tests hold the two against each other.
int orientation_exact(double ax, double ay, double bx, double by, double cx, double cy);
int in_circle_exact(double ax, double ay, double bx, double by, double cx, double cy, double dx, double dy);

/// The sign of the exact determinant, whatever the digits: for those that rounding leaves open.
int side_of_plane_exact(const Vec3& a, const Vec3& b, const Vec3& c, const Vec3& d);

// Half an ulp of 1, as in the paper.
inline constexpr double kHalfUlp = std::numeric_limits<double>::epsilon() / 2;

/// +1 when a, b, c turn left (counter-clockwise with y upwards), -1 when right, 0 when exactly on one line.
inline int orientation(double ax, double ay, double bx, double by, double cx, double cy) {
    const double left = (ax - cx) * (by - cy);
    const double right = (ay - cy) * (bx - cx);
    const double det = left - right;
    // The paper's "ccwerrboundA".
    const double bound = (3.0 + 16.0 * kHalfUlp) * kHalfUlp * (std::fabs(left) + std::fabs(right));
    if (det > bound) return 1;
    if (-det > bound) return -1;
    return orientation_exact(ax, ay, bx, by, cx, cy);
}

/// For a, b, c counter-clockwise: +1 when d lies inside the circle through them, -1 outside, 0 exactly on it.
inline int in_circle(double ax, double ay, double bx, double by, double cx, double cy, double dx, double dy) {
    const double adx = ax - dx, ady = ay - dy, bdx = bx - dx, bdy = by - dy, cdx = cx - dx, cdy = cy - dy;
    const double bc = bdx * cdy, cb = cdx * bdy, ca = cdx * ady, ac = adx * cdy, ab = adx * bdy,
                 ba = bdx * ady;
    const double al = adx * adx + ady * ady, bl = bdx * bdx + bdy * bdy, cl = cdx * cdx + cdy * cdy;
    const double det = al * (bc - cb) + bl * (ca - ac) + cl * (ab - ba);
    const double size = (std::fabs(bc) + std::fabs(cb)) * al + (std::fabs(ca) + std::fabs(ac)) * bl +
                        (std::fabs(ab) + std::fabs(ba)) * cl;
    // The paper's "iccerrboundA".
    const double bound = (10.0 + 96.0 * kHalfUlp) * kHalfUlp * size;
    if (det > bound) return 1;
    if (-det > bound) return -1;
    return in_circle_exact(ax, ay, bx, by, cx, cy, dx, dy);
}

/// +1 when d lies on the side of the plane through a, b, c that cross(b - a, c - a) points to, -1 on the
/// other, 0 exactly on it.
inline int side_of_plane(const Vec3& a, const Vec3& b, const Vec3& c, const Vec3& d) {
    const double adx = a.x - d.x, ady = a.y - d.y, adz = a.z - d.z, bdx = b.x - d.x, bdy = b.y - d.y,
                 bdz = b.z - d.z, cdx = c.x - d.x, cdy = c.y - d.y, cdz = c.z - d.z;
    const double bc = bdx * cdy, cb = cdx * bdy, ca = cdx * ady, ac = adx * cdy, ab = adx * bdy,
                 ba = bdx * ady;
    const double det = adz * (cb - bc) + bdz * (ac - ca) + cdz * (ba - ab);
    const double size = (std::fabs(bc) + std::fabs(cb)) * std::fabs(adz) +
                        (std::fabs(ca) + std::fabs(ac)) * std::fabs(bdz) +
                        (std::fabs(ab) + std::fabs(ba)) * std::fabs(cdz);
    // The paper's "o3derrboundA".
    const double bound = (7.0 + 56.0 * kHalfUlp) * kHalfUlp * size;
    if (det > bound) return 1;
    if (-det > bound) return -1;
    return side_of_plane_exact(a, b, c, d);
}

}  // namespace pristine
