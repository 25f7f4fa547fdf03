// Classes of points: the codes of the LAS standard (ASPRS LAS 1.4 R15, table 17) and how often they occur.

#pragma once

#include <cstdint>
#include <map>
#include <memory>
#include <string>

#include "core/cloud/point_cloud.h"
#include "core/elements/element_set.h"

namespace pristine::cloud {

/// "Ground", "Low vegetation", …; empty for a code that the standard leaves to the user or reserves.
std::string class_name(int code);
/// The codes that occur, with their counts; empty for a cloud without classes. O(n).
std::map<int, std::uint64_t> class_counts(const PointCloud&);
/// 0x00RRGGBB: one for each code, alike on every site.
std::uint32_t class_colour(int code);
/// The elements of each class that occurs; all are of class 0 in a cloud without classes. O(n) at the first
/// call for a cloud, then at hand as long as it is one of the last few that were asked for. Thread safe.
std::shared_ptr<const std::map<std::uint8_t, ElementSet>> class_sets(
    const std::shared_ptr<const PointCloud>&);

}  // namespace pristine::cloud
