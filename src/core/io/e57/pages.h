// The pages of an E57 file: 1020 bytes of content, then their CRC-32C. Offsets are "physical" with the
// checksums, "logical" without.

#pragma once

#include <memory>
#include <span>
#include <string>
#include <vector>

#include "core/base/file.h"
#include "core/base/output.h"

namespace pristine::io::e57 {

constexpr std::uint64_t kPageBytes = 1024, kPayload = kPageBytes - 4;

/// CRC-32C (Castagnoli), as of RFC 3720.
std::uint32_t crc32c(std::span<const std::byte>);

/// Place in the content without checksums.
inline std::uint64_t to_logical(std::uint64_t physical) {
    return physical / kPageBytes * kPayload + std::min(physical % kPageBytes, kPayload);
}
/// And back: place in the file.
inline std::uint64_t to_physical(std::uint64_t logical) {
    return logical / kPayload * kPageBytes + logical % kPayload;
}

/// The content of an E57 file, each page checked against its checksum.
class PagedReader {
  public:
    explicit PagedReader(const InputFile& file) : file_(file), size_(to_logical(file.size())) {}
    std::uint64_t size() const { return size_; }
    /// Bytes at a logical offset, checked page by page. Throws Error(Format) naming the page that is damaged
    /// or missing.
    void read(std::uint64_t logical, std::span<std::byte> out);
    std::string place(std::uint64_t logical) const { return file_.place(to_physical(logical)); }

  private:
    const std::vector<std::byte>& page(std::uint64_t number);
    const InputFile& file_;
    std::uint64_t size_, first_ = UINT64_MAX;
    std::vector<std::byte> window_, page_;
    std::uint64_t page_number_ = UINT64_MAX;
};

/// The opposite: content into pages with checksums.
class PagedWriter {
  public:
    explicit PagedWriter(OutputFile& out) : out_(out) {}
    void write(std::span<const std::byte>);
    void write(const std::string& s) { write(std::as_bytes(std::span(s))); }
    std::uint64_t logical() const { return done_ + page_.size(); }
    std::uint64_t physical() const { return to_physical(logical()); }
    /// Pads the last page and rewrites the first bytes of the file, which must lie in its first page.
    void finish(const std::string& head);

  private:
    void flush();
    OutputFile& out_;
    std::vector<std::byte> page_, first_page_;
    std::uint64_t done_ = 0;
};

}  // namespace pristine::io::e57
