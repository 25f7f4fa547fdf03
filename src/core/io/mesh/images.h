// The pictures of a textured mesh, which lie in files beside it.

#pragma once

#include <filesystem>
#include <string>
#include <vector>

#include "core/mesh/attributes.h"

namespace pristine::io {

/// The file that a mesh file names, in its own folder or below; an absolute path, or a file that is not where
/// it should be, is looked for by its name alone. Empty when there is none, or when links or ".." lead out of
/// the folder: a mesh from elsewhere must not make us read other files of this machine.
std::filesystem::path file_beside(const std::filesystem::path& mesh_file, const std::string& named);

/// Reads and decodes the picture that a mesh file names (file_beside); a missing or damaged one gives a
/// warning, and then the material has none. The material keeps the file's name without its folder.
void load_image(mesh::Material&, const std::filesystem::path& mesh_file, const std::string& named,
                std::vector<std::string>& warnings);

/// Decodes the pictures of which only the bytes are there: after a project file was read.
void decode_images(mesh::Attributes&);

/// Writes the pictures beside a mesh file, as they came; one that is there already with the same bytes stays.
/// Gives the name under which each material's picture is found, empty for none. Throws Error(Conflict) when
/// another file has the name and `replace` is false; Error(Io).
std::vector<std::string> write_images(const mesh::Attributes&, const std::filesystem::path& mesh_file,
                                      bool replace);

}  // namespace pristine::io
