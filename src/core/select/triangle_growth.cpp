#include "core/select/triangle_growth.h"

#include <cmath>
#include <numbers>

#include "core/base/parallel.h"
#include "core/cloud/triangles.h"
#include "core/mesh/tri_mesh.h"

namespace pristine::select {
namespace {

using cloud::PointCloud;
using topology::kNone;

class VertexMarks {
  public:
    explicit VertexMarks(std::size_t vertices) : bits_((vertices + 63) / 64, 0) {}
    void set(std::uint32_t v) { bits_[v / 64] |= std::uint64_t{1} << (v % 64); }
    bool any(const std::array<std::uint32_t, 3>& t) const { return test(t[0]) || test(t[1]) || test(t[2]); }

  private:
    bool test(std::uint32_t v) const { return (bits_[v / 64] >> (v % 64)) & 1; }
    std::vector<std::uint64_t> bits_;
};

VertexMarks corners_of(const PointCloud& c, const ElementSet& set) {
    const mesh::TriMesh& m = *c.triangles();
    VertexMarks marks(m.vertices.size());
    set.for_each([&](std::uint64_t t) {
        for (const std::uint32_t v : m.triangles[t]) marks.set(v);
    });
    return marks;
}

bool apart(const Box3& a, const Box3& b) {
    for (int k = 0; k < 3; ++k)
        if (a.lo[k] > b.hi[k] || b.lo[k] > a.hi[k]) return true;
    return false;
}

// Members of `of` that share a corner with a member of `set`.
ElementSet beside(const PointCloud& c, const ElementSet& set, const ElementSet& of, Progress& progress) {
    const mesh::TriMesh& m = *c.triangles();
    const VertexMarks marks = corners_of(c, set);
    Box3 box;
    for (std::size_t p = 0; p < c.page_count(); ++p)
        if (set.kind(p) != ElementSet::Kind::None) box.add(c.page_box(p));
    ElementSet result(c.size());
    if (box.empty()) return result;
    parallel::for_each(c.page_count(), [&](std::size_t p) {
        progress.check();
        if (of.kind(p) == ElementSet::Kind::None || apart(c.page_box(p), box)) return;
        PageBits bits;
        of.for_each_in_page(p, [&](std::size_t i) {
            if (marks.any(m.triangles[p * kPageSize + i])) bits.set(i);
        });
        result.set_page(p, bits);
    });
    return result;
}

std::vector<char> flags(const ElementSet& set) {
    std::vector<char> f(set.size(), 0);
    set.for_each([&](std::uint64_t e) { f[e] = 1; });
    return f;
}

ElementSet set_of(const std::vector<char>& flags) {
    ElementSet set(flags.size());
    parallel::for_each(set.page_count(), [&](std::size_t p) {
        PageBits bits;
        const std::size_t first = p * kPageSize;
        for (std::size_t i = 0; i < page_length(flags.size(), p); ++i)
            if (flags[first + i]) bits.set(i);
        set.set_page(p, bits);
    });
    return set;
}

Vec3 normal(const mesh::TriMesh& m, std::uint32_t t) {
    const auto& c = m.triangles[t];
    const Vec3 &a = m.vertices[c[0]], &b = m.vertices[c[1]], &d = m.vertices[c[2]];
    return normalized(cross(b - a, d - a));
}

// An edge without an eligible triangle behind it, nearest to `start` in steps across edges: 4 t + k.
std::uint32_t nearest_rim_edge(const topology::Adjacency& a, const std::vector<char>& in,
                               std::uint32_t start) {
    std::vector<char> met(in.size(), 0);
    std::vector<std::uint32_t> ring{start}, next;
    met[start] = 1;
    while (!ring.empty()) {
        next.clear();
        for (const std::uint32_t t : ring)
            for (std::uint32_t k = 0; k < 3; ++k) {
                const std::uint32_t o = a.across[t][k];
                if (o == kNone || !in[o]) return 4 * t + k;
                if (!met[o]) {
                    met[o] = 1;
                    next.push_back(o);
                }
            }
        ring.swap(next);
    }
    return kNone;
}

}  // namespace

ElementSet grown_by_ring(const PointCloud& c, const ElementSet& set, const ElementSet& eligible,
                         Progress& progress) {
    return set | beside(c, set, eligible, progress);
}

ElementSet shrunk_by_ring(const PointCloud& c, const ElementSet& set, const ElementSet& eligible,
                          Progress& progress) {
    return set - beside(c, eligible - set, set, progress);
}

ElementSet connected_triangles(const PointCloud& c, const ElementSet& seeds, const ElementSet& eligible,
                               double crease_deg, Progress& progress) {
    const mesh::TriMesh& m = *c.triangles();
    const auto a = cloud::adjacency_of(c);
    const double cosine = crease_deg >= 180 ? -2 : std::cos(crease_deg * std::numbers::pi / 180);
    const std::vector<char> in = flags(eligible);
    std::vector<char> reached = flags(seeds);
    std::vector<std::uint32_t> open;
    seeds.for_each([&](std::uint64_t t) { open.push_back(static_cast<std::uint32_t>(t)); });
    for (std::size_t steps = 0; !open.empty(); ++steps) {
        if (steps % 65536 == 0) progress.check();
        const std::uint32_t t = open.back();
        open.pop_back();
        for (const std::uint32_t o : a->across[t]) {
            if (o == kNone || reached[o] || !in[o]) continue;
            if (cosine > -2 && dot(normal(m, t), normal(m, o)) < cosine) continue;
            reached[o] = 1;
            open.push_back(o);
        }
    }
    return set_of(reached);
}

ElementSet round_rim(const PointCloud& c, std::uint64_t triangle, const ElementSet& eligible,
                     Progress& progress) {
    const mesh::TriMesh& m = *c.triangles();
    const auto a = cloud::adjacency_of(c);
    const std::vector<char> in = flags(eligible);
    const std::uint32_t first = nearest_rim_edge(*a, in, static_cast<std::uint32_t>(triangle));
    if (first == kNone || !in[triangle]) return ElementSet(c.size());
    VertexMarks marks(m.vertices.size());
    std::uint32_t t = first / 4, k = first % 4;
    // A walk is no longer than all edges; triangles with a corner twice could lead it astray.
    std::size_t steps = 0;
    do {
        // To the end of this edge, then round that corner through what is eligible to the next rim edge.
        const std::uint32_t v = m.triangles[t][(k + 2) % 3];
        marks.set(v);
        for (;;) {
            k = 0;
            while (m.triangles[t][(k + 1) % 3] != v) ++k;
            const std::uint32_t o = a->across[t][k];
            if (o == kNone || !in[o] || ++steps > 3 * in.size()) break;
            t = o;
        }
    } while (4 * t + k != first && ++steps <= 3 * in.size());
    ElementSet result(c.size());
    parallel::for_each(c.page_count(), [&](std::size_t p) {
        progress.check();
        PageBits bits;
        eligible.for_each_in_page(p, [&](std::size_t i) {
            if (marks.any(m.triangles[p * kPageSize + i])) bits.set(i);
        });
        result.set_page(p, bits);
    });
    return result;
}

}  // namespace pristine::select
