#include "core/measure/overlay.h"

#include "core/base/parallel.h"

namespace pristine::measure {

std::vector<Facet> facets_of(const mesh::TriMesh& m, const Vec3& origin) {
    std::vector<Facet> f(m.triangles.size());
    parallel::for_ranges(f.size(), 16384, [&](std::size_t from, std::size_t to) {
        for (std::size_t t = from; t < to; ++t) {
            const auto& c = m.triangles[t];
            for (std::size_t k = 0; k < 3; ++k) {
                f[t].x[k] = m.vertices[c[k]].x - origin.x;
                f[t].y[k] = m.vertices[c[k]].y - origin.y;
            }
            const double bx = f[t].x[1] - f[t].x[0], by = f[t].y[1] - f[t].y[0], cx = f[t].x[2] - f[t].x[0],
                         cy = f[t].y[2] - f[t].y[0];
            const double z = m.vertices[c[0]].z, db = m.vertices[c[1]].z - z, dc = m.vertices[c[2]].z - z,
                         w = bx * cy - by * cx;
            f[t].z = z - origin.z;
            f[t].east = (db * cy - dc * by) / w;
            f[t].north = (dc * bx - db * cx) / w;
        }
    });
    return f;
}

std::vector<surface::PlanBox> boxes_of(const std::vector<Facet>& facets) {
    std::vector<surface::PlanBox> boxes(facets.size());
    for (std::size_t t = 0; t < boxes.size(); ++t)
        for (std::size_t k = 0; k < 3; ++k) boxes[t].add(facets[t].x[k], facets[t].y[k]);
    return boxes;
}

double area_of(const Facet& f) {
    return 0.5 * ((f.x[1] - f.x[0]) * (f.y[2] - f.y[0]) - (f.y[1] - f.y[0]) * (f.x[2] - f.x[0]));
}

Vec3 origin_of(const mesh::TriMesh& a, const mesh::TriMesh& b) {
    Box3 box;
    for (const mesh::TriMesh* m : {&a, &b})
        for (const Vec3& v : m->vertices) box.add(v);
    return box.empty() ? Vec3{} : box.centre();
}

}  // namespace pristine::measure
