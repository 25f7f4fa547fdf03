// Boxes of triangles in a tree: which of them meet a box, and what of a mesh is nearest to a place.

#pragma once

#include <array>
#include <cstdint>
#include <functional>
#include <limits>
#include <vector>

#include "core/geometry/triangle.h"
#include "core/mesh/tri_mesh.h"

namespace pristine::mesh {

/// The triangles in the order of a space-filling curve, four to a leaf; above them boxes of pairs. The mesh
/// must outlive it. Boxes are singles, rounded outwards. O(n log n) to make, in parallel; about 40 bytes a
/// triangle.
class BoxTree {
  public:
    explicit BoxTree(const TriMesh&);

    struct Box {
        std::array<float, 3> lo, hi;
        bool meets(const Box& o) const {
            return lo[0] <= o.hi[0] && o.lo[0] <= hi[0] && lo[1] <= o.hi[1] && o.lo[1] <= hi[1] &&
                   lo[2] <= o.hi[2] && o.lo[2] <= hi[2];
        }
    };
    static constexpr std::size_t kLeaf = 4;

    std::size_t leaves() const { return levels_.empty() ? 0 : levels_[0].size(); }
    /// Triangles of a leaf.
    std::size_t first(std::size_t leaf) const { return leaf * kLeaf; }
    std::size_t last(std::size_t leaf) const { return std::min(order_.size(), (leaf + 1) * kLeaf); }
    std::uint32_t triangle(std::size_t place) const { return order_[place]; }
    const Box& leaf_box(std::size_t leaf) const { return levels_[0][leaf]; }
    const Box& box(std::size_t place) const { return boxes_[place]; }
    /// Node k of level l + 1 stands above the nodes 2k and 2k + 1 of level l; level 0 are the leaves.
    std::size_t levels() const { return levels_.size(); }
    std::size_t level_size(std::size_t level) const { return levels_[level].size(); }
    const Box& node_box(std::size_t level, std::size_t k) const { return levels_[level][k]; }
    /// Where boxes are counted from.
    const Vec3& origin() const { return origin_; }
    Box box_of(const Box3&) const;

    /// Calls visit(leaf) for each leaf from `from` on whose box meets `b`.
    template <class Visit>
    void leaves_meeting(const Box& b, std::size_t from, Visit&& visit) const;
    /// Calls visit(triangle) for each triangle whose box meets `b`.
    template <class Visit>
    void meeting(const Box3& b, Visit&& visit) const;

    struct Nearest {
        std::uint32_t triangle = UINT32_MAX;
        Vec3 place;
        double distance = std::numeric_limits<double>::infinity();
    };
    /// The nearest place within `reach`; triangle UINT32_MAX: none. Thread safe.
    Nearest nearest(const Vec3& p, double reach = std::numeric_limits<double>::infinity()) const;
    const TriMesh& mesh() const { return mesh_; }

  private:
    double squared_distance(const Box&, const std::array<double, 3>& p) const;
    const TriMesh& mesh_;
    Vec3 origin_;
    std::vector<std::uint32_t> order_;
    std::vector<Box> boxes_;                // of triangles, in this order
    std::vector<std::vector<Box>> levels_;  // of leaves, then of pairs
};

template <class Visit>
void BoxTree::leaves_meeting(const Box& b, std::size_t from, Visit&& visit) const {
    if (levels_.empty()) return;
    std::array<std::pair<std::uint32_t, std::uint32_t>, 64> stack;  // level, place
    std::size_t n = 0;
    stack[n++] = {static_cast<std::uint32_t>(levels_.size() - 1), 0};
    while (n > 0) {
        const auto [level, at] = stack[--n];
        if ((std::size_t{at} + 1) << level <= from) continue;
        if (!levels_[level][at].meets(b)) continue;
        if (level == 0) {
            visit(std::size_t{at});
            continue;
        }
        const std::uint32_t child = 2 * at;
        if (child + 1 < levels_[level - 1].size()) stack[n++] = {level - 1, child + 1};
        stack[n++] = {level - 1, child};
    }
}

template <class Visit>
void BoxTree::meeting(const Box3& box, Visit&& visit) const {
    const Box b = box_of(box);
    leaves_meeting(b, 0, [&](std::size_t leaf) {
        for (std::size_t i = first(leaf); i < last(leaf); ++i)
            if (boxes_[i].meets(b)) visit(order_[i]);
    });
}

}  // namespace pristine::mesh
