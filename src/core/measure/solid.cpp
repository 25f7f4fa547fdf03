#include "core/measure/solid.h"

#include <cmath>

#include "core/repair/crossings.h"
#include "core/topology/adjacency.h"

namespace pristine::measure {

SolidFigures solid(const mesh::TriMesh& m, Progress& progress) {
    SolidFigures f;
    const topology::Adjacency a = topology::adjacency(m.triangles);
    f.rim_edges = a.rim_edges;
    f.non_manifold_edges = a.non_manifold_edges;
    f.inconsistent_edges = a.inconsistent_edges;
    f.closed = !m.triangles.empty() && f.rim_edges + f.non_manifold_edges + f.inconsistent_edges == 0;
    for (const auto& t : m.triangles)
        f.area += 0.5 * norm(cross(m.vertices[t[1]] - m.vertices[t[0]], m.vertices[t[2]] - m.vertices[t[0]]));
    f.crossings = repair::crossings(m, progress).size();
    if (!f.closed) return f;
    const double v = mesh::signed_volume(m);
    f.inwards = v < 0;
    f.volume = std::fabs(v);
    return f;
}

}  // namespace pristine::measure
