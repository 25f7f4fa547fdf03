// Which triangles share edges; rims and pieces. For meshes and surfaces alike.

#pragma once

#include <array>
#include <cstdint>
#include <span>
#include <vector>

namespace pristine::topology {

inline constexpr std::uint32_t kNone = UINT32_MAX;
using Triangle = std::array<std::uint32_t, 3>;

/// Edge k of a triangle lies opposite its corner k, from corner k + 1 to corner k + 2. Across it: the
/// triangle that runs through the edge in the other direction; kNone where there is none, or not exactly one
/// (an edge of three triangles, or of two that run the same way).
struct Adjacency {
    std::vector<std::array<std::uint32_t, 3>> across;
    std::uint64_t boundary_edges = 0;      ///< edges of one triangle only
    std::uint64_t non_manifold_edges = 0;  ///< of more than two
    std::uint64_t inconsistent_edges = 0;  ///< of two that run the same way
};
/// O(n log n), parallel.
Adjacency adjacency(std::span<const Triangle>);

/// Closed walks along the rim, the triangles to the left (so that outer rims turn counter-clockwise seen from
/// above, holes clockwise). Vertex numbers; where rims touch in a vertex, walks turn so that each is as small
/// as it can be.
std::vector<std::vector<std::uint32_t>> boundary_loops(std::span<const Triangle>, const Adjacency&);

/// Number of the piece of each triangle, pieces joined across edges; from 0 on in order of their first
/// triangle.
struct Pieces {
    std::vector<std::uint32_t> of;
    std::vector<std::uint64_t> size;
};
Pieces pieces(std::span<const Triangle>, const Adjacency&);

}  // namespace pristine::topology
