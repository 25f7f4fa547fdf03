#include "core/measure/board.h"

#include "core/measure/noise.h"
#include "core/surface/clip.h"

namespace pristine::measure {
namespace {

mesh::TriMesh inside(const mesh::TriMesh& m, const BoardRequest& r, Progress& progress) {
    if (r.within.empty()) return m;
    return surface::clip(m, {r.within}, surface::Keep::Inside, surface::Edges::Exact, progress);
}

std::optional<Volumes> volumes_of(const mesh::TriMesh& m, const BoardRequest& r, Progress& progress) {
    switch (r.from) {
        case CountedFrom::Level:
            return volumes(m, level(r.level));
        case CountedFrom::LowestOfRim:
            return volumes(m, lowest_of_rim(m));
        case CountedFrom::MeanOfRim:
            return volumes(m, mean_of_rim(m));
        case CountedFrom::TriangulatedRim: {
            const Difference d = difference(triangulated_rim(m), m, {}, progress);
            return Volumes{d.fill, d.cut, d.fill_area, d.cut_area};
        }
        case CountedFrom::Plane:
            if (r.plane.size() >= 3) return volumes(m, plane_of(r.plane));
            break;
        case CountedFrom::OtherSurface:
            break;
    }
    return std::nullopt;
}

// `m` and `whole` are cut already; `whole` is empty when nothing was removed.
void compare(Board& b, const mesh::TriMesh& m, const mesh::TriMesh& whole, const mesh::TriMesh& other,
             const BoardRequest& r, Progress& progress) {
    HeightSigma own = r.own, others = r.other;
    if (!(own.noise > 0)) own.noise = noise_of(m);
    if (!(others.noise > 0)) others.noise = noise_of(other);
    b.earlier = r.swapped ? own : others;
    b.later = r.swapped ? others : own;
    const DifferenceOptions options{r.band, b.earlier, b.later};
    const auto against = [&](const mesh::TriMesh& one) {
        return r.swapped ? difference(one, other, options, progress)
                         : difference(other, one, options, progress);
    };
    b.difference = against(m);
    if (!whole.triangles.empty()) b.difference_before = against(whole);
}

}  // namespace

Board board(const mesh::TriMesh& now, const mesh::TriMesh* before, const mesh::TriMesh* other,
            const BoardRequest& r, Progress& progress) {
    Board b;
    b.now = figures(now);
    b.before = before ? figures(*before) : b.now;
    // What was removed may be without area, or an edit may have brought the same number of triangles.
    const bool edited =
        before && (before->triangles.size() != now.triangles.size() || b.now.plan_area != b.before.plan_area);
    const mesh::TriMesh m = inside(now, r, progress),
                        whole = edited ? inside(*before, r, progress) : mesh::TriMesh();
    if (m.triangles.empty()) return b;
    if (r.from == CountedFrom::OtherSurface) {
        if (other) compare(b, m, whole, inside(*other, r, progress), r, progress);
        return b;
    }
    b.volumes = volumes_of(m, r, progress);
    if (!whole.triangles.empty()) b.volumes_before = volumes_of(whole, r, progress);
    return b;
}

}  // namespace pristine::measure
