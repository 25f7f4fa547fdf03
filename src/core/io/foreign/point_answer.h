// Points of maps as bytes, between pristine-reader and who called it.

#pragma once

#include <string>
#include <vector>

#include "core/io/lines/map_points.h"

namespace pristine::io {

/// For the other process.
std::string bytes_of(const std::vector<MapPoints>&);
/// The opposite. Throws Error(Format) for bytes that are none.
std::vector<MapPoints> map_points_from(const std::string& bytes);

}  // namespace pristine::io
