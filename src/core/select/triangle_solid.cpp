#include "core/select/triangle_solid.h"

#include <array>

#include "core/base/parallel.h"
#include "core/geometry/triangle.h"
#include "core/mesh/tri_mesh.h"
#include "core/select/solid_shapes.h"

namespace pristine::select {
namespace {

using cloud::PointCloud;
using shapes::Side;

// A convex polygon in space: a triangle cut by half-spaces.
using Piece = std::vector<Vec3>;

// What of it lies in the half-space; places exactly on its border belong.
Piece cut(const Piece& piece, const HalfSpace& h) {
    Piece out;
    for (std::size_t i = 0; i < piece.size(); ++i) {
        const Vec3 &p = piece[i], &q = piece[(i + 1) % piece.size()];
        const double u = h.offset - dot(h.normal, p), v = h.offset - dot(h.normal, q);
        if (u >= 0) out.push_back(p);
        if ((u > 0 && v < 0) || (u < 0 && v > 0)) out.push_back(p + (q - p) * (u / (u - v)));
    }
    return out;
}

bool touches(const shapes::InHalfSpaces& shape, const std::array<Vec3, 3>& t) {
    Piece piece(t.begin(), t.end());
    for (const HalfSpace& h : shape.planes) {
        piece = cut(piece, h);
        if (piece.empty()) return false;
    }
    return true;
}

bool touches(const shapes::InBall& shape, const std::array<Vec3, 3>& t) {
    return shape.holds(closest_on_triangle(shape.centre, t[0], t[1], t[2]));
}

bool touches(const shapes::InCylinder& shape, const std::array<Vec3, 3>& t) {
    Piece piece = cut(cut({t.begin(), t.end()}, {{0, 0, 1}, shape.highest}), {{0, 0, -1}, -shape.lowest});
    for (Vec3& p : piece) p.z = 0;
    const shapes::InBall disc{{shape.x, shape.y, 0}, shape.radius};
    if (piece.size() < 3)
        return !piece.empty() && disc.holds(closest_on_segment(disc.centre, piece.front(), piece.back()));
    for (std::size_t k = 1; k + 1 < piece.size(); ++k)
        if (disc.holds(closest_on_triangle(disc.centre, piece[0], piece[k], piece[k + 1]))) return true;
    return false;
}

template <class Shape>
ElementSet take(const PointCloud& cloud, const Shape& shape, const ElementSet& eligible, Reach reach,
                Progress& progress) {
    const mesh::TriMesh& m = *cloud.triangles();
    ElementSet result(cloud.size());
    parallel::for_each(cloud.page_count(), [&](std::size_t p) {
        if (eligible.kind(p) == ElementSet::Kind::None) return;
        progress.check();
        const Side side = shape.judge(cloud.page_box(p));
        if (side == Side::Out) return;
        if (side == Side::In) return result.set_page_all(p);
        PageBits bits;
        eligible.for_each_in_page(p, [&](std::size_t i) {
            const auto& c = m.triangles[p * kPageSize + i];
            const std::array<Vec3, 3> t{m.vertices[c[0]], m.vertices[c[1]], m.vertices[c[2]]};
            const bool whole = shape.holds(t[0]) && shape.holds(t[1]) && shape.holds(t[2]);
            if (whole || (reach == Reach::Touches && touches(shape, t))) bits.set(i);
        });
        result.set_page(p, bits);
    });
    return result & eligible;
}

bool by_points(const PointCloud& cloud, Reach reach) {
    return reach == Reach::Middle || !cloud.triangles();
}

}  // namespace

ElementSet inside(const PointCloud& cloud, const std::vector<HalfSpace>& planes, const ElementSet& eligible,
                  Reach reach, Progress& progress) {
    if (by_points(cloud, reach)) return inside(cloud, planes, eligible, progress);
    return take(cloud, shapes::InHalfSpaces{planes}, eligible, reach, progress);
}

ElementSet in_ball(const PointCloud& cloud, Vec3 centre, double radius, const ElementSet& eligible,
                   Reach reach, Progress& progress) {
    if (by_points(cloud, reach) || !(radius >= 0)) return in_ball(cloud, centre, radius, eligible, progress);
    return take(cloud, shapes::InBall{centre, radius}, eligible, reach, progress);
}

ElementSet in_cylinder(const PointCloud& cloud, double x, double y, double radius, double lowest,
                       double highest, const ElementSet& eligible, Reach reach, Progress& progress) {
    if (by_points(cloud, reach) || !(radius >= 0))
        return in_cylinder(cloud, x, y, radius, lowest, highest, eligible, progress);
    return take(cloud, shapes::InCylinder{x, y, radius, lowest, highest}, eligible, reach, progress);
}

}  // namespace pristine::select
