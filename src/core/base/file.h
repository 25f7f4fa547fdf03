// Files: reading at any offset.

#pragma once

#include <cstdint>
#include <filesystem>
#include <span>
#include <string>

#include "core/base/error.h"

namespace pristine {

/// A file open for reading. Reads from several threads at once are fine.
class InputFile {
  public:
    /// Throws Error(Io) when it cannot be opened or is a folder.
    explicit InputFile(const std::filesystem::path& path);
    ~InputFile();
    InputFile(const InputFile&) = delete;
    InputFile& operator=(const InputFile&) = delete;

    std::uint64_t size() const { return size_; }
    const std::filesystem::path& path() const { return path_; }

    /// Reads exactly out.size() bytes at `offset`; Error(Format) naming the offset when the file ends before.
    void read_at(std::uint64_t offset, std::span<std::byte> out) const;
    /// Reads at most out.size() bytes; returns how many there were.
    std::size_t read_some(std::uint64_t offset, std::span<std::byte> out) const;
    /// The bytes [offset, offset+length) as a string. Checked against the size before allocating.
    std::string read_string(std::uint64_t offset, std::uint64_t length) const;
    /// "name, byte 123": for messages.
    std::string place(std::uint64_t offset) const;

  private:
    std::filesystem::path path_;
    int fd_ = -1;
    std::uint64_t size_ = 0;
};

}  // namespace pristine
