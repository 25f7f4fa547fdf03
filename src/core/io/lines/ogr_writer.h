// Points, lines and areas with fields, written by GDAL: whole or not at all.

#pragma once

#include <filesystem>
#include <string>
#include <utility>
#include <variant>
#include <vector>

#include "core/cloud/point_cloud.h"
#include "core/geometry/vec.h"

namespace pristine::io {

/// A point, a line or an area of a map.
struct MapFeature {
    enum class Shape { Point, Line, Area } shape = Shape::Line;
    std::vector<Vec3> points;  ///< world; the first place of an area is not given twice
    std::string layer;         ///< in a DXF, which has no fields of its own
    std::string label{};       ///< in a DXF, a text at the first place; empty: none
    /// In the other formats, in this order; numbers stay numbers.
    std::vector<std::pair<std::string, std::variant<std::string, double>>> fields{};
};

/// What is written, for messages and as the name of the layer: "lines", "marks". `shape`: of all of them, so
/// that readers know it; null: they differ.
struct FeatureKind {
    const char* name;
    const MapFeature::Shape* shape = nullptr;
};

/// Driver of GDAL for the ending; null: none of ours.
const char* driver_of(const std::filesystem::path&);

/// By the ending: geojson, json, dxf, gpkg, shp, csv. Made in memory and read back before it replaces
/// anything. `text_height`: of labels, data unit. Throws Error(Io, Conflict, Unsupported).
void write_features(const std::vector<MapFeature>&, const FeatureKind&, const std::filesystem::path&,
                    bool replace, const cloud::Reference& = {}, double text_height = 0.25);

}  // namespace pristine::io
