// Where finished pages go: into memory, or into a scratch file when the cloud is larger than the budget.

#pragma once

#include <memory>
#include <string>
#include <vector>

#include "core/cloud/point_cloud.h"
#include "core/elements/column_writer.h"

namespace pristine::cloud {

/// Which columns a cloud has beside its positions.
struct ColumnSet {
    bool intensity = false, colour = false, classification = false;
    /// Bytes of one point with these columns.
    std::size_t bytes() const {
        return 12u + (intensity ? 2u : 0u) + (colour ? 4u : 0u) + (classification ? 1u : 0u);
    }
};

/// One page, in page order. Columns that the cloud does not have are empty.
struct PageColumns {
    std::vector<std::int32_t> x, y, z;
    std::vector<std::uint16_t> intensity;
    std::vector<std::uint32_t> colour;
    std::vector<std::uint8_t> classification;
    std::string packed_order;  ///< empty when the order is kept elsewhere
};

class ScratchOrder;

/// Takes the pages of a cloud while it is built.
class PageSink {
  public:
    /// `through_file`: reserves its room on the disk at once. Throws Error(Io).
    PageSink(std::uint64_t points, const ColumnSet&, bool through_file);
    ~PageSink();
    /// Each page once, from any thread. Throws Error(Io).
    void put(std::size_t page, PageColumns);
    /// Fills in columns and, if pages brought it, the order of `parts`.
    void finish(PointCloud::Parts& parts);

  private:
    std::uint64_t points_;
    ColumnSet set_;
    ColumnWriter<std::int32_t> x_, y_, z_;
    ColumnWriter<std::uint16_t> intensity_;
    ColumnWriter<std::uint32_t> colour_;
    ColumnWriter<std::uint8_t> classification_;
    std::vector<std::string> order_;
    std::shared_ptr<ScratchOrder> order_in_file_;
};

/// What a cloud of this size takes in memory once it is built, with what building needs beside it.
std::uint64_t memory_needed(std::uint64_t points, const ColumnSet&);

}  // namespace pristine::cloud
