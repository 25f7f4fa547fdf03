// Whether a part of a mesh lies inside of the rest.

#pragma once

#include <cstdint>
#include <vector>

#include "core/mesh/tri_mesh.h"

namespace pristine::repair {

/// In front of most of a few of its triangles the mesh winds round once or more, or the other way: it lies
/// inside, or is turned inside out. O(triangles of the mesh).
bool is_inside(const mesh::TriMesh&, const std::vector<std::uint32_t>& piece);

}  // namespace pristine::repair
