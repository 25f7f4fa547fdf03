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

std::array<Vec3, 3> axes(const Box& box) {
    const auto radians = [](double degrees) { return degrees * std::numbers::pi / 180; };
    const double ca = std::cos(radians(box.yaw_deg)), sa = std::sin(radians(box.yaw_deg));
    const double cp = std::cos(radians(box.pitch_deg)), sp = std::sin(radians(box.pitch_deg));
    const double cr = std::cos(radians(box.roll_deg)), sr = std::sin(radians(box.roll_deg));
    const auto yawed = [&](Vec3 v) { return Vec3{ca * v.x - sa * v.y, sa * v.x + ca * v.y, v.z}; };
    return {yawed({cp, 0, sp}), yawed({-sp * sr, cr, cp * sr}), yawed({-sp * cr, -sr, cp * cr})};
}

namespace {

// The same box with other axes.
Box with_axes(Box box, const std::array<Vec3, 3>& a) {
    constexpr double kDegrees = 180 / std::numbers::pi;
    constexpr double kUpright = 1 - 1e-12;
    box.pitch_deg = std::asin(std::clamp(a[0].z, -1.0, 1.0)) * kDegrees;
    if (std::fabs(a[0].z) > kUpright) {  // yaw and roll are one turn then
        box.yaw_deg = std::atan2(-a[1].x, a[1].y) * kDegrees;
        box.roll_deg = 0;
    } else {
        box.yaw_deg = std::atan2(a[0].y, a[0].x) * kDegrees;
        box.roll_deg = std::atan2(a[1].z, a[2].z) * kDegrees;
    }
    return box;
}

// v turned about a direction of unit length (Rodrigues).
Vec3 turned_about(Vec3 v, Vec3 u, double radians) {
    const double c = std::cos(radians), s = std::sin(radians);
    return v * c + cross(u, v) * s + u * (dot(u, v) * (1 - c));
}

}  // namespace

Box turned(const Box& box, int axis, double degrees) {
    std::array<Vec3, 3> a = axes(box);
    const Vec3 about = a[static_cast<std::size_t>(axis)];
    for (Vec3& v : a) v = turned_about(v, about, degrees * std::numbers::pi / 180);
    return with_axes(box, a);
}

Box against(const Box& box, const FittedPlane& plane) {
    const double kLean = std::sin(6 * std::numbers::pi / 180);
    Vec3 n = normalized(plane.normal);
    if (std::fabs(n.z) < kLean) n = normalized({n.x, n.y, 0});
    if (std::hypot(n.x, n.y) < kLean) n = {0, 0, 1};
    std::array<Vec3, 3> a = axes(box);
    std::size_t k = 0;
    for (std::size_t i = 1; i < 3; ++i)
        if (std::fabs(dot(a[i], n)) > std::fabs(dot(a[k], n))) k = i;
    if (dot(a[k], n) < 0) n = n * -1.0;
    const Vec3 about = cross(a[k], n);
    if (const double sine = norm(about); sine > 1e-12)
        for (Vec3& v : a) v = turned_about(v, about * (1 / sine), std::atan2(sine, dot(a[k], n)));
    Box out = with_axes(box, a);
    const double to_plane = dot(plane.point - box.centre, n), half = box.half[static_cast<int>(k)];
    const double side = to_plane < 0 ? -1 : 1;
    out.half[static_cast<int>(k)] = (std::fabs(to_plane) + half) / 2;
    out.centre = box.centre + n * (side * (std::fabs(to_plane) - half) / 2);
    return out;
}

std::vector<HalfSpace> half_spaces(const Box& box) {
    const std::array<Vec3, 3> a = axes(box);
    std::vector<HalfSpace> planes;
    for (int i = 0; i < 3; ++i)
        for (const double sign : {1.0, -1.0}) {
            const Vec3 n = a[static_cast<std::size_t>(i)] * sign;
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
