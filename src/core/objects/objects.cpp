#include "core/objects/objects.h"
#include "core/base/spill_vector.h"

#include <Eigen/Eigenvalues>
#include <algorithm>
#include <array>
#include <cmath>
#include <numeric>

#include "core/base/disjoint_sets.h"
#include "core/base/figure.h"
#include "core/base/units.h"
#include "core/score/suggest.h"

namespace pristine::score {
namespace {

constexpr double kAlike = 0.35;      // distance between descriptions that are alike
constexpr std::size_t kEnough = 10;  // points of a cube, to speak of its shape
constexpr int kSizes = 3;            // of cubes, each twice the one before

struct Standing {
    std::uint64_t cell;
    std::uint32_t element;
    float x, y, z, above;  // metres, from the corner of the site
};

std::uint64_t key(std::int64_t x, std::int64_t y, std::int64_t z) {
    return static_cast<std::uint64_t>(x) | static_cast<std::uint64_t>(y) << 21 |
           static_cast<std::uint64_t>(z) << 42;
}

// Points that stand on the ground, by cell.
SpillVector<Standing> standing(const Input& in, const Column& above, const ObjectOptions& options,
                               double metres, const Vec3& corner, Progress& progress) {
    SpillVector<Standing> all;
    for (std::size_t p = 0; p < in.cloud.page_count(); ++p) {
        progress.check();
        const auto heights = above.values.page(p);
        const cloud::PositionPage page = in.cloud.positions(p);
        in.eligible.for_each_in_page(p, [&](std::size_t i) {
            const double h = (above.base + static_cast<double>(heights[i])) * metres;
            if (!(h > options.foot)) return;
            const Vec3 w = (in.cloud.grid().world(page.x[i], page.y[i], page.z[i]) - corner) * metres;
            const auto cube = [&](double v) {
                return std::clamp<std::int64_t>(static_cast<std::int64_t>(v / options.gap) + 1, 1,
                                                (1 << 21) - 2);
            };
            all.push_back({key(cube(w.x), cube(w.y), cube(w.z)),
                           static_cast<std::uint32_t>(p * kPageSize + i), static_cast<float>(w.x),
                           static_cast<float>(w.y), static_cast<float>(w.z), static_cast<float>(h)});
        });
    }
    std::sort(all.begin(), all.end(), [](const Standing& a, const Standing& b) {
        return a.cell != b.cell ? a.cell < b.cell : a.element < b.element;
    });
    return all;
}

// First point of each cell, and the end.
std::vector<std::uint32_t> cells_of(const SpillVector<Standing>& points) {
    std::vector<std::uint32_t> first;
    for (std::uint32_t i = 0; i < points.size(); ++i)
        if (i == 0 || points[i].cell != points[i - 1].cell) first.push_back(i);
    first.push_back(static_cast<std::uint32_t>(points.size()));
    return first;
}

DisjointSets join_cells(const SpillVector<Standing>& points, const std::vector<std::uint32_t>& first) {
    const std::size_t n = first.size() - 1;
    DisjointSets joined(n);
    std::vector<std::uint64_t> keys(n);
    for (std::size_t c = 0; c < n; ++c) keys[c] = points[first[c]].cell;
    for (std::size_t c = 0; c < n; ++c)
        for (std::int64_t dz = -1; dz <= 1; ++dz)
            for (std::int64_t dy = -1; dy <= 1; ++dy)
                for (std::int64_t dx = -1; dx <= 1; ++dx) {
                    const std::uint64_t other = keys[c] + static_cast<std::uint64_t>(dx) +
                                                (static_cast<std::uint64_t>(dy) << 21) +
                                                (static_cast<std::uint64_t>(dz) << 42);
                    if (other <= keys[c]) continue;
                    const auto at = std::lower_bound(keys.begin(), keys.end(), other);
                    if (at != keys.end() && *at == other)
                        joined.join(static_cast<std::int32_t>(c),
                                    static_cast<std::int32_t>(at - keys.begin()));
                }
    return joined;
}

// Planarity and scatter of the points of one cell; false: they lie in one place.
bool shape_of(std::span<const Standing> points, double& planarity, double& scatter) {
    Eigen::Vector3d middle = Eigen::Vector3d::Zero();
    const auto at = [](const Standing& s) {
        return Eigen::Vector3d(static_cast<double>(s.x), static_cast<double>(s.y), static_cast<double>(s.z));
    };
    for (const Standing& s : points) middle += at(s);
    middle /= static_cast<double>(points.size());
    Eigen::Matrix3d spread = Eigen::Matrix3d::Zero();
    for (const Standing& s : points) spread += (at(s) - middle) * (at(s) - middle).transpose();
    Eigen::SelfAdjointEigenSolver<Eigen::Matrix3d> solver;
    solver.computeDirect(spread, Eigen::EigenvaluesOnly);
    const auto size = [&](int k) { return std::sqrt(std::max(0.0, solver.eigenvalues()(k))); };
    if (size(2) == 0) return false;
    planarity = (size(1) - size(0)) / size(2);
    scatter = size(0) / size(2);
    return true;
}

// Planarity and scatter in cubes so large that most points have enough beside them: thin clouds are judged
// more coarsely than dense ones.
void measure_shape(std::vector<Standing> points, double side, Object& o) {
    std::vector<std::size_t> first;
    for (int step = 0; step < kSizes; ++step, side *= 2) {
        for (Standing& s : points) {
            const auto cube = [&](float v) {
                return static_cast<std::int64_t>(static_cast<double>(v) / side) + 1;
            };
            s.cell = key(cube(s.x), cube(s.y), cube(s.z));
        }
        std::sort(points.begin(), points.end(), [](const Standing& a, const Standing& b) {
            return a.cell != b.cell ? a.cell < b.cell : a.element < b.element;
        });
        first.clear();
        std::size_t held = 0;
        for (std::size_t i = 0; i < points.size(); ++i)
            if (i == 0 || points[i].cell != points[i - 1].cell) first.push_back(i);
        first.push_back(points.size());
        for (std::size_t c = 0; c + 1 < first.size(); ++c)
            if (first[c + 1] - first[c] >= kEnough) held += first[c + 1] - first[c];
        if (2 * held >= points.size()) break;
    }
    double shaped = 0;
    for (std::size_t c = 0; c + 1 < first.size(); ++c) {
        const std::size_t n = first[c + 1] - first[c];
        double planarity = 0, scatter = 0;
        if (n < kEnough || !shape_of({points.data() + first[c], n}, planarity, scatter)) continue;
        o.planarity += static_cast<double>(n) * planarity;
        o.scatter += static_cast<double>(n) * scatter;
        shaped += static_cast<double>(n);
    }
    if (shaped > 0) o.planarity /= shaped, o.scatter /= shaped;
}

// The box along the longest spread in plan.
void measure_plan(std::span<const Standing> points, Object& o) {
    double mx = 0, my = 0;
    for (const Standing& s : points) {
        mx += static_cast<double>(s.x);
        my += static_cast<double>(s.y);
    }
    mx /= static_cast<double>(points.size());
    my /= static_cast<double>(points.size());
    double xx = 0, xy = 0, yy = 0;
    for (const Standing& s : points) {
        const double x = static_cast<double>(s.x) - mx, y = static_cast<double>(s.y) - my;
        xx += x * x;
        xy += x * y;
        yy += y * y;
    }
    const double angle = 0.5 * std::atan2(2 * xy, xx - yy), c = std::cos(angle), n = std::sin(angle);
    double lo[2] = {INFINITY, INFINITY}, hi[2] = {-INFINITY, -INFINITY};
    for (const Standing& s : points) {
        const double x = static_cast<double>(s.x) - mx, y = static_cast<double>(s.y) - my;
        const double v[2] = {c * x + n * y, c * y - n * x};
        for (int k = 0; k < 2; ++k) {
            lo[k] = std::min(lo[k], v[k]);
            hi[k] = std::max(hi[k], v[k]);
        }
    }
    o.length = std::max(hi[0] - lo[0], hi[1] - lo[1]);
    o.width = std::min(hi[0] - lo[0], hi[1] - lo[1]);
}

std::array<double, 6> description(const Object& o) {
    const auto log = [](double v) { return std::log(std::max(0.05, v)); };
    return {log(o.length),          log(o.width),    log(o.height),
            0.5 * log(o.footprint), 2 * o.planarity, 2 * o.scatter};
}

double apart(const Object& a, const Object& b) {
    const auto x = description(a), y = description(b);
    double sum = 0;
    for (std::size_t k = 0; k < x.size(); ++k) sum += (x[k] - y[k]) * (x[k] - y[k]);
    return std::sqrt(sum / static_cast<double>(x.size()));
}

}  // namespace

const char* name_of(ObjectKind kind) {
    constexpr const char* names[kObjectKinds] = {"person",     "vehicle", "machine", "building",
                                                 "vegetation", "pole",    "other"};
    return names[static_cast<std::size_t>(kind)];
}

ObjectKind kind_of(const Object& o) {
    if (o.height > 2 && o.length < 0.6) return ObjectKind::Pole;
    // Upright first: a body is so round that its few points scatter as leaves do.
    if (o.height > 1.2 && o.height < 2.2 && o.height > 2 * o.length) return ObjectKind::Person;
    if (o.scatter > 0.23 && o.planarity < 0.5) return ObjectKind::Vegetation;
    if (o.height > 1 && o.height < 2.2 && o.length < 1.1) return ObjectKind::Person;
    if (o.footprint > 20 && o.height > 2.2) return ObjectKind::Building;
    if (o.length > 3 && o.length < 6.5 && o.width > 1.2 && o.width < 2.7 && o.height > 0.9 && o.height < 2.4)
        return ObjectKind::Vehicle;
    if (o.length > 2.5 && o.length < 14 && o.height > 1.4 && o.height < 6) return ObjectKind::Machine;
    return ObjectKind::Other;
}

Objects::Objects(const Input& in, const Column& above, const ObjectOptions& options, Progress& progress)
    : size_(in.cloud.size()) {
    const double metres = length_unit(in.cloud.unit()).metres;
    const Vec3 corner = in.cloud.robust_bounds().empty() ? Vec3{} : in.cloud.robust_bounds().lo;
    const auto points = standing(in, above, options, metres, corner, progress);
    const auto first = cells_of(points);
    DisjointSets joined = join_cells(points, first);
    std::vector<std::vector<std::uint32_t>> groups(first.size() - 1);  // cells by the least of each group
    for (std::uint32_t c = 0; c + 1 < first.size(); ++c)
        groups[static_cast<std::size_t>(joined.find(static_cast<std::int32_t>(c)))].push_back(c);
    for (const auto& group : groups) {
        progress.check();
        std::vector<Standing> own;
        std::vector<std::uint64_t> plan;
        Object o;
        for (const std::uint32_t c : group) {
            const std::span<const Standing> cell(points.data() + first[c], first[c + 1] - first[c]);
            own.insert(own.end(), cell.begin(), cell.end());
            plan.push_back(cell[0].cell & ((std::uint64_t{1} << 42) - 1));
        }
        if (own.size() < options.least) continue;
        measure_shape(own, options.gap, o);
        std::sort(plan.begin(), plan.end());
        const auto cells = std::unique(plan.begin(), plan.end()) - plan.begin();
        o.footprint = static_cast<double>(cells) * options.gap * options.gap;
        o.count = own.size();
        measure_plan(own, o);
        Box3 box;
        std::vector<std::uint32_t> elements;
        for (const Standing& s : own) {
            o.height = std::max(o.height, static_cast<double>(s.above));
            box.add(in.cloud.position(s.element));
            elements.push_back(s.element);
        }
        o.centre = box.centre();
        o.kind = kind_of(o);
        objects_.push_back(o);
        elements_.push_back(std::move(elements));
    }
    std::vector<std::size_t> order(objects_.size());
    std::iota(order.begin(), order.end(), std::size_t{0});
    std::sort(order.begin(), order.end(), [&](std::size_t a, std::size_t b) {
        return objects_[a].count != objects_[b].count ? objects_[a].count > objects_[b].count : a < b;
    });
    std::vector<Object> sorted;
    std::vector<std::vector<std::uint32_t>> sorted_elements;
    for (const std::size_t i : order) {
        sorted.push_back(objects_[i]);
        sorted_elements.push_back(std::move(elements_[i]));
    }
    objects_ = std::move(sorted);
    elements_ = std::move(sorted_elements);
    told_.assign(objects_.size(), 0);
}

ElementSet Objects::of(std::size_t object) const {
    ElementSet out(size_);
    std::vector<PageBits> pages(out.page_count());
    for (const std::uint32_t e : elements_[object]) pages[e / kPageSize].set(e % kPageSize);
    for (std::size_t p = 0; p < pages.size(); ++p) out.set_page(p, pages[p]);
    return out;
}

ElementSet Objects::of(ObjectKind kind) const {
    ElementSet out(size_);
    for (std::size_t i = 0; i < objects_.size(); ++i)
        if (objects_[i].kind == kind) out = out | of(i);
    return out;
}

std::vector<std::size_t> Objects::tell(std::size_t object, ObjectKind kind) {
    std::vector<std::size_t> changed{object};
    objects_[object].kind = kind;
    told_[object] = 1;
    for (std::size_t i = 0; i < objects_.size(); ++i) {
        if (told_[i] || objects_[i].kind == kind) continue;
        // The example that was told and is most alike decides.
        double nearest = kAlike;
        ObjectKind best = objects_[i].kind;
        for (std::size_t k = 0; k < objects_.size(); ++k)
            if (told_[k] && apart(objects_[i], objects_[k]) < nearest) {
                nearest = apart(objects_[i], objects_[k]);
                best = objects_[k].kind;
            }
        if (best == objects_[i].kind) continue;
        objects_[i].kind = best;
        changed.push_back(i);
    }
    return changed;
}

ObjectOptions suggested_objects(const cloud::PointCloud& c) {
    ObjectOptions o;
    const double spacing = two_digits(spacing_of(c) * length_unit(c.unit()).metres);
    if (!(spacing > 0)) return o;
    o.gap = std::max(o.gap, two_digits(2.5 * spacing));
    // As many as stand on a square metre; more would leave out what is there.
    const double a_square_metre = 1 / (spacing * spacing);
    o.least = static_cast<std::uint64_t>(std::clamp(a_square_metre, 4.0, static_cast<double>(o.least)));
    return o;
}

}  // namespace pristine::score
