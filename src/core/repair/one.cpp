#include "core/repair/one.h"

#include <algorithm>

#include "core/mesh/weld.h"
#include "core/repair/crossings.h"
#include "core/repair/inside.h"

namespace pristine::repair {
namespace {

constexpr int kNearRings = 6;

Step refused(const mesh::TriMesh& m, const Finding& f, std::string why) {
    Step s;
    s.mesh = m;
    s.unrepaired.push_back({f.fault, f.where, std::move(why)});
    return s;
}

Step fill_one(const mesh::TriMesh& m, const Finding& f, const RepairOptions& o, Progress& progress) {
    const Incidence at(m);
    if (joins_inner_sheet(mesh::WindingTree(m), at, f.vertices)) return refused(m, f, kJoinsInnerSheet);
    const Fill fill = fill_boundary(m, at, f.vertices, o.fill, progress);
    if (!fill.why_not.empty()) return refused(m, f, fill.why_not);
    Step s;
    s.mesh = with_fill(m, fill);
    s.made = fill.triangles.size();
    for (const Pair& p : crossings(s.mesh, progress))
        if (p[1] >= m.triangles.size() && p[0] < p[1])
            return refused(
                m, f, "The fill would cross the mesh: try another kind, or take the triangles round it away");
    return s;
}

}  // namespace

Step repair_one(const mesh::TriMesh& m, const Finding& f, const RepairOptions& options, Progress& progress) {
    if (f.fault == Fault::Hole) return fill_one(m, f, options, progress);
    std::vector<char> near(m.triangles.size(), 0);
    for (const std::uint32_t t : f.triangles) near[t] = 1;
    for (int r = 0; r < kNearRings; ++r) {
        std::vector<char> at(m.vertices.size(), 0);
        for (std::size_t t = 0; t < near.size(); ++t)
            if (near[t])
                for (const std::uint32_t v : m.triangles[t]) at[v] = 1;
        for (std::size_t t = 0; t < near.size(); ++t)
            for (const std::uint32_t v : m.triangles[t]) near[t] = static_cast<char>(near[t] | at[v]);
    }
    std::vector<char> rest = near;
    for (char& c : rest) c = static_cast<char>(!c);
    RepairOptions own = options;
    own.only = {f.fault};
    // What is small is small against the whole.
    if (own.check.small_piece == 0)
        own.check.small_piece = f.fault == Fault::SmallPiece ? f.triangles.size() + 1 : 1;
    const Repaired done = repair(without(m, rest), own, progress);
    Step s;
    std::vector<Vec3> corners;
    const mesh::TriMesh kept = without(m, near);
    for (const mesh::TriMesh* part : {&kept, &done.mesh})
        for (const auto& t : part->triangles)
            for (const std::uint32_t v : t) corners.push_back(part->vertices[v]);
    s.mesh = mesh::weld(corners);
    for (const RepairStep& step : done.steps) {
        s.removed += step.removed;
        s.made += step.made;
    }
    for (const Unrepaired& u : done.unrepaired)
        if (norm(u.where - f.where) == 0) return refused(m, f, u.why);
    return s;
}

}  // namespace pristine::repair
