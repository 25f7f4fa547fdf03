// Readers that are not ours run in a process of their own, with limits of time and memory: a file that leads
// one of them astray ends with a sentence, not with the program.
//
// What the other process writes is a row of frames: 'A', the number of bytes (64 bits, low byte first), the
// bytes; or 'E', the digit of an ErrorCode and a sentence up to the end; and 'Z' when it has written all.

#pragma once

#include <chrono>
#include <cstdint>
#include <filesystem>
#include <memory>
#include <string>
#include <string_view>
#include <vector>

namespace pristine::io {

/// What a reader may use for one file. Hostile files are small; large ones need more.
struct ReaderLimits {
    double seconds = 4;
    std::uint64_t bytes = 512u << 20;
};
/// 4 s and 512 MB, and for each megabyte of the file 2 s and 20 MB more.
ReaderLimits limits_for(const std::filesystem::path&);
ReaderLimits limits_for(std::uint64_t bytes);

/// The program pristine-reader at work on one file; it is ended with this object.
class GuardedReader {
  public:
    /// `place` names the file in errors. `input`: what the reader finds on its standard input, a file that is
    /// in memory only. Throws Error(Io) when it cannot be started.
    GuardedReader(const std::vector<std::string>& arguments, const ReaderLimits&, std::string place,
                  std::string_view input = {});
    ~GuardedReader();
    GuardedReader(const GuardedReader&) = delete;
    GuardedReader& operator=(const GuardedReader&) = delete;

    /// The bytes of the next frame; false after the last one. Waits. Throws the Error that the reader threw,
    /// and Error(Format) when it ended otherwise or reached a limit.
    bool next(std::string& frame);

  private:
    class Child;
    [[noreturn]] void broke_off(bool in_time);
    void take(char* to, std::size_t bytes);

    std::unique_ptr<Child> child_;
    ReaderLimits limits_;
    std::string place_;
};

/// Runs the program with these arguments and returns the one frame that it gave. Throws as next().
std::string run_guarded(const std::vector<std::string>& arguments, const ReaderLimits&,
                        const std::string& place);

/// Main of pristine-reader: does what the arguments say and writes frames to standard output.
int reader_main(const std::vector<std::string>& arguments);

}  // namespace pristine::io
