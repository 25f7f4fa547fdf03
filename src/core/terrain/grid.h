// What the steps of terrain.h share: cells of plan with their heights.

#pragma once

#include <cstdint>
#include <utility>
#include <vector>

#include "core/base/parallel.h"
#include "core/base/spill_vector.h"

#include "core/terrain/terrain.h"

namespace pristine::terrain {

/// Heights of a cell.
struct Plane {
    float a = 0, b = 0, c = 0;  ///< height = a + b (x - middle of the cell) + c (y - middle of the cell)
};

/// A square of plan, and what lies there.
struct Cell {
    enum class State : std::uint8_t { Empty, Object, Ground, Filled } state = State::Empty;
    bool broken = false;     ///< ground of another height meets it
    bool taken_off = false;  ///< it was an object, whatever lies there now
    float low = 0;           ///< height of its lowest clump, relative to Grid::z0
    float lie = 0;           ///< the same against the trend surface
    float face = 0;          ///< height above the plane up to which it holds an upright face
    std::int32_t region = -1;
    Plane plane;
};

/// A point in its cell.
struct Sample {
    std::uint32_t cell;
    float x, y, z;  ///< x, y from the middle of the cell, z from Grid::z0
};

/// The squares that a ground is found in.
struct Grid {
    double side = 1, z0 = 0;
    /// Number of the first cell, counted from the origin of the world: the same places make the same cells,
    /// whatever else there is. So z0 is a multiple of many metres.
    std::int64_t ix0 = 0, iy0 = 0;
    int nx = 0, ny = 0;
    double metre = 1;  ///< data units of a metre
    std::vector<Cell> cells;
    SpillVector<Sample> samples;     ///< by cell, ascending height in each
    std::vector<std::size_t> first;  ///< samples of cell c: [first[c], first[c + 1])

    std::size_t at(int x, int y) const {
        return static_cast<std::size_t>(y) * static_cast<std::size_t>(nx) + static_cast<std::size_t>(x);
    }
    bool holds(int x, int y) const { return x >= 0 && y >= 0 && x < nx && y < ny; }
};

/// Calls work(x, y, cell) for every cell, rows on all cores. Throws Cancelled.
template <class Work>
void for_cells(const Grid& g, Progress& progress, Work&& work) {
    parallel::for_ranges(static_cast<std::size_t>(g.ny), 16, [&](std::size_t from, std::size_t to) {
        progress.check();
        for (int y = static_cast<int>(from); y < static_cast<int>(to); ++y)
            for (int x = 0; x < g.nx; ++x) work(x, y, g.at(x, y));
    });
}

/// The rectangle, however turned, that has the least outline round some cells; cells. Two walls of a building
/// make a corner, whose ends are farther apart than the building is long.
struct Rectangle {
    double longer = 0, shorter = 0;
};
Rectangle rectangle_round(const std::vector<std::pair<int, int>>& cells);

/// Cells, samples and the height of each cell's lowest clump that is borne out.
void gather(Grid&, const cloud::PointCloud&, const ElementSet& eligible, const Options&, Progress&);
/// Fills Cell::lie.
void find_trend_surface(Grid&, const Options&, Progress&);
/// Marks cells of objects.
void take_objects_off(Grid&, const Options&, Progress&);
/// Planes of ground cells, faces, and what lies under objects.
void fit_planes(Grid&, const Options&, Progress&);
/// Fills Cell::face.
void find_faces(Grid&, const Options&, Progress&);

}  // namespace pristine::terrain
