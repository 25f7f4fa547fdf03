#include "core/io/mesh/vertex_colours.h"

#include <algorithm>

namespace pristine::io {

std::vector<std::uint32_t> vertex_colours(const mesh::TriMesh& m, const mesh::Attributes& a) {
    if (a.colours.empty()) return {};
    std::vector<std::array<std::uint32_t, 4>> sums(m.vertices.size());  // channels, and how many
    for (std::size_t t = 0; t < a.colours.size(); ++t)
        for (std::size_t k = 0; k < 3; ++k) {
            auto& s = sums[m.triangles[t][k]];
            for (std::size_t c = 0; c < 3; ++c) s[c] += a.colours[t][k] >> (16 - 8 * c) & 255u;
            ++s[3];
        }
    std::vector<std::uint32_t> out;
    out.reserve(sums.size());
    for (const auto& s : sums) {
        std::uint32_t colour = 0;
        for (std::size_t c = 0; c < 3; ++c) colour = colour << 8 | (s[3] ? (s[c] + s[3] / 2) / s[3] : 255u);
        out.push_back(colour);
    }
    return out;
}

std::vector<std::uint32_t> face_colours(const mesh::TriMesh& m, const mesh::Attributes& a) {
    std::vector<std::uint32_t> out;
    if (a.colours.empty()) {
        if (!a.texture.empty()) return {};
        for (const std::uint16_t k : a.material) out.push_back(a.materials[k].colour);
        return out;
    }
    std::vector<std::uint32_t> seen(m.vertices.size(), UINT32_MAX);
    bool differ = false;
    for (std::size_t t = 0; t < a.colours.size(); ++t) {
        const auto& c = a.colours[t];
        if (c[0] != c[1] || c[1] != c[2]) return {};
        for (const std::uint32_t v : m.triangles[t]) {
            differ |= seen[v] != UINT32_MAX && seen[v] != c[0];
            seen[v] = c[0];
        }
        out.push_back(c[0]);
    }
    return differ ? out : std::vector<std::uint32_t>();
}

}  // namespace pristine::io
