// The lining of a tunnel, shaft or culvert, told from what is inside it, and unrolled by chainage and angle.
//
// Method. Points are gathered in cells of chainage and angle round a rough centreline. The lining of a cell
// is its outermost radius that several points bear out: noise behind it is few. Inward notches of that
// surface that are narrower than the widest fitting, along or across the tunnel, are closed (a grey-scale
// closing, Serra 1982, but never farther out than a straight line from side to side): pipes and ducts that
// hide the lining. A plane through the outermost points of each cell and its neighbours then follows slanting
// walls and floors; a point's depth is its distance inwards from that plane. Where one plane does not fit
// what lies outermost in the cell, planes from either side are tried, and both together: corners of floor and
// wall.

#pragma once

#include <array>
#include <cmath>
#include <optional>
#include <vector>

#include "core/base/progress.h"
#include "core/cloud/point_cloud.h"
#include "core/elements/element_set.h"
#include "core/mesh/tri_mesh.h"
#include "core/tunnel/axis.h"

namespace pristine::tunnel {

/// How a lining is found.
struct Options {
    double spacing = 0.2;         ///< side of a cell on the lining, data unit
    double lift = 0;              ///< the centreline is raised by this first
    double widest_fitting = 0.8;  ///< metres; what is wider is lining
    double metres_per_unit = 1;
};

/// An opening of the lining.
struct Hole {
    double chainage = 0, angle_deg = 0;  ///< its middle
    double area = 0;                     ///< square data units on the lining
    std::vector<std::size_t> cells;      ///< row * columns() + column
};

/// The inner face across the axis, openings closed over.
struct Section {
    double chainage = 0;
    std::vector<std::array<double, 2>> corners;  ///< right of the line and above it, by growing angle
    double measured = 1;                         ///< share of its cells that are no opening
};

/// The inner face along an axis, by chainage and angle. Never changes.
class Lining {
  public:
    /// O(n log n). Throws Error(Usage) when no eligible point lies round the line; Cancelled.
    Lining(const cloud::PointCloud&, const ElementSet& eligible, const std::vector<Vec3>& centreline,
           const Options&, Progress& = Progress::none());

    const Axis& axis() const { return axis_; }
    std::size_t rows() const { return rows_; }        ///< along the tunnel
    std::size_t columns() const { return columns_; }  ///< round it
    /// Radius of the lining in a cell; not-a-number in a hole.
    double radius(std::size_t row, std::size_t column) const;
    /// Whether nothing was measured in a cell and none of its neighbours tells where the lining is.
    bool hole(std::size_t row, std::size_t column) const { return cell(row, column).hole; }
    /// row * columns() + column of a place; none beyond the ends or far off.
    std::optional<std::size_t> cell_at(const Place&) const;
    double row_length() const { return row_length_; }      ///< data unit
    double column_angle() const { return column_angle_; }  ///< radians
    /// Inwards from the lining, data unit; negative behind it. None beyond the ends and at holes.
    std::optional<double> depth(const Vec3& world, const std::vector<std::size_t>* stretches = nullptr) const;
    /// Places larger than a fitting where nothing was measured: openings, side passages, shadows.
    std::vector<Hole> holes() const;

    struct Interval {
        double from = 0, to = 0, volume = 0, area = 0;  ///< chainage; area of the lining
    };
    /// What the lining encloses, by chainage; holes closed over.
    std::vector<Interval> volumes(double interval) const;
    /// Those that volumes() and mesh() are made of: at both ends and in the middle of each row.
    std::vector<Section> sections() const;
    /// Holes stay open or are closed over; ends are open or capped. Faces outwards.
    mesh::TriMesh mesh(bool close_holes, bool cap_ends) const;
    /// Only those of holes() whose place in `close` is not 0 are closed over.
    mesh::TriMesh mesh(const std::vector<char>& close, bool cap_ends) const;

  private:
    struct Cell {
        float outer = 0;                             // outermost radius that is borne out; not-a-number: none
        float r = 0, by_angle = 0, by_chainage = 0;  // plane of the lining at the middle of the cell
        bool hole = false;
        bool island = false;     // what was measured here hangs before an opening
        std::uint32_t flat = 0;  // number in flats_, from 1; 0: the radius is even
    };
    // Planes in a section that stands on the middle of the cell: out along its radius, across to greater
    // angles.
    struct Plane {
        double out = 0, by_across = 0, by_chainage = 0;
        // Here, so that the fits, which ask them most, need not call them.
        double radius(double da, double ds) const {
            const double lies = std::cos(da) - by_across * std::sin(da);
            return lies > 0.05 ? (out + by_chainage * ds) / lies
                               : INFINITY;  // along the ray: it never meets it
        }
        double depth(double radius, double da, double ds) const {
            return (out + by_across * radius * std::sin(da) + by_chainage * ds - radius * std::cos(da)) /
                   std::sqrt(1 + by_across * by_across + by_chainage * by_chainage);
        }
    };
    struct Flat {
        Plane one, two;  // the nearer one is the lining
    };
    struct Sample {
        std::uint32_t cell;
        float chainage, angle, radius;  // from the middle of the cell; the radius as it is
    };
    void gather(const cloud::PointCloud&, const ElementSet&, Progress&);
    void find_outer();
    void close_notches();
    bool drop_islands();
    void spread_holes();
    float slant_at(std::size_t row, std::size_t column) const;
    std::vector<Vec3> outer_places(std::size_t row, std::size_t column, int first, int last,
                                   bool straight) const;
    std::optional<Flat> flat_at(std::size_t row, std::size_t column, const Cell& even) const;
    bool hidden(std::size_t cell) const;  // its outermost points are of something before the lining
    double depth_in(std::size_t row, std::size_t column, const Place&) const;
    void find_usual();
    double behind_neighbour(std::size_t row, std::size_t column, const Place&, double own) const;
    double radius_at(std::size_t cell, double da, double ds) const;
    void fit(Progress&);
    void fill_holes();
    const Cell& cell(std::size_t row, std::size_t column) const { return cells_[row * columns_ + column]; }
    Place node_place(std::size_t row, std::size_t half_column) const;
    Vec3 node(std::size_t row, std::size_t column) const;

    Axis axis_;
    Options options_;
    double metre_ = 1, row_length_ = 1, column_angle_ = 1, typical_radius_ = 1;
    std::size_t rows_ = 0, columns_ = 0;
    std::vector<Cell> cells_;
    std::vector<Flat> flats_;
    std::vector<float> usual_;     // radius of each cell, of what is usual along the tunnel
    std::vector<Sample> samples_;  // by cell
    std::vector<std::size_t> first_;
};

}  // namespace pristine::tunnel
