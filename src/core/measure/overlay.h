// Two surfaces laid over each other: triangles with the plane of their heights, and what two of them have in
// common in plan. For difference.h, change_map.h and nothing else.

#pragma once

#include <array>
#include <utility>
#include <vector>

#include "core/mesh/tri_mesh.h"
#include "core/surface/box_grid.h"

namespace pristine::measure {

struct Corner {
    double x, y, d;  // place and change there
};

// A convex polygon of few corners.
struct Convex {
    std::array<Corner, 12> p;
    int n = 0;
    void add(const Corner& c) { p[static_cast<std::size_t>(n++)] = c; }
    const Corner& operator[](int i) const { return p[static_cast<std::size_t>(i)]; }
};

// What lies where `value` is not negative.
template <class Value>
Convex kept(const Convex& in, Value value) {
    Convex out;
    for (int i = 0; i < in.n; ++i) {
        const Corner &a = in[i], &b = in[i + 1 == in.n ? 0 : i + 1];
        const double va = value(a), vb = value(b);
        if (va >= 0) out.add(a);
        if ((va >= 0) != (vb >= 0)) {
            const double t = va / (va - vb);
            out.add({a.x + t * (b.x - a.x), a.y + t * (b.y - a.y), a.d + t * (b.d - a.d)});
        }
    }
    return out;
}

/// Area, and the integral of the change.
inline std::pair<double, double> integral(const Convex& p) {
    double area = 0, volume = 0;
    for (int i = 2; i < p.n; ++i) {
        const Corner &a = p[0], &b = p[i - 1], &c = p[i];
        const double s = 0.5 * ((b.x - a.x) * (c.y - a.y) - (b.y - a.y) * (c.x - a.x));
        area += s;
        volume += s * (a.d + b.d + c.d) / 3;
    }
    return {area, volume};
}

// A triangle with the plane of its heights, about the middle of the site.
struct Facet {
    std::array<double, 3> x, y;
    double z, east, north;  // height at corner 0, and its slopes
    double height(double px, double py) const { return z + east * (px - x[0]) + north * (py - y[0]); }
};

std::vector<Facet> facets_of(const mesh::TriMesh&, const Vec3& origin);
std::vector<surface::PlanBox> boxes_of(const std::vector<Facet>&);
double area_of(const Facet&);
/// The middle of both, about which places are counted.
Vec3 origin_of(const mesh::TriMesh&, const mesh::TriMesh&);

/// The common polygon of two triangles with the change on it; fewer than three corners: none.
inline Convex common(const Facet& before, const Facet& after) {
    Convex p;
    for (std::size_t k = 0; k < 3; ++k) p.add({after.x[k], after.y[k], 0});
    for (std::size_t k = 0; k < 3 && p.n >= 3; ++k) {
        const double ax = before.x[k], ay = before.y[k], ex = before.x[(k + 1) % 3] - ax,
                     ey = before.y[(k + 1) % 3] - ay;
        p = kept(p, [&](const Corner& c) { return ex * (c.y - ay) - ey * (c.x - ax); });
    }
    for (int i = 0; i < p.n; ++i) {
        Corner& c = p.p[static_cast<std::size_t>(i)];
        c.d = after.height(c.x, c.y) - before.height(c.x, c.y);
    }
    return p;
}

/// Shares of a triangle's corners in its plan area over a polygon: the middle's barycentric weights times its
/// area.
template <class Add>
void share(const Facet& f, const Convex& p, double area, Add add) {
    if (!(area > 0)) return;
    double x = 0, y = 0;
    for (int i = 2; i < p.n; ++i) {
        const Corner &a = p[0], &b = p[i - 1], &c = p[i];
        const double s = 0.5 * ((b.x - a.x) * (c.y - a.y) - (b.y - a.y) * (c.x - a.x));
        x += s * (a.x + b.x + c.x) / 3;
        y += s * (a.y + b.y + c.y) / 3;
    }
    x /= area;
    y /= area;
    const double w = 2 * area_of(f);
    for (std::size_t k = 0; k < 3; ++k) {
        const std::size_t i = (k + 1) % 3, j = (k + 2) % 3;
        const double weight = ((f.x[i] - x) * (f.y[j] - y) - (f.y[i] - y) * (f.x[j] - x)) / w;
        // Of a triangle as thin as rounding the weights say nothing.
        add(k, area * (weight > -0.5 && weight < 1.5 ? weight : 1 / 3.0));
    }
}

}  // namespace pristine::measure
