// Every edge of a mesh with all of its triangles, however many there are.

#pragma once

#include <algorithm>
#include <array>
#include <cstdint>
#include <span>
#include <vector>

#include "core/base/parallel.h"
#include "core/mesh/tri_mesh.h"

namespace pristine::repair {

using Triangle = std::array<std::uint32_t, 3>;

/// Edge k of a triangle lies opposite its corner k, from corner k + 1 to corner k + 2.
struct EdgeUse {
    std::uint32_t lower, higher;  ///< vertices
    std::uint32_t triangle;
    std::uint8_t k;
    bool forward;  ///< the triangle runs from lower to higher
};

/// Sorted by vertices, then triangles: uses of one edge lie side by side. Edges between a vertex and itself
/// are left out.
inline std::vector<EdgeUse> edge_uses(std::span<const Triangle> triangles) {
    std::uint32_t most = 0;
    for (const Triangle& t : triangles) most = std::max({most, t[0], t[1], t[2]});
    std::vector<std::uint32_t> first(std::size_t{most} + 2, 0);
    const auto each = [&](auto&& visit) {
        for (std::uint32_t t = 0; t < triangles.size(); ++t)
            for (std::uint8_t k = 0; k < 3; ++k) {
                const std::uint32_t a = triangles[t][(k + 1) % 3], b = triangles[t][(k + 2) % 3];
                if (a != b) visit(EdgeUse{std::min(a, b), std::max(a, b), t, k, a < b});
            }
    };
    each([&](const EdgeUse& e) { ++first[e.lower + 1]; });
    for (std::size_t v = 1; v < first.size(); ++v) first[v] += first[v - 1];
    std::vector<EdgeUse> uses(first.back());
    std::vector<std::uint32_t> at(first.begin(), first.end() - 1);
    each([&](const EdgeUse& e) { uses[at[e.lower]++] = e; });
    parallel::for_ranges(first.size() - 1, 65536, [&](std::size_t from, std::size_t to) {
        for (std::size_t v = from; v < to; ++v)
            std::sort(uses.begin() + first[v], uses.begin() + first[v + 1],
                      [](const EdgeUse& a, const EdgeUse& b) {
                          return a.higher != b.higher ? a.higher < b.higher : a.triangle < b.triangle;
                      });
    });
    return uses;
}

/// The triangles at each vertex.
struct Incidence {
    std::vector<std::uint32_t> first, list;
    explicit Incidence(const mesh::TriMesh& m) : first(m.vertices.size() + 1, 0) {
        for (const Triangle& t : m.triangles)
            for (const std::uint32_t v : t) ++first[v + 1];
        for (std::size_t v = 1; v < first.size(); ++v) first[v] += first[v - 1];
        list.resize(first.back());
        std::vector<std::uint32_t> at(first.begin(), first.end() - 1);
        for (std::uint32_t t = 0; t < m.triangles.size(); ++t)
            for (const std::uint32_t v : m.triangles[t]) list[at[v]++] = t;
    }
    std::span<const std::uint32_t> of(std::uint32_t v) const {
        return {list.data() + first[v], first[v + 1] - first[v]};
    }
};

/// Calls visit(uses of one edge) for each edge.
template <class Visit>
void each_edge(const std::vector<EdgeUse>& uses, Visit&& visit) {
    for (std::size_t i = 0; i < uses.size();) {
        std::size_t j = i + 1;
        while (j < uses.size() && uses[j].lower == uses[i].lower && uses[j].higher == uses[i].higher) ++j;
        visit(std::span<const EdgeUse>(uses.data() + i, j - i));
        i = j;
    }
}

}  // namespace pristine::repair
