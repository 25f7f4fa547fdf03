#include "core/measure/height_above.h"

#include <algorithm>
#include <array>
#include <cmath>
#include <map>
#include <numbers>
#include <utility>
#include <vector>

#include "core/geometry/plane_under.h"
#include "core/mesh/tri_mesh.h"

namespace pristine::measure {
namespace {

// Calls each(element) for what is shown of the blocks whose box comes within `reach` of the place in plan.
template <class Each>
void near_in_plan(const cloud::PointCloud& cloud, const ElementSet& shown, Vec3 place, double reach,
                  const Each& each) {
    for (std::size_t p = 0; p < cloud.page_count(); ++p) {
        if (shown.kind(p) == ElementSet::Kind::None) continue;
        const cloud::PageInfo info = cloud.info(p);
        std::array<bool, kBlocksPerPage> in{};
        bool any = false;
        for (std::size_t b = 0; b * kBlockSize < page_length(cloud.size(), p); ++b) {
            const Box3 box = world_box(info.blocks[b], cloud.grid());
            any |= in[b] = box.lo.x - reach <= place.x && place.x <= box.hi.x + reach &&
                           box.lo.y - reach <= place.y && place.y <= box.hi.y + reach;
        }
        if (!any) continue;
        shown.for_each_in_page(p, [&](std::size_t i) {
            if (in[i / kBlockSize]) each(p * kPageSize + i);
        });
    }
}

// Height of a triangle at a place in plan; none beside it, and for one that stands upright.
std::optional<double> height_of(const mesh::TriMesh& m, std::size_t t, double x, double y) {
    const auto& c = m.triangles[t];
    const Vec3 &a = m.vertices[c[0]], &b = m.vertices[c[1]], &d = m.vertices[c[2]];
    const double whole = (b.x - a.x) * (d.y - a.y) - (d.x - a.x) * (b.y - a.y);
    if (whole == 0) return std::nullopt;
    const double u = ((x - a.x) * (d.y - a.y) - (d.x - a.x) * (y - a.y)) / whole;
    const double v = ((b.x - a.x) * (y - a.y) - (x - a.x) * (b.y - a.y)) / whole;
    constexpr double kEdge = 1e-9;  // a place on an edge belongs to both
    if (u < -kEdge || v < -kEdge || u + v > 1 + kEdge) return std::nullopt;
    return a.z + u * (b.z - a.z) + v * (d.z - a.z);
}

}  // namespace

std::optional<double> surface_below(const cloud::PointCloud& cloud, const ElementSet& shown, Vec3 place) {
    const mesh::TriMesh& m = *cloud.triangles();
    // Blocks know where the middles of their triangles are; how far one reaches from its middle is known of
    // none, so all are asked.
    std::optional<double> below, above;
    for (std::size_t t = 0; t < m.triangles.size(); ++t) {
        if (!shown.contains(t)) continue;
        const auto z = height_of(m, t, place.x, place.y);
        if (!z) continue;
        if (*z <= place.z)
            below = std::max(below.value_or(*z), *z);
        else
            above = std::min(above.value_or(*z), *z);
    }
    return below ? below : above;
}

std::optional<double> ground_below(const cloud::PointCloud& cloud, const ElementSet& shown, Vec3 place,
                                   double metre) {
    constexpr double kFirst = 2, kLast = 8, kScale = 0.05;  // metres
    constexpr std::size_t kEnough = 20, kCells = 5;
    const double steepest = std::tan(60 * std::numbers::pi / 180);
    for (double r = kFirst; r <= kLast; r *= 2) {
        const double reach = r * metre;
        std::map<std::pair<int, int>, Vec3>
            lowest;  // of each cell: what stands there has its foot among them
        near_in_plan(cloud, shown, place, reach, [&](std::uint64_t e) {
            const Vec3 d = cloud.position(e) - place;
            if (d.x * d.x + d.y * d.y > reach * reach || d.z > 0) return;
            const auto cell = [&](double v) { return static_cast<int>(std::floor(v / reach * kCells)); };
            const auto [at, fresh] = lowest.try_emplace({cell(d.x), cell(d.y)}, d);
            if (!fresh && d.z < at->second.z) at->second = d;
        });
        if (lowest.size() < kEnough) continue;
        std::vector<Vec3> places;
        for (const auto& [cell, d] : lowest) places.push_back(d);
        const auto plane = plane_under(places, kScale * metre);
        if (!plane || std::hypot(plane->b, plane->c) > steepest) return std::nullopt;
        return place.z + plane->a;
    }
    return std::nullopt;
}

}  // namespace pristine::measure
