// What two corners picked on the rims of a mesh ask for.

#pragma once

#include <cstdint>
#include <vector>

#include "core/geometry/vec.h"
#include "core/mesh/tri_mesh.h"

namespace pristine::repair {

/// A vertex of a rim.
struct RimCorner {
    std::size_t rim = 0, corner = 0;  ///< which rim, and which of its vertices
};

/// What of a hole two corners mean.
enum class Between {
    Shorter,  ///< the part of the hole beside the shorter way along the rim
    Longer,
    Bridge  ///< a strip from the one to the other: two holes become one, or one becomes two
};

/// Stretches for fill_between (fill.h). Corners of two rims ask for a bridge, whatever `between` says; a
/// bridge is `width` edges wide at either end, at least one. Throws Error(Usage) when the two are the same,
/// or too near to each other for a bridge.
std::vector<std::vector<std::uint32_t>> stretches(const std::vector<std::vector<std::uint32_t>>& rims,
                                                  const RimCorner&, const RimCorner&, Between,
                                                  std::size_t width = 1);

}  // namespace pristine::repair
