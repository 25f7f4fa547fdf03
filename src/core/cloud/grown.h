// A mesh with some triangles more: what was there keeps its records, and they are not read for it.

#pragma once

#include "core/cloud/triangles.h"

namespace pristine::cloud {

/// Records of another cloud, then some of our own.
class GrownRecords : public RecordSource {
  public:
    GrownRecords(std::shared_ptr<const PointCloud> base, std::shared_ptr<const RecordSource> more);
    const RecordLayout& layout() const override { return more_->layout(); }
    std::uint64_t count() const override { return first_ + more_->count(); }
    void read(std::uint64_t first, std::span<std::byte> out) const override;
    /// Of which the first records are; how many.
    const PointCloud& base() const { return *base_; }
    std::uint64_t base_count() const { return first_; }

  private:
    std::shared_ptr<const PointCloud> base_;
    std::shared_ptr<const RecordSource> more_;
    std::uint64_t first_;
};

/// The triangles of `old`, then those that were made, as one cloud: records in this order, elements along the
/// curve. `parts` is said of those that were made alone. Nothing when their records have other fields, or
/// they lie too far outside of the grid of `old`: then cloud_of_triangles is to be asked. Throws Cancelled.
std::shared_ptr<const PointCloud> grown(const std::shared_ptr<const PointCloud>& old,
                                        const mesh::TriMesh& made, const TriangleParts& parts,
                                        Progress& = Progress::none());

}  // namespace pristine::cloud
