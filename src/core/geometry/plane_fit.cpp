#include "core/geometry/plane_fit.h"

#include <Eigen/Eigenvalues>
#include <algorithm>
#include <cmath>
#include <vector>

namespace pristine {
namespace {

constexpr int kRounds = 30;
constexpr double kTuning = 4.685;       // 95 % efficient on normal residuals
constexpr double kMadToSigma = 1.4826;  // of normal residuals
constexpr double kLeastSpread = 1e-12;  // of the second axis against the first: thinner is a line

struct Weighted {
    FittedPlane plane;
    bool is_line;
};

Weighted weighted_fit(std::span<const Vec3> points, const std::vector<double>& weight) {
    double sum = 0;
    Vec3 middle;
    for (std::size_t i = 0; i < points.size(); ++i) {
        // Differences to one of the points: national coordinates would eat the digits.
        middle = middle + (points[i] - points[0]) * weight[i];
        sum += weight[i];
    }
    middle = points[0] + middle * (1 / sum);
    Eigen::Matrix3d spread = Eigen::Matrix3d::Zero();
    for (std::size_t i = 0; i < points.size(); ++i) {
        const Vec3 d = points[i] - middle;
        const Eigen::Vector3d v(d.x, d.y, d.z);
        spread += weight[i] * v * v.transpose();
    }
    const Eigen::SelfAdjointEigenSolver<Eigen::Matrix3d> solved(spread / sum);  // eigenvalues ascend
    const Eigen::Vector3d n = solved.eigenvectors().col(0);
    const Eigen::Vector3d e = solved.eigenvalues();
    return {{middle, {n.x(), n.y(), n.z()}, std::sqrt(std::max(0.0, e(0)))}, !(e(1) > kLeastSpread * e(2))};
}

}  // namespace

std::optional<FittedPlane> fit_plane(std::span<const Vec3> points) {
    if (points.size() < 3) return std::nullopt;
    std::vector<double> weight(points.size(), 1), distance(points.size());
    Weighted fit = weighted_fit(points, weight);
    for (int round = 0; round < kRounds && !fit.is_line; ++round) {
        for (std::size_t i = 0; i < points.size(); ++i)
            distance[i] = std::fabs(dot(points[i] - fit.plane.point, fit.plane.normal));
        std::vector<double> sorted = distance;
        std::nth_element(sorted.begin(), sorted.begin() + static_cast<std::ptrdiff_t>(sorted.size() / 2),
                         sorted.end());
        const double limit = kTuning * kMadToSigma * sorted[sorted.size() / 2];
        if (!(limit > 0)) break;  // more than half lie on it exactly
        for (std::size_t i = 0; i < points.size(); ++i) {
            const double r = distance[i] / limit;
            weight[i] = r < 1 ? (1 - r * r) * (1 - r * r) : 0;
        }
        const Weighted next = weighted_fit(points, weight);
        if (next.is_line) break;
        const double turned = 1 - std::fabs(dot(next.plane.normal, fit.plane.normal));
        const double moved = std::fabs(dot(next.plane.point - fit.plane.point, next.plane.normal));
        fit = next;
        if (turned < 1e-14 && moved < 1e-9 * limit) break;
    }
    if (fit.is_line) return std::nullopt;
    Vec3& n = fit.plane.normal;
    constexpr double upright = 1e-9;
    const double lead = std::fabs(n.z) > upright ? n.z : std::fabs(n.x) > upright ? n.x : n.y;
    if (lead < 0) n = n * -1.0;
    return fit.plane;
}

}  // namespace pristine
