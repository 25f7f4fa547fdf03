// Markers that a scanner recorded with a mesh: a table beside it.

#pragma once

#include <filesystem>
#include <string>
#include <vector>

#include "core/geometry/vec.h"
#include "core/io/cloud_io.h"

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

/// Any other table of points, its columns named by whoever knows them: x, y, z; point or name; code or kind;
/// radius or diameter. Without the last two every marker has `usual_radius`. A line without numbers where
/// they are wanted is left out, and told in `left_out` by its number among the lines of the table. Throws
/// Error(Io, Format), Error(Usage) when neither a column nor `usual_radius` says a radius.
std::vector<Marker> read_marker_table(const std::filesystem::path&, const TextReading&, double usual_radius,
                                      std::vector<std::string>& left_out);

/// The file that belongs to a mesh: "stone-markers.csv" beside "stone.ply" or "stone-scan.ply"; empty if
/// there is none.
std::filesystem::path markers_beside(const std::filesystem::path& mesh);

}  // namespace pristine::io
