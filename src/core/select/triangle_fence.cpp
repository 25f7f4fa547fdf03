#include "core/select/triangle_fence.h"

#include <algorithm>
#include <array>
#include <cmath>

#include "core/base/parallel.h"
#include "core/geometry/predicates.h"
#include "core/mesh/tri_mesh.h"

namespace pristine::select {
namespace {

using cloud::PointCloud;

// A triangle in the view: three corners, or up to four where the near plane cuts it.
struct Drawn {
    std::array<PixelPoint, 4> at;
    std::size_t n = 0;
    bool cut = false;
};

int side(PixelPoint a, PixelPoint b, PixelPoint c) {
    return orientation(a.x, a.y, b.x, b.y, c.x, c.y);
}

bool between(PixelPoint a, PixelPoint b, PixelPoint p) {
    return std::min(a.x, b.x) <= p.x && p.x <= std::max(a.x, b.x) && std::min(a.y, b.y) <= p.y &&
           p.y <= std::max(a.y, b.y);
}

bool segments_meet(PixelPoint a, PixelPoint b, PixelPoint c, PixelPoint d) {
    const int ca = side(c, d, a), cb = side(c, d, b), ac = side(a, b, c), ad = side(a, b, d);
    if (ca * cb < 0 && ac * ad < 0) return true;
    return (ca == 0 && between(c, d, a)) || (cb == 0 && between(c, d, b)) || (ac == 0 && between(a, b, c)) ||
           (ad == 0 && between(a, b, d));
}

// Convex, so all corners turn the same way; the border belongs unless `strictly`.
bool holds(const Drawn& t, PixelPoint p, bool strictly) {
    int least = 1, most = -1;
    for (std::size_t k = 0; k < t.n; ++k) {
        const int s = side(t.at[k], t.at[(k + 1) % t.n], p);
        least = std::min(least, s);
        most = std::max(most, s);
    }
    return strictly ? least == most && least != 0 : least >= 0 || most <= 0;
}

bool segment_meets(const Drawn& t, PixelPoint a, PixelPoint b) {
    for (std::size_t k = 0; k < t.n; ++k)
        if (segments_meet(t.at[k], t.at[(k + 1) % t.n], a, b)) return true;
    return t.n > 2 && side(t.at[0], t.at[1], t.at[2]) != 0 && holds(t, a, false);
}

// Some of the segment lies in the inside of the triangle.
bool segment_enters(const Drawn& t, PixelPoint a, PixelPoint b) {
    if (holds(t, a, true) || holds(t, b, true)) return true;
    for (std::size_t k = 0; k < t.n; ++k) {
        const PixelPoint c = t.at[k], d = t.at[(k + 1) % t.n];
        if (side(c, d, a) * side(c, d, b) < 0 && side(a, b, c) * side(a, b, d) < 0) return true;
    }
    // Between places on the border, through corners: what lies between the first and the last of them.
    double first = 1, last = 0;
    const auto meet = [&](double at) {
        first = std::min(first, at);
        last = std::max(last, at);
    };
    const double dx = b.x - a.x, dy = b.y - a.y;
    for (std::size_t k = 0; k < t.n; ++k) {
        const PixelPoint c = t.at[k], d = t.at[(k + 1) % t.n];
        if (side(a, b, c) == 0 && between(a, b, c))
            meet(std::fabs(dx) > std::fabs(dy) ? (c.x - a.x) / dx : (c.y - a.y) / dy);
        if (side(c, d, a) == 0 && between(c, d, a)) meet(0);
        if (side(c, d, b) == 0 && between(c, d, b)) meet(1);
    }
    const double middle = 0.5 * (first + last);
    return first < last && holds(t, {a.x + middle * dx, a.y + middle * dy}, true);
}

PixelRect bounds_of(const Drawn& t) {
    PixelRect r{t.at[0].x, t.at[0].y, t.at[0].x, t.at[0].y};
    for (std::size_t k = 1; k < t.n; ++k)
        r = {std::min(r.x0, t.at[k].x), std::min(r.y0, t.at[k].y), std::max(r.x1, t.at[k].x),
             std::max(r.y1, t.at[k].y)};
    return r;
}

bool overlap(const PixelRect& r, PixelPoint a, PixelPoint b) {
    return std::max(a.x, b.x) >= r.x0 && std::min(a.x, b.x) <= r.x1 && std::max(a.y, b.y) >= r.y0 &&
           std::min(a.y, b.y) <= r.y1;
}

// The rings, or a line that encloses nothing.
class Shape {
  public:
    Shape(const std::vector<Polygon>& rings, bool closed) {
        for (const Polygon& r : rings) {
            if (closed && r.size() < 3) continue;
            if (closed) masks_.emplace_back(r);
            for (std::size_t i = 0; i + (closed ? 0 : 1) < r.size(); ++i)
                edges_.push_back({r[i], r[(i + 1) % r.size()]});
        }
    }
    PolygonMask::Cell classify(const PixelRect& r) const {
        if (masks_.empty()) {
            const auto met = [&](const auto& e) { return meets(e[0], e[1], r); };
            return std::any_of(edges_.begin(), edges_.end(), met) ? PolygonMask::Edge : PolygonMask::Outside;
        }
        bool in = false;
        for (const PolygonMask& m : masks_) {
            const PolygonMask::Cell c = m.classify(r);
            if (c == PolygonMask::Edge) return c;
            in ^= c == PolygonMask::Inside;
        }
        return in ? PolygonMask::Inside : PolygonMask::Outside;
    }
    bool contains(PixelPoint p) const {
        bool in = false;
        for (const PolygonMask& m : masks_) in ^= m.contains_exactly(p);
        return in;
    }
    bool touches(const Drawn& t, const PixelRect& r) const {
        for (std::size_t k = 0; k < t.n; ++k)
            if (contains(t.at[k])) return true;
        return std::any_of(edges_.begin(), edges_.end(), [&](const auto& e) {
            return overlap(r, e[0], e[1]) && segment_meets(t, e[0], e[1]);
        });
    }
    bool holds_whole(const Drawn& t, const PixelRect& r) const {
        PixelPoint middle{0, 0};
        for (std::size_t k = 0; k < t.n; ++k) {
            if (!contains(t.at[k]) && !on_border(t.at[k])) return false;
            middle = {middle.x + t.at[k].x / static_cast<double>(t.n),
                      middle.y + t.at[k].y / static_cast<double>(t.n)};
        }
        // All corners on the border: it may lie in a notch.
        if (!contains(middle)) return false;
        return std::none_of(edges_.begin(), edges_.end(), [&](const auto& e) {
            return overlap(r, e[0], e[1]) && segment_enters(t, e[0], e[1]);
        });
    }

