// Heights on a raster (GeoTIFF, ASCII grid and what else GDAL reads): points of a surface, and a surface put
// onto a raster.

#pragma once

#include <filesystem>
#include <string>
#include <vector>

#include "core/base/progress.h"
#include "core/mesh/tri_mesh.h"

namespace pristine::io {

/// Whether the ending is one of those read here: tif, tiff, asc.
bool is_grid_file(const std::filesystem::path&);

/// The middles of cells that hold a height, in file order. Throws Error(Io, Format), Cancelled.
std::vector<Vec3> read_grid(const std::filesystem::path&, Progress& = Progress::none());

/// z of the surface at the middle of square cells; cells without surface hold -9999, the "no data" value. By
/// the ending: GeoTIFF (doubles) or ASCII grid. Throws Error(Io, Usage, Unsupported).
void write_grid(const mesh::TriMesh&, double cell, const std::filesystem::path&, bool replace,
                Progress& = Progress::none());

}  // namespace pristine::io
