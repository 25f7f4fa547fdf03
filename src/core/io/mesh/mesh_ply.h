// Triangle meshes as PLY files.

#pragma once

#include <filesystem>

#include "core/mesh/tri_mesh.h"

namespace pristine::io {

/// Little-endian binary, positions as doubles. Whole or not at all. Throws Error(Io).
void write_mesh_ply(const mesh::TriMesh&, const std::filesystem::path&, bool replace);

}  // namespace pristine::io
