// Where a place lies along a line.

#pragma once

#include <optional>
#include <span>

#include "core/geometry/vec.h"

namespace pristine {

/// A place beside a line, data unit.
struct Chainage {
    double along = 0;  ///< from the first place, in plan
    double off = 0;    ///< from the line, in plan
};
/// Of the nearest place of the line in plan; of equals the first. A closed line repeats its first place. None
/// for fewer than two places. O(n).
std::optional<Chainage> chainage_of(std::span<const Vec3> line, Vec3 place);

}  // namespace pristine
