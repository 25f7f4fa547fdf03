// What a project file holds, told without opening it for work.

#pragma once

#include <cstdint>
#include <filesystem>
#include <string>
#include <vector>

namespace pristine::store {

/// What is told of a project file.
struct Glance {
    std::string name;                ///< of the site
    std::vector<std::string> items;  ///< their names
    std::string last_step;           ///< title of the last commit
    std::string picture;             ///< PNG, as the window kept it; empty: none
    std::uint64_t bytes = 0;         ///< on the disk, with what belongs to it
};

/// Reads a few rows, however large the file is. Takes no lock and changes nothing. Throws Error(Io, Format).
Glance glance(const std::filesystem::path&);

/// The name of the note that holds the picture.
inline constexpr const char* kPictureNote = "picture";

}  // namespace pristine::store
