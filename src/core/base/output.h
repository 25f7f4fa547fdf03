// Writing files so that each target is whole or untouched, and so that several files of one result appear
// together or not at all.
//
// Laws: 1. A target appears by a rename after its bytes were brought to the disk. 2. An output is never a
// file that the same work reads, nor another of its outputs, whatever the spelling of the path. 3. Only
// regular files are replaced; a symbolic link stays and what it points at is replaced; the access rights of a
// replaced file stay. 4. What was not finished is removed, also when the process is asked to end (SIGINT,
// SIGTERM).

#pragma once

#include <cstdint>
#include <filesystem>
#include <string>
#include <vector>

#include "core/base/error.h"

namespace pristine {

/// The outputs of one piece of work. While it lives, files that this thread finishes wait for commit(). A
/// group that is made while another of the same thread lives joins it: its files appear with those of the
/// outer one.
class OutputGroup {
  public:
    /// `inputs`: what the work reads. They and the files that belong to them (a .prj, the parts of a
    /// shapefile, materials) are never written.
    explicit OutputGroup(const std::vector<std::filesystem::path>& inputs = {});
    /// Without commit() nothing appears.
    ~OutputGroup();
    OutputGroup(const OutputGroup&) = delete;
    OutputGroup& operator=(const OutputGroup&) = delete;

    /// Refuses a target before any work is done for it. Throws Error(Usage: an input, or given twice;
    /// Conflict: it exists; Io: no folder, or not a regular file).
    void expect(const std::filesystem::path& target, bool replace);
    /// Makes all files appear. Throws Error(Io, Conflict); then none has changed.
    void commit();

  private:
    bool outer_;
    bool done_ = false;
};

/// A file written beside its target, synced and renamed by finish(). Without finish() the target is
/// untouched.
class OutputFile {
  public:
    /// Throws as OutputGroup::expect, and Error(Io) if it cannot be made.
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
    /// Makes the target appear, whole (in a group: when that commits). Throws Error(Io); then the target is
    /// untouched.
    void finish();

  private:
    void flush();
    std::filesystem::path target_, beside_;
    int fd_ = -1;
    bool replace_;
    std::string buffer_;
    std::uint64_t flushed_ = 0;
};

/// A private folder beside a target, in which a library writes files under their final names; finish() makes
/// them appear beside each other where the target is.
class OutputFolder {
  public:
    /// Throws as OutputFile.
    OutputFolder(const std::filesystem::path& target, bool replace);
    ~OutputFolder();
    OutputFolder(const OutputFolder&) = delete;
    OutputFolder& operator=(const OutputFolder&) = delete;

    /// Where the library writes what is to become the target.
    std::filesystem::path path() const;
    /// Adds a file that a library made in memory. Throws Error(Io).
    void add(const std::string& name, const void* data, std::size_t length);
    /// Moves every file of the folder to where the target is. Of files with the target's name and one of
    /// `companions` (".prj"), those that were not written anew are removed: they spoke for the old target.
    void finish(const std::vector<std::string>& companions = {});

  private:
    std::filesystem::path target_, folder_;
    bool replace_;
};

/// From now on SIGINT, SIGTERM and SIGHUP remove what is unfinished before they end the process. Call it
/// first in main, before any thread is made.
void remove_unfinished_on_signals();

}  // namespace pristine
