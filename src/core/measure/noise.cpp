#include "core/measure/noise.h"

#include <Eigen/Dense>
#include <algorithm>
#include <cmath>

#include "core/base/parallel.h"
#include "core/repair/rings.h"

namespace pristine::measure {
namespace {

constexpr std::size_t kMostFits = 20'000, kFitRun = 256, kLeastNear = 12, kUnknowns = 6;

// The lower quartile of the root of chi squared over its freedoms (Wilson & Hilferty 1931).
double lower_quartile(double freedoms) {
    const double u = 2 / (9 * freedoms);
    return std::pow(1 - u - 0.6745 * std::sqrt(u), 1.5);
}

// The deviation of the heights from a quadric, over what it would have in a quarter of all cases; negative:
// too few, or all in a line or a conic.
double deviation(const mesh::TriMesh& m, const std::vector<std::uint32_t>& near, const Vec3& about) {
    if (near.size() < kLeastNear) return -1;
    double size = 0;
    for (const std::uint32_t v : near)
        size = std::max(size, std::hypot(m.vertices[v].x - about.x, m.vertices[v].y - about.y));
    if (!(size > 0)) return -1;
    Eigen::Matrix<double, kUnknowns, kUnknowns> normal;
    Eigen::Matrix<double, kUnknowns, 1> right;
    normal.setZero();
    right.setZero();
    double squares = 0;
    for (const std::uint32_t v : near) {
        const double x = (m.vertices[v].x - about.x) / size, y = (m.vertices[v].y - about.y) / size,
                     z = m.vertices[v].z - about.z;
        Eigen::Matrix<double, kUnknowns, 1> row;
        row << 1, x, y, x * x, x * y, y * y;
        normal += row * row.transpose();
        right += row * z;
        squares += z * z;
    }
    const Eigen::FullPivLU<decltype(normal)> solver(normal);
    if (!solver.isInvertible()) return -1;
    const auto freedoms = static_cast<double>(near.size() - kUnknowns);
    const double left = squares - solver.solve(right).dot(right);
    return std::sqrt(std::max(0.0, left) / freedoms) / lower_quartile(freedoms);
}

// The plan area of the triangles at a vertex.
double area_at(const mesh::TriMesh& m, const repair::Incidence& at, std::uint32_t v) {
    double area = 0;
    for (const std::uint32_t t : at.of(v)) {
        const auto& c = m.triangles[t];
        const Vec3 p = m.vertices[c[1]] - m.vertices[c[0]], q = m.vertices[c[2]] - m.vertices[c[0]];
        area += std::fabs(p.x * q.y - p.y * q.x);
    }
    return area;
}

}  // namespace

double noise_of(const mesh::TriMesh& m) {
    const repair::Incidence at(m);
    const std::size_t step = m.vertices.size() / kMostFits + 1, fits = (m.vertices.size() + step - 1) / step;
    std::vector<std::pair<double, double>> found(fits, {-1, 0});  // deviation, area
    parallel::for_ranges(fits, kFitRun, [&](std::size_t from, std::size_t to) {
        for (std::size_t i = from; i < to; ++i) {
            const auto v = static_cast<std::uint32_t>(i * step);
            found[i] = {deviation(m, repair::two_rings(m, at, v), m.vertices[v]), area_at(m, at, v)};
        }
    });
    std::erase_if(found, [](const auto& f) { return f.first < 0; });
    std::sort(found.begin(), found.end());
    double whole = 0, below = 0;
    for (const auto& [d, area] : found) whole += area;
    for (const auto& [d, area] : found)
        if (below += area; below >= 0.25 * whole) return d;
    return 0;
}

}  // namespace pristine::measure
