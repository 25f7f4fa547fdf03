// Records that a reader had to unpack, kept in a temporary file until the project file has them.
//
// Formats whose points cannot be reached one by one (text of varying length, bit-packed streams) are unpacked
// once, in the order of the file; a fixed record for each point goes to a file without a name, which vanishes
// with its last reader.

#pragma once

#include <memory>
#include <span>

#include "core/base/scratch_file.h"
#include "core/cloud/record.h"

namespace pristine::io {

/// Writes a scratch file piece by piece.
class SpillWriter {
  public:
    /// In the scratch folder. Throws Error(Io).
    explicit SpillWriter(std::size_t record_bytes)
        : file_(std::make_shared<ScratchFile>()), record_bytes_(record_bytes) {}

    /// A whole number of records. Throws Error(Io) when the disk is full.
    void write(std::span<const std::byte> records);
    std::uint64_t count() const { return count_; }
    /// Ends writing; the records stay as long as the result lives.
    std::shared_ptr<const cloud::RecordSource> finish(cloud::RecordLayout layout);

  private:
    std::shared_ptr<ScratchFile> file_;
    std::size_t record_bytes_;
    std::uint64_t count_ = 0;
};

}  // namespace pristine::io
