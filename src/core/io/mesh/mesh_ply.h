// Triangle meshes as PLY files.

#pragma once

#include <filesystem>

#include "core/cloud/point_cloud.h"
#include "core/mesh/attributes.h"
#include "core/mesh/tri_mesh.h"

namespace pristine::io {

/// Little-endian binary, positions as doubles; pictures of a texture beside it. Colours and normals are those
/// of vertices, where faces do not say more. Whole or not at all. Throws Error(Io, Conflict).
void write_mesh_ply(const mesh::TriMesh&, const std::filesystem::path&, bool replace,
                    const mesh::Attributes& = {}, const cloud::Reference& = {});

}  // namespace pristine::io
