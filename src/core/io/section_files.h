// Sections as a table and as a drawing.

#pragma once

#include <filesystem>
#include <string>
#include <vector>

#include "core/cloud/point_cloud.h"
#include "core/measure/sections.h"

namespace pristine::io {

/// CSV with a row for each section: chainage, place of the axis, areas of cut and fill, width that both have.
std::string section_table(const measure::Sections&, const cloud::Reference&);
/// CSV with a row for each place: chainage, surface, offset, height.
std::string section_places(const measure::Sections&, const std::vector<std::string>& surfaces,
                           const cloud::Reference&);

struct SectionDrawing {
    double exaggeration = 1;  ///< of heights
    double row = 0;           ///< between sections on the sheet, data unit; 0: as they need
};
/// The sections above each other, the first at the bottom, true to scale but for the exaggeration: each
/// surface a layer of its own, the axis at 0, a line at a round height below, chainage and that height
/// beside. DXF, or any ending of lines. Throws as write_features.
void write_section_drawing(const measure::Sections&, const std::vector<std::string>& surfaces,
                           const SectionDrawing&, const std::filesystem::path&, bool replace,
                           const cloud::Reference&);

}  // namespace pristine::io