  private:
    bool on_border(PixelPoint p) const {
        return std::any_of(edges_.begin(), edges_.end(),
                           [&](const auto& e) { return between(e[0], e[1], p) && side(e[0], e[1], p) == 0; });
    }
    std::vector<PolygonMask> masks_;
    std::vector<std::array<PixelPoint, 2>> edges_;
};

class Test {
  public:
    Test(const PointCloud& cloud, const ViewFrame& view, const Shape& shape, const FenceOptions& options)
        : cloud_(cloud), mesh_(*cloud.triangles()), view_(view), shape_(shape), options_(options) {}

    // What holds for every triangle of the page.
    PolygonMask::Cell page(std::size_t p) const {
        const Box3& box = cloud_.page_box(p);
        PixelRect r{INFINITY, INFINITY, -INFINITY, -INFINITY};
        double nearest = INFINITY, farthest = -INFINITY;
        for (int corner = 0; corner < 8; ++corner) {
            const Vec3 w{corner & 1 ? box.hi.x : box.lo.x, corner & 2 ? box.hi.y : box.lo.y,
                         corner & 4 ? box.hi.z : box.lo.z};
            const double depth = view_.depth(w);
            nearest = std::min(nearest, depth);
            farthest = std::max(farthest, depth);
            const PixelPoint q = view_.project(w);
            r = {std::min(r.x0, q.x), std::min(r.y0, q.y), std::max(r.x1, q.x), std::max(r.y1, q.y)};
        }
        if (farthest < view_.near_depth) return PolygonMask::Outside;
        if (nearest < view_.near_depth) return PolygonMask::Edge;
        const double hair =
            1e-6 * (1 + std::max({std::fabs(r.x0), std::fabs(r.x1), std::fabs(r.y0), std::fabs(r.y1)}));
        return shape_.classify({r.x0 - hair, r.y0 - hair, r.x1 + hair, r.y1 + hair});
    }

