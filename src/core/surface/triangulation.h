// Triangles in plan with their neighbours: what Delaunay makes, and what constraints and cuts work on.
//
// Laws (tested): every triangle turns counter-clockwise, strictly; neighbours name each other across the edge
// that they share; an edge is constrained in both its triangles or in neither.

#pragma once

#include <array>
#include <cstdint>
#include <vector>

namespace pristine::surface {

/// A place in plan, data unit.
struct Plan {
    double x = 0, y = 0;
    bool operator==(const Plan&) const = default;
};

inline constexpr std::uint32_t kNone = UINT32_MAX;

/// Edge k of a triangle lies opposite its corner k, from corner k + 1 to corner k + 2.
struct Triangulation {
    std::vector<Plan> points;
    std::vector<std::array<std::uint32_t, 3>> corners;
    std::vector<std::array<std::uint32_t, 3>> beside;  ///< across edge k; kNone: the rim
    std::vector<std::uint8_t> constrained;             ///< bit k: edge k must stay

    std::size_t size() const { return corners.size(); }
    const Plan& point(std::uint32_t t, int k) const {
        return points[corners[t][static_cast<std::size_t>(k)]];
    }
    std::uint32_t corner(std::uint32_t t, int k) const { return corners[t][static_cast<std::size_t>(k)]; }
    std::uint32_t across(std::uint32_t t, int k) const { return beside[t][static_cast<std::size_t>(k)]; }
    bool fixed(std::uint32_t t, int k) const { return (constrained[t] >> k & 1) != 0; }
    void fix(std::uint32_t t, int k, bool on = true) {
        constrained[t] = static_cast<std::uint8_t>(on ? constrained[t] | 1 << k : constrained[t] & ~(1 << k));
    }
    /// Which corner of t a vertex is; -1: none.
    int place_of(std::uint32_t t, std::uint32_t vertex) const {
        for (int k = 0; k < 3; ++k)
            if (corner(t, k) == vertex) return k;
        return -1;
    }
    /// Which edge of t borders on the triangle `other`; -1: none.
    int edge_to(std::uint32_t t, std::uint32_t other) const {
        for (int k = 0; k < 3; ++k)
            if (across(t, k) == other) return k;
        return -1;
    }
    /// One triangle at each vertex; kNone for a vertex without one. At a rim it is the one from which all
    /// others are reached by going on counter-clockwise. O(n).
    std::vector<std::uint32_t> triangle_at() const;
};

inline constexpr int next(int k) {
    return k == 2 ? 0 : k + 1;
}
inline constexpr int previous(int k) {
    return k == 0 ? 2 : k - 1;
}

/// Whether t and its neighbour across edge k form a convex quadrilateral whose other diagonal is better: the
/// circle of t holds the corner opposite. Exact.
bool wants_flip(const Triangulation&, std::uint32_t t, int k);
/// Turns the edge k of t. t keeps its number and gets the new edge as edge 1, its neighbour as edge 1 too;
/// the quadrilateral must be strictly convex. Marks of the four outer edges go with them.
void flip(Triangulation&, std::uint32_t t, int k);

}  // namespace pristine::surface
