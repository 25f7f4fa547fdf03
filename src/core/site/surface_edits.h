// Changes of what a surface is built from, as decisions that can be lifted: points dropped or moved in
// height, a part replaced, limits of its triangles, thinning.
//
// Laws (tested): 1. A surface whose changes are all lifted is the one that would have been built without
// them, in whatever order they were lifted. 2. Lifted and applied again, it is what it was. 3. The active
// state of an entry of the ledger is that of its change.

#pragma once

#include "core/site/surface_source.h"

namespace pristine::site {

/// A source with one change more.
struct Edited {
    SourcePtr source;          ///< null: there is nothing to change
    std::uint32_t number = 0;  ///< of the change
    Cause cause;               ///< for its entry
    std::uint64_t count = 0;   ///< points that went, or lines that the new part follows
};

/// Without the points all of whose triangles are in the set. Points of breaklines stay. Throws Error(Usage)
/// when the triangles came from a file.
Edited without_points(const Item&, const ElementSet&);
/// Heights inside the set evened out, each by no more than `most` (repair/smooth_heights.h). Points of
/// breaklines, at rims and at the edge of the set stay. `largest` gets the largest change. Throws as
/// smoothed_heights().
Edited with_smoothed(const Item&, const ElementSet&, double most, double& largest,
                     Progress& = Progress::none());
/// One more patch: the closed line `outline` and those of `lines` that have a place inside it. Throws
/// Error(Usage) when the outline is open.
Edited with_patch(const SurfaceSource&, const Line& outline, const std::vector<LinePtr>& lines);
/// Other limits; a surface has one entry of them at most, lifted when there are none any more.
Edited with_limits(const SurfaceSource&, const surface::Limits&);
/// Says that its points are what thinning left of `part` of an item.
Edited with_thinning(const SurfaceSource&, double tolerance, const Item& of, const SetPtr& part);

/// The source with these changes in force, or lifted. Throws Error(Usage) when points that thinning left out
/// are wanted and their item is gone; Cancelled.
SourcePtr with_edits(const Site&, const SurfaceSource&, const std::vector<std::uint32_t>& numbers,
                     bool active, Progress& = Progress::none());

/// The entry of the ledger for a change that the item's source holds: a new one, or that of this number anew.
SitePtr enter_edit(const Site&, std::uint64_t item, std::uint32_t number, const Decision&);

/// Where a change lies; empty: everywhere.
Box3 place_of(const SurfaceEdit&, const SurfaceSource&, std::uint32_t number);

}  // namespace pristine::site
