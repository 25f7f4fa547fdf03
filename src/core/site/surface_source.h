// What a surface in the document was built from, and building it again: points and lines may have changed,
// and what was removed stays removed.

#pragma once

#include <map>

#include "core/base/progress.h"
#include "core/site/site.h"
#include "core/surface/definition.h"

namespace pristine::site {

/// A change of what a surface is built from. The entry of the ledger with its number says who decided it, why
/// and when; surface_edits.h makes and lifts it.
struct SurfaceEdit {
    enum class Kind : std::uint8_t { DropPoints, ReplacePart, Limits, Thinning, Heights };
    Kind kind = Kind::DropPoints;
    bool active = true;
    /// DropPoints: those that went; their places in plan stay out. Heights: places with their new height.
    std::vector<Vec3> points;
    std::vector<Vec3> held;  ///< the points at these places without any change, thinned or not as all are
    surface::Patch patch{};  ///< ReplacePart, while it is lifted: what is in the definition else
    std::vector<std::uint64_t> patch_ids;  ///< likewise: lines of the site that it came from
    surface::Limits limits{};              ///< Limits: those in force, or that were
    double tolerance = 0;                  ///< Thinning: in height, data unit
    std::uint64_t item = 0;                ///< Thinning: that the points are of
    SetPtr part;                           ///< Thinning: which of its points there were before
};

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
    std::map<std::uint32_t, SurfaceEdit> edits;  ///< by the number that the ledger names; from 1
    std::vector<std::uint32_t> patch_edits;      ///< of each patch: its edit; 0: made before edits were kept
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

}  // namespace pristine::site
