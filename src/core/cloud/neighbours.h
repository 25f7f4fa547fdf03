// Nearest neighbours of the points of a cloud, exactly, over all pages.
//
// Method: points in Morton order of a fine grid, so that the cells of every coarser level are stretches of
// the same order (Connor & Kumar 2010 use that order in a similar way); occupied cells of each level in
// bricks of 64 behind a hash. A leaf cell gathers the stretches of its 27 neighbours once for all its points,
// each pruned by its distance; a point whose k-th neighbour may lie beyond them is asked again one level up,
// where large stretches are descended into, nearest child first. The result does not depend on the number of
// workers.

#pragma once

#include <array>
#include <cstdint>
#include <functional>
#include <memory>
#include <span>
#include <vector>

#include "core/base/progress.h"
#include "core/base/spill_vector.h"
#include "core/cloud/point_cloud.h"
#include "core/elements/element_set.h"

namespace pristine::cloud {

/// The nearest points of a cloud, found by its own order. Never changes; safe to ask from several threads.
class NeighbourIndex {
  public:
    /// Of the members of a set. Takes about 27 bytes a member, 60 while it is built; in a scratch file what
    /// does not fit in the memory budget. O(n log n). Throws Error(Io), Cancelled.
    NeighbourIndex(const PointCloud&, const ElementSet& members, Progress& = Progress::none());
    ~NeighbourIndex();

    std::size_t size() const { return element_.size(); }
    /// The element of the i-th point of the index; points next to each other lie near each other.
    std::uint32_t element(std::size_t i) const { return element_[i]; }
    /// Relative to origin(), data unit.
    std::array<float, 3> position(std::size_t i) const { return {x_[i], y_[i], z_[i]}; }
    const Vec3& origin() const { return origin_; }

    /// Points of the index, nearest first, without the point itself; squared distances. Fewer than k only
    /// when there are no more.
    struct Nearest {
        std::span<const float> squared;
        std::span<const std::uint32_t> index;
    };
    /// Calls visit(i, nearest) once for every point of the index, from several threads. 1 <= k <= 64. Throws
    /// Cancelled.
    void for_each_nearest(unsigned k, const std::function<void(std::size_t, const Nearest&)>& visit,
                          Progress& = Progress::none()) const;

  private:
    struct Level;
    class Search;
    void sort(const PointCloud&, const ElementSet&, Progress&);
    void make_levels();

    Vec3 origin_;
    float side_ = 1;  // of the finest cells
    SpillVector<float> x_, y_, z_;
    SpillVector<std::uint32_t> element_;
    SpillVector<std::uint64_t> code_;
    std::vector<Level> levels_;
    std::size_t start_level_ = 0;  // where the cells hold a few points
};

}  // namespace pristine::cloud
