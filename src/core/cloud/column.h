// One more column of a cloud, fetched from its full records when somebody asks for it.

#pragma once

#include <memory>
#include <string>

#include "core/base/progress.h"
#include "core/cloud/point_cloud.h"

namespace pristine::cloud {

/// Values of a field for every element, in page order, as differences to `base` so that times and the like
/// keep their digits in 32 bits. Not-a-number stays so.
struct FetchedColumn {
    double base = 0;  ///< the first finite value
    PagedArray<float> values;
    float lo = 0, hi = 0;  ///< 1 % and 99 % quantiles of an even sample: what a colour ramp should span
};

/// One pass over the records. Memory: 8 bytes a point while it runs, 4 after; a scratch file where they do
/// not fit in the budget. Throws Error(Usage) if there is
/// no such field, Error(Io, Format), Cancelled.
std::shared_ptr<const FetchedColumn> fetch_column(const PointCloud&, const std::string& field,
                                                  Progress& = Progress::none());

}  // namespace pristine::cloud
