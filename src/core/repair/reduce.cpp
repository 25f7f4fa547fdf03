#include "core/repair/reduce.h"

#include <meshoptimizer.h>

#include <algorithm>
#include <array>
#include <cmath>
#include <set>

#include "core/base/error.h"
#include "core/repair/repair.h"
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

std::uint64_t count(const Check& c, const std::set<Fault>& kinds) {
    std::uint64_t n = 0;
    for (const Fault f : kinds) n += c.count(f);
    return n;
}

using Corners = std::array<std::array<double, 3>, 3>;
std::vector<Corners> sorted_corners(const mesh::TriMesh& m) {
    std::vector<Corners> out(m.triangles.size());
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
                          Fault::NonManifoldVertex, Fault::SelfCrossing})
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

// Where much lies in a plane the reduction folds triangles over, makes some without area, and doubles some:
// of these none is left that a repair can take away. What must stay stays, or nothing is repaired.
mesh::TriMesh without_new_faults(mesh::TriMesh reduced, const RepairOptions& o, const mesh::TriMesh& rest,
                                 Progress& progress) {
    constexpr int kMostRounds = 3;
    if (o.only.empty()) return reduced;
    const std::vector<Corners> stays = sorted_corners(rest);
    for (int round = 0; round < kMostRounds; ++round) {
        Repaired r = repair(reduced, o, progress);
        if (count(r.before, o.only) == 0 || count(r.after, o.only) >= count(r.before, o.only)) break;
        if (!stays.empty()) {
            const std::vector<Corners> now = sorted_corners(r.mesh);
            if (!std::includes(now.begin(), now.end(), stays.begin(), stays.end())) break;
        }
        reduced = std::move(r.mesh);
    }
    return reduced;
}

}  // namespace

namespace {

struct Parts {
    std::vector<unsigned> may_go, rest;  // corners of triangles
};

mesh::TriMesh simplified(const mesh::TriMesh& m, const Parts& parts, std::size_t wanted, bool lock) {
    std::vector<unsigned> indices = parts.may_go;
    if (3 * wanted < indices.size()) {
        const std::vector<float> places = singles(m);
        std::vector<unsigned> out(indices.size());
        const std::size_t n = meshopt_simplify(out.data(), indices.data(), indices.size(), places.data(),
                                               m.vertices.size(), 3 * sizeof(float), 3 * wanted, 1e30f,
                                               lock ? meshopt_SimplifyLockBorder : 0, nullptr);
        out.resize(n);
        indices = std::move(out);
    }
    indices.insert(indices.end(), parts.rest.begin(), parts.rest.end());
    mesh::TriMesh all;
    all.vertices = m.vertices;
    for (std::size_t i = 0; i + 3 <= indices.size(); i += 3)
        all.triangles.push_back({indices[i], indices[i + 1], indices[i + 2]});
    return without(all, std::vector<char>(all.triangles.size(), 0));
}

}  // namespace

Reduced reduce(const mesh::TriMesh& m, const ReduceOptions& options, Progress& progress) {
    if (options.triangles == 0) throw Error(ErrorCode::Usage, "A mesh cannot be reduced to nothing");
    Parts parts;
    mesh::TriMesh held;
    held.vertices = m.vertices;
    for (std::size_t t = 0; t < m.triangles.size(); ++t) {
        const bool may_go = options.only.empty() || options.only[t];
        auto& to = may_go ? parts.may_go : parts.rest;
        to.insert(to.end(), m.triangles[t].begin(), m.triangles[t].end());
        if (!may_go) held.triangles.push_back(m.triangles[t]);
    }
    const std::size_t kept = held.triangles.size(),
                      wanted = options.triangles > kept ? options.triangles - kept : 0;
    // The rim of a part must stay where the rest goes on.
    const bool lock = options.lock_rim || kept > 0;
    progress.stretch(0, 1, "Reducing");
    // A repair of what the reduction folded over may cost more than the reduction: then a few triangles more
    // or less are tried, as others fold then. The nearest to the original is taken.
    const bool mends = m.triangles.size() <= kMostMended;
    const RepairOptions repairs = mends ? repair_of_new(m, progress) : RepairOptions();
    Reduced best;
    double best_off = INFINITY;
    constexpr std::array<double, 5> kShares{1.0, 0.98, 1.02, 0.96, 1.04};
    for (const double share : kShares) {
        progress.check();
        const auto n = static_cast<std::size_t>(std::lround(share * static_cast<double>(wanted)));
        mesh::TriMesh one = simplified(m, parts, n, lock);
        if (!mends) {
            const Deviation d = deviation(one, m, progress);
            return {std::move(one), d};
        }
        const Deviation unrepaired = deviation(one, m, progress);
        Reduced r;
        r.mesh = without_new_faults(std::move(one), repairs, held, progress);
        r.deviation = deviation(r.mesh, m, progress);
        // In both directions: a corner that is cut off lies near what is left of it.
        const double off = std::max(r.deviation.max, deviation(m, r.mesh, progress).max);
        const bool fine = off <= 2 * unrepaired.max + 1e-12 || r.mesh.triangles.size() == m.triangles.size();
        if (off < best_off) {
            best_off = off;
            best = std::move(r);
        }
        if (fine) break;
    }
    return best;
}

}  // namespace pristine::repair
