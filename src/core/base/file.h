// Files: reading at any offset, and writing so that the target is whole or untouched.

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

/// A file written beside its target, synced and renamed by finish(). Without finish() the target is
/// untouched.
class OutputFile {
  public:
    /// Throws Error(Conflict) if the target exists and `replace` is false; Error(Io) if it cannot be made.
    OutputFile(const std::filesystem::path& target, bool replace);
    ~OutputFile();
    OutputFile(const OutputFile&) = delete;
    OutputFile& operator=(const OutputFile&) = delete;

    void write(const void* data, std::size_t length);
    void write(const std::string& text) { write(text.data(), text.size()); }
    /// Overwrites bytes already written (a header whose counts are known last).
    void write_at(std::uint64_t offset, const void* data, std::size_t length);
    const std::filesystem::path& target() const { return target_; }
    std::uint64_t written() const { return flushed_ + buffer_.size(); }
    /// Makes the target appear, whole. Throws Error(Io); then the target is untouched.
    void finish();

  private:
    void flush();
    std::filesystem::path target_, beside_;
    int fd_ = -1;
    std::string buffer_;
    std::uint64_t flushed_ = 0;
    bool finished_ = false;
};

}  // namespace pristine
