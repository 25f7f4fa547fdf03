// Fences on triangles as wholes: what they touch, what they hold wholly, what a line drawn across crosses.
//
// Law: the result equals that of projecting every triangle (cut at the near plane) and deciding exactly, in
// pixels, by the orientation predicate.

#pragma once

#include <optional>

#include "core/select/fence.h"

namespace pristine::select {

/// Of a cloud of triangles, those that the rings take (even-odd, in pixels of the view). Reach::Middle is
/// decided by the middles' exact places. Seen: one of seven places of the triangle is in front in the
/// picture. Throws Cancelled. O(triangles in pages that an edge of the rings crosses).
ElementSet fence_triangles(const cloud::PointCloud&, const ViewFrame&, const std::vector<Polygon>& rings,
                           const ElementSet& eligible, const FenceOptions&, Progress& = Progress::none());

/// Those that an open line drawn in the view crosses or touches.
ElementSet across_line(const cloud::PointCloud&, const ViewFrame&, const Polygon& line,
                       const ElementSet& eligible, const FenceOptions&, Progress& = Progress::none());

/// Of a set, the triangles whose front (counter-clockwise) is turned to the eye.
ElementSet facing(const cloud::PointCloud&, const ViewFrame&, const ElementSet&,
                  Progress& = Progress::none());

/// The edge of a triangle nearest to a pixel, none beyond `within` pixels: edge k lies opposite corner k.
std::optional<int> edge_near(const cloud::PointCloud&, const ViewFrame&, std::uint64_t triangle, PixelPoint,
                             double within);

}  // namespace pristine::select
