// Meshes for tests of repairs: bitten, put together, and compared by the places of their corners.

#pragma once

#include <algorithm>
#include <array>
#include <set>
#include <vector>

#include "core/repair/check.h"
#include "core/repair/steps.h"
#include "core/topology/adjacency.h"

namespace pristine::test {

inline constexpr Vec3 kSite{412300, 5218930, 58};

inline std::vector<std::vector<std::uint32_t>> rims_of(const mesh::TriMesh& m) {
    return topology::boundary_loops(m.triangles, topology::adjacency(m.triangles));
}

// Without the triangles whose middle is nearer than this to a place.
inline mesh::TriMesh bitten(const mesh::TriMesh& m, const Vec3& at, double radius) {
    std::vector<char> gone(m.triangles.size(), 0);
    for (std::size_t t = 0; t < gone.size(); ++t) {
        const auto& c = m.triangles[t];
        gone[t] = norm((m.vertices[c[0]] + m.vertices[c[1]] + m.vertices[c[2]]) * (1 / 3.0) - at) < radius;
    }
    return repair::without(m, gone);
}

/// The other moved by an offset.
inline void add(mesh::TriMesh& m, const mesh::TriMesh& other, const Vec3& by = {}) {
    const auto n = static_cast<std::uint32_t>(m.vertices.size());
    for (const Vec3& v : other.vertices) m.vertices.push_back(v + by);
    for (const auto& t : other.triangles) m.triangles.push_back({t[0] + n, t[1] + n, t[2] + n});
}

using Corner = std::array<double, 3>;
inline std::set<std::array<Corner, 3>> places(const mesh::TriMesh& m) {
    std::set<std::array<Corner, 3>> all;
    for (const auto& t : m.triangles) {
        std::array<Corner, 3> c;
        for (std::size_t k = 0; k < 3; ++k)
            c[k] = {m.vertices[t[k]].x, m.vertices[t[k]].y, m.vertices[t[k]].z};
        std::rotate(c.begin(), std::min_element(c.begin(), c.end()), c.end());
        all.insert(c);
    }
    return all;
}

inline std::vector<std::uint64_t> counts(const repair::Check& c) {
    std::vector<std::uint64_t> n;
    for (const auto& f : c.findings) n.push_back(f.size());
    return n;
}

}  // namespace pristine::test
