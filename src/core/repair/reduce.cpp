#include "core/repair/reduce.h"

#include <meshoptimizer.h>

#include <algorithm>

#include "core/base/error.h"
#include "core/repair/steps.h"

namespace pristine::repair {
namespace {

// Singles about the middle; indexes name the same vertices after, so no place is rounded in the result.
std::vector<float> singles(const mesh::TriMesh& m) {
    Box3 box;
    for (const Vec3& v : m.vertices) box.add(v);
    const Vec3 o = box.centre();
    std::vector<float> p;
    p.reserve(3 * m.vertices.size());
    for (const Vec3& v : m.vertices)
        for (int a = 0; a < 3; ++a) p.push_back(static_cast<float>(v[a] - o[a]));
    return p;
}

}  // namespace

Reduced reduce(const mesh::TriMesh& m, const ReduceOptions& options, Progress& progress) {
    if (options.triangles == 0) throw Error(ErrorCode::Usage, "A mesh cannot be reduced to nothing");
    std::vector<unsigned> indices, rest;
    for (std::size_t t = 0; t < m.triangles.size(); ++t) {
        const bool may_go = options.only.empty() || options.only[t];
        (may_go ? indices : rest)
            .insert((may_go ? indices : rest).end(), m.triangles[t].begin(), m.triangles[t].end());
    }
    Reduced r;
    const std::size_t kept = rest.size() / 3,
                      wanted = options.triangles > kept ? options.triangles - kept : 0;
    progress.stretch(0, 0.6, "Reducing");
    progress.check();
    if (3 * wanted < indices.size()) {
        const std::vector<float> places = singles(m);
        std::vector<unsigned> out(indices.size());
        // The rim of a part must stay where the rest goes on.
        const unsigned flags = options.lock_rim || !rest.empty() ? meshopt_SimplifyLockBorder : 0;
        const std::size_t n =
            meshopt_simplify(out.data(), indices.data(), indices.size(), places.data(), m.vertices.size(),
                             3 * sizeof(float), 3 * wanted, 1e30f, flags, nullptr);
        out.resize(n);
        indices = std::move(out);
    }
    indices.insert(indices.end(), rest.begin(), rest.end());
    mesh::TriMesh all;
    all.vertices = m.vertices;
    for (std::size_t i = 0; i + 3 <= indices.size(); i += 3)
        all.triangles.push_back({indices[i], indices[i + 1], indices[i + 2]});
    r.mesh = without(all, std::vector<char>(all.triangles.size(), 0));
    progress.stretch(0.6, 1, "Measuring the deviation");
    r.deviation = deviation(r.mesh, m, progress);
    return r;
}

}  // namespace pristine::repair
