#include "core/repair/patch.h"

#include <set>
#include <tuple>

#include "core/geometry/triangle.h"
#include "core/topology/adjacency.h"

namespace pristine::repair {

Step replace_patch(const mesh::TriMesh& m, const std::vector<char>& gone, const FillOptions& options,
                   Progress& progress) {
    using Place = std::tuple<double, double, double>;
    const auto place = [](const Vec3& v) { return Place{v.x, v.y, v.z}; };
    std::set<Place> at_patch, at_rim;
    std::uint64_t removed = 0;
    for (std::size_t t = 0; t < m.triangles.size(); ++t) {
        if (!gone[t]) continue;
        ++removed;
        for (const std::uint32_t v : m.triangles[t]) at_patch.insert(place(m.vertices[v]));
    }
    for (const auto& rim : topology::boundary_loops(m.triangles, topology::adjacency(m.triangles)))
        for (const std::uint32_t v : rim) at_rim.insert(place(m.vertices[v]));
    std::vector<Unrepaired> open;
    const RimWanted wanted = [&](const mesh::TriMesh& rest, const std::vector<std::uint32_t>& rim) {
        std::size_t of_patch = 0, before = 0;
        for (const std::uint32_t v : rim) {
            of_patch += at_patch.contains(place(rest.vertices[v]));
            before += at_rim.contains(place(rest.vertices[v]));
        }
        if (of_patch == rim.size() && before == 0) return true;
        if (of_patch > 1 && before < rim.size())
            open.push_back({Fault::Hole, rest.vertices[rim[0]],
                            "The patch runs into a rim that was open before: fill that hole first, or choose "
                            "a smaller patch"});
        return false;
    };
    Step step = fill_holes(without(m, gone), options, 0, wanted, progress);
    step.removed = removed;
    step.unrepaired.insert(step.unrepaired.end(), open.begin(), open.end());
    return step;
}

Step fill_wider(const mesh::TriMesh& m, const std::vector<std::uint32_t>& rim, const FillOptions& options,
                Progress& progress) {
    using Place = std::tuple<double, double, double>;
    std::vector<char> on_rim(m.vertices.size(), 0), gone(m.triangles.size(), 0);
    for (const std::uint32_t v : rim) on_rim[v] = 1;
    std::set<Place> touched;
    std::uint64_t removed = 0;
    for (std::size_t t = 0; t < gone.size(); ++t) {
        const auto& c = m.triangles[t];
        if (!on_rim[c[0]] && !on_rim[c[1]] && !on_rim[c[2]]) continue;
        gone[t] = 1;
        ++removed;
        for (const std::uint32_t v : c) touched.insert({m.vertices[v].x, m.vertices[v].y, m.vertices[v].z});
    }
    const RimWanted wanted = [&](const mesh::TriMesh& rest, const std::vector<std::uint32_t>& r) {
        for (const std::uint32_t v : r)
            if (touched.contains({rest.vertices[v].x, rest.vertices[v].y, rest.vertices[v].z})) return true;
        return false;
    };
    Step step = fill_holes(without(m, gone), options, 0, wanted, progress);
    step.removed = removed;
    return step;
}

void mark_round(const mesh::TriMesh& m, const Vec3& place, double radius, std::vector<char>& marked) {
    for (std::size_t t = 0; t < m.triangles.size(); ++t) {
        const auto& c = m.triangles[t];
        const Vec3 q = closest_on_triangle(place, m.vertices[c[0]], m.vertices[c[1]], m.vertices[c[2]]);
        if (norm(q - place) <= radius) marked[t] = 1;
    }
}

}  // namespace pristine::repair
