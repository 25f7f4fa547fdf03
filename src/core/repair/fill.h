// Closing holes of a mesh.

#pragma once

#include <string>
#include <vector>

#include "core/base/progress.h"
#include "core/mesh/tri_mesh.h"

namespace pristine::repair {

/// What a fill looks like.
enum class FillKind : std::uint8_t {
    Flat,      ///< as a film of soap would: the least area, as good as that is
    Tangent,   ///< going on as the surroundings run up to the rim (thin plate)
    Curvature  ///< bending on as they bend: along the quadric that the surroundings lie on, where they do
};

/// How holes are filled.
struct FillOptions {
    FillKind kind = FillKind::Curvature;
    double density = 1;  ///< lengths of new edges, times those of the surroundings
    bool refine = true;  ///< false: no new vertices
};

/// A fill that fits: its triangles name vertices of the mesh and, from mesh.vertices.size() on, new ones.
struct Fill {
    std::vector<Vec3> vertices;  ///< new ones
    std::vector<std::array<std::uint32_t, 3>> triangles;
    std::string why_not;  ///< filled when there is no fill: the rim is not fit, and for which reason
    Vec3 where;           ///< the place of that
};

/// Fills a rim, given as topology::boundary_loops gives it (triangles to the left). The rim is triangulated
/// with the least worst fold and area (Barequet & Sharir 1995, Liepa 2003), refined to the edge lengths of
/// the surroundings, and faired (thin-plate energy with cotangent weights; Botsch & Kobbelt 2004). A rim that
/// lies in a plane on which the mesh stands upright is a cut, and is closed by that plane whatever the kind.
/// Nothing of the mesh is moved. Throws Cancelled. O(n^3) in the rim up to 300 edges, beyond that O(n^2).
Fill fill_boundary(const mesh::TriMesh&, const std::vector<std::uint32_t>& rim, const FillOptions& = {},
                   Progress& = Progress::none());

/// The same with the triangles at each vertex known already, for many rims of one mesh.
Fill fill_boundary(const mesh::TriMesh&, const struct Incidence&, const std::vector<std::uint32_t>& rim,
                   const FillOptions&, Progress& = Progress::none());

/// Fills a part of a hole, or bridges two: stretches of rims, each as its rim runs and at least an edge long,
/// in the order in which they run round what is to be filled; from the end of each to the start of the next a
/// new rim is drawn, straight for flat fills, else as the surroundings run up to its ends. One stretch is the
/// part of a rim between two corners; two are a bridge. Else as fill_boundary.
Fill fill_between(const mesh::TriMesh&, const std::vector<std::vector<std::uint32_t>>& stretches,
                  const FillOptions& = {}, Progress& = Progress::none());

/// The mesh with the fill.
mesh::TriMesh with_fill(const mesh::TriMesh&, const Fill&);

}  // namespace pristine::repair
