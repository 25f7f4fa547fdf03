// Unit and reference system in files that have no place of their own for them: lines of a comment (PLY, OBJ,
// OFF, text), and the .prj file beside a file.

#pragma once

#include <filesystem>
#include <string>
#include <string_view>
#include <vector>

#include "core/cloud/point_cloud.h"

namespace pristine::io {

/// What a definition says of unit and heights; all empty when it is not understood.
cloud::Reference reference_of(const std::string& definition);

/// "unit usft", "height_unit m", "crs EPSG:2277": as many lines as there is something to say, without the
/// sign that begins a comment.
std::vector<std::string> reference_remarks(const cloud::Reference&);
/// Takes one such line, whatever sign of a comment begins it. False when it says nothing of the kind.
bool take_remark(std::string_view line, cloud::Reference&);

/// The file of the same name that ends in .prj.
std::filesystem::path sidecar_of(const std::filesystem::path&);
/// What that file says; all empty when there is none or it is not understood.
cloud::Reference sidecar_reference(const std::filesystem::path&);
/// Writes that file, whole or not at all; nothing when nothing is known, or when it says the same already.
/// Throws Error(Conflict) when another is there and `replace` is false; Error(Io).
void write_sidecar(const std::filesystem::path&, const cloud::Reference&, bool replace);

}  // namespace pristine::io
