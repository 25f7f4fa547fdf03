// LAZ: LAS with compressed points, read and written. Record formats 0-5 in one stream a chunk, 6-10 in
// layers.
//
// In memory such a file is the LAS file that it stands for: a RecordLayout of format "las" whose head is that
// of the uncompressed file. So LAS and LAZ turn into each other bit for bit.

#pragma once

#include "core/base/file.h"
#include "core/io/cloud_io.h"
#include "core/io/las/las_header.h"
#include "core/io/laz/scheme.h"

namespace pristine::io::laz {

/// A chunk of a file: where it lies, and which records it holds.
struct Chunk {
    std::uint64_t offset = 0, bytes = 0;  ///< in the file
    std::uint64_t first = 0, count = 0;   ///< records
};

/// Where the chunks are, checked against the file. With `accept_partial`, those that are whole, and a
/// warning; a missing table is replaced by decoding from the start. Throws Error(Format).
std::vector<Chunk> find_chunks(const InputFile&, const LasHeader&, const Scheme&, bool accept_partial,
                               std::vector<std::string>& warnings);

/// The table of chunks as written after them.
std::string chunk_table(const std::vector<Chunk>&, bool with_counts);

/// Records of a LAZ file, decoded chunk by chunk as they are asked for; the chunks read last are kept.
class LazRecords : public cloud::RecordSource {
  public:
    LazRecords(std::shared_ptr<const InputFile> file, cloud::RecordLayout layout, Scheme scheme,
               std::vector<Chunk> chunks);
    ~LazRecords() override;
    const cloud::RecordLayout& layout() const override { return layout_; }
    std::uint64_t count() const override {
        return chunks_.empty() ? 0 : chunks_.back().first + chunks_.back().count;
    }
    void read(std::uint64_t first, std::span<std::byte> out) const override;

    const std::vector<Chunk>& chunks() const { return chunks_; }
    /// One chunk, past the cache.
    std::vector<std::byte> decode(const Chunk&) const;
    /// Leaves out chunks that turned out to be damaged, before anybody has read a record.
    void drop(const std::vector<char>& damaged);

  private:
    struct Cache;
    std::shared_ptr<const InputFile> file_;
    cloud::RecordLayout layout_;
    Scheme scheme_;
    std::vector<Chunk> chunks_;
    std::unique_ptr<Cache> cache_;
};

/// Takes records in file order, compresses chunks in parallel and writes them behind the head.
class Writer {
  public:
    /// `before`: the head of the uncompressed file. Writes the head of the LAZ file at once.
    Writer(OutputFile& out, std::string before, int point_format, std::size_t record_bytes);
    void write(const std::byte* records, std::size_t count);
    /// Writes what is left and the table; returns where the file then ends. head() may be written after that.
    std::uint64_t finish();
    std::string& head() { return head_; }

  private:
    void flush(bool all);
    OutputFile& out_;
    Scheme scheme_;
    std::string head_;
    std::vector<std::byte> waiting_;
    std::vector<Chunk> chunks_;
    std::uint64_t start_ = 0;
};

}  // namespace pristine::io::laz
