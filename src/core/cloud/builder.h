// Turns points, as a reader delivers them, into the pages of a PointCloud.
//
// Method: a sample sort. Splitters of the curve come from a sample; batches are scattered into buckets and
// let go one by one; each bucket is sorted by curve position (equal positions keep the order they came in)
// and poured into pages; a page that is full is shuffled block by block, bounded, and its original order
// packed. The result does not depend on the number of workers, nor on whether it went through a file, and
// equals sort-everything-then-cut (tests/support/cloud_makers.h).
//
// In memory: 19 bytes a point for batches or pages with all columns, 6 more for what is in between. A cloud
// that does not fit in the memory budget is sorted through a scratch file instead (an external sort: groups
// of batches are scattered in memory and written as runs, each bucket gathers its part of every run), and its
// pages stay in a scratch file from which they are looked into.

#pragma once

#include <functional>
#include <span>
#include <vector>

#include "core/base/progress.h"
#include "core/cloud/page_sink.h"

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

/// Points that are asked for batch by batch, in any order, from several threads, and twice where they do not
/// fit in memory.
struct PointSource {
    std::vector<std::uint32_t> sizes;  ///< of each batch; a batch may turn out smaller, never larger
    ColumnSet columns;
    std::function<PointBatch(std::size_t)> batch;
    /// Called once, when every batch has been asked for once, before points are used: for what is only known
    /// then. The batches are given when they are kept; else all are asked for again.
    std::function<void(std::span<PointBatch>)> settle;
    /// The share of the whole that reading takes, for progress.
    double read_share = 0.5;
};

/// As below, batches of a source; in memory or through a file, whichever the memory budget asks for.
std::shared_ptr<const PointCloud> build(const PointSource&, PointCloud::Parts parts,
                                        Progress& progress = Progress::none());

/// The order of all points becomes their number in this sequence, batch 0 first, unless batches name their
/// records (some records may have no point). Every batch must have the same columns. At most 2^32 - 1 points:
/// else Error(Unsupported). Batches of about kPageSize points are best. `parts` brings grid, records,
/// stations, crs and unit; the rest of it is filled in. O(n log(n / buckets)). Throws Cancelled.
std::shared_ptr<const PointCloud> build(std::vector<PointBatch> batches, PointCloud::Parts parts,
                                        Progress& progress = Progress::none());

/// The same as parts, for those who have more to add before they become a cloud.
PointCloud::Parts sorted_parts(std::vector<PointBatch> batches, PointCloud::Parts parts,
                               Progress& progress = Progress::none());

/// Always through a scratch file, with at most about `memory` bytes of buffers. Throws Error(Io) when the
/// disk is full.
std::shared_ptr<const PointCloud> build_through_file(const PointSource&, PointCloud::Parts parts,
                                                     std::uint64_t memory,
                                                     Progress& progress = Progress::none());

/// Throws Error(Unsupported) for more points than a cloud can number.
void check_point_count(std::uint64_t points);

/// Typical spacing of points on the surface they lie on, from the nearest neighbours of a few of them inside
/// one block. Data units per axis = scale; 0 for fewer than two points. O(12 n).
float block_spacing(const PositionPage&, std::size_t first, std::size_t count, const Grid&);

}  // namespace pristine::cloud
