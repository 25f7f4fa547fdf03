// Closed meshes with known measures, and ways to break them: for trials, tests and benchmarks.

#pragma once

#include <random>
#include <string>

#include "core/mesh/tri_mesh.h"

namespace pristine::demo {

/// A sphere from an octahedron whose edges are cut into `n`: 8 n^2 triangles.
mesh::TriMesh ball(int n, double radius, const Vec3& centre = {});
/// A box of n by n squares on each face.
mesh::TriMesh block(int n, const Vec3& lo, const Vec3& hi);
/// A ring: `n` round, a third as many across.
mesh::TriMesh ring(int n, double radius, double thickness);

/// What is wrong with a broken mesh, one of each kind at a random place.
enum class Break {
    Hole,  ///< a disc of triangles gone
    Fin,   ///< a triangle on an edge that two have already
    DoubledFace,
    TurnedFaces,   ///< some face the other way
    Needle,        ///< a corner pulled far out
    FlatTriangle,  ///< a corner on the edge opposite
    ShortEdge,     ///< two corners almost in one place
    FloatingPiece,
    PushedThrough,  ///< a corner pushed through the far side of what is near it
    PinchedCorner,  ///< two corners far apart on the surface, in one place
    CrossingBody    ///< a ball stuck half into the surface
};
inline constexpr int kBreaks = 11;
/// False when it found no fit place; the mesh is then as it was. `where` receives places that it touched.
bool break_mesh(mesh::TriMesh&, Break, std::mt19937_64&, std::vector<Vec3>& where);

}  // namespace pristine::demo
