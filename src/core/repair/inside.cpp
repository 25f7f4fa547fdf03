#include "core/repair/inside.h"

#include <cmath>

#include "core/mesh/winding.h"

namespace pristine::repair {

bool is_inside(const mesh::TriMesh& m, const std::vector<std::uint32_t>& piece) {
    constexpr std::size_t kSamples = 5;
    const std::size_t step = piece.size() / kSamples + 1;
    int inside = 0, outside = 0;
    for (std::size_t i = step / 2; i < piece.size(); i += step) {
        const auto& c = m.triangles[piece[i]];
        const Vec3 &a = m.vertices[c[0]], &b = m.vertices[c[1]], &d = m.vertices[c[2]];
        const Vec3 n = cross(b - a, d - a);
        const double size = std::sqrt(norm(n));
        const Vec3 at = (a + b + d) * (1 / 3.0) + normalized(n) * (1e-3 * size);
        (std::fabs(mesh::winding(m, at)) > 0.5 ? inside : outside) += 1;
    }
    return inside > outside;
}

}  // namespace pristine::repair
