// A repair is looked at place by place, and undone where it did harm.
//
// Triangles that are in one of two meshes only, before or after a repair, are what it changed. DisjointSets
// where they share a corner they form places. Each place is judged by itself: the findings of both checks
// that touch it are counted by kind. A place stays repaired when no kind became more frequent there, some
// kind became rarer (or triangles were only turned), and no more surface is gone than its faulty triangles
// have and a share of the mesh. The others go back to what they were, and the outcome is checked again, until
// it holds for all.

#pragma once

#include <string>
#include <vector>

#include "core/repair/repair.h"

namespace pristine::repair {

/// A repaired mesh that is nowhere worse than it was.
struct Guarded {
    mesh::TriMesh mesh;
    Check after;
    /// What stayed as it was, and why; one for each place.
    struct Left {
        std::vector<Vec3> corners;
        std::string why;
    };
    std::vector<Left> left;
};

/// Of each triangle of `before` whether one of `after` has the same corners, turned the same way. O(n log n).
std::vector<char> still_there(const mesh::TriMesh& before, const mesh::TriMesh& after);

/// `found`: the check of `before`, with the same options as are used for the outcome. O(n log n) for each
/// round of checking, of which there are at most eight; then everything is left. Throws Cancelled.
Guarded guarded(const mesh::TriMesh& before, const Check& found, const mesh::TriMesh& proposed,
                const CheckOptions&, double most_loss, Progress&);

}  // namespace pristine::repair
