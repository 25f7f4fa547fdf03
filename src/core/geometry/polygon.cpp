#include "core/geometry/polygon.h"

#include <cstring>

#include "core/geometry/predicates.h"

namespace pristine {

namespace {

// Whether a ray from p to the right crosses the edge; half-open in y, so that a corner counts for one of its
// edges only.
bool crosses(PixelPoint a, PixelPoint b, PixelPoint p) {
    if ((a.y > p.y) == (b.y > p.y)) return false;
    if (p.x < std::min(a.x, b.x)) return true;
    if (p.x > std::max(a.x, b.x)) return false;
    const int side = orientation(a.x, a.y, b.x, b.y, p.x, p.y);
    return b.y > a.y ? side > 0 : side < 0;
}

}  // namespace

bool contains(const Polygon& polygon, PixelPoint p) {
    bool in = false;
    const std::size_t n = polygon.size();
    if (n < 3) return false;
    for (std::size_t i = 0, j = n - 1; i < n; j = i++) {
        if (crosses(polygon[j], polygon[i], p)) in = !in;
    }
    return in;
}

bool meets(PixelPoint a, PixelPoint b, const PixelRect& r) {
    if (std::max(a.x, b.x) < r.x0 || std::min(a.x, b.x) > r.x1 || std::max(a.y, b.y) < r.y0 ||
        std::min(a.y, b.y) > r.y1)
        return false;
    const int s1 = orientation(a.x, a.y, b.x, b.y, r.x0, r.y0),
              s2 = orientation(a.x, a.y, b.x, b.y, r.x1, r.y0);
    const int s3 = orientation(a.x, a.y, b.x, b.y, r.x0, r.y1),
              s4 = orientation(a.x, a.y, b.x, b.y, r.x1, r.y1);
    return !((s1 > 0 && s2 > 0 && s3 > 0 && s4 > 0) || (s1 < 0 && s2 < 0 && s3 < 0 && s4 < 0));
}

PixelRect bounds(const Polygon& polygon) {
    PixelRect r;
    if (polygon.empty()) return r;
    r = {polygon[0].x, polygon[0].y, polygon[0].x, polygon[0].y};
    for (const PixelPoint& p : polygon) {
        r.x0 = std::min(r.x0, p.x);
        r.x1 = std::max(r.x1, p.x);
        r.y0 = std::min(r.y0, p.y);
        r.y1 = std::max(r.y1, p.y);
    }
    return r;
}

PolygonMask::PolygonMask(Polygon polygon, int max_cells) : polygon_(std::move(polygon)) {
    if (polygon_.size() < 3) return;
    const PixelRect r = bounds(polygon_);
    const double side = std::max({r.x1 - r.x0, r.y1 - r.y0, 1.0});
    per_pixel_ = std::min(4.0, (max_cells - 8) / side);
    x0_ = r.x0 -
          3 / per_pixel_;  // a margin of three cells: outside of the grid is surely outside of the polygon
    y0_ = r.y0 - 3 / per_pixel_;
    width_ = static_cast<int>((r.x1 - x0_) * per_pixel_) + 4;
    height_ = static_cast<int>((r.y1 - y0_) * per_pixel_) + 4;
    // Three bytes more than cells: vector code reads four bytes for each.
    cells_.assign(static_cast<std::size_t>(width_) * static_cast<std::size_t>(height_) + 3, Outside);
    row_edges_.resize(static_cast<std::size_t>(height_));
    for (std::size_t i = 0, j = polygon_.size() - 1; i < polygon_.size(); j = i++) {
        mark_edge(polygon_[j], polygon_[i]);
        list_edge(static_cast<std::uint32_t>(i), polygon_[j], polygon_[i]);
    }
    fill_between_edges();
    make_coarse();
}

// Between edges a row does not change: one exact test for each run of unmarked cells.
void PolygonMask::fill_between_edges() {
    for (int y = 0; y < height_; ++y) {
        std::uint8_t* row = cells_.data() + static_cast<std::size_t>(y) * static_cast<std::size_t>(width_);
        for (int x = 0; x < width_;) {
            if (row[x] == Edge) {
                ++x;
                continue;
            }
            const PixelPoint middle{x0_ + (x + 0.5) / per_pixel_, y0_ + (y + 0.5) / per_pixel_};
            const auto* next = static_cast<const std::uint8_t*>(
                std::memchr(row + x, Edge, static_cast<std::size_t>(width_ - x)));
            const int end = next ? static_cast<int>(next - row) : width_;
            if (contains_exactly(middle)) std::memset(row + x, Inside, static_cast<std::size_t>(end - x));
            x = end;
        }
    }
}

// Eight rows at a time, eight cells as one word: a coarse cell is what all its words are.
void PolygonMask::make_coarse() {
    constexpr std::size_t side = std::size_t{1} << kCoarseBits;
    static_assert(side == sizeof(std::uint64_t));
    constexpr std::uint64_t kEight = 0x0101010101010101u;
    const auto width = static_cast<std::size_t>(width_), height = static_cast<std::size_t>(height_);
    const std::size_t whole = width / side, columns = (width + side - 1) / side,
                      rows = (height + side - 1) / side;
    coarse_width_ = static_cast<int>(columns);
    // As the fine grid, with three bytes more at its end.
    coarse_.assign(columns * rows + 3, Outside);
    const auto word = [](const std::uint8_t* at) {
        std::uint64_t w;
        std::memcpy(&w, at, sizeof w);
        return w;
    };
    for (std::size_t row = 0; row < rows; ++row) {
        const std::uint8_t* fine = cells_.data() + row * side * width;
        const std::size_t lines = std::min(side, height - row * side);
        std::uint8_t* out = coarse_.data() + row * columns;
        for (std::size_t column = 0; column < whole; ++column) {
            const std::uint8_t* at = fine + column * side;
            std::uint64_t other = 0;
            const std::uint64_t same = *at * kEight;
            for (std::size_t y = 0; y < lines; ++y) other |= word(at + y * width) ^ same;
            out[column] = other != 0 ? std::uint8_t{Edge} : *at;
        }
        if (whole == columns) continue;
        const std::uint8_t* at = fine + whole * side;
        out[whole] = *at;
        for (std::size_t y = 0; y < lines; ++y)
            for (std::size_t x = 0; x < width - whole * side; ++x)
                if (at[y * width + x] != *at) out[whole] = Edge;
    }
}

void PolygonMask::list_edge(std::uint32_t edge, PixelPoint a, PixelPoint b) {
    // One row more on either side than the heights reach, for rounding.
    const int first = std::max(0, static_cast<int>((std::min(a.y, b.y) - y0_) * per_pixel_) - 1);
    const int last = std::min(height_ - 1, static_cast<int>((std::max(a.y, b.y) - y0_) * per_pixel_) + 1);
    for (int y = first; y <= last; ++y) row_edges_[static_cast<std::size_t>(y)].push_back(edge);
}

bool PolygonMask::contains_exactly(PixelPoint p) const {
    const double fy = (p.y - y0_) * per_pixel_;
    if (!(fy >= 0 && fy < height_)) return false;
    bool in = false;
    for (const std::uint32_t i : row_edges_[static_cast<std::size_t>(fy)])
        if (crosses(polygon_[i == 0 ? polygon_.size() - 1 : i - 1], polygon_[i], p)) in = !in;
    return in;
}

void PolygonMask::mark_edge(PixelPoint a, PixelPoint b) {
    // A cell is marked when some place within one cell of some place in it may lie on the segment; a hair
    // more, for rounding.
    constexpr double hair = 1e-6;
    const double ax = (a.x - x0_) * per_pixel_, ay = (a.y - y0_) * per_pixel_;
    const double bx = (b.x - x0_) * per_pixel_, by = (b.y - y0_) * per_pixel_;
    const int y_first = std::max(0, static_cast<int>(std::min(ay, by)) - 2);
    const int y_last = std::min(height_ - 1, static_cast<int>(std::max(ay, by)) + 2);
    for (int y = y_first; y <= y_last; ++y) {
        double lo = std::min(ax, bx), hi = std::max(ax, bx);
        if (ay != by) {
            const double t0 = std::clamp((y - 1 - hair - ay) / (by - ay), 0.0, 1.0);
            const double t1 = std::clamp((y + 2 + hair - ay) / (by - ay), 0.0, 1.0);
            lo = std::min(ax + t0 * (bx - ax), ax + t1 * (bx - ax));
            hi = std::max(ax + t0 * (bx - ax), ax + t1 * (bx - ax));
        }
        const int x_first = std::max(0, static_cast<int>(lo - hair) - 1);
        const int x_last = std::min(width_ - 1, static_cast<int>(hi + hair) + 1);
        std::uint8_t* row = cells_.data() + static_cast<std::size_t>(y) * static_cast<std::size_t>(width_);
        for (int x = x_first; x <= x_last; ++x) row[x] = Edge;
    }
}

PolygonMask::Cell PolygonMask::classify(const PixelRect& r) const {
    if (polygon_.size() < 3) return Outside;
    for (std::size_t i = 0, j = polygon_.size() - 1; i < polygon_.size(); j = i++)
        if (meets(polygon_[j], polygon_[i], r)) return Edge;
    return contains(polygon_, {r.x0, r.y0}) ? Inside : Outside;
}

}  // namespace pristine
