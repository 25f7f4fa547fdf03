// The carved milestone of Ashmere Lock, as a scanner on a turntable saw it: the stone with what a raw mesh
// has wrong, the turntable, a clamp, and the markers that were stuck on it.

#pragma once

#include <filesystem>
#include <string>
#include <vector>

#include "core/mesh/attributes.h"
#include "core/mesh/tri_mesh.h"

namespace pristine::demo {

struct Marker {
    std::string name;
    Vec3 place;
    double radius = 0;  ///< metres
    std::string kind;   ///< "target", "sphere"
};

/// The stone as it is: closed; metres, standing on z = 0. `n` squares along each side of its faces.
mesh::TriMesh milestone(int n = 60);
/// The same scanned: its foot open, holes on the flat back, on the round top, round an edge and pinched,
/// crossings, flat triangles, a shell inside, floating bits; turntable below z = 0; clamp beside it.
mesh::TriMesh milestone_scan(int n = 60);
std::vector<Marker> milestone_markers();
/// Stone with lichen, pale targets at the markers, a dark table, a clamp of steel.
mesh::Attributes milestone_colours(const mesh::TriMesh&);

/// Writes milestone-scan.ply, milestone-markers.csv, milestone-truth.json. Throws Error.
void write_milestone(const std::filesystem::path& folder, bool replace);

}  // namespace pristine::demo
