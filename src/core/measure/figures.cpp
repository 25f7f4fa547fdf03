#include "core/measure/figures.h"

#include "core/base/error.h"
#include "core/base/units.h"

#include <algorithm>
#include <array>
#include <cmath>

#include "core/base/error.h"
#include "core/base/parallel.h"
#include "core/measure/sum.h"
#include "core/surface/clip.h"
#include "core/surface/constrain.h"
#include "core/surface/delaunay.h"
#include "core/topology/adjacency.h"

namespace pristine::measure {

void require_lengths(const cloud::Reference& r) {
    if (r.unit == kDegrees)
        throw Error(ErrorCode::Usage, "The coordinates are degrees: they have no areas and no volumes", {},
                    "Convert them to a system that counts in lengths first.");
    if (!r.height_unit.empty())
        throw Error(ErrorCode::Usage,
                    std::string("The plan counts in ") + length_unit(r.unit).title + ", the heights in " +
                        length_unit(r.height_unit).title,
                    {}, "Convert them to a system with one unit first.");
}

namespace {

constexpr std::size_t kSumRun = 16384;  // triangles of a partial sum: the same for any number of workers

std::size_t runs_of(const mesh::TriMesh& m) {
    return (m.triangles.size() + kSumRun - 1) / kSumRun;
}

template <class Each>
void each_in(const mesh::TriMesh& m, std::size_t run, Each&& each) {
    for (std::size_t t = run * kSumRun; t < std::min(m.triangles.size(), (run + 1) * kSumRun); ++t) {
        const auto& c = m.triangles[t];
        each(m.vertices[c[0]], m.vertices[c[1]], m.vertices[c[2]]);
    }
}

double plan_area(const Vec3& a, const Vec3& b, const Vec3& c) {
    return 0.5 * ((b.x - a.x) * (c.y - a.y) - (b.y - a.y) * (c.x - a.x));
}

std::vector<std::vector<std::uint32_t>> rims_of(const mesh::TriMesh& m) {
    return topology::boundary_loops(m.triangles, topology::adjacency(m.triangles));
}

template <class Each>
void each_rim_edge(const mesh::TriMesh& m, Each&& each) {
    for (const auto& loop : rims_of(m))
        for (std::size_t i = 0; i < loop.size(); ++i)
            each(m.vertices[loop[i]], m.vertices[loop[(i + 1) % loop.size()]]);
}

// The part of a triangle of this area where heights are positive, when h[0] alone is on its side.
void tip(double area, const std::array<double, 3>& h, double& volume, double& plan) {
    const double u = h[0] / (h[0] - h[1]), v = h[0] / (h[0] - h[2]);
    plan = area * u * v;
    volume = plan * h[0] / 3;
}

}  // namespace

SurfaceFigures figures(const mesh::TriMesh& m) {
    struct Part {
        Sum plan, surface;
    };
    const auto parts = parallel::map<Part>(runs_of(m), [&](std::size_t r) {
        Part p;
        each_in(m, r, [&](const Vec3& a, const Vec3& b, const Vec3& c) {
            p.plan.add(plan_area(a, b, c));
            p.surface.add(0.5 * norm(cross(b - a, c - a)));
        });
        return p;
    });
    SurfaceFigures f;
    Sum plan, surface, length;
    for (const Part& p : parts) {
        plan.add(p.plan);
        surface.add(p.surface);
    }
    each_rim_edge(m, [&](const Vec3& a, const Vec3& b) { length.add(norm(b - a)); });
    f.plan_area = plan.value();
    f.surface_area = surface.value();
    f.perimeter = length.value();
    f.lowest = INFINITY, f.highest = -INFINITY;
    for (const Vec3& v : m.vertices) {
        f.lowest = std::min(f.lowest, v.z);
        f.highest = std::max(f.highest, v.z);
    }
    if (m.vertices.empty()) f.lowest = f.highest = 0;
    return f;
}

Base level(double z) {
    return {{0, 0, z}, 0, 0};
}

Base plane_of(const std::vector<Vec3>& points) {
    if (points.size() < 3) throw Error(ErrorCode::Usage, "A plane needs three places");
    if (points.size() == 3) return plane_through(points[0], points[1], points[2]);
    Vec3 middle;
    for (const Vec3& p : points) middle = middle + (p - points[0]) * (1 / static_cast<double>(points.size()));
    middle = middle + points[0];
    // Heights over plan by least squares, about the middle.
    double xx = 0, xy = 0, yy = 0, xz = 0, yz = 0;
    for (const Vec3& p : points) {
        const Vec3 d = p - middle;
        xx += d.x * d.x, xy += d.x * d.y, yy += d.y * d.y, xz += d.x * d.z, yz += d.y * d.z;
    }
    const double det = xx * yy - xy * xy;
    if (!(det > 1e-12 * (xx + yy) * (xx + yy)))
        throw Error(ErrorCode::Usage,
                    "The corners of the line lie in one line in plan: no plane is given by them");
    return {middle, (xz * yy - yz * xy) / det, (yz * xx - xz * xy) / det};
}

Base plane_through(const Vec3& a, const Vec3& b, const Vec3& c) {
    const double w = 2 * plan_area(a, b, c);
    if (w == 0) throw Error(ErrorCode::Usage, "Three points in line in plan make no plane to measure from");
    const double db = b.z - a.z, dc = c.z - a.z;
    return {a, (db * (c.y - a.y) - dc * (b.y - a.y)) / w, (dc * (b.x - a.x) - db * (c.x - a.x)) / w};
}

Base lowest_of_rim(const mesh::TriMesh& m) {
    double z = INFINITY;
    each_rim_edge(m, [&](const Vec3& a, const Vec3&) { z = std::min(z, a.z); });
    if (!std::isfinite(z)) throw Error(ErrorCode::Usage, "The surface has no rim");
    return level(z);
}

Base mean_of_rim(const mesh::TriMesh& m) {
    Sum z, length;
    each_rim_edge(m, [&](const Vec3& a, const Vec3& b) {
        const double l = std::hypot(b.x - a.x, b.y - a.y);
        z.add(0.5 * (a.z + b.z) * l);
        length.add(l);
    });
    if (length.value() == 0) throw Error(ErrorCode::Usage, "The surface has no rim");
    return level(z.value() / length.value());
}

mesh::TriMesh triangulated_rim(const mesh::TriMesh& m) {
    const auto loops = rims_of(m);
    std::vector<surface::Plan> plan;
    std::vector<double> heights;
    surface::Rings rings;
    std::vector<std::array<std::uint32_t, 2>> segments;
    for (const auto& loop : loops) {
        rings.emplace_back();
        const auto first = static_cast<std::uint32_t>(plan.size());
        for (std::uint32_t i = 0; i < loop.size(); ++i) {
            const Vec3& v = m.vertices[loop[i]];
            plan.push_back({v.x, v.y});
            heights.push_back(v.z);
            rings.back().push_back(v);
            segments.push_back({first + i, first + (i + 1) % static_cast<std::uint32_t>(loop.size())});
        }
    }
    surface::Delaunay d = surface::delaunay(plan);
    for (auto& s : segments) s = {d.vertex[s[0]], d.vertex[s[1]]};
    surface::constrain(d.mesh, segments);
    mesh::TriMesh out;
    for (std::size_t v = 0; v < d.source.size(); ++v)
        out.vertices.push_back({d.mesh.points[v].x, d.mesh.points[v].y, heights[d.source[v]]});
    for (const auto& c : d.mesh.corners)
        if (std::max({c[0], c[1], c[2]}) < out.vertices.size()) out.triangles.push_back(c);
    return surface::clip(out, rings, surface::Keep::Inside, surface::Edges::Whole);
}

Volumes volumes(const mesh::TriMesh& m, const Base& base) {
    struct Part {
        Sum above, below, area_above, area_below;
    };
    const auto parts = parallel::map<Part>(runs_of(m), [&](std::size_t r) {
        Part p;
        each_in(m, r, [&](const Vec3& a, const Vec3& b, const Vec3& c) {
            std::array<double, 3> h{a.z - base.height(a.x, a.y), b.z - base.height(b.x, b.y),
                                    c.z - base.height(c.x, c.y)};
            const double area = plan_area(a, b, c), whole = area * (h[0] + h[1] + h[2]) / 3;
            const int up = (h[0] > 0) + (h[1] > 0) + (h[2] > 0), down = (h[0] < 0) + (h[1] < 0) + (h[2] < 0);
            if (down == 0) {
                p.above.add(whole);
                if (up > 0) p.area_above.add(area);
                return;
            }
            if (up == 0) {
                p.below.add(-whole);
                p.area_below.add(area);
                return;
            }
            // The one that is alone on its side comes first.
            const bool lone_up = up == 1;
            while (lone_up ? !(h[0] > 0) : !(h[0] < 0)) std::rotate(h.begin(), h.begin() + 1, h.end());
            double v = 0, s = 0;
            tip(area, h, v, s);
            (lone_up ? p.above : p.below).add(std::fabs(v));
            (lone_up ? p.area_above : p.area_below).add(s);
            (lone_up ? p.below : p.above).add(std::fabs(whole - v));
            (lone_up ? p.area_below : p.area_above).add(area - s);
        });
        return p;
    });
    Sum above, below, area_above, area_below;
    for (const Part& p : parts) {
        above.add(p.above);
        below.add(p.below);
        area_above.add(p.area_above);
        area_below.add(p.area_below);
    }
    return {above.value(), below.value(), area_above.value(), area_below.value()};
}

}  // namespace pristine::measure
