#include "core/measure/difference.h"

#include <algorithm>
#include <array>
#include <atomic>
#include <cmath>

#include "core/base/parallel.h"
#include "core/measure/sum.h"
#include "core/surface/box_grid.h"

namespace pristine::measure {
namespace {

constexpr std::size_t kRun = 8192;

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

// Area, and the integral of the change.
std::pair<double, double> integral(const Convex& p) {
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

std::vector<Facet> facets_of(const mesh::TriMesh& m, const Vec3& origin) {
    std::vector<Facet> f(m.triangles.size());
    parallel::for_ranges(f.size(), 16384, [&](std::size_t from, std::size_t to) {
        for (std::size_t t = from; t < to; ++t) {
            const auto& c = m.triangles[t];
            for (std::size_t k = 0; k < 3; ++k) {
                f[t].x[k] = m.vertices[c[k]].x - origin.x;
                f[t].y[k] = m.vertices[c[k]].y - origin.y;
            }
            const double bx = f[t].x[1] - f[t].x[0], by = f[t].y[1] - f[t].y[0], cx = f[t].x[2] - f[t].x[0],
                         cy = f[t].y[2] - f[t].y[0];
            const double z = m.vertices[c[0]].z, db = m.vertices[c[1]].z - z, dc = m.vertices[c[2]].z - z,
                         w = bx * cy - by * cx;
            f[t].z = z - origin.z;
            f[t].east = (db * cy - dc * by) / w;
            f[t].north = (dc * bx - db * cx) / w;
        }
    });
    return f;
}

std::vector<surface::PlanBox> boxes_of(const std::vector<Facet>& facets) {
    std::vector<surface::PlanBox> boxes(facets.size());
    for (std::size_t t = 0; t < boxes.size(); ++t)
        for (std::size_t k = 0; k < 3; ++k) boxes[t].add(facets[t].x[k], facets[t].y[k]);
    return boxes;
}

double area_of(const Facet& f) {
    return 0.5 * ((f.x[1] - f.x[0]) * (f.y[2] - f.y[0]) - (f.y[1] - f.y[0]) * (f.x[2] - f.x[0]));
}

// The common polygon of two triangles with the change on it.
Convex common(const Facet& before, const Facet& after) {
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

// Shares of a triangle's corners in its plan area over a polygon: the middle's barycentric weights times its
// area.
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

Vec3 origin_of(const mesh::TriMesh& a, const mesh::TriMesh& b) {
    Box3 box;
    for (const mesh::TriMesh* m : {&a, &b})
        for (const Vec3& v : m->vertices) box.add(v);
    return box.empty() ? Vec3{} : box.centre();
}

void atomic_add(std::atomic<double>& at, double v) {
    for (double now = at.load(std::memory_order_relaxed);
         !at.compare_exchange_weak(now, now + v, std::memory_order_relaxed);) {
    }
}

double sum_of_squares(const std::vector<std::atomic<double>>& weights) {
    Sum s;
    for (const auto& w : weights) s.add(w.load() * w.load());
    return s.value();
}

struct Part {
    Sum cut, fill, cut_area, fill_area, unchanged, overlap;
    double least = INFINITY, greatest = -INFINITY;
};

void add_polygon(const Convex& p, double band, Part& part) {
    const auto [area, volume] = integral(p);
    double lo = INFINITY, hi = -INFINITY;
    for (int i = 0; i < p.n; ++i) lo = std::min(lo, p[i].d), hi = std::max(hi, p[i].d);
    part.least = std::min(part.least, lo);
    part.greatest = std::max(part.greatest, hi);
    part.overlap.add(area);
    if (lo >= band && hi > band) {
        part.fill.add(volume);
        part.fill_area.add(area);
    } else if (hi <= -band && lo < -band) {
        part.cut.add(-volume);
        part.cut_area.add(area);
    } else {
        const Convex up = kept(p, [&](const Corner&c) { return c.d - band; }),
                     down = kept(p, [&](const Corner&c) { return -band - c.d; });
        double rest = area;
        if (up.n >= 3 && hi > band) {
            const auto [a, v] = integral(up);
            part.fill.add(v);
            part.fill_area.add(a);
            rest -= a;
        }
        if (down.n >= 3 && lo < -band) {
            const auto [a, v] = integral(down);
            part.cut.add(-v);
            part.cut_area.add(a);
            rest -= a;
        }
        part.unchanged.add(rest);
    }
}

}  // namespace

Difference difference(const mesh::TriMesh& before, const mesh::TriMesh& after,
                      const DifferenceOptions& options, Progress& progress) {
    const Vec3 origin = origin_of(before, after);
    const std::vector<Facet> fb = facets_of(before, origin), fa = facets_of(after, origin);
    const std::vector<surface::PlanBox> boxes = boxes_of(fb), own = boxes_of(fa);
    const surface::BoxGrid grid(boxes);
    const bool weigh = options.sigma_before > 0 || options.sigma_after > 0;
    std::vector<std::atomic<double>> share_before(weigh ? before.vertices.size() : 0),
        share_after(weigh ? after.vertices.size() : 0);
    const std::size_t runs = (fa.size() + kRun - 1) / kRun;
    std::atomic<std::size_t> done{0};
    const auto parts = parallel::map<Part>(runs, [&](std::size_t r) {
        progress.check();
        Part part;
        for (std::size_t t = r * kRun; t < std::min(fa.size(), (r + 1) * kRun); ++t)
            grid.meeting(own[t], [&](std::uint32_t o) {
                const Convex p = common(fb[o], fa[t]);
                if (p.n < 3) return;
                add_polygon(p, options.band, part);
                if (!weigh) return;
                const double area = integral(p).first;
                if (area <= 0) return;
                share(fb[o], p, area,
                      [&](std::size_t k, double s) { atomic_add(share_before[before.triangles[o][k]], s); });
                share(fa[t], p, area,
                      [&](std::size_t k, double s) { atomic_add(share_after[after.triangles[t][k]], s); });
            });
        progress.advance(static_cast<double>(++done) / static_cast<double>(runs));
        return part;
    });
    Part all;
    for (const Part& p : parts) {
        all.cut.add(p.cut), all.fill.add(p.fill);
        all.cut_area.add(p.cut_area), all.fill_area.add(p.fill_area);
        all.unchanged.add(p.unchanged), all.overlap.add(p.overlap);
        all.least = std::min(all.least, p.least), all.greatest = std::max(all.greatest, p.greatest);
    }
    Sum covered;
    for (const Facet& f : fb) covered.add(area_of(f));
    for (const Facet& f : fa) covered.add(area_of(f));
    covered.add(-2 * all.overlap.value());
    Difference d;
    d.cut = all.cut.value(), d.fill = all.fill.value();
    d.cut_area = all.cut_area.value(), d.fill_area = all.fill_area.value();
    d.unchanged_area = std::max(0.0, all.unchanged.value()), d.overlap_area = all.overlap.value();
    d.uncovered_area = std::max(0.0, covered.value());
    if (all.least <= all.greatest) d.least = all.least, d.greatest = all.greatest;
    d.uncertainty = std::sqrt(options.sigma_before * options.sigma_before * sum_of_squares(share_before) +
                              options.sigma_after * options.sigma_after * sum_of_squares(share_after));
    return d;
}

ChangeMap change_map(const mesh::TriMesh& before, const mesh::TriMesh& after, Progress& progress) {
    const Vec3 origin = origin_of(before, after);
    const std::vector<Facet> fb = facets_of(before, origin), fa = facets_of(after, origin);
    const std::vector<surface::PlanBox> boxes = boxes_of(fb), own = boxes_of(fa);
    const surface::BoxGrid grid(boxes);
    const std::size_t runs = (fa.size() + kRun - 1) / kRun;
    struct Piece {
        std::uint32_t triangle;
        Convex polygon;
    };
    const auto parts = parallel::map<std::vector<Piece>>(runs, [&](std::size_t r) {
        progress.check();
        std::vector<Piece> pieces;
        for (std::size_t t = r * kRun; t < std::min(fa.size(), (r + 1) * kRun); ++t)
            grid.meeting(own[t], [&](std::uint32_t o) {
                const Convex p = common(fb[o], fa[t]);
                if (p.n >= 3 && integral(p).first > 0) pieces.push_back({static_cast<std::uint32_t>(t), p});
            });
        return pieces;
    });
    ChangeMap map;
    for (const auto& part : parts)
        for (const auto& [t, p] : part) {
            const auto first = static_cast<std::uint32_t>(map.mesh.vertices.size());
            for (int i = 0; i < p.n; ++i)
                map.mesh.vertices.push_back(
                    {p[i].x + origin.x, p[i].y + origin.y, fa[t].height(p[i].x, p[i].y) + origin.z});
            for (std::uint32_t i = 2; i < static_cast<std::uint32_t>(p.n); ++i) {
                map.mesh.triangles.push_back({first, first + i - 1, first + i});
                map.change.push_back((p[0].d + p[static_cast<int>(i) - 1].d + p[static_cast<int>(i)].d) / 3);
            }
        }
    return map;
}

mesh::TriMesh difference_map(const mesh::TriMesh& before, const mesh::TriMesh& after, Progress& progress) {
    ChangeMap map = change_map(before, after, progress);
    // z becomes the change at each corner, by the earlier surface's plane through the same place.
    std::vector<Vec3>& v = map.mesh.vertices;
    const Vec3 origin = origin_of(before, after);
    const std::vector<Facet> fb = facets_of(before, origin);
    const std::vector<surface::PlanBox> boxes = boxes_of(fb);
    const surface::BoxGrid grid(boxes);
    std::vector<double> z(v.size(), NAN);
    for (const auto& t : map.mesh.triangles) {
        const double x = (v[t[0]].x + v[t[1]].x + v[t[2]].x) / 3 - origin.x,
                     y = (v[t[0]].y + v[t[1]].y + v[t[2]].y) / 3 - origin.y;
        grid.meeting({x, y, x, y}, [&](std::uint32_t o) {
            const Facet& f = fb[o];
            for (std::size_t k = 0; k < 3; ++k)
                if ((f.x[(k + 1) % 3] - f.x[k]) * (y - f.y[k]) - (f.y[(k + 1) % 3] - f.y[k]) * (x - f.x[k]) <
                    0)
                    return;
            for (const std::uint32_t i : t)
                z[i] = v[i].z - origin.z - f.height(v[i].x - origin.x, v[i].y - origin.y);
        });
    }
    for (std::size_t i = 0; i < v.size(); ++i) v[i].z = std::isfinite(z[i]) ? z[i] : 0;
    return std::move(map.mesh);
}

}  // namespace pristine::measure
