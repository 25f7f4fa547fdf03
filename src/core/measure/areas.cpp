#include "core/measure/areas.h"

#include <algorithm>
#include <cmath>

#include "core/base/error.h"
#include "core/geometry/polygon.h"
#include "core/measure/stockpile.h"
#include "core/surface/clip.h"

namespace pristine::measure {
namespace {

using surface::Edges;
using surface::Keep;

void append(mesh::TriMesh& to, const mesh::TriMesh& m) {
    const auto first = static_cast<std::uint32_t>(to.vertices.size());
    to.vertices.insert(to.vertices.end(), m.vertices.begin(), m.vertices.end());
    for (const auto& t : m.triangles) to.triangles.push_back({t[0] + first, t[1] + first, t[2] + first});
}

double area_of_ring(const std::vector<Vec3>& ring) {
    double twice = 0;
    for (std::size_t i = 0; i < ring.size(); ++i) {
        const Vec3 a = ring[i] - ring[0], b = ring[(i + 1) % ring.size()] - ring[0];
        twice += a.x * b.y - a.y * b.x;
    }
    return std::fabs(twice) / 2;
}

void require_outline(const WorkArea& a) {
    const auto trouble = surface::trouble_of({a.outline});
    if (trouble)
        throw Error(ErrorCode::Usage, "The outline of '" + a.name + "' cannot be used: " + trouble->what,
                    a.name, trouble->advice);
}

}  // namespace

AreaTable difference_by_area(const mesh::TriMesh& before, const mesh::TriMesh& after,
                             const std::vector<WorkArea>& areas, const DifferenceOptions& options,
                             Progress& progress) {
    if (areas.empty()) throw Error(ErrorCode::Usage, "There are no work areas");
    std::vector<std::vector<Vec3>> rings;
    for (const WorkArea& a : areas) require_outline(a), rings.push_back(a.outline);
    AreaTable table;
    table.overlapping = overlapping_outlines(rings);
    mesh::TriMesh rest_before = before, rest_after = after, all_before, all_after;
    const double steps = static_cast<double>(areas.size()) + 3;
    for (std::size_t i = 0; i < areas.size(); ++i) {
        const Progress::Part part(progress, static_cast<double>(i) / steps,
                                  static_cast<double>(i + 1) / steps, "Measuring " + areas[i].name);
        const mesh::TriMesh b = surface::clip(before, {rings[i]}, Keep::Inside, Edges::Exact, progress),
                            a = surface::clip(after, {rings[i]}, Keep::Inside, Edges::Exact, progress);
        if (a.triangles.empty() && b.triangles.empty())
            throw Error(ErrorCode::Empty, "Neither surface reaches into '" + areas[i].name + "'",
                        areas[i].name, "Check its place, or leave it out.");
        table.rows.push_back({areas[i].name, area_of_ring(rings[i]), difference(b, a, options, progress)});
        if (table.overlapping.empty()) append(all_before, b), append(all_after, a);
        rest_before = surface::clip(rest_before, {rings[i]}, Keep::Outside, Edges::Exact, progress);
        rest_after = surface::clip(rest_after, {rings[i]}, Keep::Outside, Edges::Exact, progress);
    }
    const Progress::Part part(progress, 1 - 3 / steps, 1, "Measuring the whole");
    table.whole = difference(before, after, options, progress);
    table.rest = difference(rest_before, rest_after, options, progress);
    if (!table.overlapping.empty()) return table;
    table.together = difference(all_before, all_after, options, progress);
    double cut = table.rest.cut - table.whole.cut, fill = table.rest.fill - table.whole.fill;
    for (const AreaTable::Row& r : table.rows) cut += r.change.cut, fill += r.change.fill;
    table.mismatch = std::max(std::fabs(cut), std::fabs(fill));
    return table;
}

}  // namespace pristine::measure
