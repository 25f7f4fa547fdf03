// Marks for others: a table, or map features with their figures as fields.

#pragma once

#include <filesystem>
#include <string>
#include <vector>

#include "core/cloud/point_cloud.h"
#include "core/geometry/mark.h"

namespace pristine::io {

/// A mark as others get it.
struct WrittenMark {
    MarkKind kind = MarkKind::Point;
    std::string name, note;
    std::vector<Vec3> points;  ///< in the unit of the reference
    std::string over{};        ///< name of what a height was measured over; empty: none
    std::string stale{};       ///< why it is out of date; empty: it is not
};

/// By the ending: csv, geojson, dxf, gpkg. A table has a row for each mark: kind, name, note, each figure in
/// a column of its own with its unit in the heading, and all places; lengths with a tenth of a millimetre, or
/// what equals it. In a map the same figures are fields, a DXF has the name and the first figure as a text.
/// The unit is that of the reference; where none is stated headings say so. Throws Error(Io, Conflict,
/// Unsupported), Error(Usage) as mark_figures.
void write_marks(const std::vector<WrittenMark>&, const std::filesystem::path&, bool replace,
                 const cloud::Reference&);

}  // namespace pristine::io
