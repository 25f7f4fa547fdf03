// Lines that came with the job: Shapefile, GeoPackage, DXF, GeoJSON (through GDAL) and LandXML.

#pragma once

#include <filesystem>
#include <optional>
#include <string>
#include <vector>

#include "core/cloud/point_cloud.h"
#include "core/geometry/line_role.h"
#include "core/geometry/vec.h"

namespace pristine::io {

/// How far chords may leave their arcs, unless something else is asked for: data unit.
inline constexpr double kSagitta = 0.01;

/// A line as a file has it.
struct MapLine {
    std::string layer;         ///< of the file; empty if it has none
    std::vector<Vec3> points;  ///< world; z is 0 where the file has no heights
    bool closed = false;       ///< first and last point are the same place, which is then given once
    /// As the file says, else as the name of the layer or file does; none: nobody asked yet.
    std::optional<LineRole> role{};
};

/// The formats of lines, by their endings without the dot.
struct LineFormat {
    std::string title;
    std::vector<std::string> endings;
    bool writes = true;
};
const std::vector<LineFormat>& line_formats();

/// Whether the ending is one of those read here: shp, gpkg, dxf, xml.
bool is_line_file(const std::filesystem::path&);

/// Whether the file holds lines as text: "x y" or "x y z" on each line, an empty line between lines. By its
/// ending (txt), or because it begins as none of the other formats does. Throws Error(Io).
bool is_text_of_lines(const std::filesystem::path&);

/// Every line and every ring of every polygon, arcs as chords that leave them by no more than `sagitta` (data
/// unit). Throws Error(Io, Format, Unsupported).
std::vector<MapLine> read_lines(const std::filesystem::path&, double sagitta = kSagitta);

/// Lines of a file in the system of the data.
struct PlacedLines {
    std::vector<MapLine> lines;
    std::string note;  ///< "converted from foot to metre"; empty: they are as in the file
};
/// The same where data of the reference `wanted` have them (placing.h): converted where the file names
/// another unit or system. `sagitta` is in the unit wanted. Throws as read_lines, and Error(Usage) when the
/// two do not fit.
PlacedLines read_lines_in(const std::filesystem::path&, const cloud::Reference& wanted,
                          double sagitta = kSagitta);

/// What the file says of unit and system. GeoJSON counts as saying nothing unless it names a system: files of
/// sites in their own coordinates are more frequent than those in degrees. Throws Error(Io, Format).
cloud::Reference reference_of_lines(const std::filesystem::path&);

/// By the ending: geojson, dxf, gpkg, shp, xml (LandXML). `layer` becomes the field "name", or the layer of a
/// DXF. Throws Error(Io, Conflict, Unsupported).
void write_lines(const std::vector<MapLine>&, const std::filesystem::path&, bool replace,
                 const cloud::Reference& = {});

}  // namespace pristine::io
