#include "core/repair/inside.h"

#include <algorithm>
#include <cmath>

namespace pristine::repair {

bool is_inside(const mesh::WindingTree& winding, const std::vector<std::uint32_t>& piece) {
    constexpr std::size_t kSamples = 5;
    const std::size_t step = piece.size() / kSamples + 1;
    int inside = 0, outside = 0;
    for (std::size_t i = step / 2; i < piece.size(); i += step) {
        // In front of it the mesh winds half less than the mean of both sides.
        (std::fabs(winding.round(piece[i]) - 0.5) > 0.5 ? inside : outside) += 1;
    }
    return inside > outside;
}

namespace {

// The triangle along an edge of a rim; UINT32_MAX: none.
std::uint32_t triangle_at(const mesh::TriMesh& m, const Incidence& at, std::uint32_t a, std::uint32_t b) {
    for (const std::uint32_t t : at.of(a))
        if (const Triangle& c = m.triangles[t]; c[0] == b || c[1] == b || c[2] == b) return t;
    return UINT32_MAX;
}

}  // namespace

std::optional<Vec3> joins_inner_sheet(const mesh::WindingTree& winding, const Incidence& at,
                                      const std::vector<std::uint32_t>& rim) {
    constexpr std::size_t kSamples = 64;
    constexpr double kInside = 0.85, kOutside = 0.65;
    const mesh::TriMesh& m = winding.mesh();
    const std::size_t step = std::max<std::size_t>(1, rim.size() / kSamples);
    bool outside = false;
    double deepest = kInside;
    std::optional<Vec3> where;
    for (std::size_t i = 0; i < rim.size(); i += step) {
        const std::uint32_t t = triangle_at(m, at, rim[i], rim[(i + 1) % rim.size()]);
        if (t == UINT32_MAX) continue;
        const double w = std::fabs(winding.round(t));
        outside |= w < kOutside;
        if (w > deepest) deepest = w, where = m.vertices[rim[i]];
    }
    return outside ? where : std::nullopt;
}

}  // namespace pristine::repair
