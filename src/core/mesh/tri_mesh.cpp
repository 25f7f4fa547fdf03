#include "core/mesh/tri_mesh.h"

#include <algorithm>

namespace pristine::mesh {

double signed_volume(const TriMesh& m) {
    if (m.vertices.empty()) return 0;
    const Vec3 o = m.vertices.front();
    // Compensated (Neumaier 1974): many small terms of either sign.
    double sum = 0, lost = 0;
    for (const auto& t : m.triangles) {
        const double v = dot(m.vertices[t[0]] - o, cross(m.vertices[t[1]] - o, m.vertices[t[2]] - o)) / 6;
        const double next = sum + v;
        lost += std::fabs(sum) >= std::fabs(v) ? (sum - next) + v : (v - next) + sum;
        sum = next;
    }
    return sum + lost;
}

double surface_area(const TriMesh& m) {
    double sum = 0;
    for (const auto& t : m.triangles)
        sum += 0.5 * norm(cross(m.vertices[t[1]] - m.vertices[t[0]], m.vertices[t[2]] - m.vertices[t[0]]));
    return sum;
}

std::uint64_t open_edges(const TriMesh& m) {
    std::vector<std::pair<std::uint32_t, std::uint32_t>> edges;
    edges.reserve(3 * m.triangles.size());
    for (const auto& t : m.triangles)
        for (std::size_t k = 0; k < 3; ++k) edges.push_back(std::minmax(t[k], t[(k + 1) % 3]));
    std::sort(edges.begin(), edges.end());
    std::uint64_t open = 0;
    for (std::size_t i = 0; i < edges.size();) {
        std::size_t j = i;
        while (j < edges.size() && edges[j] == edges[i]) ++j;
        open += j - i == 1;
        i = j;
    }
    return open;
}

}  // namespace pristine::mesh
