#include "core/score/range_image.h"

#include <Eigen/Eigenvalues>
#include <algorithm>
#include <cmath>
#include <numbers>

#include "core/base/parallel.h"

namespace pristine::score {
namespace {

constexpr double kPi = std::numbers::pi;
constexpr double kCoarse = kPi / 180;
constexpr double kSpacingsAcross = 1.6;  // of a cell
constexpr int kEnoughCells = 5;          // of nine must hold something
constexpr double kFinest = 2e-4;
constexpr double kMostCells = 8;    // for each point
constexpr double kSteps = 1 << 20;  // of a length unit, in which places are summed

double elevation(double x, double y, double z) {
    return std::atan2(z, std::hypot(x, y));
}

}  // namespace

void RangeImage::set_cell(double cell) {
    cell_ = cell;
    const int rows = std::max(1, static_cast<int>(std::ceil(kPi / cell)));
    first_.assign(1, 0);
    for (int r = 0; r < rows; ++r) {
        const double middle = -kPi / 2 + (r + 0.5) * kPi / rows;
        first_.push_back(first_.back() + static_cast<std::size_t>(
                                             std::max(3.0, std::ceil(2 * kPi * std::cos(middle) / cell))));
    }
}

std::uint32_t RangeImage::column_in(int row, double azimuth) const {
    const auto r = static_cast<std::size_t>(row);
    const auto n = static_cast<double>(first_[r + 1] - first_[r]);
    return static_cast<std::uint32_t>(std::clamp((azimuth / (2 * kPi) + 0.5) * n, 0.0, n - 1));
}

RangeImage::Place RangeImage::place(double x, double y, double z) const {
    const int rows = static_cast<int>(first_.size()) - 1;
    const int row = std::clamp(static_cast<int>((elevation(x, y, z) / kPi + 0.5) * rows), 0, rows - 1);
    return {row, column_in(row, std::atan2(y, x))};
}

// The nine cells round a direction of a row.
template <class Visit>
void RangeImage::for_neighbours(int row, double azimuth, Visit&& visit) const {
    const int rows = static_cast<int>(first_.size()) - 1;
    for (int r = std::max(0, row - 1); r <= std::min(rows - 1, row + 1); ++r) {
        const auto n = static_cast<std::uint32_t>(first_[static_cast<std::size_t>(r) + 1] -
                                                  first_[static_cast<std::size_t>(r)]);
        const std::uint32_t c = column_in(r, azimuth);
        for (const std::uint32_t k : {(c + n - 1) % n, c, (c + 1) % n})
            visit(first_[static_cast<std::size_t>(r)] + k);
    }
}

RangeImage::RangeImage(const SpillVector<std::array<float, 3>>& points) {
    set_cell(kCoarse);
    std::vector<std::uint32_t> count(first_.back(), 0);
    const auto each = [&](auto&& visit) {
        for (const auto& p : points)
            visit(static_cast<double>(p[0]), static_cast<double>(p[1]), static_cast<double>(p[2]));
    };
    each([&](double x, double y, double z) { ++count[at(place(x, y, z))]; });
    std::erase(count, 0u);
    if (count.empty()) return;
    const auto middle = count.begin() + static_cast<std::ptrdiff_t>(count.size() / 2);
    std::nth_element(count.begin(), middle, count.end());
    // What is seen in a narrow window only, or from far away, must not cost cells all round.
    const double least = std::sqrt(4 * kPi / (kMostCells * static_cast<double>(points.size())));
    set_cell(std::max({kFinest, least, kSpacingsAcross * kCoarse / std::sqrt(static_cast<double>(*middle))}));
    std::vector<float> near(first_.back(), INFINITY), far(first_.back(), -INFINITY);
    // Whole numbers: the same sums in whatever order the points come.
    std::vector<std::array<std::int64_t, 4>> sums(first_.back(), {0, 0, 0, 0});
    each([&](double x, double y, double z) {
        const std::size_t c = at(place(x, y, z));
        const auto range = static_cast<float>(std::sqrt(x * x + y * y + z * z));
        near[c] = std::min(near[c], range);
        far[c] = std::max(far[c], range);
        auto& sum = sums[c];
        sum[0] += std::llround(x * kSteps), sum[1] += std::llround(y * kSteps),
            sum[2] += std::llround(z * kSteps);
        ++sum[3];
    });
    mean_.resize(sums.size());
    for (std::size_t c = 0; c < mean_.size(); ++c)
        for (std::size_t k = 0; k < 3; ++k)
            mean_[c][k] = sums[c][3] == 0 ? NAN
                                          : static_cast<float>(static_cast<double>(sums[c][k]) /
                                                               (kSteps * static_cast<double>(sums[c][3])));
    near_.resize(near.size());
    far_.resize(far.size());
    parallel::for_ranges(first_.size() - 1, 16, [&](std::size_t from, std::size_t to) {
        for (std::size_t r = from; r < to; ++r) {
            const std::size_t n = first_[r + 1] - first_[r];
            for (std::size_t c = 0; c < n; ++c) {
                const double azimuth =
                    ((static_cast<double>(c) + 0.5) / static_cast<double>(n) - 0.5) * 2 * kPi;
                float lo = INFINITY, hi = -INFINITY;
                int held = 0;
                for_neighbours(static_cast<int>(r), azimuth, [&](std::size_t k) {
                    held += near[k] < INFINITY;
                    lo = std::min(lo, near[k]);
                    hi = std::max(hi, far[k]);
                });
                near_[first_[r] + c] = held >= kEnoughCells ? lo : 0;
                far_[first_[r] + c] = held >= kEnoughCells ? hi : -1;
            }
        }
    });
}

RangeImage::Sight RangeImage::sight(const Vec3& p) const {
    if (near_.empty()) return {0, -1};
    const std::size_t c = at(place(p.x, p.y, p.z));
    return {near_[c], far_[c]};
}

std::optional<RangeImage::Surface> RangeImage::surface(const Vec3& p) const {
    if (near_.empty()) return std::nullopt;
    std::array<Vec3, 9> held;
    std::size_t n = 0;
    for_neighbours(place(p.x, p.y, p.z).row, std::atan2(p.y, p.x), [&](std::size_t k) {
        const auto& m = mean_[k];
        if (!std::isnan(m[0])) held[n++] = {m[0], m[1], m[2]};
    });
    if (n < kEnoughCells) return std::nullopt;
    Vec3 middle;
    for (std::size_t i = 0; i < n; ++i) middle = middle + held[i] * (1 / static_cast<double>(n));
    Eigen::Matrix3d spread = Eigen::Matrix3d::Zero();
    for (std::size_t i = 0; i < n; ++i) {
        const Vec3 d = held[i] - middle;
        const Eigen::Vector3d v(d.x, d.y, d.z);
        spread += v * v.transpose() / static_cast<double>(n);
    }
    Eigen::SelfAdjointEigenSolver<Eigen::Matrix3d> solver;
    solver.computeDirect(spread);
    const Eigen::Vector3d normal = solver.eigenvectors().col(0);
    Surface s{{normal.x(), normal.y(), normal.z()}, 0, std::sqrt(std::max(0.0, solver.eigenvalues()(0)))};
    s.distance = dot(s.away, middle);
    if (s.distance < 0) {
        s.away = s.away * -1.0;
        s.distance = -s.distance;
    }
    return s;
}

}  // namespace pristine::score
