#include "core/mesh/weld.h"

#include <algorithm>
#include <array>
#include <bit>

namespace pristine::mesh {
namespace {

std::size_t hash(const Vec3& v) {
    std::uint64_t h = 0;
    for (int a = 0; a < 3; ++a) {
        h = (h ^ std::bit_cast<std::uint64_t>(v[a] + 0.0)) * 0x9E3779B97F4A7C15ull;  // -0 is 0
        h ^= h >> 32;
    }
    return static_cast<std::size_t>(h);
}

// Vertices by their place; open addressing.
class Places {
  public:
    explicit Places(std::size_t most) : slots_(std::bit_ceil(most + 2), UINT32_MAX) {}
    // The slot of a place in `of`: of the vertex there, or a free one.
    std::uint32_t& slot(const std::vector<Vec3>& of, const Vec3& place) {
        const std::size_t mask = slots_.size() - 1;
        std::size_t at = hash(place) & mask;
        while (slots_[at] != UINT32_MAX && !(of[slots_[at]] == place)) at = (at + 1) & mask;
        return slots_[at];
    }
    // The vertex of a place in `of`; one more, where there is none.
    std::uint32_t number(std::vector<Vec3>& of, const Vec3& place) {
        std::uint32_t& own = slot(of, place);
        if (own == UINT32_MAX) {
            own = static_cast<std::uint32_t>(of.size());
            of.push_back(place);
        }
        return own;
    }

  private:
    std::vector<std::uint32_t> slots_;
};

// Triangles in another order; number() says the new number of a vertex when it is first met.
template <class Number>
TriMesh renumbered(const TriMesh& m, std::span<const std::uint32_t> triangles, Number&& number) {
    TriMesh out;
    out.triangles.resize(triangles.size());
    out.vertices.reserve(std::min(m.vertices.size(), 3 * triangles.size()));
    std::vector<std::uint32_t> known(m.vertices.size(), UINT32_MAX);
    for (std::size_t i = 0; i < triangles.size(); ++i)
        for (std::size_t k = 0; k < 3; ++k) {
            const std::uint32_t v = m.triangles[triangles[i]][k];
            if (known[v] == UINT32_MAX) known[v] = number(out.vertices, m.vertices[v]);
            out.triangles[i][k] = known[v];
        }
    return out;
}

}  // namespace

TriMesh weld(std::span<const Vec3> corners) {
    TriMesh m;
    m.triangles.resize(corners.size() / 3);
    Places places(corners.size());  // about half as many vertices as triangles: seldom more than half full
    for (std::size_t i = 0; i < 3 * m.triangles.size(); ++i)
        m.triangles[i / 3][i % 3] = places.number(m.vertices, corners[i]);
    return m;
}

TriMesh weld_part(const TriMesh& m, std::span<const std::uint32_t> triangles) {
    Places places(2 * m.vertices.size());
    return renumbered(m, triangles,
                      [&](std::vector<Vec3>& to, const Vec3& v) { return places.number(to, v); });
}

TriMesh part_of(const TriMesh& m, std::span<const std::uint32_t> triangles) {
    return renumbered(m, triangles, [](std::vector<Vec3>& to, const Vec3& v) {
        to.push_back(v);
        return static_cast<std::uint32_t>(to.size() - 1);
    });
}

TriMesh extended(const TriMesh& m, const TriMesh& more) {
    TriMesh out = m;
    std::vector<std::uint32_t> used;
    for (const auto& t : more.triangles) used.insert(used.end(), t.begin(), t.end());
    std::sort(used.begin(), used.end());
    used.erase(std::unique(used.begin(), used.end()), used.end());
    // Few are new: they are looked for by place, and each old vertex asks for itself.
    Places places(2 * used.size());
    for (const std::uint32_t v : used)
        if (std::uint32_t& slot = places.slot(more.vertices, more.vertices[v]); slot == UINT32_MAX) slot = v;
    std::vector<std::uint32_t> number(more.vertices.size(), UINT32_MAX);
    for (std::uint32_t v = 0; v < m.vertices.size(); ++v)
        if (const std::uint32_t own = places.slot(more.vertices, m.vertices[v]); own != UINT32_MAX)
            number[own] = v;
    for (const auto& t : more.triangles) {
        std::array<std::uint32_t, 3> c{};
        for (std::size_t k = 0; k < 3; ++k) {
            std::uint32_t& v = number[places.slot(more.vertices, more.vertices[t[k]])];
            if (v == UINT32_MAX) {
                v = static_cast<std::uint32_t>(out.vertices.size());
                out.vertices.push_back(more.vertices[t[k]]);
            }
            c[k] = v;
        }
        out.triangles.push_back(c);
    }
    return out;
}

}  // namespace pristine::mesh
