// Clouds of points that came one by one, with their names and codes.

#pragma once

#include <memory>
#include <string>
#include <vector>

#include "core/base/progress.h"
#include "core/cloud/point_cloud.h"

namespace pristine::io {

/// Places, and what else a point file says of each.
struct PointList {
    std::string name;
    std::vector<Vec3> points;
    std::vector<std::string> names{}, codes{};  ///< of each point; empty: none has one
    /// What else is said of each point: words, or numbers (NaN: not said).
    struct Column {
        std::string name;
        std::vector<std::string> words;
        std::vector<double> numbers;  ///< empty where there are words
    };
    std::vector<Column> columns{};
};

/// A cloud whose records are x, y, z and, where there are any, the columns "point" and "code", and the other
/// columns; one of a name that is taken gets a number behind it. O(n log n). Throws Cancelled.
std::shared_ptr<const cloud::PointCloud> cloud_of_points(const PointList&, const cloud::Reference&,
                                                         Progress& = Progress::none());

}  // namespace pristine::io
