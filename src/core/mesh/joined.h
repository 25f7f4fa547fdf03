// Triangles that were given by the places of their corners.

#pragma once

#include <span>

#include "core/mesh/tri_mesh.h"

namespace pristine::mesh {

/// Three corners for each triangle; corners in the same place to the bit become one vertex, in the order of
/// their first use. O(n log n).
TriMesh joined(std::span<const Vec3> corners);

}  // namespace pristine::mesh
