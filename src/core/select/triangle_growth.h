// Growing a selection of triangles over their neighbours.

#pragma once

#include "core/base/progress.h"
#include "core/cloud/point_cloud.h"
#include "core/elements/element_set.h"

namespace pristine::select {

/// `set` and every eligible triangle that shares a corner with one of its members. O(triangles in pages that
/// reach near the set).
ElementSet grown_by_ring(const cloud::PointCloud&, const ElementSet& set, const ElementSet& eligible,
                         Progress& = Progress::none());

/// `set` without the members that share a corner with an eligible triangle that is not in it.
ElementSet shrunk_by_ring(const cloud::PointCloud&, const ElementSet& set, const ElementSet& eligible,
                          Progress& = Progress::none());

/// Everything eligible that is reached from the members of `seeds` across edges whose two triangles turn by
/// at most `crease_deg` (180: any), seeds included. An edge of three triangles joins nothing; two that face
/// opposite ways turn by 180 degrees. O(n), and the neighbours of the mesh are worked out once for it.
ElementSet connected_triangles(const cloud::PointCloud&, const ElementSet& seeds, const ElementSet& eligible,
                               double crease_deg = 180, Progress& = Progress::none());

/// Every eligible triangle with a corner on the rim (of the eligible ones) that passes nearest to a triangle:
/// the first rim met going out from it ring by ring. Empty if its piece has none.
ElementSet round_rim(const cloud::PointCloud&, std::uint64_t triangle, const ElementSet& eligible,
                     Progress& = Progress::none());

}  // namespace pristine::select
