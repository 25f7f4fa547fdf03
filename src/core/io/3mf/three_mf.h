// 3MF, the format of printers (3MF Core Specification 1.2, colours by its materials extension), through the
// library lib3mf. Its coordinates are singles in a unit that it must state.

#pragma once

#include "core/io/mesh/mesh_format.h"

namespace pristine::io {

/// What is to be printed, as one mesh with a group for each object. Throws Error(Format).
std::vector<MeshFile> read_3mf(const std::filesystem::path&);
/// In this process: what pristine-reader does.
std::vector<MeshFile> read_3mf_here(const std::filesystem::path&);
/// Colours of corners go with it, pictures do not. Throws Error(Unsupported) for a mesh whose unit is not
/// known, that lies too far from the origin, or that has triangles with two corners in one.
void write_3mf(const MeshOut&, const std::filesystem::path&, bool replace);

}  // namespace pristine::io
