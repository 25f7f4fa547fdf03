// A cloud, mesh or surface with every place somewhere else: in another reference system, or moved.

#pragma once

#include <functional>
#include <memory>
#include <vector>

#include "core/base/progress.h"
#include "core/cloud/point_cloud.h"
#include "core/geometry/similarity.h"

namespace pristine::io {

/// Puts places where they go; not-a-number for those that go nowhere. Called from several threads.
using PlaceMap = std::function<void(std::vector<Vec3>&)>;

/// A cloud elsewhere, or why there is none.
struct Mapped {
    std::shared_ptr<const cloud::PointCloud> cloud;  ///< null: some have no image
    std::uint64_t without_image = 0;
};
/// The same elements elsewhere, record k from record k, read through the records of the first. Columns,
/// attributes and stations come along. Triangles of terrain stay terrain; where they may be `tilted`, only if
/// they still face up. Throws Error, Cancelled. O(n log n).
Mapped mapped(const std::shared_ptr<const cloud::PointCloud>&, PlaceMap, const cloud::Reference&,
              Progress& = Progress::none(), bool tilted = false);

/// Moved, turned, scaled; `reference`: what the new coordinates mean. Throws Cancelled, Error.
std::shared_ptr<const cloud::PointCloud> placed(const std::shared_ptr<const cloud::PointCloud>&,
                                                const Similarity&, const cloud::Reference&,
                                                Progress& = Progress::none());

}  // namespace pristine::io
