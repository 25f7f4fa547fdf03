// Points of maps: Shapefile, GeoPackage, GeoJSON and DXF.

#pragma once

#include <filesystem>
#include <string>
#include <vector>

#include "core/base/progress.h"
#include "core/io/cloud_io.h"
#include "core/io/points.h"

namespace pristine::io {

/// Whether the ending is one of a format of maps that can hold points: shp, gpkg, geojson, json, dxf.
bool can_hold_map_points(const std::filesystem::path&);

/// The points of each layer that has some, with all fields as columns: the one that names a point is called
/// "point", the one that says what it is "code". Where places have no height, a field that is named as one
/// gives it; else it is 0 and `flat` says so. Of a DXF the points proper, no texts and blocks. Empty where
/// the file holds none. Throws Error(Io, Format). O(n).
struct MapPoints {
    PointList list;
    bool flat = false;  ///< no heights: they are 0
};
std::vector<MapPoints> read_map_points(const std::filesystem::path&);
/// The same in this process: what pristine-reader does.
std::vector<MapPoints> read_map_points_here(const std::filesystem::path&);

/// Each layer as a cloud. Throws as read_map_points, and Error(Format) when the file holds no points;
/// Cancelled.
std::vector<ReadResult> read_map_point_clouds(const std::filesystem::path&, Progress&);

}  // namespace pristine::io
