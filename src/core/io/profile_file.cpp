#include "core/io/profile_file.h"

#include <fmt/format.h>

#include <cmath>

#include "core/base/error.h"
#include "core/base/file.h"
#include "core/io/text/table.h"

namespace pristine::io {
namespace {

char separator_in(std::string_view line) {
    for (const char c : {';', '\t', ','})
        if (line.find(c) != std::string_view::npos) return c;
    return 0;
}

}  // namespace

tunnel::DesignProfile read_design_profile(const std::filesystem::path& path) {
    const InputFile file(path);
    constexpr std::uint64_t kMost = 16u << 20;  // a profile is some hundred lines
    const std::string place = path.filename().string();
    if (file.size() > kMost) throw Error(ErrorCode::Format, "This is too large for a profile", place);
    const std::string text = file.read_string(0, file.size());
    tunnel::DesignProfile profile;
    std::size_t from = 0, number = 0;
    bool heading = true;  // the first line may be one
    while (from < text.size()) {
        const std::size_t to = std::min(text.find('\n', from), text.size());
        std::string_view line = std::string_view(text).substr(from, to - from);
        from = to + 1;
        ++number;
        while (!line.empty() && (line.back() == '\r' || line.back() == ' ')) line.remove_suffix(1);
        if (line.empty() || is_comment(line)) continue;
        const std::vector<std::string_view> words = split_line(line, separator_in(line));
        std::array<double, 2> corner{};
        const bool whole = words.size() >= 2 && parse_number(words[0], false, corner[0]) &&
                           parse_number(words[1], false, corner[1]) && std::isfinite(corner[0]) &&
                           std::isfinite(corner[1]);
        if (!whole && !heading)
            throw Error(ErrorCode::Format, "A line of a profile has two numbers: offset and height",
                        fmt::format("{}, line {}", place, number));
        heading = false;
        if (whole) profile.corners.push_back(corner);
    }
    if (profile.corners.size() > 1 && profile.corners.front() == profile.corners.back())
        profile.corners.pop_back();
    if (profile.corners.size() < 3)
        throw Error(ErrorCode::Format, "A profile has three corners at least", place);
    return profile;
}

}  // namespace pristine::io
