#include "core/measure/sections.h"

#include <algorithm>
#include <cmath>

#include "core/base/error.h"
#include "core/base/parallel.h"
#include "core/measure/difference.h"
#include "core/surface/clip.h"

namespace pristine::measure {
namespace {

constexpr double kMost = 100'000;

// The axis in plan, by its length.
class Axis {
  public:
    explicit Axis(const std::vector<Vec3>& points) {
        for (const Vec3& p : points) {
            const Vec3 flat{p.x, p.y, 0};
            if (!points_.empty() && flat == points_.back()) continue;
            start_.push_back(points_.empty() ? 0 : start_.back() + norm(flat - points_.back()));
            points_.push_back(flat);
        }
        if (points_.size() < 2) throw Error(ErrorCode::Usage, "The axis has no length");
    }
    double length() const { return start_.back(); }
    // The place there, and its way: at a corner half-way between both sides'.
    void at(double s, Vec3& place, Vec3& way) const {
        const auto next = std::upper_bound(start_.begin(), start_.end() - 1, s);
        const auto k = static_cast<std::size_t>(next - start_.begin());
        const double f = (s - start_[k - 1]) / (start_[k] - start_[k - 1]);
        place = points_[k - 1] + (points_[k] - points_[k - 1]) * f;
        way = normalized(points_[k] - points_[k - 1]);
        const double slack = 1e-9 * length();
        if (k >= 2 && s - start_[k - 1] < slack)
            way = between(normalized(points_[k - 1] - points_[k - 2]), way);
        if (k + 1 < points_.size() && start_[k] - s < slack)
            way = between(way, normalized(points_[k + 1] - points_[k]));
    }

