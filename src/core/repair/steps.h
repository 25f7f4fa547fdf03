// The single repairs that repair() puts one after the other. Each takes a mesh and gives one; triangles that
// it does not name stay, their vertices to the bit.

#pragma once

#include <functional>
#include <string>
#include <vector>

#include "core/repair/repair.h"

namespace pristine::repair {

/// What one step of a repair did.
struct Step {
    mesh::TriMesh mesh;
    std::uint64_t removed = 0, made = 0;
    std::vector<Unrepaired> unrepaired;
    std::vector<Vec3> tight;  ///< corners of rims that no fill fits into; a ring less of triangles may help
};

/// The mesh without some triangles; vertices that are no longer used are left out.
mesh::TriMesh without(const mesh::TriMesh&, const std::vector<char>& gone);

/// Triangles without area go: short edges close up, caps are turned into their neighbour across the longest
/// edge. `tiny_edge`: edges shorter than this close up too; 0: only those of triangles without area.
Step drop_degenerate(const mesh::TriMesh&, double tiny_edge, Progress&);
/// Of triangles with the same corners the first stays; two that face opposite ways and hang on nothing else
/// go both.
Step drop_duplicates(const mesh::TriMesh&);
/// Turns triangles so that neighbours face the same way, each piece as most of it did; then pieces that are
/// closed and not inside of another face outwards.
Step orient_consistently(const mesh::TriMesh&);
/// Edges of more than two triangles: of the sheets that meet there those two stay joined that lie in the
/// largest and go on most evenly; smaller sheets that end there go. Then every fan of triangles at a corner
/// gets a corner of its own, drawn in by a thousandth of an edge so that they do not touch.
Step split_non_manifold_edges(const mesh::TriMesh&);
/// Corners that stand out like needles go, with their triangles; the holes are left to be filled.
Step drop_spikes(const mesh::TriMesh&, double spike_deg);
/// Pieces of fewer triangles go.
Step drop_small_pieces(const mesh::TriMesh&, std::uint64_t least);
/// Every triangle with a corner in one of these places goes.
Step widen(const mesh::TriMesh&, const std::vector<Vec3>& places);
/// Pieces inside of others go, but closed ones that face inwards, as cavities rightly do.
Step drop_inner_shells(const mesh::TriMesh&);
/// Bodies that pass through themselves or each other: their triangles are cut along the line where they meet,
/// and what lies inside goes, so that bodies become one; what is not cut stays to the bit. Where they touch
/// (a corner on a face, edges that meet, faces in one plane) corners there are moved by a millionth of an
/// edge first. Taken only when no other fault is added and no crossing left; else they stay as they are, and
/// drop_crossings does for them.
Step self_union(const mesh::TriMesh&, Progress&);
/// Triangles that cross others go, with `rings` rings round them, and what then lies inside of the rest.
Step drop_crossings(const mesh::TriMesh&, int rings, Progress&);
/// Every rim that is wanted is filled; a fill that would cross the mesh is tried flatter, then given up.
using RimWanted = std::function<bool(const mesh::TriMesh&, const std::vector<std::uint32_t>& rim)>;
Step fill_holes(const mesh::TriMesh&, const FillOptions&, std::uint64_t max_hole, const RimWanted&,
                Progress&);

}  // namespace pristine::repair
