// How often a mesh winds round a place, asked many times.

#pragma once

#include "core/mesh/box_tree.h"

namespace pristine::mesh {

/// Triangles far away are taken together as one (Barill et al. 2018, "Fast winding numbers for soups and
/// clouds", first order): right to about a hundredth. The mesh must outlive it. O(n log n) to make.
class WindingTree {
  public:
    explicit WindingTree(const TriMesh&);
    const TriMesh& mesh() const { return tree_.mesh(); }
    /// As winding(). O(log n). Thread safe.
    double at(const Vec3& p) const { return sum(p, UINT32_MAX); }
    /// At the middle of a triangle, the mean of what is in front of it and behind it.
    double round(std::uint32_t triangle) const;

  private:
    struct Node {
        Vec3 middle, area;    // from the tree's origin; sum of normals, each as long as its triangle's area
        double squared_size;  // of the ball about the middle that holds all
    };
    double sum(const Vec3& p, std::uint32_t without) const;
    Node leaf(std::size_t) const;
    Node above(std::size_t level, std::size_t k) const;

    BoxTree tree_;
    std::vector<std::vector<Node>> levels_;
};

}  // namespace pristine::mesh
