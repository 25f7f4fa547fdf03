// A cloud together with the parts of others that lie near it: what rules look at when a site was cut into
// tiles.

#pragma once

#include <memory>
#include <vector>

#include "core/base/progress.h"
#include "core/cloud/point_cloud.h"
#include "core/elements/element_set.h"

namespace pristine::cloud {

/// A tile and what its neighbours hold near it. Never changes.
class WithNeighbours {
  public:
    /// `own` and the points of the others within `buffer` (data unit) of its bounds, as one cloud. All must
    /// have the same grid and records: Error(Usage) otherwise. O(n log n).
    WithNeighbours(std::shared_ptr<const PointCloud> own,
                   const std::vector<std::shared_ptr<const PointCloud>>& others, double buffer,
                   Progress& = Progress::none());

    const PointCloud& cloud() const { return *joined_; }
    /// What of a set over cloud() belongs to the own cloud, as a set over that.
    ElementSet own_part(const ElementSet& joined) const;

  private:
    std::shared_ptr<const PointCloud> own_, joined_;
};

}  // namespace pristine::cloud
