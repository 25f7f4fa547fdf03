#include "core/measure/difference.h"

#include <algorithm>
#include <array>
#include <atomic>
#include <cmath>

#include "core/base/parallel.h"
#include "core/measure/overlay.h"
#include "core/measure/sum.h"
#include "core/topology/adjacency.h"

namespace pristine::measure {
namespace {

constexpr std::size_t kFaceRun = 8192;

void atomic_add(std::atomic<double>& at, double v) {
    for (double now = at.load(std::memory_order_relaxed);
         !at.compare_exchange_weak(now, now + v, std::memory_order_relaxed);) {
    }
}

// Volume below or above the band of a polygon whose change is raised by `by`.
double fill_of(const Convex& p, double band, double by) {
    const Convex up = kept(p, [&](const Corner& c) { return c.d + by - band; });
    if (up.n < 3) return 0;
    const auto [area, volume] = integral(up);
    return volume + by * area;
}
double cut_of(const Convex& p, double band, double by) {
    const Convex down = kept(p, [&](const Corner& c) { return -band - c.d - by; });
    if (down.n < 3) return 0;
    const auto [area, volume] = integral(down);
    return -volume - by * area;
}

// How much cut shrinks and fill grows with the change of a polygon. Where the edge of the band is near the
// volume bends, and jumps: there it is the slope over one standard deviation to either side.
struct Slopes {
    double cut = 0, fill = 0;
};
Slopes slopes_of(const Convex& p, double area, double band, double step) {
    double lo = INFINITY, hi = -INFINITY;
    for (int i = 0; i < p.n; ++i) lo = std::min(lo, p[i].d), hi = std::max(hi, p[i].d);
    Slopes s;
    if (lo - step >= band)
        s.fill = area;
    else if (hi + step > band)
        s.fill = (fill_of(p, band, step) - fill_of(p, band, -step)) / (2 * step);
    if (hi + step <= -band)
        s.cut = area;
    else if (lo - step < -band)
        s.cut = (cut_of(p, band, -step) - cut_of(p, band, step)) / (2 * step);
    return s;
}

// Slopes summed for each vertex or triangle of one surface.
class VertexWeights {
  public:
    explicit VertexWeights(std::size_t n) : cut_(n), fill_(n) {}
    void add(std::size_t i, const Slopes& s, double share) {
        if (s.cut != 0) atomic_add(cut_[i], s.cut * share);
        if (s.fill != 0) atomic_add(fill_[i], s.fill * share);
    }
    // Variances of cut, fill and net when each has this deviation by itself.
    std::array<double, 3> variances(double sigma) const {
        Sum cut, fill, net;
        for (std::size_t i = 0; i < cut_.size(); ++i) {
            const double c = cut_[i].load(), f = fill_[i].load();
            cut.add(c * c), fill.add(f * f), net.add((c + f) * (c + f));
        }
        const double v = sigma * sigma;
        return {v * cut.value(), v * fill.value(), v * net.value()};
    }
    // Cut, fill and net, each times its factor.
    std::array<double, 3> summed(const std::vector<double>& factors) const {
        Sum cut, fill;
        for (std::size_t i = 0; i < cut_.size(); ++i)
            cut.add(cut_[i].load() * factors[i]), fill.add(fill_[i].load() * factors[i]);
        return {cut.value(), fill.value(), cut.value() + fill.value()};
    }

  private:
    std::vector<std::atomic<double>> cut_, fill_;
};

// The part of a largest error of thinning that a surface lies below its ground where that bends evenly: found
// by trial on hills, hollows and waves.
constexpr double kCommonPart = 0.4;

// Which way the ground bends about each triangle: 1 a hill at all its edges, -1 a hollow.
std::vector<double> bends_of(const mesh::TriMesh& m) {
    const topology::Adjacency a = topology::adjacency(m.triangles);
    std::vector<double> bends(m.triangles.size());
    parallel::for_ranges(bends.size(), 16384, [&](std::size_t from, std::size_t to) {
        for (std::size_t t = from; t < to; ++t) {
            const auto& c = m.triangles[t];
            const Vec3 p = m.vertices[c[0]], n = cross(m.vertices[c[1]] - p, m.vertices[c[2]] - p);
            for (const std::uint32_t other : a.across[t]) {
                if (other == topology::kNone) continue;
                double side = 0;  // the farthest corner of the neighbour off this plane
                for (const std::uint32_t v : m.triangles[other])
                    if (const double d = dot(n, m.vertices[v] - p); std::fabs(d) > std::fabs(side)) side = d;
                bends[t] -= ((side > 0) - (side < 0)) / 3.0;
            }
        }
    });
    return bends;
}

// What is known of one surface's heights, carried to the volumes.
class Propagated {
  public:
    Propagated(const mesh::TriMesh& m, const HeightSigma& s)
        : mesh_(m),
          sigma_(s),
          vertices_(s.noise > 0 ? m.vertices.size() : 0),
          triangles_(s.thinning > 0 ? m.triangles.size() : 0) {
        if (s.thinning > 0) bends_ = bends_of(m);
    }
    void add(const Facet& f, std::size_t triangle, const Convex& p, double area, const Slopes& s) {
        if (sigma_.noise > 0)
            share(f, p, area, [&](std::size_t k, double part) {
                vertices_.add(mesh_.triangles[triangle][k], s, part / area);
            });
        if (sigma_.thinning > 0) triangles_.add(triangle, s, 1);
    }
    // Adds the variances of cut, fill and net; `all`: the slopes of everything together.
    void to(std::array<double, 3>& sum, const Slopes& all) const {
        const auto noise = vertices_.variances(sigma_.noise),
                   thinning = triangles_.variances(sigma_.thinning / std::sqrt(3.0)),
                   bent = triangles_.summed(bends_);
        const std::array together{all.cut, all.fill, all.cut + all.fill};
        const double common = kCommonPart * sigma_.thinning;
        for (std::size_t i = 0; i < 3; ++i)
            sum[i] += noise[i] + thinning[i] + common * common * bent[i] * bent[i] +
                      sigma_.systematic * sigma_.systematic * together[i] * together[i];
    }

