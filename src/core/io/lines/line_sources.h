// The ways in which lines are read; see lines.h.

#pragma once

#include "core/io/lines/lines.h"

namespace pristine::io {

/// Shapefile, GeoPackage, DXF and GeoJSON, in a process of their own (foreign/guarded.h).
std::vector<MapLine> read_ogr_lines(const std::filesystem::path&, double sagitta);
cloud::Reference reference_of_ogr_lines(const std::filesystem::path&);
/// The same in this process: what pristine-reader does.
std::vector<MapLine> read_ogr_lines_here(const std::filesystem::path&, double sagitta);
cloud::Reference reference_of_ogr_lines_here(const std::filesystem::path&);
/// Numbers with blanks between, as LandXML writes places; `what` names them in errors. Throws Error(Format).
std::vector<double> numbers_in(const char* text, const std::string& what, const std::string& place);
std::vector<MapLine> read_landxml_lines(const std::filesystem::path&, double sagitta);
std::vector<MapLine> read_text_lines(const std::filesystem::path&);

}  // namespace pristine::io
