// The ground or floor that a cloud stands on, in one or several levels: what the ground guard protects.
//
// Method: points are gathered in square columns of plan and in thin slices of height. A slice that holds
// clearly more points than its neighbours above and below is a level candidate, and so is the lowest slice of
// each column that is backed by others. Candidates of neighbouring columns that meet within a walkable slope
// are joined; what joins to less than `least_area` is furniture, a shoulder, the bed of a cart, and dropped.
// Holes in a level (the shadow under what stands on it) are closed from its rim inwards. A height is read
// between the column centres.
//
// Floors under bridges and one above the other are levels of their own; the level that counts for a point is
// the one nearest below it.

#pragma once

#include <optional>
#include <vector>

#include "core/base/progress.h"
#include "core/cloud/point_cloud.h"
#include "core/elements/element_set.h"

namespace pristine::terrain {

/// How the ground is looked for.
struct GroundOptions {
    double column = 0.25;       ///< side of a column, metres
    double slice = 0.04;        ///< height of a slice, metres
    double steepest = 0.7;      ///< rise over run that still joins two columns
    double least_area = 3;      ///< square metres; a smaller level is none
    double close_within = 1.5;  ///< holes in a level are closed this far from its rim, metres
    double around = 1.25;       ///< what stands out is judged against the ground this far round it, metres
    double stands_out = 0.06;   ///< so far above the ground round it a level is the foot of something, metres
    double metres_per_unit = 1;
    std::uint64_t most_points = 64'000'000;  ///< of more, an even sample is used
};

/// Floors above each other: level patches, and how high a point stands above the one below it. Never changes.
class GroundModel {
  public:
    /// From the eligible points; an even sample of at most most_points of them. O(n log n). Throws Cancelled.
    GroundModel(const cloud::PointCloud&, const ElementSet& eligible, const GroundOptions& = {},
                Progress& = Progress::none());

    /// Height of the level nearest below z (or at most `reach` above it) at a place; none where there is no
    /// ground.
    std::optional<double> below(double x, double y, double z, double reach = 0) const;
    /// Square units of plan that have a level.
    double area() const;
    /// Side of a column, data unit.
    double column() const { return side_; }

  private:
    struct Level {
        float z;    // relative to z0_
        int part;   // joined columns share it
        bool lone;  // a point or two that nothing backs
    };
    void lay_columns(const cloud::PointCloud&);
    void find_levels(const cloud::PointCloud&, const ElementSet& eligible, Progress&);
    void join_levels(Progress&);
    void close_holes(Progress&);
    void attach_scattered(const std::vector<char>& large, Progress&);
    void drop_what_stands_out(Progress&);
    std::optional<float> height_in(int cx, int cy, int part) const;
    std::size_t at(int cx, int cy) const {
        return static_cast<std::size_t>(cy) * static_cast<std::size_t>(nx_) + static_cast<std::size_t>(cx);
    }

    GroundOptions options_;
    double side_ = 1, x0_ = 0, y0_ = 0, z0_ = 0;
    int nx_ = 0, ny_ = 0;
    std::vector<std::vector<Level>> columns_;
};

/// The eligible points from `margin` below the ground to `margin` above it (data unit). Throws Cancelled.
ElementSet ground_guard(const cloud::PointCloud&, const GroundModel&, const ElementSet& eligible,
                        double margin, Progress& = Progress::none());

}  // namespace pristine::terrain
