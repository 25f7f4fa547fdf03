// A repair of an item's triangles as a decision that can be lifted: some are taken, some are made.
//
// Laws (tested): 1. A triangle that the repair did not name is the same element with the same record, corners
// and all that it carries to the bit. 2. Lifting the entry shows what was there before, applying it again
// what the repair made. 3. Every other set of the item (entries, guards, kept selections) holds the same
// triangles as before.

#pragma once

#include "core/base/progress.h"
#include "core/mesh/tri_mesh.h"
#include "core/site/site.h"

namespace pristine::site {

/// What a repair took of an item and put in its place.
struct Mended {
    std::shared_ptr<const cloud::PointCloud>
        cloud;                           ///< all triangles of the old one, and behind them the new
    std::vector<std::uint32_t> element;  ///< of each element of the old cloud, its number in this one
    SetPtr taken, made;                  ///< over this cloud
};

/// What turns the triangles shown of an item into `result`: a shown triangle that is not in it, the same way
/// round and its corners the same to the bit, is taken; one of it that is not shown is made, and carries what
/// the mesh carries there (mesh/carry.h). `Healed`: what is taken is not to be seen any more, so that only
/// its surroundings count. Throws Error(Usage) for an item without triangles; Cancelled. O(n log n).
enum class Carry : std::uint8_t { AsItWas, Healed };
Mended mended(const Item&, const mesh::TriMesh& result, Progress& = Progress::none(), Carry = Carry::AsItWas);

/// The item with the repair, as a new entry of its ledger; the selection is empty then. Throws Error(Usage)
/// when the item is gone, locked, or changed since, and when a guard holds what is taken.
SitePtr mend(const Site&, std::uint64_t item, const std::shared_ptr<const cloud::PointCloud>& of,
             const Mended&, const Decision&);

}  // namespace pristine::site
