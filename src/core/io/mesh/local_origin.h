// The place that the coordinates of a file count from, for formats whose numbers are too short for
// coordinates of a country. It lies beside the file: "bank.stl" and "bank.origin.txt", five lines that people
// read too.

#pragma once

#include <filesystem>
#include <optional>
#include <string>

#include "core/cloud/point_cloud.h"
#include "core/mesh/tri_mesh.h"

namespace pristine::io {

/// A whole number of units near the middle of the mesh, where single-precision numbers would cost digits: it
/// lies more than a thousand from zero and further away than eight times its own extent. Else none.
std::optional<Vec3> local_origin_for(const mesh::TriMesh&);
/// Whether a mesh of this box has one.
bool has_local_origin(const Box3&);

inline constexpr const char* kOriginEnding = ".origin.txt";
std::filesystem::path origin_beside(const std::filesystem::path& file);

/// The text of that file. It states unit and system too, where they are known.
std::string origin_text(const std::filesystem::path& file, const Vec3& origin, const cloud::Reference&);

/// What the file beside says.
struct LocalOrigin {
    Vec3 place{};
    std::string unit, crs;  ///< empty: not stated
};
/// None where no such file is. Throws Error(Format) with the line that cannot be read.
std::optional<LocalOrigin> read_local_origin(const std::filesystem::path& file);

}  // namespace pristine::io
