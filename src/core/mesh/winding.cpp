#include "core/mesh/winding.h"

#include <cmath>
#include <numbers>

#include "core/base/parallel.h"

namespace pristine::mesh {
namespace {

double solid_angle(const TriMesh& m, std::size_t t, const Vec3& at) {
    const Vec3 a = m.vertices[m.triangles[t][0]] - at, b = m.vertices[m.triangles[t][1]] - at,
               c = m.vertices[m.triangles[t][2]] - at;
    const double la = norm(a), lb = norm(b), lc = norm(c);
    return 2 *
           std::atan2(dot(a, cross(b, c)), la * lb * lc + dot(a, b) * lc + dot(b, c) * la + dot(c, a) * lb);
}

}  // namespace

double winding(const TriMesh& m, std::span<const std::uint32_t> triangles, const Vec3& at) {
    double sum = 0;
    for (const std::uint32_t t : triangles) sum += solid_angle(m, t, at);
    return sum / (4 * std::numbers::pi);
}

double winding(const TriMesh& m, const Vec3& at) {
    constexpr std::size_t kRun = 16384;
    const auto parts = parallel::map<double>((m.triangles.size() + kRun - 1) / kRun, [&](std::size_t r) {
        double sum = 0;
        for (std::size_t t = r * kRun; t < std::min(m.triangles.size(), (r + 1) * kRun); ++t)
            sum += solid_angle(m, t, at);
        return sum;
    });
    double sum = 0;
    for (const double part : parts) sum += part;
    return sum / (4 * std::numbers::pi);
}

}  // namespace pristine::mesh
