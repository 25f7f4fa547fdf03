// Elements of one cloud in another that has the same records.

#pragma once

#include "core/cloud/point_cloud.h"
#include "core/elements/element_set.h"

namespace pristine::cloud {

/// The elements of `to` whose record is that of an element of the set, moved by so many records; what falls
/// outside is left out. O(n).
ElementSet moved_by_records(const ElementSet&, const PointCloud& from, const PointCloud& to,
                            std::int64_t records = 0);

}  // namespace pristine::cloud
