#include "core/place/surfels.h"

#include <Eigen/Eigenvalues>
#include <algorithm>
#include <bit>
#include <cmath>
#include <unordered_set>

#include "core/base/parallel.h"

namespace pristine::place {
namespace {

constexpr std::uint32_t kFewestOfCell = 8;
constexpr double kThick = 0.06;   // of the middle variance that the least may be
constexpr double kNarrow = 0.05;  // of the largest variance that the middle one must be
constexpr std::int64_t kHalf = std::int64_t{1} << 20;
constexpr std::uint64_t kNowhere = ~std::uint64_t{0};

std::uint64_t code_at(std::int64_t x, std::int64_t y, std::int64_t z) {
    x += kHalf, y += kHalf, z += kHalf;
    if (x < 0 || y < 0 || z < 0 || x >= 2 * kHalf || y >= 2 * kHalf || z >= 2 * kHalf) return kNowhere;
    return static_cast<std::uint64_t>(x) << 42 | static_cast<std::uint64_t>(y) << 21 |
           static_cast<std::uint64_t>(z);
}

std::uint64_t code_of_place(const Vec3& p, double side) {
    return code_at(static_cast<std::int64_t>(std::floor(p.x / side)),
                   static_cast<std::int64_t>(std::floor(p.y / side)),
                   static_cast<std::int64_t>(std::floor(p.z / side)));
}

std::size_t hash(std::uint64_t code) {
    code ^= code >> 31;
    code *= 0x9E3779B97F4A7C15u;
    return code ^ (code >> 28);
}

struct Keyed {
    std::uint64_t code;
    std::uint32_t number;
};

// False: they make no plane.
bool plane_of(const std::vector<Vec3>& places, const Keyed* from, std::size_t n, Surfel& out) {
    const Vec3 first = places[from[0].number];
    Vec3 sum;
    for (std::size_t k = 0; k < n; ++k) sum = sum + (places[from[k].number] - first);
    out.middle = first + sum * (1 / static_cast<double>(n));
    Eigen::Matrix3d spread = Eigen::Matrix3d::Zero();
    for (std::size_t k = 0; k < n; ++k) {
        const Vec3 d = places[from[k].number] - out.middle;
        const Eigen::Vector3d e(d.x, d.y, d.z);
        spread += e * e.transpose();
    }
    spread /= static_cast<double>(n);
    const Eigen::SelfAdjointEigenSolver<Eigen::Matrix3d> solver(spread);
    const auto& v = solver.eigenvalues();
    if (!(v(1) > 0) || v(0) > kThick * v(1) || v(1) < kNarrow * v(2)) return false;
    out.normal = {solver.eigenvectors()(0, 0), solver.eigenvectors()(1, 0), solver.eigenvectors()(2, 0)};
    out.rms = std::sqrt(std::max(0.0, v(0)));
    out.count = static_cast<std::uint32_t>(n);
    return true;
}

}  // namespace

SurfelMap::SurfelMap(const std::vector<Vec3>& places, double side, Progress& progress) : side_(side) {
    std::vector<Keyed> order(places.size());
    parallel::for_ranges(places.size(), 4096, [&](std::size_t from, std::size_t to) {
        for (std::size_t k = from; k < to; ++k)
            order[k] = {code_of_place(places[k], side), static_cast<std::uint32_t>(k)};
    });
    progress.check();
    std::sort(order.begin(), order.end(), [](const Keyed& a, const Keyed& b) {
        return a.code != b.code ? a.code < b.code : a.number < b.number;
    });
    progress.check();
    std::vector<std::size_t> begins;
    for (std::size_t k = 0; k < order.size() && order[k].code != kNowhere; ++k)
        if (k == 0 || order[k].code != order[k - 1].code) begins.push_back(k);
    std::size_t end = order.size();
    while (end > 0 && order[end - 1].code == kNowhere) --end;
    begins.push_back(end);
    std::vector<Surfel> made(begins.size() - 1);
    parallel::for_ranges(made.size(), 256, [&](std::size_t from, std::size_t to) {
        progress.check();
        for (std::size_t k = from; k < to; ++k) {
            const std::size_t n = begins[k + 1] - begins[k];
            if (n < kFewestOfCell || !plane_of(places, order.data() + begins[k], n, made[k]))
                made[k].count = 0;
        }
    });
    for (std::size_t k = 0; k < made.size(); ++k)
        if (made[k].count > 0) {
            code_.push_back(order[begins[k]].code);
            surfels_.push_back(made[k]);
        }
    table_.assign(std::bit_ceil(2 * surfels_.size() + 2), 0);
    for (std::size_t k = 0; k < code_.size(); ++k) {
        std::size_t s = hash(code_[k]) & (table_.size() - 1);
        while (table_[s] != 0) s = (s + 1) & (table_.size() - 1);
        table_[s] = static_cast<std::uint32_t>(k + 1);
    }
}

const Surfel* SurfelMap::nearest(const Vec3& p) const {
    const auto cube = [&](double v) { return static_cast<std::int64_t>(std::floor(v / side_)); };
    const std::int64_t x = cube(p.x), y = cube(p.y), z = cube(p.z);
    const Surfel* best = nullptr;
    double least = INFINITY;
    for (std::int64_t dz = -1; dz <= 1; ++dz)
        for (std::int64_t dy = -1; dy <= 1; ++dy)
            for (std::int64_t dx = -1; dx <= 1; ++dx) {
                const std::uint64_t code = code_at(x + dx, y + dy, z + dz);
                if (code == kNowhere) continue;
                for (std::size_t s = hash(code) & (table_.size() - 1); table_[s] != 0;
                     s = (s + 1) & (table_.size() - 1)) {
                    if (code_[table_[s] - 1] != code) continue;
                    const Surfel& one = surfels_[table_[s] - 1];
                    const Vec3 d = one.middle - p;
                    if (const double off = dot(d, d); off < least) {
                        least = off;
                        best = &one;
                    }
                    break;
                }
            }
    return best;
}

// Of each block the first points, which are an even sample of it.
std::vector<Vec3> places_of(const cloud::PointCloud& c, const ElementSet& eligible, const Vec3& origin,
                            std::size_t most, Progress& progress) {
    const double share = std::min(
        1.0, static_cast<double>(most) / static_cast<double>(std::max<std::uint64_t>(1, eligible.count())));
    const auto per_block = static_cast<std::size_t>(std::ceil(share * static_cast<double>(kBlockSize)));
    const auto pages = parallel::map<std::vector<Vec3>>(c.page_count(), [&](std::size_t p) {
        progress.check();
        std::vector<Vec3> out;
        if (eligible.kind(p) == ElementSet::Kind::None) return out;
        const PageBits* some = eligible.bits(p);
        for (std::size_t b = 0, n = page_length(c.size(), p); b * kBlockSize < n; ++b) {
            const auto points = c.block_positions(p, b, std::min(per_block, n - b * kBlockSize));
            for (std::size_t i = 0; i < points.size(); ++i)
                if (!some || some->test(b * kBlockSize + i))
                    out.push_back(c.grid().world(points.x[i], points.y[i], points.z[i]) - origin);
        }
        return out;
    });
    std::vector<Vec3> all;
    for (const auto& page : pages) all.insert(all.end(), page.begin(), page.end());
    return all;
}

std::vector<Vec3> one_in_each(const std::vector<Vec3>& places, double side) {
    std::unordered_set<std::uint64_t> taken;
    taken.reserve(places.size() / 2);
    std::vector<Vec3> out;
    for (const Vec3& p : places)
        if (taken.insert(code_of_place(p, side)).second) out.push_back(p);
    return out;
}

}  // namespace pristine::place
