#include "core/select/solid.h"

#include <algorithm>
#include <cmath>
#include <numbers>

#include "core/base/error.h"
#include "core/base/parallel.h"
#include "core/select/solid_shapes.h"

namespace pristine::select {
namespace {

using namespace shapes;

// Shape: Side judge(Box3) and bool holds(Vec3).
template <class Shape>
ElementSet select_by(const cloud::PointCloud& cloud, const Shape& shape, const ElementSet& eligible,
                     Progress& progress) {
    ElementSet result(cloud.size());
    parallel::for_each(cloud.page_count(), [&](std::size_t p) {
        if (eligible.kind(p) == ElementSet::Kind::None) return;
        progress.check();
        const cloud::PageInfo& info = cloud.info(p);
        const Side side = shape.judge(world_box(info.bounds, cloud.grid()));
        if (side == Side::Out) return;
        if (side == Side::In) return result.set_page_all(p);
        const cloud::PositionPage& points = cloud.positions(p);
        PageBits bits;
        for (std::size_t b = 0; b * kBlockSize < points.size(); ++b) {
            const Side of_block = shape.judge(world_box(info.blocks[b], cloud.grid()));
            if (of_block == Side::Out) continue;
            const std::size_t last = std::min((b + 1) * kBlockSize, points.size());
            for (std::size_t i = b * kBlockSize; i < last; ++i)
                if (of_block == Side::In ||
                    shape.holds(cloud.grid().world(points.x[i], points.y[i], points.z[i])))
                    bits.set(i);
        }
        result.set_page(p, bits);
    });
    return result & eligible;
}

}  // namespace

std::vector<HalfSpace> half_spaces(const Box& box) {
    const double a = box.yaw_deg * std::numbers::pi / 180;
    const Vec3 axes[3] = {{std::cos(a), std::sin(a), 0}, {-std::sin(a), std::cos(a), 0}, {0, 0, 1}};
    std::vector<HalfSpace> planes;
    for (int i = 0; i < 3; ++i)
        for (const double sign : {1.0, -1.0}) {
            const Vec3 n = axes[i] * sign;
            planes.push_back({n, dot(n, box.centre) + box.half[i]});
        }
    return planes;
}

Box strip(Vec3 a, Vec3 b, double width, double lowest, double highest) {
    const double length = std::hypot(b.x - a.x, b.y - a.y);
    if (!(length > 0)) throw Error(ErrorCode::Usage, "A section line needs two different places");
    return {{(a.x + b.x) / 2, (a.y + b.y) / 2, (lowest + highest) / 2},
            {length / 2, width / 2, (highest - lowest) / 2},
            std::atan2(b.y - a.y, b.x - a.x) * 180 / std::numbers::pi};
}

HalfSpace plane_through(Vec3 a, Vec3 b, Vec3 c) {
    Vec3 n = cross(b - a, c - a);
    const double length = std::sqrt(dot(n, n)), side = std::max(dot(b - a, b - a), dot(c - a, c - a));
    if (!(length > 1e-9 * side)) throw Error(ErrorCode::Usage, "The three points lie on a line");
    n = n * ((n.z < 0 ? -1 : 1) / length);
    return {n, dot(n, a)};
}

ElementSet inside(const cloud::PointCloud& cloud, const std::vector<HalfSpace>& planes,
                  const ElementSet& eligible, Progress& progress) {
    return select_by(cloud, InHalfSpaces{planes}, eligible, progress);
}

ElementSet in_ball(const cloud::PointCloud& cloud, Vec3 centre, double radius, const ElementSet& eligible,
                   Progress& progress) {
    if (!(radius >= 0)) return ElementSet(cloud.size());
    return select_by(cloud, InBall{centre, radius}, eligible, progress);
}

ElementSet in_cylinder(const cloud::PointCloud& cloud, double x, double y, double radius, double lowest,
                       double highest, const ElementSet& eligible, Progress& progress) {
    if (!(radius >= 0)) return ElementSet(cloud.size());
    return select_by(cloud, InCylinder{x, y, radius, lowest, highest}, eligible, progress);
}

std::optional<FittedPlane> fitted_plane(const cloud::PointCloud& cloud, const ElementSet& set) {
    constexpr std::uint64_t kMost = 50'000;
    const std::uint64_t stride = set.count() / kMost + 1;
    std::vector<Vec3> points;
    std::uint64_t k = 0;
    for (std::size_t p = 0; p < set.page_count(); ++p) {
        if (set.kind(p) == ElementSet::Kind::None) continue;
        const cloud::PositionPage page = cloud.positions(p);
        set.for_each_in_page(p, [&](std::size_t i) {
            if (k++ % stride == 0) points.push_back(cloud.grid().world(page.x[i], page.y[i], page.z[i]));
        });
    }
    return fit_plane(points);
}

}  // namespace pristine::select
