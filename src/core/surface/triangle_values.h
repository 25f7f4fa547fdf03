// Numbers that triangles of a surface are judged by.

#pragma once

#include <cstdint>
#include <vector>

#include "core/mesh/tri_mesh.h"

namespace pristine::surface {

/// Edges and angles are those in plan, which triangulation is about; areas those in space.
enum class TriangleValue : std::uint8_t {
    LongestEdge,    ///< data unit
    Area,           ///< square data units
    EdgeRatio,      ///< longest edge against the shortest
    SmallestAngle,  ///< degrees
    LargestAngle,   ///< degrees
    Elevation,      ///< of its middle, data unit
    Slope,          ///< degrees from level
    Facing,         ///< degrees clockwise from north that it falls towards; not-a-number when level
    PieceSize,      ///< triangles that hang together with it
    RimDistance,    ///< from its middle to the nearest rim in plan, data unit
    RimEdge,        ///< the limit Limits::rim_edge below which it is peeled off the rim, data unit
    RimAngle        ///< the limit Limits::rim_angle below which it is peeled off the rim, degrees
};

/// One for each triangle; not-a-number for RimDistance, RimEdge and RimAngle of a triangle that no way leads
/// to from a rim. O(n), the three of rims O(n log n).
std::vector<double> triangle_values(const mesh::TriMesh&, TriangleValue);

}  // namespace pristine::surface
