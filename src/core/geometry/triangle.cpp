#include "core/geometry/triangle.h"

namespace pristine {
namespace {

Vec3 closest_on_rim(Vec3 p, Vec3 a, Vec3 b, Vec3 c) {
    Vec3 best = closest_on_segment(p, a, b);
    for (const Vec3& q : {closest_on_segment(p, b, c), closest_on_segment(p, c, a)})
        if (dot(q - p, q - p) < dot(best - p, best - p)) best = q;
    return best;
}

}  // namespace

Vec3 closest_on_triangle(Vec3 p, Vec3 a, Vec3 b, Vec3 c) {
    const Vec3 ab = b - a, ac = c - a, ap = p - a;
    const double d1 = dot(ab, ap), d2 = dot(ac, ap);
    if (d1 <= 0 && d2 <= 0) return a;
    const Vec3 bp = p - b;
    const double d3 = dot(ab, bp), d4 = dot(ac, bp);
    if (d3 >= 0 && d4 <= d3) return b;
    const Vec3 cp = p - c;
    const double d5 = dot(ab, cp), d6 = dot(ac, cp);
    if (d6 >= 0 && d5 <= d6) return c;
    const double va = d3 * d6 - d5 * d4, vb = d5 * d2 - d1 * d6, vc = d1 * d4 - d3 * d2;
    const double sum = va + vb + vc;
    if (!(va > 0 && vb > 0 && vc > 0) || !(sum > 0)) return closest_on_rim(p, a, b, c);
    const Vec3 q = a + ab * (vb / sum) + ac * (vc / sum);
    // Of a triangle that is flat but for rounding, the three areas are noise.
    if (sum > 1e-8 * dot(ab, ab) * dot(ac, ac)) return q;
    const Vec3 r = closest_on_rim(p, a, b, c);
    return dot(q - p, q - p) < dot(r - p, r - p) ? q : r;
}

std::array<double, 3> barycentric(Vec3 p, Vec3 a, Vec3 b, Vec3 c) {
    const Vec3 u = b - a, v = c - a, w = p - a;
    const double uu = dot(u, u), uv = dot(u, v), vv = dot(v, v), det = uu * vv - uv * uv;
    if (!(det > 0)) return {1, 0, 0};
    const double of_b = (vv * dot(w, u) - uv * dot(w, v)) / det,
                 of_c = (uu * dot(w, v) - uv * dot(w, u)) / det;
    return {1 - of_b - of_c, of_b, of_c};
}

}  // namespace pristine
