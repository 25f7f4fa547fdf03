// Attributes of a mesh carried over to one that was made from it.

#pragma once

#include "core/base/progress.h"
#include "core/mesh/attributes.h"
#include "core/mesh/tri_mesh.h"

namespace pristine::mesh {

/// A triangle that `from` has too, its three corners the same to the bit, keeps what it had, also when it was
/// turned round. Every other takes group, material and texture of the triangle of `from` nearest to its
/// middle, its corners at their nearest places of that one; its colours are those at the nearest places of
/// `from`, run evenly into each other where it lies off that mesh, as in a hole that was filled; normals are
/// its own. O(n log n), parallel. Throws Cancelled.
Attributes carried(const TriMesh& from, const Attributes&, const TriMesh& to, Progress& = Progress::none());

}  // namespace pristine::mesh
