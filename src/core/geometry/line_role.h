// What a line is for: said by the file that it came from, by what made it, or by a person; never read out of
// its name again afterwards.

#pragma once

#include <cstdint>
#include <string>

namespace pristine {

/// What a line is for.
enum class LineRole : std::uint8_t { Free, Breakline, Boundary, Hole, Axis, Contour, Finding };
inline constexpr int kLineRoles = 7;

/// "line", "breakline", "boundary", "hole", "axis", "contour", "finding": as files hold it.
const char* name_of(LineRole);
/// The role of such a word; Free for any other.
LineRole role_of_word(const std::string& word);
/// A guess from the name of a layer, made once as a file without roles is read: "Breaklines 2025" breaks,
/// "site boundary" bounds if it is closed. Free: the name says nothing.
LineRole role_in_name(const std::string& name, bool closed);

}  // namespace pristine
