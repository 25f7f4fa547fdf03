// A file without a name in the scratch folder: it vanishes with its last user, and after a crash.

#pragma once

#include <cstddef>
#include <cstdint>
#include <span>

namespace pristine {

/// A file without a name that goes with the object.
class ScratchFile {
  public:
    /// Throws Error(Io). `reserve` bytes are taken on the disk at once, so that later writes inside them, and
    /// a mapping of them, cannot fail for want of room.
    explicit ScratchFile(std::uint64_t reserve = 0);
    ~ScratchFile();
    ScratchFile(const ScratchFile&) = delete;
    ScratchFile& operator=(const ScratchFile&) = delete;

    /// From several threads at once is fine when the places differ. Throws Error(Io).
    void write_at(std::uint64_t offset, std::span<const std::byte> bytes);
    /// Exactly as many bytes as fit in `out`. Throws Error(Io), Error(Usage) beyond the end.
    void read_at(std::uint64_t offset, std::span<std::byte> out) const;
    int descriptor() const { return fd_; }

  private:
    int fd_ = -1;
};

}  // namespace pristine
