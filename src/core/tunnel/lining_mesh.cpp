// A lining as sections, as a mesh, and its volume by chainage: all of the same nodes.

#include <algorithm>
#include <cmath>
#include <numbers>

#include "core/tunnel/lining.h"

namespace pristine::tunnel {
namespace {}  // namespace

// Columns of nodes at the middle of the cells (even) and between them (odd), so that corners are not cut.
Vec3 Lining::node(std::size_t row, std::size_t half_column) const {
    const Place p = node_place(row, half_column);
    return axis_.world(p.chainage, p.angle, p.radius);
}

std::vector<Section> Lining::sections() const {
    std::vector<Section> out;
    for (std::size_t row = 0; row <= rows_ + 1; ++row) {
        Section s;
        const std::size_t of = std::clamp<std::size_t>(row, 1, rows_) - 1;
        std::size_t open = 0;
        for (std::size_t c = 0; c < columns_; ++c) open += cell(of, c).hole;
        s.measured = 1 - static_cast<double>(open) / static_cast<double>(columns_);
        for (std::size_t c = 0; c < 2 * columns_; ++c) {
            const Place p = node_place(row, c);
            s.chainage = p.chainage;
            s.corners.push_back({p.radius * std::sin(p.angle), p.radius * std::cos(p.angle)});
        }
        out.push_back(std::move(s));
    }
    return out;
}

Place Lining::node_place(std::size_t row, std::size_t half_column) const {
    const std::size_t column = half_column / 2, next = (column + 1) % columns_;
    // Rows of nodes at the middle of the cells, and one at either end.
    const double chainage = row == 0           ? 0
                            : row == rows_ + 1 ? axis_.length()
                                               : (static_cast<double>(row) - 0.5) * row_length_;
    const std::size_t of = std::clamp<std::size_t>(row, 1, rows_) - 1;
    const double ds = chainage - (static_cast<double>(of) + 0.5) * row_length_;
    const auto reaches = [&](std::size_t k, double da) { return radius_at(of * columns_ + k, da, ds); };
    const double half = half_column % 2 == 0 ? 0 : column_angle_ / 2;
    return {chainage, (static_cast<double>(column) + 0.5) * column_angle_ + half - std::numbers::pi,
            half == 0 ? reaches(column, 0) : 0.5 * (reaches(column, half) + reaches(next, -half))};
}

mesh::TriMesh Lining::mesh(bool close_holes, bool cap_ends) const {
    return mesh(std::vector<char>(holes().size(), close_holes), cap_ends);
}

mesh::TriMesh Lining::mesh(const std::vector<char>& close, bool cap_ends) const {
    std::vector<char> stays_open(cells_.size(), 0);
    const std::vector<Hole> all = holes();
    for (std::size_t k = 0; k < all.size(); ++k)
        if (k >= close.size() || !close[k])
            for (const std::size_t c : all[k].cells) stays_open[c] = 1;
    mesh::TriMesh m;
    const std::size_t across = 2 * columns_;
    const auto id = [&](std::size_t row, std::size_t column) {
        return static_cast<std::uint32_t>(row * across + column % across);
    };
    for (std::size_t row = 0; row < rows_ + 2; ++row)
        for (std::size_t column = 0; column < across; ++column) m.vertices.push_back(node(row, column));
    const auto open = [&](std::size_t row, std::size_t column) {
        return stays_open[(std::clamp<std::size_t>(row, 1, rows_) - 1) * columns_ + column / 2 % columns_] !=
               0;
    };
    for (std::size_t row = 0; row <= rows_; ++row)
        for (std::size_t column = 0; column < across; ++column) {
            if (open(row, column) || open(row + 1, column) || open(row, column + 1) ||
                open(row + 1, column + 1))
                continue;
            const std::uint32_t a = id(row, column), b = id(row, column + 1), c = id(row + 1, column + 1),
                                d = id(row + 1, column);
            m.triangles.push_back({a, b, c});
            m.triangles.push_back({a, c, d});
        }
    if (!cap_ends) return m;
    for (const std::size_t row : {std::size_t{0}, rows_ + 1}) {
        const auto middle = static_cast<std::uint32_t>(m.vertices.size());
        m.vertices.push_back(axis_.world(row == 0 ? 0 : axis_.length(), 0, 0));
        for (std::size_t column = 0; column < across; ++column) {
            const std::uint32_t a = id(row, column), b = id(row, column + 1);
            if (row == 0)
                m.triangles.push_back({middle, b, a});
            else
                m.triangles.push_back({middle, a, b});
        }
    }
    return m;
}

// Strip by strip of the mesh with its openings closed, so that the sum is the volume of that mesh. A strip
// that lies in two intervals is parted by its length in each.
std::vector<Lining::Interval> Lining::volumes(double interval) const {
    std::vector<Interval> out;
    for (double from = 0; from < axis_.length(); from += interval)
        out.push_back({from, std::min(axis_.length(), from + interval), 0, 0});
    const std::size_t across = 2 * columns_;
    const auto chainage_of = [&](std::size_t row) {
        return row == 0           ? 0
               : row == rows_ + 1 ? axis_.length()
                                  : (static_cast<double>(row) - 0.5) * row_length_;
    };
    const auto ring_of = [&](std::size_t row) {
        std::vector<Vec3> ring;
        for (std::size_t c = 0; c < across; ++c) ring.push_back(node(row, c));
        return ring;
    };
    std::vector<Vec3> near = ring_of(0);
    for (std::size_t row = 0; row <= rows_; ++row) {
        const std::vector<Vec3> far = ring_of(row + 1);
        const double from = chainage_of(row), to = chainage_of(row + 1);
        const Vec3 o = axis_.world(from, 0, 0), end = axis_.world(to, 0, 0);
        double volume = 0, area = 0;
        const auto add = [&](const Vec3& p, const Vec3& q, const Vec3& r, bool wall) {
            volume += dot(p - o, cross(q - o, r - o)) / 6;
            if (wall) area += 0.5 * norm(cross(q - p, r - p));
        };
        for (std::size_t c = 0; c < across; ++c) {
            const std::size_t next = (c + 1) % across;
            add(near[c], near[next], far[next], true);
            add(near[c], far[next], far[c], true);
            add(end, far[c], far[next], false);
        }
        for (Interval& i : out) {
            const double in = std::min(to, i.to) - std::max(from, i.from);
            if (!(in > 0)) continue;
            i.volume += volume * in / (to - from);
            i.area += area * in / (to - from);
        }
        near = far;
    }
    return out;
}

}  // namespace pristine::tunnel
