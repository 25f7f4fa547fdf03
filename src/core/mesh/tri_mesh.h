// A triangle mesh in memory.

#pragma once

#include <array>
#include <cstdint>
#include <vector>

#include "core/geometry/vec.h"

namespace pristine::mesh {

struct TriMesh {
    std::vector<Vec3> vertices;
    std::vector<std::array<std::uint32_t, 3>> triangles;  ///< counter-clockwise seen from outside
};

/// Enclosed volume by the divergence theorem, summed about the first vertex; only of use for closed meshes.
/// Negative when the triangles face inwards.
double signed_volume(const TriMesh&);
/// Edges that belong to one triangle only.
std::uint64_t open_edges(const TriMesh&);

}  // namespace pristine::mesh
