// A profile as text: offset and height on each line.

#pragma once

#include <filesystem>

#include "core/tunnel/design.h"

namespace pristine::io {

/// Two numbers a line, parted by blanks, commas, semicolons or tabs: offset to the right of the line, height
/// above it, in the unit of the data. A first line of words is a heading; lines that begin with # do not
/// count; a last corner that repeats the first is dropped. Throws Error(Io), Error(Format) with the line.
tunnel::DesignProfile read_design_profile(const std::filesystem::path&);

}  // namespace pristine::io
