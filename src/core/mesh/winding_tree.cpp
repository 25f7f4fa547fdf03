#include "core/mesh/winding_tree.h"

#include <algorithm>
#include <cmath>
#include <numbers>

#include "core/base/parallel.h"
#include "core/mesh/winding.h"

namespace pristine::mesh {
namespace {

constexpr double kFar = 3;  // how many times its size away a node is taken as one

// The farthest that a place of the box can be.
double squared_reach(const BoxTree::Box& b, const Vec3& from) {
    double sum = 0;
    for (int a = 0; a < 3; ++a) {
        const auto k = static_cast<std::size_t>(a);
        const double off = std::max(std::fabs(static_cast<double>(b.lo[k]) - from[a]),
                                    std::fabs(static_cast<double>(b.hi[k]) - from[a]));
        sum += off * off;
    }
    return sum;
}

}  // namespace

WindingTree::WindingTree(const TriMesh& m) : tree_(m) {
    for (std::size_t l = 0; l < tree_.levels(); ++l) {
        std::vector<Node> nodes(tree_.level_size(l));
        parallel::for_ranges(nodes.size(), 16384, [&](std::size_t from, std::size_t to) {
            for (std::size_t k = from; k < to; ++k) nodes[k] = l == 0 ? leaf(k) : above(l - 1, k);
        });
        levels_.push_back(std::move(nodes));
    }
}

WindingTree::Node WindingTree::leaf(std::size_t k) const {
    Node n{};
    double sum = 0;
    const auto& m = tree_.mesh();
    for (std::size_t i = tree_.first(k); i < tree_.last(k); ++i) {
        const auto& c = m.triangles[tree_.triangle(i)];
        const Vec3 a = m.vertices[c[0]] - tree_.origin(), b = m.vertices[c[1]] - tree_.origin(),
                   d = m.vertices[c[2]] - tree_.origin();
        const Vec3 own = cross(b - a, d - a) * 0.5;
        // So that triangles without area have a middle too.
        const double weight = norm(own) + 1e-300;
        n.area = n.area + own;
        n.middle = n.middle + (a + b + d) * (weight / 3);
        sum += weight;
    }
    n.middle = n.middle * (1 / sum);
    n.squared_size = squared_reach(tree_.node_box(0, k), n.middle);
    return n;
}

WindingTree::Node WindingTree::above(std::size_t level, std::size_t k) const {
    const std::vector<Node>& below = levels_[level];
    Node n = below[2 * k];
    if (2 * k + 1 < below.size()) {
        const Node& o = below[2 * k + 1];
        const double u = norm(n.area) + 1e-300, v = norm(o.area) + 1e-300;
        n.middle = n.middle * (u / (u + v)) + o.middle * (v / (u + v));
        n.area = n.area + o.area;
    }
    n.squared_size = squared_reach(tree_.node_box(level + 1, k), n.middle);
    return n;
}

double WindingTree::round(std::uint32_t triangle) const {
    const auto& c = mesh().triangles[triangle];
    const Vec3 p = (mesh().vertices[c[0]] + mesh().vertices[c[1]] + mesh().vertices[c[2]]) * (1 / 3.0);
    // The triangle itself adds as much on one side as it takes on the other.
    return sum(p, triangle);
}

double WindingTree::sum(const Vec3& p, std::uint32_t without) const {
    if (levels_.empty()) return 0;
    const Vec3 own = p - tree_.origin();
    const TriMesh& m = tree_.mesh();
    double sum = 0;
    std::array<std::pair<std::uint32_t, std::uint32_t>, 64> stack;
    std::size_t open = 0;
    stack[open++] = {static_cast<std::uint32_t>(levels_.size() - 1), 0};
    while (open > 0) {
        const auto [level, k] = stack[--open];
        const Node& n = levels_[level][k];
        const Vec3 d = n.middle - own;
        const double squared = dot(d, d);
        if (squared > kFar * kFar * n.squared_size) {
            sum += dot(n.area, d) / (squared * std::sqrt(squared) * 4 * std::numbers::pi);
            continue;
        }
        if (level > 0) {
            if (2 * k + 1 < levels_[level - 1].size()) stack[open++] = {level - 1, 2 * k + 1};
            stack[open++] = {level - 1, 2 * k};
            continue;
        }
        for (std::size_t i = tree_.first(k); i < tree_.last(k); ++i) {
            const std::uint32_t t = tree_.triangle(i);
            if (t != without) sum += winding(m, std::span(&t, 1), p);
        }
    }
    return sum;
}

}  // namespace pristine::mesh
