// Turns points, as a reader delivers them, into the pages of a PointCloud.
//
// Method: a sample sort. Splitters of the curve come from a sample; batches are scattered into buckets and
// let go one by one; each bucket is sorted by curve position (equal positions keep the order they came in)
// and poured into pages; a page that is full is shuffled block by block, bounded, and its original order
// packed. The result does not depend on the number of workers, and equals sort-everything-then-cut
// (tests/support/reference_builder.h).
//
// Memory: 19 bytes a point for batches or pages with all columns, 6 more for what is in between.

#pragma once

#include <vector>

#include "core/base/progress.h"
#include "core/cloud/curve.h"
#include "core/cloud/point_cloud.h"

namespace pristine::cloud {

/// A run of points in the order they came. A column is empty or as long as x.
struct PointBatch {
    std::vector<std::int32_t> x, y, z;
    std::vector<std::uint16_t> intensity;
    std::vector<std::uint32_t> colour;
    std::vector<std::uint8_t> classification;
    std::vector<std::uint32_t>
        record;  ///< number of the record of each point; empty: in sequence with the batches

    std::size_t size() const { return x.size(); }
};

/// The order of all points becomes their number in this sequence, batch 0 first, unless batches name their
/// records (some records may have no point). Every batch must have the same columns. At most 2^32 - 1 points:
/// else Error(Unsupported). Batches of about kPageSize points are best. `parts` brings grid, records,
/// stations, crs and unit; the rest of it is filled in. O(n log(n / buckets)). Throws Cancelled.
std::shared_ptr<const PointCloud> build(std::vector<PointBatch> batches, PointCloud::Parts parts,
                                        Progress& progress = Progress::none());

/// The frame of the curve that build() uses for these batches.
CurveFrame frame_of(const std::vector<PointBatch>& batches);

/// Typical spacing of points on the surface they lie on, from the nearest neighbours of a few of them inside
/// one block. Data units per axis = scale; 0 for fewer than two points. O(12 n).
float block_spacing(const PositionPage&, std::size_t first, std::size_t count, const Grid&);

}  // namespace pristine::cloud
