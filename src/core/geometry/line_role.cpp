#include "core/geometry/line_role.h"

#include <array>
#include <cctype>

namespace pristine {
namespace {

constexpr std::array<const char*, kLineRoles> kNames{"line", "breakline", "boundary", "hole",
                                                     "axis", "contour",   "finding"};

}  // namespace

const char* name_of(LineRole r) {
    return kNames[static_cast<std::size_t>(r)];
}

LineRole role_of_word(const std::string& word) {
    for (std::size_t k = 0; k < kNames.size(); ++k)
        if (word == kNames[k]) return static_cast<LineRole>(k);
    return LineRole::Free;
}

LineRole role_in_name(const std::string& name, bool closed) {
    std::string low;
    for (const char c : name) low += static_cast<char>(std::tolower(static_cast<unsigned char>(c)));
    const auto has = [&](const char* part) { return low.find(part) != std::string::npos; };
    if (has("break")) return LineRole::Breakline;
    if (has("contour")) return LineRole::Contour;
    if (has("centreline") || has("centerline") || has("alignment") || has("axis")) return LineRole::Axis;
    if (closed && (has("hole") || has("void"))) return LineRole::Hole;
    if (closed && (has("boundary") || has("outline") || has("limit"))) return LineRole::Boundary;
    return LineRole::Free;
}

}  // namespace pristine
