#include "core/measure/stockpile.h"

#include <algorithm>
#include <array>
#include <cmath>
#include <map>

#include "core/base/error.h"
#include "core/measure/difference.h"
#include "core/measure/figures.h"
#include "core/measure/noise.h"
#include "core/surface/clip.h"
#include "core/surface/definition.h"

namespace pristine::measure {
namespace {

constexpr std::array<const char*, 6> kIds{"rim", "lowest", "mean", "plane", "level", "surface"};

double plan_triangle(const Vec3& a, const Vec3& b, const Vec3& c) {
    return 0.5 * ((b.x - a.x) * (c.y - a.y) - (c.x - a.x) * (b.y - a.y));
}

double ring_area(const std::vector<Vec3>& ring) {
    double sum = 0;
    for (std::size_t i = 1; i + 1 < ring.size(); ++i) sum += plan_triangle(ring[0], ring[i], ring[i + 1]);
    return std::fabs(sum);
}

// By how much the volume changes with the height at each place.
class RimWeights {
  public:
    void add(const mesh::TriMesh& m, double sign) {
        for (const auto& t : m.triangles) {
            const Vec3 &a = m.vertices[t[0]], &b = m.vertices[t[1]], &c = m.vertices[t[2]];
            const double third = sign * plan_triangle(a, b, c) / 3;
            for (const Vec3& v : {a, b, c}) at(v) += third;
        }
    }
    // A level at the mean height along the rims.
    void add_mean_of(const surface::Rings& rims, double area) {
        double length = 0;
        for (const auto& ring : rims)
            for (std::size_t i = 0; i < ring.size(); ++i) length += step(ring, i);
        if (!(length > 0)) return;
        for (const auto& ring : rims)
            for (std::size_t i = 0; i < ring.size(); ++i) {
                const double half = 0.5 * step(ring, i) / length * area;
                at(ring[i]) -= half;
                at(ring[(i + 1) % ring.size()]) -= half;
            }
    }
    void add_one(const Vec3& v, double by) { at(v) += by; }
    double sigma(double noise) const {
        double sum = 0;
        for (const auto& [place, w] : weight_) sum += w * w;
        return noise * std::sqrt(sum);
    }

