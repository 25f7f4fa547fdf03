// Readers that are not ours run in a process of their own, with limits of time and memory: a file that leads
// one of them astray ends with a sentence, not with the program.

#pragma once

#include <filesystem>
#include <string>
#include <vector>

namespace pristine::io {

/// What a reader may use for one file. Hostile files are small; large ones need more.
struct ReaderLimits {
    double seconds = 4;
    std::uint64_t bytes = 512u << 20;
};
/// 4 s and 512 MB, and for each megabyte of the file 2 s and 20 MB more.
ReaderLimits limits_for(const std::filesystem::path&);

/// Runs the program pristine-reader with these arguments and returns what it gave. Throws the Error that the
/// reader threw, and Error(Format) when it ended otherwise or reached a limit; `place` names the file.
std::string run_guarded(const std::vector<std::string>& arguments, const ReaderLimits&,
                        const std::string& place);

/// Main of pristine-reader: does what the arguments say and writes the answer to standard output.
int reader_main(const std::vector<std::string>& arguments);

}  // namespace pristine::io