  private:
    static Vec3 between(const Vec3& a, const Vec3& b) {
        const Vec3 sum = a + b;
        return norm(sum) > 1e-6 ? normalized(sum) : b;
    }
    std::vector<Vec3> points_;
    std::vector<double> start_;
};

std::vector<double> chainages(double length, double every) {
    if (!(every > 0)) throw Error(ErrorCode::Usage, "The interval of the sections is above zero");
    if (length / every > kMost)
        throw Error(ErrorCode::Usage, "That would be more than 100,000 sections", {},
                    "Take a longer interval.");
    std::vector<double> out;
    for (std::size_t k = 0; static_cast<double>(k) * every < length * (1 - 1e-9); ++k)
        out.push_back(static_cast<double>(k) * every);
    out.push_back(length);
    return out;
}

CrossSection section_at(const Axis& axis, double chainage, double half_width,
                        const std::vector<Profiles>& of) {
    CrossSection s;
    s.chainage = chainage;
    Vec3 way;
    axis.at(chainage, s.at, way);
    const Vec3 right{way.y, -way.x, 0};
    s.left = s.at - right * half_width;
    s.right = s.at + right * half_width;
    for (const Profiles& one : of) {
        auto& stretches = s.surfaces.emplace_back();
        for (const auto& stretch : one.along({s.left, s.right})) {
            stretches.emplace_back();
            for (const ProfilePoint& p : stretch)
                stretches.back().push_back({p.chainage - half_width, p.place.z});
        }
    }
    if (of.size() > 1) {
        const AreaBetween a = area_between(s.surfaces.front(), s.surfaces.back());
        s.cut = a.cut;
        s.fill = a.fill;
        s.both = a.both;
    }
    return s;
}

double height_on(const SectionStretch& line, double offset) {
    auto next = std::upper_bound(line.begin(), line.end(), offset,
                                 [](double o, const OffsetHeight& p) { return o < p.offset; });
    if (next == line.begin()) ++next;
    if (next == line.end()) --next;
    const OffsetHeight &a = *(next - 1), &b = *next;
    const double w = b.offset - a.offset;
    return w > 0 ? a.height + (b.height - a.height) * (offset - a.offset) / w : b.height;
}

// Of one stretch of each, where both are.
void add_between(const SectionStretch& a, const SectionStretch& b, AreaBetween& sum) {
    const double lo = std::max(a.front().offset, b.front().offset),
                 hi = std::min(a.back().offset, b.back().offset);
    if (!(lo < hi)) return;
    std::vector<double> cuts{lo, hi};
    for (const SectionStretch* one : {&a, &b})
        for (const OffsetHeight& p : *one)
            if (p.offset > lo && p.offset < hi) cuts.push_back(p.offset);
    std::sort(cuts.begin(), cuts.end());
    for (std::size_t k = 0; k + 1 < cuts.size(); ++k) {
        const double w = cuts[k + 1] - cuts[k];
        if (!(w > 0)) continue;
        // Inside of the piece, so that a step at its end is not met.
        const double u = cuts[k] + w * 0.25, v = cuts[k] + w * 0.75;
        const double du = height_on(b, u) - height_on(a, u), dv = height_on(b, v) - height_on(a, v);
        const double slope = 2 * (dv - du), from = du - 0.25 * slope, to = dv + 0.25 * slope;
        if (from >= 0 && to >= 0) {
            sum.fill += 0.5 * w * (from + to);
        } else if (from <= 0 && to <= 0) {
            sum.cut -= 0.5 * w * (from + to);
        } else {
            const double share = from / (from - to);
            (from > 0 ? sum.fill : sum.cut) += 0.5 * w * share * std::fabs(from);
            (to > 0 ? sum.fill : sum.cut) += 0.5 * w * (1 - share) * std::fabs(to);
        }
        sum.both += w;
    }
}

void add_exact(Sections& out, const std::vector<const mesh::TriMesh*>& surfaces, Progress& progress) {
    std::vector<Vec3> ring;
    for (const CrossSection& s : out.all) ring.push_back(s.right);
    for (auto s = out.all.rbegin(); s != out.all.rend(); ++s) ring.push_back(s->left);
    if (surface::trouble_of({ring})) {
        out.volumes.why_not_exact = "Sections cross each other in a bend of the axis";
        return;
    }
    const auto clipped = [&](const mesh::TriMesh& m) {
        return surface::clip(m, {ring}, surface::Keep::Inside, surface::Edges::Exact, progress);
    };
    const Difference d = difference(clipped(*surfaces.front()), clipped(*surfaces.back()), {}, progress);
    out.volumes.cut_exact = d.cut;
    out.volumes.fill_exact = d.fill;
}

}  // namespace

AreaBetween area_between(const std::vector<SectionStretch>& first,
                         const std::vector<SectionStretch>& second) {
    AreaBetween sum;
    for (const SectionStretch& a : first)
        for (const SectionStretch& b : second) add_between(a, b, sum);
    return sum;
}

Sections sections(const std::vector<const mesh::TriMesh*>& surfaces, const std::vector<Vec3>& line,
                  const SectionPlan& plan, Progress& progress) {
    if (!(plan.half_width > 0)) throw Error(ErrorCode::Usage, "The width of the sections is above zero");
    const Axis axis(line);
    const std::vector<double> where = chainages(axis.length(), plan.every);
    progress.stretch(0, 0.3, "Indexing surfaces");
    std::vector<Profiles> of;
    of.reserve(surfaces.size());
    for (const mesh::TriMesh* m : surfaces) {
        progress.check();
        of.emplace_back(*m);
    }
    // Those in between are for the prisms.
    const bool two = surfaces.size() > 1;
    progress.stretch(0.3, 0.8, "Cutting sections");
    const std::size_t n = where.size();
    auto cut = parallel::map<CrossSection>(two ? 2 * n - 1 : n, [&](std::size_t k) {
        progress.check();
        const double s = !two         ? where[k]
                         : k % 2 == 0 ? where[k / 2]
                                      : 0.5 * (where[k / 2] + where[k / 2 + 1]);
        return section_at(axis, s, plan.half_width, of);
    });
    Sections out;
    for (std::size_t k = 0; k < cut.size(); k += two ? 2 : 1) out.all.push_back(cut[k]);
    if (!two) return out;
    for (std::size_t k = 0; k + 1 < n; ++k) {
        const CrossSection &a = cut[2 * k], &m = cut[2 * k + 1], &b = cut[2 * k + 2];
        const double d = b.chainage - a.chainage;
        out.volumes.cut_ends += 0.5 * d * (a.cut + b.cut);
        out.volumes.fill_ends += 0.5 * d * (a.fill + b.fill);
        out.volumes.cut_prisms += d / 6 * (a.cut + 4 * m.cut + b.cut);
        out.volumes.fill_prisms += d / 6 * (a.fill + 4 * m.fill + b.fill);
    }
    progress.stretch(0.8, 1, "Comparing surfaces");
    add_exact(out, surfaces, progress);
    return out;
}

}  // namespace pristine::measure
