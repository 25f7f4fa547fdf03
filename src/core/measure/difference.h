// Cut and fill between two surfaces by the exact overlay of their triangles: each pair that overlaps in plan
// is cut to its common polygon, on which the difference of heights is linear.

#pragma once

#include "core/base/progress.h"
#include "core/mesh/tri_mesh.h"

namespace pristine::measure {

/// How two surfaces are compared.
struct DifferenceOptions {
    double band = 0;          ///< what changed by no more than this, up or down, counts as unchanged
    double sigma_before = 0;  ///< noise of the heights of a vertex, one standard deviation
    double sigma_after = 0;
};

/// Later minus earlier: fill is material added. Data units, squared and cubed.
struct Difference {
    double cut = 0, fill = 0;  ///< volumes, both positive
    double cut_area = 0, fill_area = 0, unchanged_area = 0;
    double overlap_area = 0;         ///< covered by both
    double uncovered_area = 0;       ///< covered by one only
    double least = 0, greatest = 0;  ///< change where both are; 0 without overlap
    /// One standard deviation of fill - cut, from independent noise of the heights of all vertices.
    double uncertainty = 0;
    double net() const { return fill - cut; }
};

/// Triangles counter-clockwise in plan. O(n + overlapping pairs), parallel, the same for any number of
/// workers. Throws Cancelled.
Difference difference(const mesh::TriMesh& before, const mesh::TriMesh& after, const DifferenceOptions& = {},
                      Progress& = Progress::none());

/// Change of height at the corners of the common polygons, as a mesh whose z is the change: the map.
mesh::TriMesh difference_map(const mesh::TriMesh& before, const mesh::TriMesh& after,
                             Progress& = Progress::none());

/// The later surface cut along the earlier one's triangles, with the mean change of each piece.
struct ChangeMap {
    mesh::TriMesh mesh;
    std::vector<double> change;  ///< of each triangle
};
ChangeMap change_map(const mesh::TriMesh& before, const mesh::TriMesh& after, Progress& = Progress::none());

}  // namespace pristine::measure
