// For each reader a folder of files that are odd but valid, and of files that are broken, made by our own
// writers and byte edits; with what reading each must give.

#pragma once

#include <cstdint>
#include <filesystem>
#include <optional>
#include <string>
#include <vector>

namespace pristine::test {

struct OddFile {
    std::filesystem::path path;  ///< FOLDER/reader/odd/… or FOLDER/reader/broken/…
    bool valid = true;
    std::uint64_t points = 0;  ///< of a valid file; of a broken one those that are still whole
    std::string says;  ///< part of the message of a broken file; of the warning of an odd one, or empty
};

/// Files of lines, the same way; `points` are lines.
std::vector<OddFile> write_odd_lines(const std::filesystem::path& folder);

/// Writes all of them; the same bytes each time.
std::vector<OddFile> write_odd_files(const std::filesystem::path& folder);

}  // namespace pristine::test
