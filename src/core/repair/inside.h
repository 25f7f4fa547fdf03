// Whether a part of a mesh lies inside of the rest.

#pragma once

#include <cstdint>
#include <optional>
#include <vector>

#include "core/mesh/winding_tree.h"
#include "core/repair/edges.h"

namespace pristine::repair {

/// In front of most of a few of its triangles the mesh winds round once or more, or the other way: it lies
/// inside, or is turned inside out.
bool is_inside(const mesh::WindingTree&, const std::vector<std::uint32_t>& piece);

/// Why such a rim is not filled.
inline constexpr const char* kJoinsInnerSheet =
    "The rim joins the outside to a sheet inside: a fill would make one of the two. Take a ring away and "
    "fill, "
    "or remove the inner sheet";

/// For a rim of which a part lies on the outside and another on a sheet inside the body: closing it would
/// join the two. Gives a corner of the rim that lies deepest inside; none when the rim lies on one sheet,
/// wherever that is. Between its two sides the mesh winds half round a triangle of the outside, whatever its
/// shape, and once round one inside.
std::optional<Vec3> joins_inner_sheet(const mesh::WindingTree&, const Incidence&,
                                      const std::vector<std::uint32_t>& rim);

}  // namespace pristine::repair
