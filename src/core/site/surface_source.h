// What a surface in the document was built from, and building it again: points and lines may have changed,
// and what was removed stays removed.

#pragma once

#include <map>

#include "core/base/progress.h"
#include "core/site/site.h"
#include "core/surface/definition.h"

namespace pristine::site {

/// What a surface was built from, so that it can be built again.
struct SurfaceSource {
    surface::Definition definition;  ///< its exclusions are not used: the ledger says what is out
    /// Lines of the site that its breaklines and boundary came from, in the same order; 0: none.
    std::vector<std::uint64_t> breakline_ids, boundary_ids;
    /// Likewise of its patches: the outline, then their lines.
    std::vector<std::vector<std::uint64_t>> patch_ids;
    /// Areas of ledger entries, by their ids: kept as they were decided, so that they hold even where a build
    /// in between had no triangles there.
    std::map<std::uint64_t, surface::Rings> areas;
};
using SourcePtr = std::shared_ptr<const SurfaceSource>;

/// For the project file. unpacked() throws Error(Format).
std::string packed(const SurfaceSource&);
SurfaceSource unpacked_source(const std::string&);

/// The same source with the places that its lines have now; null if none of them changed or all are gone.
SourcePtr with_lines_of(const SurfaceSource&, const Site&);

/// A surface that was built again.
struct Rebuilt {
    std::shared_ptr<const cloud::PointCloud> cloud;
    SourcePtr source;
    surface::BuildReport report;
    std::vector<SetPtr> ledger, guards, kept;  ///< of each entry, in order
    SetPtr hidden;                             ///< null: nothing
};
/// Builds a surface item again. Areas of removals, guards, hidden and kept elements are cut into the new
/// triangles exactly, so that each of them is a set of whole triangles again. Throws as surface::build.
Rebuilt rebuild(const Item&, const SurfaceSource&, Progress& = Progress::none());

/// The item with its new triangles. Selections are dropped.
SitePtr replace_surface(const Site&, std::uint64_t item, const Rebuilt&);
/// Says what an item was built from.
SitePtr set_source(const Site&, std::uint64_t item, SourcePtr);

/// What an item is built from: its source, or, for a surface that came from a file, its own triangles.
SourcePtr source_of(const Item&);

/// The source with one more patch: the closed line `outline` and those of `lines` that have a place inside
/// it. Throws Error(Usage) when the outline is open.
SourcePtr with_patch(const SurfaceSource&, const Line& outline, const std::vector<LinePtr>& lines);

/// The definition without the points all of whose triangles are in the set; how many they are. Points of
/// breaklines stay.
std::pair<SourcePtr, std::size_t> without_points(const Item&, const ElementSet&);

}  // namespace pristine::site