    bool takes(std::size_t t) const {
        if (options_.reach == Reach::Middle) {
            const Vec3 middle = cloud_.position(t);
            return view_.depth(middle) >= view_.near_depth && shape_.contains(view_.project(middle));
        }
        const Drawn d = drawn(t);
        if (d.n == 0 || (options_.reach == Reach::Whole && d.cut)) return false;
        const PixelRect r = bounds_of(d);
        const PolygonMask::Cell cell = shape_.classify(r);
        if (cell != PolygonMask::Edge) return cell == PolygonMask::Inside;
        return options_.reach == Reach::Touches ? shape_.touches(d, r) : shape_.holds_whole(d, r);
    }

    bool seen(std::size_t t) const {
        const auto& c = mesh_.triangles[t];
        const Vec3 &a = mesh_.vertices[c[0]], &b = mesh_.vertices[c[1]], &d = mesh_.vertices[c[2]];
        // The middle, then places a little inside of the corners and of the edges' middles.
        static constexpr double kPlaces[7][3] = {
            {1 / 3., 1 / 3., 1 / 3.}, {0.8, 0.1, 0.1},   {0.1, 0.8, 0.1},  {0.1, 0.1, 0.8},
            {0.45, 0.45, 0.1},        {0.1, 0.45, 0.45}, {0.45, 0.1, 0.45}};
        return std::any_of(std::begin(kPlaces), std::end(kPlaces),
                           [&](const auto& w) { return place_seen(a * w[0] + b * w[1] + d * w[2]); });
    }

  private:
    Drawn drawn(std::size_t t) const {
        Drawn d;
        std::array<Vec3, 3> w;
        std::array<double, 3> depth;
        for (std::size_t k = 0; k < 3; ++k) {
            w[k] = mesh_.vertices[mesh_.triangles[t][k]];
            depth[k] = view_.depth(w[k]) - view_.near_depth;
            d.cut |= depth[k] < 0;
        }
        for (std::size_t k = 0; k < 3; ++k) {
            const std::size_t m = (k + 1) % 3;
            if (depth[k] >= 0) d.at[d.n++] = view_.project(w[k]);
            if ((depth[k] < 0) != (depth[m] < 0))
                d.at[d.n++] = view_.project(w[k] + (w[m] - w[k]) * (depth[k] / (depth[k] - depth[m])));
        }
        return d;
    }
    bool place_seen(const Vec3& w) const {
        const double depth = view_.depth(w);
        if (depth < view_.near_depth) return false;
        const PixelPoint q = view_.project(w);
        const DepthPicture& s = *options_.seen;
        if (!(q.x >= 0 && q.y >= 0 && q.x < s.width && q.y < s.height)) return false;
        const auto at =
            static_cast<std::size_t>(q.y) * static_cast<std::size_t>(s.width) + static_cast<std::size_t>(q.x);
        return static_cast<double>(s.depth[at]) >= depth - 2 / view_.pixels_per_unit(depth);
    }

