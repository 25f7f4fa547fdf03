// Heights on a raster (GeoTIFF, ASCII grid): read as a surface whose triangles join the middles of
// neighbouring cells, and written from a surface.
//
// Laws: 1. Where a cell holds no height (by value, by mask, or not a number) no triangle is made: a gap stays
// a gap, and the plan area is that of the squares between four valid middles. 2. A lattice that is written at
// its own cell and read again has the same heights. 3. A grid that does not fit is thinned to every n-th row
// and column, and the largest error of height that this makes is measured over all cells and told.

#pragma once

#include <filesystem>
#include <string>
#include <vector>

#include "core/base/progress.h"
#include "core/cloud/point_cloud.h"
#include "core/mesh/tri_mesh.h"

namespace pristine::io {

/// Whether the file is one of those read here: .tif, .tiff, and .asc when it begins as an ASCII grid does (a
/// text of points may have that ending too).
bool is_grid_file(const std::filesystem::path&);
/// By the ending alone: for files that are yet to be written.
bool is_grid_ending(const std::filesystem::path&);
/// Whether a .tif holds a picture (colours, a palette, bytes of grey) rather than heights. False for others.
bool is_picture(const std::filesystem::path&);

/// How a grid of heights is read.
struct GridReading {
    std::uint64_t most_cells = 4'000'000;  ///< more are thinned
    double max_error = 0;  ///< > 0: the largest step whose error of height is no larger, data unit
};

/// A grid of heights as triangles, and how it was read.
struct HeightGrid {
    mesh::TriMesh mesh;  ///< counter-clockwise in plan; isolated cells have a vertex and no triangle
    cloud::Reference reference;
    std::string format;  ///< "GeoTIFF, 21 x 21 heights"
    int columns = 0, rows = 0;
    std::uint64_t valid = 0;  ///< cells that hold a height
    int step = 1;             ///< every how many-th row and column was taken
    double error = 0;         ///< largest error of height of thinning, data unit of the heights; 0 for step 1
    std::vector<std::string> warnings;
};

/// Size and place of a grid.
struct GridShape {
    int columns = 0, rows = 0;
    cloud::Reference reference;
};
/// Without reading its heights. Throws Error(Io, Format, Unsupported: a picture).
GridShape shape_of_grid(const std::filesystem::path&);

/// Throws Error(Io, Format, Unsupported: a picture), Cancelled. O(cells) time, O(cells taken) memory.
HeightGrid read_height_grid(const std::filesystem::path&, const GridReading& = {},
                            Progress& = Progress::none());

/// The middles of all cells that hold a height, in file order. Throws as above.
std::vector<Vec3> read_grid(const std::filesystem::path&, Progress& = Progress::none());

/// How a grid is written.
struct GridWriting {
    double cell = 0;  ///< side of a cell, data unit; 0: suggested_cell
    double no_data = -9999;
    cloud::Reference reference{};
};
/// How large a grid would be.
struct GridSize {
    double cell = 0;
    std::uint64_t columns = 0, rows = 0;
    std::uint64_t bytes = 0;  ///< as GeoTIFF without compression
};
/// The spacing of the lattice that a surface lies on, or the median of the shortest edges of its triangles,
/// to two digits. 0 for an empty mesh.
double suggested_cell(const mesh::TriMesh&);
/// What would be written. Throws Error(Usage) when that makes no sense: no cell, fewer than two rows or
/// columns, more than 400 million cells.
GridSize grid_size(const mesh::TriMesh&, double cell);

/// z of the surface at the middle of square cells; cells without surface hold the "no data" value. By the
/// ending: GeoTIFF (doubles) or ASCII grid, with a .prj beside it. Throws Error(Io, Usage, Unsupported).
GridSize write_grid(const mesh::TriMesh&, const GridWriting&, const std::filesystem::path&, bool replace,
                    Progress& = Progress::none());

}  // namespace pristine::io
