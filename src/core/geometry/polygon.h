// Closed polygons in the plane, and the raster mask that makes testing millions of points against one cheap.

#pragma once

#include <cstdint>
#include <vector>

#include "core/geometry/vec.h"

namespace pristine {

using Polygon = std::vector<PixelPoint>;

/// Whether p lies in the polygon by the even-odd rule; self-crossing polygons are fine. Exact: decided by the
/// orientation predicate. A point on a left or lower edge is in, on a right or upper edge out, so that
/// polygons that tile the plane share no point. Fewer than 3 corners: never. O(corners).
bool contains(const Polygon&, PixelPoint p);

/// Whether the segment a-b meets the closed rectangle.
bool meets(PixelPoint a, PixelPoint b, const PixelRect&);

/// The smallest rectangle round all corners; the default one without any.
PixelRect bounds(const Polygon&);

/// The polygon painted on a grid of cells: each cell is wholly outside, wholly inside, or near an edge.
///
/// Law: if at(p) is Inside or Outside, then contains(polygon, q) is the same for every q within one cell (a
/// quarter of a pixel at the finest) of p.
class PolygonMask {
  public:
    enum Cell : std::uint8_t { Outside = 0, Inside = 1, Edge = 2 };

    /// Cells are a quarter of a pixel, or larger when the polygon's bounds would need more than `max_cells`
    /// along a side.
    explicit PolygonMask(Polygon polygon, int max_cells = 2048);

    /// The same answer as contains(polygon(), p), looking only at the edges near its height. O(edges there).
    bool contains_exactly(PixelPoint p) const;

    Cell at(PixelPoint p) const {
        const double fx = (p.x - x0_) * per_pixel_, fy = (p.y - y0_) * per_pixel_;
        if (!(fx >= 0 && fy >= 0 && fx < width_ && fy < height_)) return Outside;
        return static_cast<Cell>(cells_[static_cast<std::size_t>(fy) * static_cast<std::size_t>(width_) +
                                        static_cast<std::size_t>(fx)]);
    }
    /// What holds for all of a rectangle: Inside or Outside only if every point of it is; else Edge.
    Cell classify(const PixelRect&) const;
    const Polygon& polygon() const { return polygon_; }

    // The raw grids, for the vector code of select/fence. The coarse one has a cell for each 8 x 8 of the
    // fine ones, Edge unless all of them agree: it fits the first cache and answers for most points.
    static constexpr int kCoarseBits = 3;
    const std::uint8_t* cells() const { return cells_.data(); }
    const std::uint8_t* coarse_cells() const { return coarse_.data(); }
    int coarse_width() const { return coarse_width_; }
    int width() const { return width_; }
    int height() const { return height_; }
    double x0() const { return x0_; }
    double y0() const { return y0_; }
    double cells_per_pixel() const { return per_pixel_; }

  private:
    void mark_edge(PixelPoint a, PixelPoint b);
    void list_edge(std::uint32_t edge, PixelPoint a, PixelPoint b);
    void fill_between_edges();
    void make_coarse();
    Polygon polygon_;
    double x0_ = 0, y0_ = 0, per_pixel_ = 1;
    int width_ = 0, height_ = 0, coarse_width_ = 0;
    std::vector<std::uint8_t> cells_, coarse_;
    std::vector<std::vector<std::uint32_t>>
        row_edges_;  // of each row of cells: edges whose heights reach into it
};

}  // namespace pristine
