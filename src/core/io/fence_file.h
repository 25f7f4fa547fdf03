// Closed lines in plan from a file: GeoJSON (Polygon, MultiPolygon, closed LineString), or text with "x y" on
// each line and an empty line between rings. Of Shapefile, GeoPackage, DXF and LandXML the closed lines
// (io/lines).

#pragma once

#include <filesystem>
#include <string>
#include <vector>

#include "core/cloud/point_cloud.h"
#include "core/geometry/polygon.h"

namespace pristine::io {

/// The rings, without the repeated last corner. Throws Error(Format) naming the ring when one is open
/// (GeoJSON: first and last corner differ) or has fewer than three corners.
std::vector<Polygon> read_rings(const std::filesystem::path&);

struct PlacedRings {
    std::vector<Polygon> rings;
    std::string note;  ///< "converted from foot to metre"; empty: they are as in the file
};
/// The same where data of the reference `wanted` have them (reference/placing.h). Throws Error(Usage) too.
PlacedRings read_rings_in(const std::filesystem::path&, const cloud::Reference& wanted);

}  // namespace pristine::io
