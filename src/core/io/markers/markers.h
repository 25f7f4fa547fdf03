// Markers that a scanner recorded with a mesh: a table beside it.

#pragma once

#include <filesystem>
#include <string>
#include <vector>

#include "core/geometry/vec.h"

namespace pristine::io {

/// A marker that the scanner recorded.
struct Marker {
    std::string name;
    Vec3 place;
    double radius = 0;  ///< data unit
    std::string kind;
};

/// CSV with the columns name, x, y, z, radius, kind in any order, told by its first line; comma, semicolon or
/// tab between; other columns are passed over, kind and name may be missing. Throws Error(Io, Format) with
/// the line.
std::vector<Marker> read_markers(const std::filesystem::path&);

/// The file that belongs to a mesh: "stone-markers.csv" beside "stone.ply" or "stone-scan.ply"; empty if
/// there is none.
std::filesystem::path markers_beside(const std::filesystem::path& mesh);

}  // namespace pristine::io
