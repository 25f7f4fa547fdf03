// The heights of a grid file, row by row from the top; see grid_io.h for what is made of them.

#pragma once

#include <filesystem>
#include <memory>
#include <string>
#include <vector>

#include "core/cloud/point_cloud.h"
#include "core/geometry/vec.h"

namespace pristine::io {

/// What a grid file says of itself.
struct GridFacts {
    int columns = 0, rows = 0;  ///< each at least 1
    /// x = place[0] + column place[1] + row place[2], y = place[3] + column place[4] + row place[5]; 0, 0 is
    /// the outer corner of the first cell.
    double place[6] = {0, 1, 0, 0, 0, 1};
    bool picture = false;  ///< colours, a palette, bytes of grey: its rows are no heights, and are not given
    cloud::Reference reference;
    std::string format;  ///< "GeoTIFF, 21 x 21 heights"

    Vec3 middle(int column, int row, double z) const {
        return {place[0] + (column + 0.5) * place[1] + (row + 0.5) * place[2],
                place[3] + (column + 0.5) * place[4] + (row + 0.5) * place[5], z};
    }
    /// Rows run southwards: seen from above the corners turn the other way.
    bool mirrored() const { return place[1] * place[5] - place[2] * place[4] < 0; }
};

/// A grid row by row, however large it is.
class GridRows {
  public:
    virtual ~GridRows() = default;
    virtual const GridFacts& facts() const = 0;
    /// The next row, facts().columns heights; not-a-number where a cell holds none. Throws Error(Format),
    /// Error(Usage) after the last one.
    virtual void next(std::vector<double>& z) = 0;
};

/// Opened in a process of its own (foreign/guarded.h). Throws Error(Io, Format, Unsupported: too large).
std::unique_ptr<GridRows> open_grid(const std::filesystem::path&);
/// In this process: what pristine-reader does.
std::unique_ptr<GridRows> open_grid_here(const std::filesystem::path&);

}  // namespace pristine::io
