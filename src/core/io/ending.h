// The ending of a file name, by which formats are told.

#pragma once

#include <algorithm>
#include <cctype>
#include <filesystem>
#include <string>

namespace pristine::io {

/// With its dot, in lower case; empty if there is none.
inline std::string ending_of(const std::filesystem::path& path) {
    std::string e = path.extension().string();
    std::transform(e.begin(), e.end(), e.begin(),
                   [](unsigned char c) { return static_cast<char>(std::tolower(c)); });
    return e;
}

}  // namespace pristine::io
