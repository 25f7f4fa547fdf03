#include "core/repair/reduce.h"

#include <algorithm>
#include <array>
#include <set>

#include "core/base/error.h"
#include "core/repair/collapse.h"
#include "core/repair/repair.h"
#include "core/repair/steps.h"

namespace pristine::repair {
namespace {

std::uint64_t count(const Check& c, const std::set<Fault>& kinds) {
    std::uint64_t n = 0;
    for (const Fault f : kinds) n += c.count(f);
    return n;
}

using CornerArrays = std::array<std::array<double, 3>, 3>;
std::vector<CornerArrays> sorted_corners(const mesh::TriMesh& m) {
    std::vector<CornerArrays> out(m.triangles.size());
    for (std::size_t t = 0; t < out.size(); ++t) {
        for (std::size_t k = 0; k < 3; ++k) {
            const Vec3& v = m.vertices[m.triangles[t][k]];
            out[t][k] = {v.x, v.y, v.z};
        }
        std::sort(out[t].begin(), out[t].end());
    }
    std::sort(out.begin(), out.end());
    return out;
}

// Repairs of the kinds of fault that the mesh did not have before.
RepairOptions repair_of_new(const mesh::TriMesh& before, Progress& progress) {
    const Check was = check(before, {}, progress);
    RepairOptions o;
    for (const Fault f : {Fault::Degenerate, Fault::DuplicateFace, Fault::NonManifoldEdge,
                          Fault::NonManifoldVertex, Fault::SelfIntersection})
        if (was.count(f) == 0) o.only.insert(f);
    o.check.small_piece = 1;
    if (was.components == 1 && !o.only.empty()) {
        // Specks that repairs leave.
        o.check.small_piece = 0;
        o.only.insert(Fault::SmallPiece);
        o.only.insert(Fault::InnerShell);
    }
    return o;
}

// Sheets that lie near each other may have been drawn through each other: of such faults none is left that a
// repair can take away. What must stay stays, or nothing is repaired.
mesh::TriMesh without_new_faults(mesh::TriMesh reduced, const RepairOptions& o, const mesh::TriMesh& rest,
                                 Progress& progress) {
    constexpr int kMostRounds = 3;
    if (o.only.empty()) return reduced;
    const std::vector<CornerArrays> stays = sorted_corners(rest);
    for (int round = 0; round < kMostRounds; ++round) {
        Repaired r = repair(reduced, o, progress);
        if (count(r.before, o.only) == 0 || count(r.after, o.only) >= count(r.before, o.only)) break;
        if (!stays.empty()) {
            const std::vector<CornerArrays> now = sorted_corners(r.mesh);
            if (!std::includes(now.begin(), now.end(), stays.begin(), stays.end())) break;
        }
        reduced = std::move(r.mesh);
    }
    return reduced;
}

}  // namespace

Reduced reduce(const mesh::TriMesh& m, const ReduceOptions& options, Progress& progress) {
    if (options.triangles == 0) throw Error(ErrorCode::Usage, "A mesh cannot be reduced to nothing");
    mesh::TriMesh held;
    held.vertices = m.vertices;
    for (std::size_t t = 0; t < m.triangles.size(); ++t)
        if (!options.only.empty() && !options.only[t]) held.triangles.push_back(m.triangles[t]);
    progress.stretch(0, 0.5, "Reducing");
    // The rim of a part must stay where the rest goes on.
    const bool lock = options.lock_rim || !held.triangles.empty();
    Reduced r;
    r.mesh = collapsed(m, {options.triangles, lock, options.only}, progress);
    progress.stretch(0.5, 1, "Measuring");
    if (m.triangles.size() <= kMostMended)
        r.mesh = without_new_faults(std::move(r.mesh), repair_of_new(m, progress), held, progress);
    r.deviation = deviation(r.mesh, m, progress);
    return r;
}

}  // namespace pristine::repair
