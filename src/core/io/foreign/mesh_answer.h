// Meshes as bytes, between pristine-reader and who called it.

#pragma once

#include <string>
#include <vector>

#include "core/io/mesh/mesh_io.h"

namespace pristine::io {

/// All of it but decoded pictures.
std::string bytes_of(const std::vector<MeshFile>&);
/// The opposite. Throws Error(Format) for bytes that are none.
std::vector<MeshFile> meshes_from(const std::string& bytes);

/// Reads a file in a process of its own: `what` is the word for it in reader.cpp. Throws as run_guarded.
std::vector<MeshFile> read_meshes_guarded(const char* what, const std::filesystem::path&);

}  // namespace pristine::io