  private:
    const mesh::TriMesh& mesh_;
    const HeightSigma& sigma_;
    VertexWeights vertices_, triangles_;
    std::vector<double> bends_;
};

// How much noise adds to the volume above a band of a change, on average: of a height, over its true part.
double excess_of(double change, double band, double sigma) {
    const double x = (band - change) / sigma;
    if (std::fabs(x) > 6) return 0;  // less than 1e-9 of the deviation
    const double above = 0.5 * std::erfc(x / std::sqrt(2.0)),
                 density = std::exp(-x * x / 2) / std::sqrt(2 * M_PI);
    return change * above + sigma * density - (change > band ? change : 0);
}

double variance_of_a_place(const HeightSigma& s) {
    return s.noise * s.noise + s.systematic * s.systematic + s.thinning * s.thinning / 3;
}

struct Part {
    Sum cut, fill, cut_area, fill_area, unchanged, overlap, cut_slope, fill_slope, cut_excess, fill_excess;
    double least = INFINITY, greatest = -INFINITY;
};

void add_polygon(const Convex& p, double area, double volume, double band, Part& part) {
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
    const bool weigh = options.before.any() || options.after.any();
    // Inside a triangle the mean square of the weights of its corners is a half.
    const double noise = std::sqrt(
        (options.before.noise * options.before.noise + options.after.noise * options.after.noise) / 2);
    const double step =
        noise > 0 ? noise
                  : std::sqrt(variance_of_a_place(options.before) + variance_of_a_place(options.after));
    Propagated of_before(before, options.before), of_after(after, options.after);
    const std::size_t runs = (fa.size() + kFaceRun - 1) / kFaceRun;
    std::atomic<std::size_t> done{0};
    const auto parts = parallel::map<Part>(runs, [&](std::size_t r) {
        progress.check();
        Part part;
        for (std::size_t t = r * kFaceRun; t < std::min(fa.size(), (r + 1) * kFaceRun); ++t)
            grid.meeting(own[t], [&](std::uint32_t o) {
                const Convex p = common(fb[o], fa[t]);
                if (p.n < 3) return;
                const auto [area, volume] = integral(p);
                add_polygon(p, area, volume, options.band, part);
                if (!weigh) return;
                if (area <= 0) return;
                if (noise > 0) {
                    part.fill_excess.add(area * excess_of(volume / area, options.band, noise));
                    part.cut_excess.add(area * excess_of(-volume / area, options.band, noise));
                }
                const Slopes s = slopes_of(p, area, options.band, step);
                part.cut_slope.add(s.cut), part.fill_slope.add(s.fill);
                if (s.cut == 0 && s.fill == 0) return;  // unchanged whatever the noise does
                of_before.add(fb[o], o, p, area, s);
                of_after.add(fa[t], t, p, area, s);
            });
        progress.advance(static_cast<double>(++done) / static_cast<double>(runs));
        return part;
    });
    Part all;
    for (const Part& p : parts) {
        all.cut.add(p.cut), all.fill.add(p.fill);
        all.cut_area.add(p.cut_area), all.fill_area.add(p.fill_area);
        all.unchanged.add(p.unchanged), all.overlap.add(p.overlap);
        all.cut_slope.add(p.cut_slope), all.fill_slope.add(p.fill_slope);
        all.cut_excess.add(p.cut_excess), all.fill_excess.add(p.fill_excess);
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
    std::array<double, 3> variance{};
    const Slopes together{all.cut_slope.value(), all.fill_slope.value()};
    of_before.to(variance, together);
    of_after.to(variance, together);
    d.excess_cut = all.cut_excess.value(), d.excess_fill = all.fill_excess.value();
    d.sigma_cut = std::hypot(std::sqrt(variance[0]), d.excess_cut);
    d.sigma_fill = std::hypot(std::sqrt(variance[1]), d.excess_fill);
    d.sigma_net = std::sqrt(variance[2]);
    return d;
}

double proposed_band(const HeightSigma& before, const HeightSigma& after) {
    return 3 * std::sqrt(variance_of_a_place(before) + variance_of_a_place(after));
}

}  // namespace pristine::measure
