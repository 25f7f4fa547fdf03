// What can be said of a selection at a glance: how many, what share, from what height to what height.

#pragma once

#include <optional>

#include "core/base/progress.h"
#include "core/cloud/point_cloud.h"
#include "core/elements/element_set.h"

namespace pristine::select {

/// A rough floor under a cloud: the second lowest height in square cells of plan, from an even sample. Good
/// enough to say how far a selection stays off a level or gently sloping floor; it removes nothing and guards
/// nothing.
class LocalFloor {
  public:
    LocalFloor() = default;
    /// From the points of `eligible`. O(points / 16).
    LocalFloor(const cloud::PointCloud&, const ElementSet& eligible, Progress& = Progress::none());
    /// Height of the floor under (x, y): the lowest of the cell and two rings round it; none where nothing
    /// was sampled.
    std::optional<double> height(double x, double y) const;
    double cell_size() const { return cell_; }

  private:
    double cell_ = 0, x0_ = 0, y0_ = 0;
    int nx_ = 0, ny_ = 0;
    std::vector<float> low_;  // relative to z0_; NaN: empty
    double z0_ = 0;
};

struct Summary {
    std::uint64_t count = 0;
    std::uint64_t of = 0;                   ///< eligible elements of the item
    std::optional<double> lowest, highest;  ///< heights, data unit; none for an empty selection
    /// Points more than a cell of the floor below it do not count: the floor says nothing about them.
    std::optional<double> lowest_above_floor;
    /// How many lie how high above the floor: equal bins from 0 to histogram_top; what lies outside is in the
    /// end bins.
    std::vector<std::uint64_t> above_floor;
    double histogram_top = 0;  ///< data unit
    Box3 box;                  ///< world box, from page bounds: may be a little large
};

Summary summarise(const cloud::PointCloud&, const ElementSet& selection, const ElementSet& eligible,
                  const LocalFloor* floor = nullptr, Progress& = Progress::none());

}  // namespace pristine::select
