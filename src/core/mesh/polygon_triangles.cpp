#include "core/mesh/polygon_triangles.h"

#include <fmt/format.h>

#include <cmath>

#include "core/base/error.h"
#include "core/geometry/predicates.h"

namespace pristine::mesh {
namespace {

constexpr std::size_t kMostCorners = 1000;  // the time grows with their cube at worst

}  // namespace

void triangulate_polygon(std::span<const Vec3> vertices, std::span<const std::uint32_t> corners,
                         std::vector<std::array<std::uint32_t, 3>>& out) {
    const std::size_t n = corners.size();
    if (n < 3) return;
    if (n > kMostCorners)
        throw Error(ErrorCode::Unsupported,
                    fmt::format("A face has {} corners; at most {} are cut into triangles", n, kMostCorners));
    if (n == 3) return out.push_back({corners[0], corners[1], corners[2]});
    // The polygon's area vector (Newell); its largest part says along which axis to look.
    Vec3 normal;
    const Vec3 origin = vertices[corners[0]];
    for (std::size_t i = 0; i < n; ++i)
        normal = normal + cross(vertices[corners[i]] - origin, vertices[corners[(i + 1) % n]] - origin);
    int axis = 0;
    for (int a = 1; a < 3; ++a)
        if (std::fabs(normal[a]) > std::fabs(normal[axis])) axis = a;
    const int u = (axis + 1) % 3, v = (axis + 2) % 3;
    const int facing = normal[axis] < 0 ? -1 : 1;
    const auto turn = [&](std::uint32_t a, std::uint32_t b, std::uint32_t c) {
        const Vec3 &p = vertices[a], &q = vertices[b], &r = vertices[c];
        return facing * orientation(p[u], p[v], q[u], q[v], r[u], r[v]);
    };
    std::vector<std::uint32_t> left(corners.begin(), corners.end());
    const auto is_ear = [&](std::size_t i) {
        const std::size_t m = left.size();
        const std::uint32_t a = left[(i + m - 1) % m], b = left[i], c = left[(i + 1) % m];
        if (turn(a, b, c) <= 0) return false;
        for (const std::uint32_t o : left)
            if (o != a && o != b && o != c && turn(a, b, o) >= 0 && turn(b, c, o) >= 0 && turn(c, a, o) >= 0)
                return false;
        return true;
    };
    while (left.size() > 3) {
        const std::size_t m = left.size();
        std::size_t ear = 0;
        while (ear < m && !is_ear(ear)) ++ear;
        if (ear == m) ear = 1;  // it crosses itself, or lies on a line
        out.push_back({left[(ear + m - 1) % m], left[ear], left[(ear + 1) % m]});
        left.erase(left.begin() + static_cast<std::ptrdiff_t>(ear));
    }
    out.push_back({left[0], left[1], left[2]});
}

}  // namespace pristine::mesh