    const PointCloud& cloud_;
    const mesh::TriMesh& mesh_;
    const ViewFrame& view_;
    const Shape& shape_;
    const FenceOptions& options_;
};

ElementSet taken(const PointCloud& cloud, const ViewFrame& view, const Shape& shape,
                 const ElementSet& eligible, const FenceOptions& options, Progress& progress) {
    const Test test(cloud, view, shape, options);
    ElementSet result(cloud.size());
    parallel::for_each(cloud.page_count(), [&](std::size_t p) {
        progress.check();
        if (eligible.kind(p) == ElementSet::Kind::None) return;
        const PolygonMask::Cell cell = test.page(p);
        if (cell == PolygonMask::Outside) return;
        if (cell == PolygonMask::Inside && !options.seen) return result.set_page_all(p);
        PageBits bits;
        eligible.for_each_in_page(p, [&](std::size_t i) {
            const std::size_t t = p * kPageSize + i;
            if ((cell == PolygonMask::Inside || test.takes(t)) && (!options.seen || test.seen(t)))
                bits.set(i);
        });
        result.set_page(p, bits);
    });
    result = result & eligible;
    return options.towards_only ? facing(cloud, view, result, progress) : result;
}

}  // namespace

ElementSet fence_triangles(const PointCloud& cloud, const ViewFrame& view, const std::vector<Polygon>& rings,
                           const ElementSet& eligible, const FenceOptions& options, Progress& progress) {
    return taken(cloud, view, Shape(rings, true), eligible, options, progress);
}

ElementSet across_line(const PointCloud& cloud, const ViewFrame& view, const Polygon& line,
                       const ElementSet& eligible, const FenceOptions& options, Progress& progress) {
    FenceOptions own = options;
    own.reach = Reach::Touches;
    if (line.size() < 2) return ElementSet(cloud.size());
    return taken(cloud, view, Shape({line}, false), eligible, own, progress);
}

ElementSet facing(const PointCloud& cloud, const ViewFrame& view, const ElementSet& set, Progress& progress) {
    const mesh::TriMesh& m = *cloud.triangles();
    ElementSet result(cloud.size());
    parallel::for_each(cloud.page_count(), [&](std::size_t p) {
        progress.check();
        PageBits bits;
        set.for_each_in_page(p, [&](std::size_t i) {
            const auto& c = m.triangles[p * kPageSize + i];
            const Vec3 &a = m.vertices[c[0]], &b = m.vertices[c[1]], &d = m.vertices[c[2]];
            const Vec3 to_eye = view.perspective ? view.eye - a : view.ahead * -1.0;
            if (dot(cross(b - a, d - a), to_eye) > 0) bits.set(i);
        });
        result.set_page(p, bits);
    });
    return result;
}

std::optional<int> edge_near(const PointCloud& cloud, const ViewFrame& view, std::uint64_t triangle,
                             PixelPoint p, double within) {
    const mesh::TriMesh& m = *cloud.triangles();
    std::optional<int> found;
    for (std::size_t k = 0; k < 3; ++k) {
        const auto& c = m.triangles[triangle];
        const Vec3 &u = m.vertices[c[(k + 1) % 3]], &v = m.vertices[c[(k + 2) % 3]];
        if (view.depth(u) < view.near_depth || view.depth(v) < view.near_depth) continue;
        const PixelPoint a = view.project(u), b = view.project(v);
        const double dx = b.x - a.x, dy = b.y - a.y, l = dx * dx + dy * dy;
        const double t = l > 0 ? std::clamp(((p.x - a.x) * dx + (p.y - a.y) * dy) / l, 0.0, 1.0) : 0;
        const double off = std::hypot(a.x + t * dx - p.x, a.y + t * dy - p.y);
        if (off > within) continue;
        within = off;
        found = static_cast<int>(k);
    }
    return found;
}

}  // namespace pristine::select
