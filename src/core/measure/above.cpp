#include "core/measure/above.h"

#include "core/geometry/vec.h"
#include "core/measure/noise.h"

namespace pristine::measure {

Difference above(const mesh::TriMesh& m, const Base& base, HeightSigma own, Progress& progress) {
    if (m.triangles.empty()) return {};
    Box3 box;
    for (const Vec3& v : m.vertices) box.add(v);
    // Two triangles that reach beyond the surface; a base is linear, so they are all of it.
    const double margin = 0.1 * box.diagonal() + 1;
    mesh::TriMesh flat;
    for (const auto& [x, y] : {std::pair{box.lo.x - margin, box.lo.y - margin},
                               {box.hi.x + margin, box.lo.y - margin},
                               {box.hi.x + margin, box.hi.y + margin},
                               {box.lo.x - margin, box.hi.y + margin}})
        flat.vertices.push_back({x, y, base.height(x, y)});
    flat.triangles = {{0, 1, 2}, {0, 2, 3}};
    if (!(own.noise > 0)) own.noise = noise_of(m);
    DifferenceOptions options;
    options.after = own;
    return difference(flat, m, options, progress);
}

}  // namespace pristine::measure
