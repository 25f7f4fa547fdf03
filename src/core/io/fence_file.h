// Closed lines in plan from any file of lines (io/lines): what a fence is drawn from.

#pragma once

#include <filesystem>
#include <string>
#include <vector>

#include "core/cloud/point_cloud.h"
#include "core/geometry/polygon.h"

namespace pristine::io {

/// The rings, without the repeated last corner. Of drawings and databases (Shapefile, GeoPackage, DXF,
/// LandXML) open lines are left out; text cannot say that a line is closed, so each of its lines is a ring.
/// Throws Error(Format) naming the line when one of GeoJSON is open, or one has fewer than three corners; as
/// read_lines.
std::vector<Polygon> read_rings(const std::filesystem::path&);

/// Rings of a file in the system of the data.
struct PlacedRings {
    std::vector<Polygon> rings;
    std::string note;  ///< "converted from foot to metre"; empty: they are as in the file
};
/// The same where data of the reference `wanted` have them (reference/placing.h). Throws Error(Usage) too.
PlacedRings read_rings_in(const std::filesystem::path&, const cloud::Reference& wanted);

}  // namespace pristine::io
