// Geometry of tests as text (WKT), so that a failing case can be pasted into a test or a map.

#pragma once

#include <string>
#include <vector>

#include "core/geometry/polygon.h"
#include "core/mesh/tri_mesh.h"

namespace pristine::test {

/// Places of a POINT, MULTIPOINT, LINESTRING or the outer ring of a POLYGON, without the repeated last one.
/// Missing heights are 0. Throws std::invalid_argument for what is no WKT.
std::vector<Vec3> places_of(const std::string& wkt);
/// The rings of a POLYGON in plan.
std::vector<Polygon> rings_of_wkt(const std::string& wkt);
/// A TIN Z; corners in the same place are one vertex.
mesh::TriMesh mesh_of_wkt(const std::string& wkt);
/// The opposite.
std::string wkt_of(const mesh::TriMesh&);

}  // namespace pristine::test
