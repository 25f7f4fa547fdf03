// What plans of reports and sheets share. For parts/ only.

#pragma once

#include "core/report/figures/map.h"
#include "core/report/parts/context.h"

namespace pristine::report {

/// Size, unit and scale of a plan of this part; what it shows is not set.
MapSpec map_spec(const Context&, const Shown&);
/// The plan shows all of a mesh.
void bounds_of(const mesh::TriMesh&, MapSpec&);
/// Pale tints by height as its ground, so that lines and words stay in front; the mesh must outlive the spec.
void height_ground(MapSpec&, const mesh::TriMesh&, const Shown&);
/// A box round what is shown of items.
Box3 shown_box(const std::vector<site::ItemPtr>&);
/// With scale and place.
Figure figure_of(Map);

}  // namespace pristine::report
