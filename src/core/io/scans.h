// Files that hold many scans: each as a cloud of its own, several as one, one as several.
//
// Records stay as they are: a scan is a stretch of the records of its file, and a joined cloud is its scans
// one after the other. Only the head, and the number in the column "scan", are those of the new whole.

#pragma once

#include <filesystem>
#include <memory>
#include <string>
#include <vector>

#include "core/cloud/point_cloud.h"
#include "core/io/record_cloud.h"

namespace pristine::io {

/// Records first .. first + count of another source.
class RecordStretch : public cloud::RecordSource {
  public:
    RecordStretch(std::shared_ptr<const cloud::RecordSource>, std::uint64_t first, std::uint64_t count,
                  std::string head);
    const cloud::RecordLayout& layout() const override { return layout_; }
    std::uint64_t count() const override { return count_; }
    void read(std::uint64_t first, std::span<std::byte> out) const override;

  private:
    std::shared_ptr<const cloud::RecordSource> of_;
    std::uint64_t first_, count_;
    cloud::RecordLayout layout_;
};

/// One scan of a cloud of many.
struct ScanPart {
    std::string name;
    std::uint64_t first = 0;  ///< of its records in the whole
    std::shared_ptr<const cloud::PointCloud> cloud;
};

/// What the head of a layout says of its scans, for the formats whose head does (E57, PTX): how many records
/// each has, its name, and a head for it alone.
struct ScanHead {
    std::string name, head;
    std::uint64_t records = 0;
};
/// Empty for heads that say nothing of scans.
std::vector<ScanHead> scan_heads(const cloud::RecordLayout&);
/// The opposite. Throws Error(Unsupported) when the layouts do not go together.
std::string joined_head(const std::vector<cloud::RecordLayout>&);

/// Whether the cloud holds more than one scan, and they can be parted.
bool has_several_scans(const cloud::PointCloud&);
/// Its scans, those without a point left out; the meaning of intensities and colours is that of the whole.
/// Throws Error(Unsupported) when there is one scan only, or they do not follow each other. O(n log n).
std::vector<ScanPart> parted_by_scan(const cloud::PointCloud&, Progress& = Progress::none());
/// The same of records that no cloud was built from yet; `known`: stations, unit and system of the whole.
std::vector<ScanPart> parted_by_scan(const std::shared_ptr<const cloud::RecordSource>&,
                                     const cloud::PointCloud::Parts& known, Progress&);
/// A file for each item beside `pattern`: "hall.e57" and the scans "Nave" and "Nave" give "hall - Nave.e57"
/// and "hall - Nave 2.e57". What a name of a file cannot hold becomes "_", long names are cut, items without
/// a name get their number. All names are different, also where case does not count.
std::vector<std::filesystem::path> files_by_scan(const std::filesystem::path& pattern,
                                                 const std::vector<std::string>& names);
/// Scans of one format and layout, as one cloud, in this order. Throws Error(Unsupported) for others.
std::shared_ptr<const cloud::PointCloud> joined_scans(
    const std::vector<std::shared_ptr<const cloud::PointCloud>>&, Progress& = Progress::none());

}  // namespace pristine::io
