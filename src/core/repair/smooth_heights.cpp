#include "core/repair/smooth_heights.h"

#include <Eigen/Dense>
#include <algorithm>
#include <cmath>

#include "core/base/error.h"
#include "core/base/parallel.h"
#include "core/repair/rings.h"

namespace pristine::repair {
namespace {

constexpr std::size_t kHeightRun = 256, kLeast = 8;
constexpr int kUnknowns = 6;

// The height of the fitted quadric at the vertex; its own where there are too few neighbours, or all in a
// conic.
double fitted(const mesh::TriMesh& m, const std::vector<double>& heights,
              const std::vector<std::uint32_t>& near, std::uint32_t v) {
    const Vec3& about = m.vertices[v];
    double size = 0;
    for (const std::uint32_t o : near)
        size = std::max(size, std::hypot(m.vertices[o].x - about.x, m.vertices[o].y - about.y));
    if (near.size() < kLeast || !(size > 0)) return heights[v];
    Eigen::Matrix<double, kUnknowns, kUnknowns> normal;
    Eigen::Matrix<double, kUnknowns, 1> right;
    normal.setZero();
    right.setZero();
    for (const std::uint32_t o : near) {
        const double x = (m.vertices[o].x - about.x) / size, y = (m.vertices[o].y - about.y) / size;
        const double weight = std::exp(-2 * (x * x + y * y));
        Eigen::Matrix<double, kUnknowns, 1> row;
        row << 1, x, y, x * x, x * y, y * y;
        normal += weight * row * row.transpose();
        right += weight * row * (heights[o] - heights[v]);
    }
    const Eigen::FullPivLU<decltype(normal)> solver(normal);
    return solver.isInvertible() ? heights[v] + solver.solve(right)[0] : heights[v];
}

// Not farther than `most` from `was`, the rounding of the sum included.
double within(double height, double was, double most) {
    height = std::clamp(height, was - most, was + most);
    while (std::fabs(height - was) > most) height = std::nextafter(height, was);
    return height;
}

}  // namespace

SmoothHeights smoothed_heights(const mesh::TriMesh& m, const std::vector<char>& may, double most, int rounds,
                               Progress& progress) {
    if (!(most > 0)) throw Error(ErrorCode::Usage, "The largest change of a height is above 0");
    std::vector<std::uint32_t> free;
    for (std::uint32_t v = 0; v < m.vertices.size(); ++v)
        if (may[v]) free.push_back(v);
    SmoothHeights out;
    for (const Vec3& p : m.vertices) out.heights.push_back(p.z);
    const Incidence at(m);
    for (int round = 0; round < rounds; ++round) {
        std::vector<double> next = out.heights;
        parallel::for_ranges(free.size(), kHeightRun, [&](std::size_t from, std::size_t to) {
            for (std::size_t k = from; k < to; ++k) {
                const std::uint32_t v = free[k];
                const double was = m.vertices[v].z;
                next[v] = within(fitted(m, out.heights, two_rings(m, at, v), v), was, most);
            }
        });
        out.heights = std::move(next);
        progress.advance((round + 1.0) / rounds);
    }
    for (const std::uint32_t v : free) {
        const double change = std::fabs(out.heights[v] - m.vertices[v].z);
        out.moved += change > 0;
        out.largest = std::max(out.largest, change);
    }
    return out;
}

}  // namespace pristine::repair
