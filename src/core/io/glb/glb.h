// glTF 2.0 in its binary form (ISO/IEC 12113), through the library TinyGLTF: triangles with colours, normals,
// texture coordinates, and materials with their pictures, all in one file.
//
// The standard's unit is the metre, its second axis points up, and its numbers are singles: coordinates are
// turned and scaled by the matrix of a node, and counted from a whole metre near by, so that national ones
// keep their tenths of a millimetre.

#pragma once

#include "core/io/mesh/mesh_format.h"

namespace pristine::io {

/// The meshes of the default scene as one, a group for each. Throws Error(Format; Unsupported: compressed
/// by an extension).
std::vector<MeshFile> read_glb(const std::filesystem::path&);
/// In this process: what pristine-reader does.
std::vector<MeshFile> read_glb_here(const std::filesystem::path&);
/// What an image of a kind that the standard does not have is left out of. Groups become nodes.
void write_glb(const MeshOut&, const std::filesystem::path&, bool replace);

}  // namespace pristine::io
