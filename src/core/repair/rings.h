// The vertices round a vertex.

#pragma once

#include <algorithm>
#include <vector>

#include "core/repair/edges.h"

namespace pristine::repair {

/// Those within two rings, the vertex itself included, ascending; each once.
inline std::vector<std::uint32_t> two_rings(const mesh::TriMesh& m, const Incidence& at, std::uint32_t v) {
    std::vector<std::uint32_t> near, all;
    const auto corners = [&](std::uint32_t of, std::vector<std::uint32_t>& out) {
        for (const std::uint32_t t : at.of(of))
            out.insert(out.end(), m.triangles[t].begin(), m.triangles[t].end());
        std::sort(out.begin(), out.end());
        out.erase(std::unique(out.begin(), out.end()), out.end());
    };
    corners(v, near);
    for (const std::uint32_t o : near)
        for (const std::uint32_t t : at.of(o))
            all.insert(all.end(), m.triangles[t].begin(), m.triangles[t].end());
    std::sort(all.begin(), all.end());
    all.erase(std::unique(all.begin(), all.end()), all.end());
    return all;
}

}  // namespace pristine::repair
