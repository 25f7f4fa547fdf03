#include "core/repair/deviation.h"

#include <algorithm>
#include <array>
#include <bit>
#include <tuple>

#include "core/base/parallel.h"
#include "core/mesh/box_tree.h"

namespace pristine::repair {
namespace {

constexpr std::size_t kRun = 4096;

Vec3 place(const mesh::TriMesh& m, std::size_t t, const std::array<double, 3>& w) {
    const auto& c = m.triangles[t];
    return m.vertices[c[0]] * w[0] + m.vertices[c[1]] * w[1] + m.vertices[c[2]] * w[2];
}

}  // namespace

Deviation deviation(const mesh::TriMesh& m, const mesh::TriMesh& to, Progress& progress) {
    Deviation d;
    if (m.triangles.empty() || to.triangles.empty()) return d;
    const mesh::BoxTree tree(to);
    static constexpr std::array<std::array<double, 3>, 7> kPlaces{{{1, 0, 0},
                                                                   {0, 1, 0},
                                                                   {0, 0, 1},
                                                                   {0.5, 0.5, 0},
                                                                   {0, 0.5, 0.5},
                                                                   {0.5, 0, 0.5},
                                                                   {1 / 3., 1 / 3., 1 / 3.}}};
    using Part = std::vector<std::pair<double, double>>;  // distance, area
    const auto parts = parallel::map<Part>((m.triangles.size() + kRun - 1) / kRun, [&](std::size_t r) {
        progress.check();
        Part own;
        for (std::size_t t = r * kRun; t < std::min(m.triangles.size(), (r + 1) * kRun); ++t) {
            const auto& c = m.triangles[t];
            const double area =
                0.5 * norm(cross(m.vertices[c[1]] - m.vertices[c[0]], m.vertices[c[2]] - m.vertices[c[0]]));
            for (const auto& w : kPlaces) own.push_back({tree.nearest(place(m, t, w)).distance, area / 7});
        }
        return own;
    });
    Part all;
    for (const Part& p : parts) all.insert(all.end(), p.begin(), p.end());
    std::sort(all.begin(), all.end());
    double area = 0, sum = 0;
    for (const auto& [distance, a] : all) area += a, sum += a * distance;
    d.mean = area > 0 ? sum / area : 0;
    d.max = all.back().first;
    double below = 0;
    for (const auto& [distance, a] : all) {
        below += a;
        d.p95 = distance;
        if (below >= 0.95 * area) break;
    }
    return d;
}

Deviation deviation_of_made(const mesh::TriMesh& before, const mesh::TriMesh& after, Progress& progress) {
    using Corners = std::array<Vec3, 3>;
    const auto corners = [](const mesh::TriMesh& m, std::size_t t) {
        const auto& c = m.triangles[t];
        const auto less = [](const Vec3& a, const Vec3& b) {
            return std::tie(a.x, a.y, a.z) < std::tie(b.x, b.y, b.z);
        };
        Corners out{m.vertices[c[0]], m.vertices[c[1]], m.vertices[c[2]]};
        std::sort(out.begin(), out.end(), less);
        return out;
    };
    const auto mixed = [](const Corners& c) {
        std::uint64_t h = 0;
        for (const Vec3& v : c)
            for (int a = 0; a < 3; ++a) {
                h = (h ^ std::bit_cast<std::uint64_t>(v[a] + 0.0)) * 0x9E3779B97F4A7C15u;
                h ^= h >> 29;
            }
        return h;
    };
    std::vector<std::uint64_t> was(before.triangles.size());
    parallel::for_ranges(was.size(), kRun, [&](std::size_t from, std::size_t to) {
        for (std::size_t t = from; t < to; ++t) was[t] = mixed(corners(before, t));
    });
    std::sort(was.begin(), was.end());
    progress.check();
    mesh::TriMesh made;
    made.vertices = after.vertices;
    for (std::size_t t = 0; t < after.triangles.size(); ++t)
        if (!std::binary_search(was.begin(), was.end(), mixed(corners(after, t))))
            made.triangles.push_back(after.triangles[t]);
    return deviation(made, before, progress);
}

std::vector<double> distances(const mesh::TriMesh& m, const mesh::TriMesh& to, Progress& progress) {
    std::vector<double> out(m.triangles.size(), 0);
    const mesh::BoxTree tree(to);
    parallel::for_ranges(out.size(), kRun, [&](std::size_t from, std::size_t until) {
        progress.check();
        for (std::size_t t = from; t < until; ++t)
            out[t] = tree.nearest(place(m, t, {1 / 3., 1 / 3., 1 / 3.})).distance;
    });
    return out;
}

}  // namespace pristine::repair