  private:
    static double step(const std::vector<Vec3>& ring, std::size_t i) {
        const Vec3 d = ring[(i + 1) % ring.size()] - ring[i];
        return std::hypot(d.x, d.y);
    }
    double& at(const Vec3& v) { return weight_[{v.x, v.y}]; }
    std::map<std::pair<double, double>, double> weight_;
};

struct Foot {
    surface::Rings rims;
    Vec3 lowest;
    std::vector<Vec3> places;
};

Foot foot_of(const mesh::TriMesh& m) {
    Foot f;
    f.rims = surface::boundary_of(m);
    f.lowest.z = INFINITY;
    for (const auto& ring : f.rims)
        for (const Vec3& v : ring) {
            f.places.push_back(v);
            if (v.z < f.lowest.z) f.lowest = v;
        }
    return f;
}

// Heights of a base along the foot.
template <class Height>
void base_range(Pile& p, const Foot& f, const Height& height) {
    p.base_low = INFINITY, p.base_high = -INFINITY;
    for (const Vec3& v : f.places) {
        const double z = height(v);
        p.base_low = std::min(p.base_low, z);
        p.base_high = std::max(p.base_high, z);
    }
}

void over_plane(Pile& p, const mesh::TriMesh& m, const Foot& f, const Base& base) {
    const Volumes v = volumes(m, base);
    p.volume = v.above;
    p.below = v.below;
    base_range(p, f, [&](const Vec3& at) { return base.height(at.x, at.y); });
}

void over_other(Pile& p, const mesh::TriMesh& m, const std::vector<Vec3>& outline, const PileOptions& o,
                Progress& progress) {
    if (!o.other) throw Error(ErrorCode::Usage, "There is no other surface to measure from");
    const mesh::TriMesh below =
        surface::clip(*o.other, {outline}, surface::Keep::Inside, surface::Edges::Exact, progress);
    const double others = o.noise > 0 ? o.noise : noise_of(below);
    const Difference d = difference(below, m, {0, {.noise = others}, {.noise = p.noise}}, progress);
    if (!(d.overlap_area > 0))
        throw Error(ErrorCode::Empty, "The other surface does not reach inside the line");
    p.volume = d.fill;
    p.below = d.cut;
    p.sigma = d.sigma_net;
    p.plan_area = d.overlap_area;
    const SurfaceFigures f = figures(below);
    p.base_low = f.lowest;
    p.base_high = f.highest;
}

}  // namespace

const char* id_of(PileBase base) {
    return kIds[static_cast<std::size_t>(base)];
}

PileBase pile_base_of(const std::string& id) {
    for (std::size_t k = 0; k < kIds.size(); ++k)
        if (id == kIds[k]) return static_cast<PileBase>(k);
    std::string all;
    for (const char* one : kIds) all += (all.empty() ? "" : ", ") + std::string(one);
    throw Error(ErrorCode::Usage, "'" + id + "' is no base of a pile", {}, "There are " + all + ".");
}

Pile stockpile(const mesh::TriMesh& whole, const std::vector<Vec3>& outline, const PileOptions& options,
               Progress& progress) {
    const mesh::TriMesh m =
        surface::clip(whole, {outline}, surface::Keep::Inside, surface::Edges::Exact, progress);
    if (m.triangles.empty()) throw Error(ErrorCode::Empty, "The surface does not reach inside the line");
    Pile p;
    p.noise = options.noise > 0 ? options.noise : noise_of(m);
    const SurfaceFigures own = figures(m);
    p.plan_area = own.plan_area;
    p.surface_area = own.surface_area;
    p.highest = own.highest;
    p.outline_area = ring_area(outline);
    if (options.base == PileBase::OtherSurface) {
        over_other(p, m, outline, options, progress);
        return p;
    }
    const Foot foot = foot_of(m);
    RimWeights weights;
    weights.add(m, 1);
    switch (options.base) {
        case PileBase::TriangulatedRim: {
            const mesh::TriMesh base = triangulated_rim(m);
            const Difference d = difference(base, m, {}, progress);
            p.volume = d.fill;
            p.below = d.cut;
            weights.add(base, -1);  // the foot is in both: its noise hardly counts
            base_range(p, foot, [](const Vec3& v) { return v.z; });
            break;
        }
        case PileBase::LowestOfRim:
            over_plane(p, m, foot, level(foot.lowest.z));
            weights.add_one(foot.lowest, -own.plan_area);
            break;
        case PileBase::MeanOfRim:
            over_plane(p, m, foot, mean_of_rim(m));
            weights.add_mean_of(foot.rims, own.plan_area);
            break;
        case PileBase::PlaneOfRim:
            over_plane(p, m, foot, plane_of(foot.places));
            weights.add_mean_of(foot.rims, own.plan_area);  // in its middle a plane is as sure as the mean
            break;
        case PileBase::Level:
            over_plane(p, m, foot, level(options.level));
            break;
        case PileBase::OtherSurface:
            break;
    }
    p.sigma = weights.sigma(p.noise);
    return p;
}

std::vector<std::pair<std::size_t, std::size_t>> overlapping_outlines(
    const std::vector<std::vector<Vec3>>& outlines) {
    // As flat surfaces: what both cover has an area.
    std::vector<mesh::TriMesh> flat;
    std::vector<Box3> boxes;
    for (const auto& ring : outlines) {
        Box3 box;
        for (const Vec3& v : ring) box.add(Vec3{v.x, v.y, 0});
        boxes.push_back(box);
        mesh::TriMesh m;
        const double margin = 0.01 * box.diagonal() + 1e-9;
        const Vec3 lo = box.lo - Vec3{margin, margin, 0}, hi = box.hi + Vec3{margin, margin, 0};
        m.vertices = {{lo.x, lo.y, 0}, {hi.x, lo.y, 0}, {hi.x, hi.y, 0}, {lo.x, hi.y, 0}};
        m.triangles = {{0, 1, 2}, {0, 2, 3}};
        flat.push_back(surface::clip(m, {ring}, surface::Keep::Inside, surface::Edges::Exact));
    }
    std::vector<std::pair<std::size_t, std::size_t>> out;
    for (std::size_t a = 0; a < flat.size(); ++a)
        for (std::size_t b = a + 1; b < flat.size(); ++b) {
            if (boxes[a].hi.x <= boxes[b].lo.x || boxes[b].hi.x <= boxes[a].lo.x ||
                boxes[a].hi.y <= boxes[b].lo.y || boxes[b].hi.y <= boxes[a].lo.y)
                continue;
            const double both = difference(flat[a], flat[b]).overlap_area;
            // Neighbours that share a line are none.
            if (both > 1e-6 * std::min(ring_area(outlines[a]), ring_area(outlines[b])))
                out.emplace_back(a, b);
        }
    return out;
}

}  // namespace pristine::measure
