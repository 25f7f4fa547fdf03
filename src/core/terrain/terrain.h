// The ground of a site as one surface, however steep or broken, and how high a point stands above it.
//
// Method. Points are gathered in square cells of plan; the lowest clump of each that its surroundings bear
// out is its height. Heights are taken against the trend surface (planes fitted to what lies low in windows
// of the largest object's size, blended), so that a hillside is judged as level land is. Neighbouring cells
// whose heights meet within a walkable slope are joined to regions. A region that is smaller than the largest
// object and stands above what surrounds it on most of its rim is an object and is taken off; that is
// repeated, so that crowns and roofs that stand on something taken off go as well. A terrace stands above its
// surroundings on one side only, and stays. What is left is ground: planes are fitted to all points near it,
// and where ground cells of different regions meet, everything between their heights is a face of the ground.
//
// Against floors above each other see select/ground.h: here every place has one ground.

#pragma once

#include <cstdint>
#include <memory>
#include <optional>

#include "core/base/progress.h"
#include "core/cloud/point_cloud.h"
#include "core/elements/element_set.h"

namespace pristine::terrain {

/// How the ground of one site is found.
struct Options {
    double steepest = 35;        ///< degrees against the trend surface; steeper is a face or an object
    double largest_object = 25;  ///< side of the largest object that is no ground, metres
    double cell = 0;             ///< side of a cell, metres; 0: from the density of the points
    double metres_per_unit = 1;
    std::uint64_t most_points = 64'000'000;  ///< of more, an even sample is used
};

/// Side of the cells that the density of the points asks for, metres. O(n).
double cell_for(const cloud::PointCloud&, const ElementSet& eligible, double metres_per_unit = 1);

/// How large things on the ground may be, and what a smaller size would change.
struct LargestObject {
    double side = 25;  ///< metres
    /// The size below it, metres, with which this share of the points would be ground, most of them near
    /// `where`. share 0: the first size does.
    double smaller = 0, share = 0;
    Vec3 where{};
};
/// The size of the largest object, found from the points: of 25, 50, 100 and 200 m the largest at which more
/// than a few points in a thousand turn from ground into things; none larger than half the site. On an even
/// sample. O(n).
LargestObject largest_object(const cloud::PointCloud&, const ElementSet& eligible, const Options&,
                             Progress& = Progress::none());

struct Grid;

/// The ground of one site. Never changes; safe to ask from several threads.
class Terrain {
  public:
    /// From the eligible points. O(n log n). Throws Cancelled.
    Terrain(const cloud::PointCloud&, const ElementSet& eligible, const Options& = {},
            Progress& = Progress::none());
    ~Terrain();

    /// Height above the ground at the place of a point, data unit; negative below it, 0 on a face. None far
    /// from any ground.
    std::optional<double> above(const Vec3& world) const;
    /// Side of a cell, data unit.
    double cell() const;

  private:
    std::unique_ptr<Grid> grid_;
};

}  // namespace pristine::terrain
