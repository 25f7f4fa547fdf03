#include "core/topology/adjacency.h"

#include <algorithm>
#include <unordered_map>

#include "core/base/parallel.h"

namespace pristine::topology {
namespace {

struct HalfEdge {
    std::uint32_t lower, higher;  // vertices
    std::uint32_t edge;           // 4 * triangle + k
};

std::uint32_t start_of(const Triangle& t, std::uint32_t k) {
    return t[(k + 1) % 3];
}
std::uint32_t end_of(const Triangle& t, std::uint32_t k) {
    return t[(k + 2) % 3];
}

// By the lower vertex in buckets, each sorted for itself.
std::vector<HalfEdge> sorted_edges(std::span<const Triangle> triangles) {
    std::uint32_t most = 0;
    for (const Triangle& t : triangles) most = std::max({most, t[0], t[1], t[2]});
    std::vector<std::uint32_t> first(std::size_t{most} + 2, 0);
    const auto each = [&](auto&& visit) {
        for (std::uint32_t t = 0; t < triangles.size(); ++t)
            for (std::uint32_t k = 0; k < 3; ++k) {
                const std::uint32_t a = start_of(triangles[t], k), b = end_of(triangles[t], k);
                visit(HalfEdge{std::min(a, b), std::max(a, b), 4 * t + k});
            }
    };
    each([&](const HalfEdge& e) { ++first[e.lower + 1]; });
    for (std::size_t v = 1; v < first.size(); ++v) first[v] += first[v - 1];
    std::vector<HalfEdge> edges(3 * triangles.size());
    std::vector<std::uint32_t> at(first.begin(), first.end() - 1);
    each([&](const HalfEdge& e) { edges[at[e.lower]++] = e; });
    parallel::for_ranges(first.size() - 1, 65536, [&](std::size_t from, std::size_t to) {
        for (std::size_t v = from; v < to; ++v)
            std::sort(edges.begin() + first[v], edges.begin() + first[v + 1],
                      [](const HalfEdge& a, const HalfEdge& b) {
                          return a.higher != b.higher ? a.higher < b.higher : a.edge < b.edge;
                      });
    });
    return edges;
}

}  // namespace

Adjacency adjacency(std::span<const Triangle> triangles) {
    Adjacency a;
    a.across.assign(triangles.size(), {kNone, kNone, kNone});
    if (triangles.empty()) return a;
    const std::vector<HalfEdge> edges = sorted_edges(triangles);
    for (std::size_t i = 0; i < edges.size();) {
        std::size_t j = i + 1;
        while (j < edges.size() && edges[j].lower == edges[i].lower && edges[j].higher == edges[i].higher)
            ++j;
        if (j - i == 1) {
            ++a.boundary_edges;
        } else if (j - i > 2) {
            ++a.non_manifold_edges;
        } else {
            const std::uint32_t s = edges[i].edge / 4, t = edges[i + 1].edge / 4, k = edges[i].edge % 4,
                                l = edges[i + 1].edge % 4;
            if (start_of(triangles[s], k) == start_of(triangles[t], l)) {
                ++a.inconsistent_edges;
            } else {
                a.across[s][k] = t;
                a.across[t][l] = s;
            }
        }
        i = j;
    }
    return a;
}

std::vector<std::vector<std::uint32_t>> boundary_loops(std::span<const Triangle> triangles,
                                                       const Adjacency& a) {
    const auto walked = [](std::uint32_t t, std::uint32_t k) { return 4 * t + k; };
    // The next rim edge after the end of one: going round that vertex through the triangles.
    const auto after = [&](std::uint32_t t, std::uint32_t k) {
        const std::uint32_t v = end_of(triangles[t], k);
        for (std::size_t steps = 0; steps <= triangles.size(); ++steps) {
            // The edge of t that starts at v.
            std::uint32_t e = 0;
            while (start_of(triangles[t], e) != v) ++e;
            const std::uint32_t o = a.across[t][e];
            if (o == kNone) return walked(t, e);
            t = o;
        }
        return walked(t, k);
    };
    std::vector<std::vector<std::uint32_t>> loops;
    std::vector<char> done(4 * triangles.size(), 0);
    for (std::uint32_t t = 0; t < triangles.size(); ++t)
        for (std::uint32_t k = 0; k < 3; ++k) {
            if (a.across[t][k] != kNone || done[walked(t, k)]) continue;
            std::vector<std::uint32_t> loop;
            for (std::uint32_t e = walked(t, k); !done[e]; e = after(e / 4, e % 4)) {
                done[e] = 1;
                loop.push_back(start_of(triangles[e / 4], e % 4));
            }
            loops.push_back(std::move(loop));
        }
    return loops;
}

Pieces pieces(std::span<const Triangle> triangles, const Adjacency& a) {
    Pieces p;
    p.of.assign(triangles.size(), kNone);
    std::vector<std::uint32_t> open;
    for (std::uint32_t first = 0; first < triangles.size(); ++first) {
        if (p.of[first] != kNone) continue;
        const auto number = static_cast<std::uint32_t>(p.size.size());
        p.size.push_back(0);
        p.of[first] = number;
        open.assign(1, first);
        while (!open.empty()) {
            const std::uint32_t t = open.back();
            open.pop_back();
            ++p.size.back();
            for (const std::uint32_t o : a.across[t])
                if (o != kNone && p.of[o] == kNone) {
                    p.of[o] = number;
                    open.push_back(o);
                }
        }
    }
    return p;
}

}  // namespace pristine::topology
