#include "core/terrain/floors.h"

#include <algorithm>
#include <cmath>
#include <numeric>

#include "core/base/disjoint_sets.h"
#include "core/base/parallel.h"
#include "core/geometry/plane_under.h"

namespace pristine::terrain {
namespace {

constexpr double kSlicesOfLevel = 6400;  // z0 is a multiple of so many slices
constexpr int kMostColumns = 4'000'000;

struct FloorSample {
    std::uint32_t column;
    float z;
};

// Heights of the level candidates of one column, ascending. `z` is sorted.
template <class Level>
void candidates(const float* z, std::size_t n, float slice, std::vector<Level>& out) {
    out.clear();
    // Slices from the lowest point on; sparse columns (walls seen from above) still have their lowest level.
    struct Slice {
        int number;
        int count;
        float sum;
    };
    std::vector<Slice> slices;
    for (std::size_t i = 0; i < n; ++i) {
        const int k = static_cast<int>((z[i] - z[0]) / slice);
        if (slices.empty() || slices.back().number != k) slices.push_back({k, 0, 0});
        slices.back().count++;
        slices.back().sum += z[i];
    }
    const auto count_at = [&](std::size_t i, int offset) {
        const int wanted = slices[i].number + offset;
        for (std::size_t j = offset < 0 ? (i > 3 ? i - 3 : 0) : i;
             j < slices.size() && slices[j].number <= wanted; ++j)
            if (slices[j].number == wanted) return slices[j].count;
        return 0;
    };
    int typical = 0;
    for (const Slice& s : slices) typical = std::max(typical, s.count);
    bool lowest = true;
    for (std::size_t i = 0; i < slices.size(); ++i) {
        const int here = slices[i].count, with_next = here + count_at(i, 1);
        // A floor's noise fills one slice or two; strays below it are few and far from it.
        // Far from the scanner a column holds few points at all; whether they are ground is told by its
        // neighbours.
        const bool backed = (with_next >= 4 || n <= 12) && with_next * 8 >= typical;
        const int above = count_at(i, 2) + count_at(i, 3), below = count_at(i, -1) + count_at(i, -2);
        const bool peak = with_next >= 6 && with_next > 3 * above && with_next > 3 * below;
        if (!(lowest ? backed : peak)) {
            // A lone point at the bottom: ground or stray, as its surroundings will tell.
            if (i == 0) out.push_back({slices[0].sum / static_cast<float>(here), -1, true});
            continue;
        }
        lowest = false;
        float sum = slices[i].sum;
        int count = here;
        if (i + 1 < slices.size() && slices[i + 1].number == slices[i].number + 1) {
            sum += slices[i + 1].sum;
            count += slices[i + 1].count;
            // The denser of the two slices says where the surface is.
            if (slices[i + 1].count > 3 * here || here > 3 * slices[i + 1].count) {
                const Slice& denser = slices[i + 1].count > here ? slices[i + 1] : slices[i];
                sum = denser.sum;
                count = denser.count;
            }
            ++i;
        }
        out.push_back({sum / static_cast<float>(count), -1, false});
    }
}

}  // namespace

GroundModel::GroundModel(const cloud::PointCloud& cloud, const ElementSet& eligible,
                         const GroundOptions& options, Progress& progress)
    : options_(options) {
    if (cloud.robust_bounds().empty()) return;
    lay_columns(cloud);
    find_levels(cloud, eligible, progress);
    join_levels(progress);
    drop_what_stands_out(progress);
    close_holes(progress);
}

void GroundModel::lay_columns(const cloud::PointCloud& cloud) {
    Box3 box = cloud.robust_bounds();
    // The ground runs on a little where points get few; far strays do not count.
    const Box3 whole = cloud.bounds();
    for (int a = 0; a < 2; ++a) {
        const double more = 0.25 * (box.hi[a] - box.lo[a]) + 3 / options_.metres_per_unit;
        box.lo[a] = std::max(whole.lo[a], box.lo[a] - more);
        box.hi[a] = std::min(whole.hi[a], box.hi[a] + more);
    }
    side_ = options_.column / options_.metres_per_unit;
    while ((box.hi.x - box.lo.x) / side_ * ((box.hi.y - box.lo.y) / side_) > kMostColumns) side_ *= 1.25;
    // The same places make the same columns and slices, whatever else there is.
    const double level = kSlicesOfLevel * options_.slice / options_.metres_per_unit;
    x0_ = (std::floor(box.lo.x / side_) - 2) * side_;
    y0_ = (std::floor(box.lo.y / side_) - 2) * side_;
    z0_ = std::floor(box.lo.z / level) * level;
    nx_ = static_cast<int>((box.hi.x - x0_) / side_) + 3;
    ny_ = static_cast<int>((box.hi.y - y0_) / side_) + 3;
}

void GroundModel::find_levels(const cloud::PointCloud& cloud, const ElementSet& eligible,
                              Progress& progress) {
    // The start of a block is an even sample of its place.
    const double share = std::min(1.0, static_cast<double>(options_.most_points) /
                                           static_cast<double>(std::max<std::uint64_t>(1, cloud.size())));
    const auto per_block = static_cast<std::size_t>(std::ceil(share * static_cast<double>(kBlockSize)));
    auto parts = parallel::map<std::vector<FloorSample>>(cloud.page_count(), [&](std::size_t p) {
        std::vector<FloorSample> samples;
        progress.check();
        if (eligible.kind(p) == ElementSet::Kind::None) return samples;
        const PageBits* some = eligible.bits(p);
        for (std::size_t b = 0, n = page_length(cloud.size(), p); b * kBlockSize < n; ++b) {
            const auto points = cloud.block_positions(p, b, std::min(per_block, n - b * kBlockSize));
            for (std::size_t i = 0; i < points.size(); ++i) {
                if (some && !some->test(b * kBlockSize + i)) continue;
                const Vec3 w = cloud.grid().world(points.x[i], points.y[i], points.z[i]);
                const int cx = static_cast<int>((w.x - x0_) / side_),
                          cy = static_cast<int>((w.y - y0_) / side_);
                if (w.x < x0_ || w.y < y0_ || cx >= nx_ || cy >= ny_) continue;
                samples.push_back({static_cast<std::uint32_t>(at(cx, cy)), static_cast<float>(w.z - z0_)});
            }
        }
        return samples;
    });
    const std::size_t n_columns = static_cast<std::size_t>(nx_) * static_cast<std::size_t>(ny_);
    std::vector<std::size_t> first(n_columns + 1, 0);
    for (const auto& part : parts)
        for (const FloorSample& s : part) ++first[s.column + 1];
    std::partial_sum(first.begin(), first.end(), first.begin());
    std::vector<float> z(first.back());
    {
        std::vector<std::size_t> next(first.begin(), first.end() - 1);
        for (auto& part : parts) {
            for (const FloorSample& s : part) z[next[s.column]++] = s.z;
            std::vector<FloorSample>().swap(part);
        }
    }
    columns_.resize(n_columns);
    const auto slice = static_cast<float>(options_.slice / options_.metres_per_unit);
    parallel::for_ranges(n_columns, 1024, [&](std::size_t from, std::size_t to) {
        progress.check();
        for (std::size_t c = from; c < to; ++c) {
            if (first[c] == first[c + 1]) continue;
            std::sort(z.begin() + static_cast<std::ptrdiff_t>(first[c]),
                      z.begin() + static_cast<std::ptrdiff_t>(first[c + 1]));
            candidates(z.data() + first[c], first[c + 1] - first[c], slice, columns_[c]);
        }
    });
}

// Joins what meets within a walkable slope, and drops what is too small.
void GroundModel::join_levels(Progress& progress) {
    int levels = 0;
    for (auto& column : columns_)
        for (Level& l : column) l.part = levels++;
    DisjointSets joined(static_cast<std::size_t>(levels));
    // Up to three columns apart, since far from the scanner some hold nothing; over such gaps no steeper than
    // one column's rise.
    constexpr std::pair<int, int> kSteps[] = {{1, 0}, {0, 1},  {1, 1},  {1, -1}, {2, 0},  {0, 2}, {2, 1},
                                              {1, 2}, {2, -1}, {1, -2}, {2, 2},  {2, -2}, {3, 0}, {0, 3}};
    const auto rise =
        static_cast<float>(options_.steepest * side_ + options_.slice / options_.metres_per_unit);
    for (int cy = 0; cy < ny_; ++cy)
        for (int cx = 0; cx < nx_; ++cx)
            for (const Level& l : columns_[at(cx, cy)])
                for (const auto& [dx, dy] : kSteps) {
                    if (l.lone) break;
                    if (cx + dx >= nx_ || cy + dy >= ny_ || cy + dy < 0) continue;
                    const Level* closest = nullptr;
                    for (const Level& o : columns_[at(cx + dx, cy + dy)])
                        if (!o.lone && (!closest || std::fabs(o.z - l.z) < std::fabs(closest->z - l.z)))
                            closest = &o;
                    if (closest && std::fabs(closest->z - l.z) <= rise) joined.join(l.part, closest->part);
                }
    std::vector<int> size(static_cast<std::size_t>(levels), 0);
    for (auto& column : columns_)
        for (Level& l : column) {
            l.part = joined.find(l.part);
            ++size[static_cast<std::size_t>(l.part)];
        }
    const double unit = options_.metres_per_unit;
    const double least = options_.least_area / (side_ * side_ * unit * unit);
    std::vector<char> large(static_cast<std::size_t>(levels), 0);
    for (std::size_t k = 0; k < large.size(); ++k) large[k] = size[k] >= least;
    attach_scattered(large, progress);
    for (auto& column : columns_) {
        // A lone point gives way to a level of the same part that stands on more.
        const std::vector<Level> before = column;
        std::erase_if(column, [&](const Level& l) {
            const bool better = l.lone && std::any_of(before.begin(), before.end(), [&](const Level& o) {
                                    return !o.lone && o.part == l.part;
                                });
            return better || !large[static_cast<std::size_t>(l.part)];
        });
    }
}

// Ring by ring: a column without the part takes the mean of its neighbours that have it.
void GroundModel::close_holes(Progress& progress) {
    const int rings = static_cast<int>(std::ceil(options_.close_within / options_.metres_per_unit / side_));
    for (int ring = 0; ring < rings; ++ring) {
        progress.check();
        std::vector<std::pair<std::size_t, Level>> fresh;
        for (int cy = 1; cy + 1 < ny_; ++cy)
            for (int cx = 1; cx + 1 < nx_; ++cx) {
                struct Mean {
                    int part, count;
                    float sum;
                };
                std::vector<Mean> means;
                for (int dy = -1; dy <= 1; ++dy)
                    for (int dx = -1; dx <= 1; ++dx)
                        for (const Level& l : columns_[at(cx + dx, cy + dy)]) {
                            auto m = std::find_if(means.begin(), means.end(),
                                                  [&](const Mean& k) { return k.part == l.part; });
                            if (m == means.end()) m = means.insert(means.end(), {l.part, 0, 0});
                            ++m->count;
                            m->sum += l.z;
                        }
                const auto& own = columns_[at(cx, cy)];
                for (const Mean& m : means) {
                    if (m.count < 3) continue;  // a straight rim does not run on into the open
                    const bool has =
                        std::any_of(own.begin(), own.end(), [&](const Level& l) { return l.part == m.part; });
                    if (!has)
                        fresh.push_back({at(cx, cy), {m.sum / static_cast<float>(m.count), m.part, false}});
                }
            }
        if (fresh.empty()) break;
        for (const auto& [c, l] : fresh) columns_[c].push_back(l);
    }
}

// Far from the scanner the ground is points that lie too far apart to be joined. What lies at the height of a
// large part nearby belongs to it.
void GroundModel::attach_scattered(const std::vector<char>& large, Progress& progress) {
    const double unit = options_.metres_per_unit;
    const int reach = std::max(3, static_cast<int>(std::lround(2 * options_.around / unit / side_)));
    const auto near = [&](int cx, int cy, const Level& l) {
        int best = -1;
        double nearest = 1e30;
        for (int y = std::max(0, cy - reach); y <= std::min(ny_ - 1, cy + reach); ++y)
            for (int x = std::max(0, cx - reach); x <= std::min(nx_ - 1, cx + reach); ++x)
                for (const Level& o : columns_[at(x, y)]) {
                    const double d = std::hypot(x - cx, y - cy) * side_;
                    if (!large[static_cast<std::size_t>(o.part)] || d >= nearest) continue;
                    if (std::fabs(static_cast<double>(o.z - l.z)) > options_.slice / unit + 0.05 * d)
                        continue;
                    nearest = d;
                    best = o.part;
                }
        return best;
    };
    // Twice, so that what was attached helps what lies beyond it.
    for (int round = 0; round < 2; ++round) {
        progress.check();
        std::vector<std::pair<Level*, int>> found;
        for (int cy = 0; cy < ny_; ++cy)
            for (int cx = 0; cx < nx_; ++cx)
                for (Level& l : columns_[at(cx, cy)])
                    if (!large[static_cast<std::size_t>(l.part)])
                        if (const int part = near(cx, cy, l); part >= 0) found.emplace_back(&l, part);
        for (const auto& [level, part] : found) level->part = part;
    }
}

// The foot of what stands on the ground is a level of its own column, in the shadow of which no ground was
// seen. It is told by the plane through its surroundings, fitted so that what lies above counts for little
// (iteratively reweighted least squares).
void GroundModel::drop_what_stands_out(Progress& progress) {
    const double unit = options_.metres_per_unit;
    const int reach = std::max(2, static_cast<int>(std::lround(options_.around / unit / side_)));
    const double limit = options_.stands_out / unit;
    std::vector<std::vector<char>> out(columns_.size());
    parallel::for_ranges(static_cast<std::size_t>(ny_), 4, [&](std::size_t from, std::size_t to) {
        progress.check();
        std::vector<Vec3> near;
        for (auto cy = static_cast<int>(from); cy < static_cast<int>(to); ++cy)
            for (int cx = 0; cx < nx_; ++cx)
                for (const Level& l : columns_[at(cx, cy)]) {
                    near.clear();
                    for (int y = std::max(0, cy - reach); y <= std::min(ny_ - 1, cy + reach); ++y)
                        for (int x = std::max(0, cx - reach); x <= std::min(nx_ - 1, cx + reach); ++x)
                            if (const auto h = height_in(x, y, l.part))
                                near.push_back({static_cast<double>(x - cx), static_cast<double>(y - cy),
                                                static_cast<double>(*h)});
                    const auto plane = near.size() < 8 ? std::nullopt : plane_under(near, limit);
                    const double over = plane ? static_cast<double>(l.z) - plane->a : 0;
                    out[at(cx, cy)].push_back(over > limit || (l.lone && std::fabs(over) > limit / 2));
                }
    });
    for (std::size_t c = 0; c < columns_.size(); ++c) {
        std::size_t k = 0;
        std::erase_if(columns_[c], [&](const Level&) { return out[c][k++] != 0; });
    }
}

std::optional<float> GroundModel::height_in(int cx, int cy, int part) const {
    if (cx < 0 || cy < 0 || cx >= nx_ || cy >= ny_) return std::nullopt;
    for (const Level& l : columns_[at(cx, cy)])
        if (l.part == part) return l.z;
    return std::nullopt;
}

std::optional<double> GroundModel::below(double x, double y, double z, double reach) const {
    const double u = (x - x0_) / side_, v = (y - y0_) / side_;
    if (!(u >= 0 && v >= 0 && u < nx_ && v < ny_)) return std::nullopt;
    const int cx = static_cast<int>(u), cy = static_cast<int>(v);
    std::optional<double> best;
    for (const Level& l : columns_[at(cx, cy)]) {
        // Between the centres of the four columns round the place, as far as they have this level.
        const int ix = u - cx < 0.5 ? cx - 1 : cx, iy = v - cy < 0.5 ? cy - 1 : cy;
        const double fx = u - ix - 0.5, fy = v - iy - 0.5;
        double sum = 0, weight = 0;
        for (int k = 0; k < 4; ++k) {
            const double w = (k & 1 ? fx : 1 - fx) * (k & 2 ? fy : 1 - fy);
            if (const auto h = height_in(ix + (k & 1), iy + (k >> 1), l.part)) {
                sum += w * static_cast<double>(*h);
                weight += w;
            }
        }
        const double h = z0_ + (weight > 0.2 ? sum / weight : static_cast<double>(l.z));
        if (h <= z + reach && (!best || h > *best)) best = h;
    }
    return best;
}

double GroundModel::area() const {
    std::size_t n = 0;
    for (const auto& c : columns_) n += !c.empty();
    return static_cast<double>(n) * side_ * side_;
}

ElementSet ground_guard(const cloud::PointCloud& cloud, const GroundModel& ground, const ElementSet& eligible,
                        double margin, Progress& progress) {
    ElementSet result(cloud.size());
    parallel::for_each(cloud.page_count(), [&](std::size_t p) {
        if (eligible.kind(p) == ElementSet::Kind::None) return;
        progress.check();
        const cloud::PositionPage& points = cloud.positions(p);
        PageBits bits;
        eligible.for_each_in_page(p, [&](std::size_t i) {
            const Vec3 w = cloud.grid().world(points.x[i], points.y[i], points.z[i]);
            const auto h = ground.below(w.x, w.y, w.z, margin);
            if (h && w.z <= *h + margin) bits.set(i);
        });
        result.set_page(p, bits);
    });
    return result;
}

}  // namespace pristine::terrain
