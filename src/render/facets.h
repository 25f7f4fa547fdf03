// Triangles into a key buffer (splat.h).

#pragma once

#include "core/elements/element_set.h"
#include "core/geometry/view_frame.h"
#include "core/mesh/tri_mesh.h"
#include "render/splat.h"

namespace pristine::render {

struct FacetRun {
    std::size_t page = 0;        ///< of the mesh: its triangles [page * kPageSize, …)
    std::uint32_t first_id = 0;  ///< id of the first of them
    const ElementSet* set = nullptr;
    bool draw_members = false;  ///< of the set; false: all but its members
};

/// A pixel belongs to a triangle when its middle does; depth is that of the triangle there, exact in
/// perspective. What lies nearer than the near plane is cut off.
void draw_facets(const ViewFrame&, const mesh::TriMesh&, const FacetRun&, const Target&);

}  // namespace pristine::render
