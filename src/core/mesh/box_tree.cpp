#include "core/mesh/box_tree.h"

#include <algorithm>
#include <cmath>

#include "core/base/parallel.h"

namespace pristine::mesh {
namespace {

// Rounded to the nearest single, then by more than that can have been off.
float below(double v) {
    const auto f = static_cast<float>(v);
    return f - std::fabs(f) * 1.2e-7f - 1e-37f;
}
float above(double v) {
    const auto f = static_cast<float>(v);
    return f + std::fabs(f) * 1.2e-7f + 1e-37f;
}

// 21 bits of each axis, interleaved.
std::uint64_t spread(std::uint64_t v) {
    v &= 0x1FFFFF;
    v = (v | v << 32) & 0x1F00000000FFFF;
    v = (v | v << 16) & 0x1F0000FF0000FF;
    v = (v | v << 8) & 0x100F00F00F00F00F;
    v = (v | v << 4) & 0x10C30C30C30C30C3;
    return (v | v << 2) & 0x1249249249249249;
}

BoxTree::Box joined_box(const BoxTree::Box* begin, const BoxTree::Box* end) {
    BoxTree::Box out = *begin;
    for (const BoxTree::Box* b = begin + 1; b != end; ++b)
        for (std::size_t a = 0; a < 3; ++a) {
            out.lo[a] = std::min(out.lo[a], b->lo[a]);
            out.hi[a] = std::max(out.hi[a], b->hi[a]);
        }
    return out;
}

}  // namespace

BoxTree::BoxTree(const TriMesh& m) : mesh_(m) {
    Box3 all;
    for (const Vec3& v : m.vertices) all.add(v);
    if (m.triangles.empty()) return;
    origin_ = all.centre();
    const double side = std::max({all.hi.x - all.lo.x, all.hi.y - all.lo.y, all.hi.z - all.lo.z, 1e-300});
    std::vector<std::pair<std::uint64_t, std::uint32_t>> keys(m.triangles.size());
    parallel::for_ranges(keys.size(), 65536, [&](std::size_t from, std::size_t to) {
        for (std::size_t t = from; t < to; ++t) {
            std::uint64_t key = 0;
            for (int a = 0; a < 3; ++a) {
                double middle = 0;
                for (const std::uint32_t v : m.triangles[t]) middle += (m.vertices[v][a] - all.lo[a]) / 3;
                key |= spread(static_cast<std::uint64_t>(std::clamp(middle / side, 0.0, 1.0) * 0x1FFFFF))
                       << a;
            }
            keys[t] = {key, static_cast<std::uint32_t>(t)};
        }
    });
    // Halves side by side, then merged.
    const std::size_t half = keys.size() / 2;
    const auto middle = keys.begin() + static_cast<std::ptrdiff_t>(half);
    parallel::for_each(
        2, [&](std::size_t k) { k == 0 ? std::sort(keys.begin(), middle) : std::sort(middle, keys.end()); });
    std::inplace_merge(keys.begin(), middle, keys.end());
    order_.resize(keys.size());
    for (std::size_t i = 0; i < keys.size(); ++i) order_[i] = keys[i].second;
    boxes_.resize(order_.size());
    levels_.emplace_back((order_.size() + kLeaf - 1) / kLeaf);
    parallel::for_ranges(levels_[0].size(), 16384, [&](std::size_t from, std::size_t to) {
        for (std::size_t leaf = from; leaf < to; ++leaf) {
            for (std::size_t i = first(leaf); i < last(leaf); ++i) {
                Box3 own;
                for (const std::uint32_t v : mesh_.triangles[order_[i]]) own.add(mesh_.vertices[v]);
                boxes_[i] = box_of(own);
            }
            levels_[0][leaf] = joined_box(boxes_.data() + first(leaf), boxes_.data() + last(leaf));
        }
    });
    while (levels_.back().size() > 1) {
        const std::vector<Box>& fine = levels_.back();
        std::vector<Box> up((fine.size() + 1) / 2);
        for (std::size_t i = 0; i < up.size(); ++i) {
            up[i] = joined_box(fine.data() + 2 * i, fine.data() + std::min(fine.size(), 2 * i + 2));
        }
        levels_.push_back(std::move(up));
    }
}

BoxTree::Box BoxTree::box_of(const Box3& b) const {
    Box out;
    for (int a = 0; a < 3; ++a) {
        const auto k = static_cast<std::size_t>(a);
        out.lo[k] = below(b.lo[a] - origin_[a]);
        out.hi[k] = above(b.hi[a] - origin_[a]);
    }
    return out;
}

double BoxTree::squared_distance(const Box& b, const std::array<double, 3>& p) const {
    double sum = 0;
    for (std::size_t a = 0; a < 3; ++a) {
        const double off =
            std::max({0.0, static_cast<double>(b.lo[a]) - p[a], p[a] - static_cast<double>(b.hi[a])});
        sum += off * off;
    }
    return sum;
}

BoxTree::Nearest BoxTree::nearest(const Vec3& p, double reach) const {
    Nearest best;
    best.distance = reach;
    if (levels_.empty()) return best;
    const Vec3 d = p - origin_;
    const std::array<double, 3> own{d.x, d.y, d.z};
    struct Open {
        double squared;
        std::uint32_t level, at;
    };
    std::array<Open, 64> stack;
    std::size_t n = 0;
    const auto top = static_cast<std::uint32_t>(levels_.size() - 1);
    stack[n++] = {squared_distance(levels_[top][0], own), top, 0};
    while (n > 0) {
        const Open o = stack[--n];
        if (o.squared > best.distance * best.distance) continue;
        if (o.level > 0) {
            // The nearer child last, so that it is looked at first.
            const std::vector<Box>& below = levels_[o.level - 1];
            Open a{squared_distance(below[2 * o.at], own), o.level - 1, 2 * o.at};
            if (2 * o.at + 1 < below.size()) {
                Open b{squared_distance(below[2 * o.at + 1], own), o.level - 1, 2 * o.at + 1};
                if (b.squared < a.squared) std::swap(a, b);
                stack[n++] = b;
            }
            stack[n++] = a;
            continue;
        }
        for (std::size_t i = first(o.at); i < last(o.at); ++i) {
            const auto& t = mesh_.triangles[order_[i]];
            const Vec3 q =
                closest_on_triangle(p, mesh_.vertices[t[0]], mesh_.vertices[t[1]], mesh_.vertices[t[2]]);
            const double distance = norm(q - p);
            if (distance < best.distance || (distance == best.distance && order_[i] < best.triangle))
                best = {order_[i], q, distance};
        }
    }
    return best;
}

}  // namespace pristine::mesh
