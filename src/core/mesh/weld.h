// Meshes whose vertices lie in different places, to the bit, numbered in the order of their first use.

#pragma once

#include <span>

#include "core/mesh/tri_mesh.h"

namespace pristine::mesh {

/// Three corners for each triangle; corners in the same place to the bit become one vertex, in the order of
/// their first use. O(n log n).
TriMesh weld(std::span<const Vec3> corners);

/// Some triangles of any mesh in the order in which they are named, joined as above. O(vertices + triangles
/// named).
TriMesh weld_part(const TriMesh&, std::span<const std::uint32_t> triangles);

/// Some triangles of such a mesh, in the order in which they are named. O(vertices + triangles named).
TriMesh part_of(const TriMesh&, std::span<const std::uint32_t> triangles);

/// Such a mesh and the triangles of another behind its own: corners in the place of one of its vertices are
/// that vertex. O(vertices + triangles of the other).
TriMesh extended(const TriMesh&, const TriMesh& more);

}  // namespace pristine::mesh
