// Members of a set by their rank: the k-th member, in ascending order, counted from 0.
//
// A mesh made from what is shown of an item has a triangle for each member of that set, in this order. What
// is found in the mesh is brought back to the item by these functions, and what is selected there is brought
// to the mesh.

#pragma once

#include <cstdint>
#include <vector>

#include "core/elements/element_set.h"

namespace pristine {

/// The members of `of` that have these ranks. Any order, doubles allowed; ranks of of.count() or more count
/// for nothing. O(pages + members of the pages that are met + n log n).
ElementSet members_at(const ElementSet& of, std::vector<std::uint32_t> ranks);

/// The members of `of` whose flag is not 0; flags[k] belongs to the member of rank k, and what has none is
/// left out. O(members).
ElementSet members_flagged(const ElementSet& of, const std::vector<char>& flags);

/// For each member of `of`, by rank, 1 if `in` holds it, else 0. Both sets are over the same size.
/// O(members).
std::vector<char> flags_of(const ElementSet& of, const ElementSet& in);

}  // namespace pristine
