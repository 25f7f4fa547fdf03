// How often a mesh winds round a place: 1 inside of a closed one that faces outwards, 0 outside.

#pragma once

#include <cstdint>
#include <span>

#include "core/mesh/tri_mesh.h"

namespace pristine::mesh {

/// Sum of the solid angles of triangles (van Oosterom & Strackee 1983) over 4 pi; of meshes with holes a
/// number between (Jacobson et al. 2013). O(n).
double winding(const TriMesh&, std::span<const std::uint32_t> triangles, const Vec3& at);
double winding(const TriMesh&, const Vec3& at);

}  // namespace pristine::mesh
