// From buckets of points, each a stretch of the curve, to finished pages: the part of building that is the
// same in memory and through a file.

#pragma once

#include <atomic>
#include <memory>
#include <mutex>
#include <vector>

#include "core/cloud/curve.h"
#include "core/cloud/page_sink.h"

namespace pristine::cloud {

/// Columns of the points of one stretch of the curve, in the order they came. Plain arrays, so that memory is
/// only touched as points arrive.
struct Bucket {
    std::uint64_t start = 0;  ///< first element in the finished cloud
    std::size_t size = 0;
    std::unique_ptr<std::int32_t[]> x, y, z;
    std::unique_ptr<std::uint16_t[]> intensity;
    std::unique_ptr<std::uint32_t[]> colour;
    std::unique_ptr<std::uint8_t[]> classification;
    std::unique_ptr<std::uint32_t[]> order;

    void allocate(const ColumnSet&);
};

/// Elements of a bucket by curve position, ties by arrival. O(n).
std::vector<std::uint32_t> sorted(const Bucket&, const CurveFrame&);

/// Sorts buckets and pours them into pages. Any number of buckets at once; a page goes to the sink when its
/// last point has come.
class PageFiller {
  public:
    PageFiller(std::uint64_t points, const ColumnSet&, const Grid&, PageSink&);
    ~PageFiller();
    void pour(const Bucket&, const CurveFrame&);
    /// Valid once all buckets were poured.
    std::vector<PageInfo>& info() { return info_; }

  private:
    struct OpenPage;
    void open(OpenPage&, std::size_t length) const;
    OpenPage& page_at(std::size_t page);
    void close(std::size_t page);

    std::uint64_t size_;
    ColumnSet set_;
    Grid grid_;
    PageSink& sink_;
    std::vector<std::unique_ptr<OpenPage>> open_;
    std::mutex mutex_;
    std::vector<PageInfo> info_;
};

/// Bounds, spacing and intensity range of a page in page order.
PageInfo describe(const PageColumns&, const Grid&);

}  // namespace pristine::cloud
