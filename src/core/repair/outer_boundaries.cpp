#include "core/repair/outer_boundaries.h"

#include <algorithm>

namespace pristine::repair {
namespace {

Vec3 directed_area(const mesh::TriMesh& m, const std::vector<std::uint32_t>& rim) {
    Vec3 sum;
    const Vec3 o = m.vertices[rim[0]];
    for (std::size_t i = 0; i < rim.size(); ++i)
        sum = sum + cross(m.vertices[rim[i]] - o, m.vertices[rim[(i + 1) % rim.size()]] - o) * 0.5;
    return sum;
}

}  // namespace

std::vector<bool> outer_boundaries(const mesh::TriMesh& m,
                                   const std::vector<std::vector<std::uint32_t>>& rims,
                                   const std::vector<std::uint32_t>& piece) {
    std::vector<bool> outer(rims.size(), false);
    if (rims.empty()) return outer;
    const std::uint32_t pieces = piece.empty() ? 0 : *std::max_element(piece.begin(), piece.end()) + 1;
    std::vector<double> area(pieces, 0);
    std::vector<std::uint32_t> of_vertex(m.vertices.size(), 0);
    for (std::size_t t = 0; t < m.triangles.size(); ++t) {
        const auto& c = m.triangles[t];
        area[piece[t]] +=
            0.5 * norm(cross(m.vertices[c[1]] - m.vertices[c[0]], m.vertices[c[2]] - m.vertices[c[0]]));
        for (const std::uint32_t v : c) of_vertex[v] = piece[t];
    }
    std::vector<double> most(pieces, 0);
    std::vector<std::size_t> largest(pieces, SIZE_MAX);
    for (std::size_t r = 0; r < rims.size(); ++r) {
        const std::uint32_t p = of_vertex[rims[r][0]];
        const double a = norm(directed_area(m, rims[r]));
        if (largest[p] != SIZE_MAX && a <= most[p]) continue;
        most[p] = a;
        largest[p] = r;
    }
    for (std::uint32_t p = 0; p < pieces; ++p)
        if (largest[p] != SIZE_MAX && most[p] >= kOuterShare * area[p]) outer[largest[p]] = true;
    return outer;
}

}  // namespace pristine::repair
