// A part of a surface made anew: what lies inside an outline gives way to triangles along other lines, and
// the rest stays to the bit.

#pragma once

#include <string>

#include "core/surface/clip.h"

namespace pristine::surface {

/// A line that edges of the surface follow.
struct Breakline {
    std::string name;
    std::vector<Vec3> points;
    bool closed = false;
};

/// A part of a surface that is made anew.
struct Patch {
    std::vector<Vec3> outline;     ///< closed, in plan; its heights are those of the surface
    std::vector<Breakline> lines;  ///< inside; places of them on the outline or beyond are left out
};

/// Cuts the surface exactly along the outline, drops what is inside with its vertices, and triangulates
/// there: the cut and the lines are kept, and no vertex is put on the cut, so that both sides share its
/// edges. A patch without lines is flat between the heights of its outline. Holes inside are filled. Throws
/// Error(Usage) for an outline that crosses itself or leaves the surface, and for a line that crosses the
/// outline between two places inside, each with the place; Cancelled.
mesh::TriMesh replace_part(const mesh::TriMesh&, const Patch&, Progress& = Progress::none());

}  // namespace pristine::surface
