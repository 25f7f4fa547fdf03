#include "core/measure/change_map.h"

#include <atomic>
#include <cmath>

#include "core/base/parallel.h"
#include "core/measure/overlay.h"

namespace pristine::measure {

constexpr std::size_t kMapRun = 8192;

ChangeMap change_map(const mesh::TriMesh& before, const mesh::TriMesh& after, Progress& progress) {
    const Vec3 origin = origin_of(before, after);
    const std::vector<Facet> fb = facets_of(before, origin), fa = facets_of(after, origin);
    const std::vector<surface::PlanBox> boxes = boxes_of(fb), own = boxes_of(fa);
    const surface::BoxGrid grid(boxes);
    const std::size_t runs = (fa.size() + kMapRun - 1) / kMapRun;
    struct Piece {
        std::uint32_t triangle;
        Convex polygon;
    };
    const auto parts = parallel::map<std::vector<Piece>>(runs, [&](std::size_t r) {
        progress.check();
        std::vector<Piece> pieces;
        for (std::size_t t = r * kMapRun; t < std::min(fa.size(), (r + 1) * kMapRun); ++t)
            grid.meeting(own[t], [&](std::uint32_t o) {
                const Convex p = common(fb[o], fa[t]);
                if (p.n >= 3 && integral(p).first > 0) pieces.push_back({static_cast<std::uint32_t>(t), p});
            });
        return pieces;
    });
    ChangeMap map;
    for (const auto& part : parts)
        for (const auto& [t, p] : part) {
            const auto first = static_cast<std::uint32_t>(map.mesh.vertices.size());
            for (int i = 0; i < p.n; ++i)
                map.mesh.vertices.push_back(
                    {p[i].x + origin.x, p[i].y + origin.y, fa[t].height(p[i].x, p[i].y) + origin.z});
            for (std::uint32_t i = 2; i < static_cast<std::uint32_t>(p.n); ++i) {
                map.mesh.triangles.push_back({first, first + i - 1, first + i});
                map.change.push_back((p[0].d + p[static_cast<int>(i) - 1].d + p[static_cast<int>(i)].d) / 3);
            }
        }
    return map;
}

mesh::TriMesh difference_map(const mesh::TriMesh& before, const mesh::TriMesh& after, Progress& progress) {
    ChangeMap map = change_map(before, after, progress);
    // z becomes the change at each corner, by the earlier surface's plane through the same place.
    std::vector<Vec3>& v = map.mesh.vertices;
    const Vec3 origin = origin_of(before, after);
    const std::vector<Facet> fb = facets_of(before, origin);
    const std::vector<surface::PlanBox> boxes = boxes_of(fb);
    const surface::BoxGrid grid(boxes);
    std::vector<double> z(v.size(), NAN);
    for (const auto& t : map.mesh.triangles) {
        const double x = (v[t[0]].x + v[t[1]].x + v[t[2]].x) / 3 - origin.x,
                     y = (v[t[0]].y + v[t[1]].y + v[t[2]].y) / 3 - origin.y;
        grid.meeting({x, y, x, y}, [&](std::uint32_t o) {
            const Facet& f = fb[o];
            for (std::size_t k = 0; k < 3; ++k)
                if ((f.x[(k + 1) % 3] - f.x[k]) * (y - f.y[k]) - (f.y[(k + 1) % 3] - f.y[k]) * (x - f.x[k]) <
                    0)
                    return;
            for (const std::uint32_t i : t)
                z[i] = v[i].z - origin.z - f.height(v[i].x - origin.x, v[i].y - origin.y);
        });
    }
    for (std::size_t i = 0; i < v.size(); ++i) v[i].z = std::isfinite(z[i]) ? z[i] : 0;
    return std::move(map.mesh);
}

}  // namespace pristine::measure
