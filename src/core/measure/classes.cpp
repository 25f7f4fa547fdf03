#include "core/measure/classes.h"

#include <algorithm>
#include <cmath>
#include <limits>

namespace pristine::measure {

std::vector<ClassFigures> figures_by_class(const mesh::TriMesh& m, std::span<const double> values,
                                           const std::vector<double>& limits) {
    constexpr double kNone = std::numeric_limits<double>::infinity();
    std::vector<ClassFigures> out(limits.size() + 1);
    for (std::size_t k = 0; k < out.size(); ++k) {
        out[k].from = k == 0 ? -kNone : limits[k - 1];
        out[k].to = k == limits.size() ? kNone : limits[k];
    }
    for (std::size_t t = 0; t < m.triangles.size() && t < values.size(); ++t) {
        if (!std::isfinite(values[t])) continue;
        const auto& [a, b, c] = m.triangles[t];
        const Vec3 p = m.vertices[b] - m.vertices[a], q = m.vertices[c] - m.vertices[a];
        const double area = 0.5 * std::fabs(p.x * q.y - p.y * q.x);
        const auto k = static_cast<std::size_t>(std::upper_bound(limits.begin(), limits.end(), values[t]) -
                                                limits.begin());
        out[k].area += area;
        out[k].volume += area * values[t];
    }
    return out;
}

}  // namespace pristine::measure
