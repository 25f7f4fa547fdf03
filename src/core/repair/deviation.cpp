#include "core/repair/deviation.h"

#include <algorithm>
#include <array>
#include <atomic>
#include <bit>
#include <tuple>

#include "core/base/parallel.h"
#include "core/mesh/box_tree.h"
#include "core/topology/adjacency.h"

namespace pristine::repair {
namespace {

constexpr std::size_t kDeviationRun = 4096;

Vec3 place(const mesh::TriMesh& m, std::size_t t, const std::array<double, 3>& w) {
    const auto& c = m.triangles[t];
    return m.vertices[c[0]] * w[0] + m.vertices[c[1]] * w[1] + m.vertices[c[2]] * w[2];
}

}  // namespace

Deviation deviation(const mesh::TriMesh& m, const mesh::TriMesh& to, Progress& progress) {
    Deviation d;
    if (m.triangles.empty() || to.triangles.empty()) return d;
    const mesh::BoxTree tree(to);
    const std::size_t n = m.triangles.size();
    // Corners and edges belong to several triangles, and are looked up once. Distances change no faster than
    // places do, so what is known of a corner says how far to look.
    constexpr double kHair = 1 + 1e-9;
    std::vector<char> used(m.vertices.size(), 0);
    for (const auto& t : m.triangles)
        for (const std::uint32_t v : t) used[v] = 1;
    std::vector<double> at_corner(m.vertices.size(), 0), at_edge(3 * n, 0);
    // Corners take about a third of the time, edges half of it.
    std::atomic<std::size_t> done{0};
    const auto told = [&](std::size_t more, std::size_t of, double from, double to_share) {
        const auto part =
            static_cast<double>(done += more) / static_cast<double>(std::max<std::size_t>(of, 1));
        progress.advance(from + (to_share - from) * std::min(1.0, part));
    };
    parallel::for_ranges(at_corner.size(), kDeviationRun, [&](std::size_t from, std::size_t until) {
        told(until - from, at_corner.size(), 0, 0.35);
        for (std::size_t v = from; v < until; ++v)
            if (used[v]) at_corner[v] = tree.nearest(m.vertices[v]).distance;
    });
    const topology::Adjacency beside = topology::adjacency(m.triangles);
    const auto owned = [&](std::size_t t, std::size_t k) {
        const std::uint32_t o = beside.across[t][k];
        return o == topology::kNone || t < o;
    };
    const auto in_reach = [&](const Vec3& p, std::uint32_t corner) {
        return kHair * (at_corner[corner] + norm(p - m.vertices[corner]));
    };
    done = 0;
    parallel::for_ranges(n, kDeviationRun, [&](std::size_t from, std::size_t until) {
        told(until - from, n, 0.35, 0.8);
        for (std::size_t t = from; t < until; ++t)
            for (std::size_t k = 0; k < 3; ++k) {
                if (!owned(t, k)) continue;
                const std::uint32_t u = m.triangles[t][(k + 1) % 3], v = m.triangles[t][(k + 2) % 3];
                const Vec3 p = (m.vertices[u] + m.vertices[v]) * 0.5;
                at_edge[3 * t + k] = tree.nearest(p, std::min(in_reach(p, u), in_reach(p, v))).distance;
            }
    });
    const auto edge = [&](std::size_t t, std::size_t k) {
        if (owned(t, k)) return at_edge[3 * t + k];
        const std::uint32_t o = beside.across[t][k];
        const auto& back = beside.across[o];
        for (std::size_t j = 0; j < 3; ++j)
            if (back[j] == t && m.triangles[o][j] != m.triangles[t][(k + 1) % 3] &&
                m.triangles[o][j] != m.triangles[t][(k + 2) % 3])
                return at_edge[3 * o + j];
        return 0.0;
    };
    using Part = std::vector<std::pair<double, double>>;  // distance, area
    done = 0;
    const auto parts = parallel::map<Part>((n + kDeviationRun - 1) / kDeviationRun, [&](std::size_t r) {
        told(kDeviationRun, n, 0.8, 1);
        Part own;
        own.reserve(7 * kDeviationRun);
        for (std::size_t t = r * kDeviationRun; t < std::min(n, (r + 1) * kDeviationRun); ++t) {
            const auto& c = m.triangles[t];
            const double area =
                0.5 * norm(cross(m.vertices[c[1]] - m.vertices[c[0]], m.vertices[c[2]] - m.vertices[c[0]]));
            const Vec3 middle = place(m, t, {1 / 3., 1 / 3., 1 / 3.});
            own.push_back({tree.nearest(middle, in_reach(middle, c[0])).distance, area / 7});
            for (std::size_t k = 0; k < 3; ++k) {
                own.push_back({at_corner[c[k]], area / 7});
                own.push_back({edge(t, k), area / 7});
            }
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
    parallel::for_ranges(was.size(), kDeviationRun, [&](std::size_t from, std::size_t to) {
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
    parallel::for_ranges(out.size(), kDeviationRun, [&](std::size_t from, std::size_t until) {
        progress.check();
        for (std::size_t t = from; t < until; ++t)
            out[t] = tree.nearest(place(m, t, {1 / 3., 1 / 3., 1 / 3.})).distance;
    });
    return out;
}

}  // namespace pristine::repair
