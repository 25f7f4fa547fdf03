#include "core/measure/solid.h"

#include <cmath>

#include "core/repair/crossings.h"
#include "core/topology/adjacency.h"

namespace pristine::measure {

SolidFigures solid(const mesh::TriMesh& m, Progress& progress) {
    SolidFigures f;
    const topology::Adjacency a = topology::adjacency(m.triangles);
    f.boundary_edges = a.boundary_edges;
    f.non_manifold_edges = a.non_manifold_edges;
    f.inconsistent_edges = a.inconsistent_edges;
    f.closed = !m.triangles.empty() && f.boundary_edges + f.non_manifold_edges + f.inconsistent_edges == 0;
    f.area = mesh::surface_area(m);
    f.crossings = repair::crossings(m, progress).size();
    if (!f.closed) return f;
    const double v = mesh::signed_volume(m);
    f.inwards = v < 0;
    f.volume = std::fabs(v);
    return f;
}

}  // namespace pristine::measure
