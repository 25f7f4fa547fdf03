#include "app/stage/snap.h"

#include <algorithm>
#include <cmath>

#include "core/elements/page.h"
#include "core/mesh/tri_mesh.h"

namespace pristine::app {
namespace {

constexpr double kPlace_px = 8, kLine_px = 6;
constexpr int kPoint_px = 3;

double distance_px(PixelPoint a, PixelPoint b) {
    return std::hypot(a.x - b.x, a.y - b.y);
}

// Where a segment passes nearest to a pixel: how far off in the picture, and the place in space.
struct OnSegment {
    double off;
    Vec3 place;
};
std::optional<OnSegment> on_segment(const ViewFrame& view, Vec3 a, Vec3 b, PixelPoint p) {
    const double da = view.depth(a), db = view.depth(b);
    if (da <= view.near_depth || db <= view.near_depth) return std::nullopt;
    const PixelPoint u = view.project(a), v = view.project(b);
    const double dx = v.x - u.x, dy = v.y - u.y, l = dx * dx + dy * dy;
    const double t = l > 0 ? std::clamp(((p.x - u.x) * dx + (p.y - u.y) * dy) / l, 0.0, 1.0) : 0;
    // In perspective equal steps on the screen are no equal steps in space.
    const double s = view.perspective ? t * da / (db + t * (da - db)) : t;
    return OnSegment{distance_px({u.x + t * dx, u.y + t * dy}, p), a + (b - a) * s};
}

std::optional<Snapped> on_lines(PixelPoint p, const ViewFrame& view, const std::vector<Guide>& guides) {
    std::optional<Snapped> place, line;
    double nearest_place = kPlace_px, nearest_line = kLine_px;
    for (const Guide& g : guides) {
        if (!g.snaps) continue;
        for (std::size_t i = 0; i < g.points.size(); ++i) {
            if (view.depth(g.points[i]) > view.near_depth)
                if (const double off = distance_px(view.project(g.points[i]), p); off < nearest_place) {
                    nearest_place = off;
                    place = Snapped{g.points[i], SnapKind::LinePlace};
                }
            if (i == 0) continue;
            if (const auto on = on_segment(view, g.points[i - 1], g.points[i], p);
                on && on->off < nearest_line) {
                nearest_line = on->off;
                line = Snapped{on->place, SnapKind::Line};
            }
        }
    }
    return place ? place : line;
}

std::optional<Snapped> at_edges(PixelPoint p, const ViewFrame& view, const mesh::TriMesh& m,
                                std::uint64_t t) {
    std::optional<Snapped> corner, edge;
    double nearest_corner = kPlace_px, nearest_edge = kLine_px;
    for (std::size_t k = 0; k < 3; ++k) {
        const Vec3 &a = m.vertices[m.triangles[t][k]], &b = m.vertices[m.triangles[t][(k + 1) % 3]];
        if (view.depth(a) > view.near_depth)
            if (const double off = distance_px(view.project(a), p); off < nearest_corner) {
                nearest_corner = off;
                corner = Snapped{a, SnapKind::Corner};
            }
        if (const auto on = on_segment(view, a, b, p); on && on->off < nearest_edge) {
            nearest_edge = on->off;
            edge = Snapped{on->place, SnapKind::Edge};
        }
    }
    return corner ? corner : edge;
}

}  // namespace

std::optional<Snapped> snap(PixelPoint p, const ViewFrame& view, const std::vector<Guide>& guides,
                            const render::Picture* seen, const std::optional<Vec3>& on_triangle) {
    if (const auto line = on_lines(p, view, guides)) return line;
    const auto id = seen ? seen->id_near(static_cast<int>(p.x), static_cast<int>(p.y), kPoint_px)
                         : std::optional<std::uint32_t>();
    if (!id) return std::nullopt;
    const render::Scene::PageRef ref = seen->scene->pages()[*id >> 16];
    const cloud::PointCloud& cloud = *seen->scene->items()[ref.item].cloud;
    const std::uint64_t element = std::uint64_t{ref.page} * kPageSize + (*id & 0xFFFFu);
    if (!cloud.triangles()) return Snapped{cloud.position(element), SnapKind::Point};
    if (const auto found = at_edges(p, view, *cloud.triangles(), element)) return found;
    return Snapped{on_triangle.value_or(cloud.position(element)), SnapKind::Surface};
}

}  // namespace pristine::app
