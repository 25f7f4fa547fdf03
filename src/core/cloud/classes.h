// Classes of points: the codes of the LAS standard (ASPRS LAS 1.4 R15, table 17) and how often they occur.

#pragma once

#include <map>
#include <string>

#include "core/cloud/point_cloud.h"

namespace pristine::cloud {

/// "Ground", "Low vegetation", …; empty for a code that the standard leaves to the user or reserves.
std::string class_name(int code);
/// The codes that occur, with their counts; empty for a cloud without classes. O(n).
std::map<int, std::uint64_t> class_counts(const PointCloud&);

}  // namespace pristine::cloud
