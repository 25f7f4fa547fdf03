// A closed solid round a mesh, whatever is wrong with that.

#pragma once

#include "core/base/progress.h"
#include "core/mesh/tri_mesh.h"
#include "core/repair/deviation.h"

namespace pristine::repair {

/// How a wrap is made.
struct WrapOptions {
    double detail = 0;     ///< data unit, > 0: side of a cell; smaller things are rounded off
    double close_gap = 0;  ///< openings and hollows up to this wide are closed over; 0: twice the detail
};

/// A closed mesh round another one.
struct Wrapped {
    mesh::TriMesh mesh;
    Deviation deviation;  ///< of the solid from the mesh; what closes openings counts
};

/// A detail that fits the data: twice the median edge, within a fortieth and a three hundredth of the
/// diagonal, to two digits. 0 for a mesh without triangles. O(n).
double suggested_detail(const mesh::TriMesh&);

/// Laws (tested): the solid is closed, every edge of two triangles, every corner of one fan, facing outwards,
/// for any input with an area.
///
/// Cells that the mesh comes near to are a wall; what a flood from outside reaches is outside; the wall is
/// thinned from there to a skin round the mesh (a morphological closing by half the gap). The skin's outer
/// side is cut by tetrahedra, six to a cell (Payne & Toga 1990), which makes no doubtful cases, and its
/// corners are drawn onto the mesh where they stay apart. Throws Error(Usage) for a detail that is not
/// positive, an empty mesh, or one that needs more than 400 million cells (the message says which detail
/// would do); Cancelled.
Wrapped wrap(const mesh::TriMesh&, const WrapOptions&, Progress& = Progress::none());

}  // namespace pristine::repair
