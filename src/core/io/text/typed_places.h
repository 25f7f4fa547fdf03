// Places that a person typed, or pasted from a list.

#pragma once

#include <string_view>
#include <vector>

#include "core/geometry/vec.h"

namespace pristine::io {

struct TypedPlaces {
    std::vector<Vec3> places;  ///< easting, northing, height; 0 without heights
    bool heights = true;       ///< false: there were only eastings and northings
};

/// A place a line: easting, northing and height, or none of them with a height; a name before them and
/// what follows three numbers is passed over, and so are empty lines and what follows a #. Numbers stand
/// apart by blanks, tabs, semicolons, or by commas when nothing else parts them; otherwise a comma may be the
/// decimal mark. Throws Error(Format) naming the line. O(characters).
TypedPlaces typed_places(std::string_view text);

}  // namespace pristine::io
