#include "core/mesh/joined.h"

#include <bit>

namespace pristine::mesh {
namespace {

std::size_t hash(const Vec3& v) {
    std::uint64_t h = 0;
    for (int a = 0; a < 3; ++a) {
        h = (h ^ std::bit_cast<std::uint64_t>(v[a] + 0.0)) * 0x9E3779B97F4A7C15ull;  // -0 is 0
        h ^= h >> 32;
    }
    return static_cast<std::size_t>(h);
}

}  // namespace

TriMesh joined(std::span<const Vec3> corners) {
    TriMesh m;
    m.triangles.resize(corners.size() / 3);
    // Open addressing: about half as many vertices as triangles, so this is seldom more than half full.
    std::vector<std::uint32_t> slots(std::bit_ceil(corners.size() + 2), UINT32_MAX);
    const std::size_t mask = slots.size() - 1;
    for (std::size_t i = 0; i < 3 * m.triangles.size(); ++i) {
        std::size_t at = hash(corners[i]) & mask;
        while (slots[at] != UINT32_MAX && !(m.vertices[slots[at]] == corners[i])) at = (at + 1) & mask;
        if (slots[at] == UINT32_MAX) {
            slots[at] = static_cast<std::uint32_t>(m.vertices.size());
            m.vertices.push_back(corners[i]);
        }
        m.triangles[i / 3][i % 3] = slots[at];
    }
    return m;
}

}  // namespace pristine::mesh
