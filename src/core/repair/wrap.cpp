#include "core/repair/wrap.h"

#include <fmt/format.h>

#include <algorithm>
#include <array>
#include <cmath>
#include <cstdint>
#include <set>
#include <unordered_map>

#include "core/base/error.h"
#include "core/base/parallel.h"
#include "core/mesh/box_tree.h"
#include "core/repair/collapse.h"
#include "core/repair/crossings.h"

namespace pristine::repair {
namespace {

constexpr double kMostNodes = 4e8;

// A lattice of nodes, x running fastest.
struct Lattice {
    std::array<std::int64_t, 3> n{};
    Vec3 origin;
    double side = 1;
    std::size_t size() const { return static_cast<std::size_t>(n[0] * n[1] * n[2]); }
    std::size_t at(std::int64_t x, std::int64_t y, std::int64_t z) const {
        return static_cast<std::size_t>((z * n[1] + y) * n[0] + x);
    }
    Vec3 place(std::int64_t x, std::int64_t y, std::int64_t z) const {
        return origin + Vec3{static_cast<double>(x), static_cast<double>(y), static_cast<double>(z)} * side;
    }
};

Lattice lattice_for(const mesh::TriMesh& m, const WrapOptions& o, double margin) {
    Box3 box;
    for (const auto& t : m.triangles)
        for (const std::uint32_t v : t) box.add(m.vertices[v]);
    Lattice l;
    l.side = o.detail;
    l.origin = box.lo - Vec3{margin, margin, margin};
    double nodes = 1;
    for (int a = 0; a < 3; ++a) {
        const double count = std::ceil((box.hi[a] - box.lo[a] + 2 * margin) / l.side) + 2;
        nodes *= count;
        l.n[static_cast<std::size_t>(a)] = static_cast<std::int64_t>(std::min(count, 1e9));
    }
    if (!(nodes <= kMostNodes))
        throw Error(ErrorCode::Usage,
                    fmt::format("A detail of {:g} would need {:.2g} cells", o.detail, nodes), {},
                    fmt::format("Take {:.3g} or more.", o.detail * std::cbrt(nodes / kMostNodes) * 1.05));
    return l;
}

// The distance to the mesh at nodes within `reach` of it; `reach` beyond.
std::vector<float> distances_near(const mesh::TriMesh& m, const mesh::BoxTree& tree, const Lattice& l,
                                  double reach, Progress& progress) {
    std::vector<float> d(l.size(), static_cast<float>(reach));
    std::vector<char> near(l.size(), 0);
    for (const auto& t : m.triangles) {
        Box3 b;
        for (const std::uint32_t v : t) b.add(m.vertices[v]);
        std::array<std::int64_t, 3> lo{}, hi{};
        for (int a = 0; a < 3; ++a) {
            const auto k = static_cast<std::size_t>(a);
            lo[k] = std::max<std::int64_t>(
                0, static_cast<std::int64_t>((b.lo[a] - reach - l.origin[a]) / l.side));
            hi[k] =
                std::min(l.n[k] - 1, static_cast<std::int64_t>((b.hi[a] + reach - l.origin[a]) / l.side) + 1);
        }
        for (std::int64_t z = lo[2]; z <= hi[2]; ++z)
            for (std::int64_t y = lo[1]; y <= hi[1]; ++y)
                std::fill_n(near.begin() + static_cast<std::ptrdiff_t>(l.at(lo[0], y, z)), hi[0] - lo[0] + 1,
                            1);
    }
    parallel::for_each(static_cast<std::size_t>(l.n[2]), [&](std::size_t z) {
        progress.check();
        for (std::int64_t y = 0; y < l.n[1]; ++y)
            for (std::int64_t x = 0; x < l.n[0]; ++x) {
                const std::size_t i = l.at(x, y, static_cast<std::int64_t>(z));
                if (near[i])
                    d[i] = static_cast<float>(
                        tree.nearest(l.place(x, y, static_cast<std::int64_t>(z)), reach).distance);
            }
    });
    return d;
}

// What a flood from the corner reaches without coming nearer to the mesh than `wall`.
std::vector<char> flooded(const Lattice& l, const std::vector<float>& d, float wall) {
    std::vector<char> out(l.size(), 0);
    std::vector<std::size_t> open{0};
    out[0] = 1;
    const std::array<std::int64_t, 3> step{1, l.n[0], l.n[0] * l.n[1]};
    while (!open.empty()) {
        const std::size_t i = open.back();
        open.pop_back();
        const auto at = static_cast<std::int64_t>(i);
        const std::array<std::int64_t, 3> c{at % l.n[0], at / l.n[0] % l.n[1], at / step[2]};
        for (std::size_t a = 0; a < 3; ++a)
            for (const std::int64_t way : {-1, 1}) {
                if (c[a] + way < 0 || c[a] + way >= l.n[a]) continue;
                const auto o = static_cast<std::size_t>(at + way * step[a]);
                if (out[o] || d[o] < wall) continue;
                out[o] = 1;
                open.push_back(o);
            }
    }
    return out;
}

// Squared distances in cells to the nearest marked node, exactly, one axis after the other (Felzenszwalb &
// Huttenlocher 2012).
void along_axis(const std::vector<float>& f, std::vector<float>& out, std::int64_t n) {
    std::vector<std::int64_t> v(static_cast<std::size_t>(n));
    std::vector<float> z(static_cast<std::size_t>(n) + 1);
    constexpr float kFar = 1e20f;
    std::size_t k = 0;
    v[0] = 0;
    z[0] = -kFar, z[1] = kFar;
    const auto meet = [&](std::int64_t q, std::int64_t p) {
        const auto fq = static_cast<float>(q), fp = static_cast<float>(p);
        return ((f[static_cast<std::size_t>(q)] + fq * fq) - (f[static_cast<std::size_t>(p)] + fp * fp)) /
               (2 * fq - 2 * fp);
    };
    for (std::int64_t q = 1; q < n; ++q) {
        float s = meet(q, v[k]);
        while (k > 0 && s <= z[k]) s = meet(q, v[--k]);
        if (s <= z[k]) s = z[k];
        v[++k] = q;
        z[k] = s, z[k + 1] = kFar;
    }
    k = 0;
    for (std::int64_t q = 0; q < n; ++q) {
        while (z[k + 1] < static_cast<float>(q)) ++k;
        const auto off = static_cast<float>(q - v[k]);
        out[static_cast<std::size_t>(q)] = off * off + f[static_cast<std::size_t>(v[k])];
    }
}

std::vector<float> squared_to(const Lattice& l, const std::vector<char>& marked, Progress& progress) {
    std::vector<float> d(l.size());
    for (std::size_t i = 0; i < d.size(); ++i) d[i] = marked[i] ? 0.0f : 1e12f;
    const std::array<std::int64_t, 3> step{1, l.n[0], l.n[0] * l.n[1]};
    for (std::size_t a = 0; a < 3; ++a) {
        const std::size_t u = (a + 1) % 3, w = (a + 2) % 3;
        parallel::for_each(static_cast<std::size_t>(l.n[w]), [&](std::size_t j) {
            progress.check();
            const auto n = static_cast<std::size_t>(l.n[a]);
            std::vector<float> row(n), out(n);
            for (std::int64_t i = 0; i < l.n[u]; ++i) {
                const std::int64_t base = i * step[u] + static_cast<std::int64_t>(j) * step[w];
                for (std::int64_t k = 0; k < l.n[a]; ++k)
                    row[static_cast<std::size_t>(k)] = d[static_cast<std::size_t>(base + k * step[a])];
                along_axis(row, out, l.n[a]);
                for (std::int64_t k = 0; k < l.n[a]; ++k)
                    d[static_cast<std::size_t>(base + k * step[a])] = out[static_cast<std::size_t>(k)];
            }
        });
    }
    return d;
}

// The border between negative and positive nodes; nodes are never zero, so it has no doubtful places.
class Tetrahedra {
  public:
    Tetrahedra(const Lattice& l, const std::vector<float>& f) : l_(l), f_(f) {}

    mesh::TriMesh run(Progress& progress) {
        // Six tetrahedra round the diagonal of a cell; faces of neighbours match.
        static constexpr int kSix[6][4] = {{0, 1, 3, 7}, {0, 3, 2, 7}, {0, 2, 6, 7},
                                           {0, 6, 4, 7}, {0, 4, 5, 7}, {0, 5, 1, 7}};
        for (std::int64_t z = 0; z + 1 < l_.n[2]; ++z) {
            progress.check();
            for (std::int64_t y = 0; y + 1 < l_.n[1]; ++y)
                for (std::int64_t x = 0; x + 1 < l_.n[0]; ++x) {
                    std::array<std::size_t, 8> node{};
                    int inside = 0;
                    for (std::size_t k = 0; k < 8; ++k) {
                        node[k] = l_.at(x + static_cast<std::int64_t>(k & 1),
                                        y + static_cast<std::int64_t>(k >> 1 & 1),
                                        z + static_cast<std::int64_t>(k >> 2));
                        inside += f_[node[k]] < 0;
                    }
                    if (inside == 0 || inside == 8) continue;
                    for (const auto& six : kSix)
                        tetrahedron(
                            {node[static_cast<std::size_t>(six[0])], node[static_cast<std::size_t>(six[1])],
                             node[static_cast<std::size_t>(six[2])], node[static_cast<std::size_t>(six[3])]});
                }
        }
        return std::move(m_);
    }

  private:
    Vec3 place(std::size_t i) const {
        const auto at = static_cast<std::int64_t>(i);
        return l_.place(at % l_.n[0], at / l_.n[0] % l_.n[1], at / (l_.n[0] * l_.n[1]));
    }
    std::uint32_t between(std::size_t a, std::size_t b) {
        if (a > b) std::swap(a, b);
        // An edge of a cell goes at most one step up each axis: seven kinds.
        const std::size_t kind = b - a;
        const auto [it, fresh] =
            numbers_.try_emplace(std::pair{a, kind}, static_cast<std::uint32_t>(m_.vertices.size()));
        if (fresh) {
            const double fa = static_cast<double>(f_[a]), fb = static_cast<double>(f_[b]);
            const double t = std::clamp(fa / (fa - fb), 0.05, 0.95);  // no two corners in one place
            m_.vertices.push_back(place(a) + (place(b) - place(a)) * t);
        }
        return it->second;
    }
    void add(std::uint32_t a, std::uint32_t b, std::uint32_t c, const Vec3& inside) {
        const Vec3 &p = m_.vertices[a], &q = m_.vertices[b], &r = m_.vertices[c];
        if (dot(cross(q - p, r - p), inside - p) > 0) std::swap(b, c);
        m_.triangles.push_back({a, b, c});
    }
    void tetrahedron(const std::array<std::size_t, 4>& node) {
        std::array<std::size_t, 4> in{}, out{};
        std::size_t n = 0, o = 0;
        for (const std::size_t i : node) (f_[i] < 0 ? in[n++] : out[o++]) = i;
        if (n == 0 || o == 0) return;
        const Vec3 core = place(in[0]);
        if (n == 1) add(between(in[0], out[0]), between(in[0], out[1]), between(in[0], out[2]), core);
        if (n == 3) {
            // The one outside: the core lies on the other side of the plane.
            add(between(in[0], out[0]), between(in[1], out[0]), between(in[2], out[0]), core);
        }
        if (n == 2) {
            const std::uint32_t a = between(in[0], out[0]), b = between(in[0], out[1]),
                                c = between(in[1], out[1]), d = between(in[1], out[0]);
            add(a, b, c, core);
            add(a, c, d, core);
        }
    }

    struct Hash {
        std::size_t operator()(const std::pair<std::size_t, std::size_t>& k) const {
            return (k.first * 0x9E3779B97F4A7C15ull) ^ (k.second * 0xC2B2AE3D27D4EB4Full);
        }
    };
    const Lattice& l_;
    const std::vector<float>& f_;
    mesh::TriMesh m_;
    std::unordered_map<std::pair<std::size_t, std::size_t>, std::uint32_t, Hash> numbers_;
};

// Draws corners onto the mesh where that is near; those whose triangles would cross others go back.
void draw_onto(mesh::TriMesh& wrapped, const mesh::BoxTree& tree, double side, double reach,
               Progress& progress) {
    const std::vector<Vec3> before = wrapped.vertices;
    std::vector<Vec3> target = before;
    const mesh::BoxTree skin(wrapped);
    parallel::for_ranges(target.size(), 4096, [&](std::size_t from, std::size_t to) {
        progress.check();
        for (std::size_t v = from; v < to; ++v) {
            const auto n = tree.nearest(before[v], reach);
            if (n.triangle == UINT32_MAX) continue;
            // Not wholly: corners drawn from both sides of a thin sheet must not meet, nor come so near that
            // nothing can be done with them. What is left of the way lies outside and counts as volume.
            constexpr double kWay = 0.997, kWayOfSheet = 0.97;
            const Vec3 way = n.place - before[v];
            const bool sheet = skin.nearest(n.place + way, 0.5 * norm(way)).triangle != UINT32_MAX;
            target[v] = before[v] + way * (sheet ? kWayOfSheet : kWay);
        }
    });
    wrapped.vertices = target;
    for (int round = 0; round < 12; ++round) {
        std::vector<char> back(before.size(), 0);
        bool any = false;
        for (const auto& t : wrapped.triangles) {
            const auto& v = wrapped.vertices;
            const Vec3 e = v[t[1]] - v[t[0]], f = v[t[2]] - v[t[0]];
            const double longest = std::max({dot(e, e), dot(f, f), dot(f - e, f - e)});
            if (norm(cross(e, f)) > 1e-4 * longest && longest > 1e-6 * side * side) continue;
            for (const std::uint32_t k : t) back[k] = 1;
        }
        for (const Pair& p : crossings(wrapped, progress))
            for (const std::uint32_t t : p)
                for (const std::uint32_t v : wrapped.triangles[t]) back[v] = 1;
        for (std::size_t v = 0; v < back.size(); ++v)
            if (back[v] && !(wrapped.vertices[v] == before[v])) {
                any = true;
                wrapped.vertices[v] =
                    round < 8 ? before[v] + (wrapped.vertices[v] - before[v]) * 0.5 : before[v];
            }
        if (!any) return;
    }
}

// Edges shorter than a tenth of the detail close up, the cheapest first. Where that makes parts cross, all
// edges near by stay as they were.
mesh::TriMesh without_tiny_edges(const mesh::TriMesh& wrapped, double detail, Progress& progress) {
    constexpr double kTiny = 0.1;
    constexpr int kTries = 4;
    CollapseOptions options;
    options.shorter_than = kTiny * detail;
    std::set<std::array<std::int64_t, 3>> kept;  // cells of the size of the detail
    const auto cell = [&](const Vec3& p, const Vec3& step) {
        std::array<std::int64_t, 3> at{};
        for (int a = 0; a < 3; ++a)
            at[static_cast<std::size_t>(a)] = static_cast<std::int64_t>(std::floor(p[a] / detail + step[a]));
        return at;
    };
    for (int k = 0; k < kTries; ++k) {
        mesh::TriMesh closed = collapsed(wrapped, options, progress);
        const auto crossing = crossings(closed, progress);
        if (crossing.empty()) return closed;
        for (const Pair& p : crossing)
            for (const std::uint32_t t : p)
                for (const std::uint32_t v : closed.triangles[t])
                    for (int n = 0; n < 27; ++n)
                        kept.insert(cell(closed.vertices[v],
                                         {static_cast<double>(n % 3 - 1), static_cast<double>(n / 3 % 3 - 1),
                                          static_cast<double>(n / 9 - 1)}));
        options.only.assign(wrapped.triangles.size(), 1);
        for (std::size_t t = 0; t < wrapped.triangles.size(); ++t)
            for (const std::uint32_t v : wrapped.triangles[t])
                if (kept.contains(cell(wrapped.vertices[v], {}))) options.only[t] = 0;
    }
    return wrapped;
}

}  // namespace

double suggested_detail(const mesh::TriMesh& m) {
    Box3 box;
    for (const Vec3& v : m.vertices) box.add(v);
    if (m.triangles.empty() || box.empty()) return 0;
    std::vector<double> edges;
    const std::size_t stride = m.triangles.size() / 50'000 + 1;
    for (std::size_t t = 0; t < m.triangles.size(); t += stride)
        for (std::size_t k = 0; k < 3; ++k)
            edges.push_back(norm(m.vertices[m.triangles[t][k]] - m.vertices[m.triangles[t][(k + 1) % 3]]));
    const auto middle = edges.begin() + static_cast<std::ptrdiff_t>(edges.size() / 2);
    std::nth_element(edges.begin(), middle, edges.end());
    constexpr double kCells = 300, kFewest = 40;  // along the diagonal
    const double diagonal = box.diagonal();
    const double detail = std::clamp(2 * *middle, diagonal / kCells, diagonal / kFewest);
    if (!(detail > 0)) return 0;
    const double unit = std::pow(10.0, std::floor(std::log10(detail)) - 1);
    return std::nearbyint(detail / unit) * unit;
}

Wrapped wrap(const mesh::TriMesh& m, const WrapOptions& options, Progress& progress) {
    if (!(options.detail > 0)) throw Error(ErrorCode::Usage, "The detail of a wrap is larger than 0");
    if (m.triangles.empty()) throw Error(ErrorCode::Empty, "The mesh has no triangles to wrap");
    const double gap = options.close_gap > 0 ? options.close_gap : 2 * options.detail;
    // More than half a cell's diagonal: every place of the mesh has a node within it, so that no flood slips
    // through and no sheet is lost.
    const double skin = 0.9 * options.detail, wall = std::max(0.5 * gap, 1.0 * options.detail);
    const Lattice l = lattice_for(m, options, wall + 3 * options.detail);
    const mesh::BoxTree tree(m);
    progress.stretch(0, 0.2, "Measuring distances");
    std::vector<float> f = distances_near(m, tree, l, wall + options.detail, progress);
    progress.stretch(0.2, 0.25, "Flooding");
    const std::vector<char> outside = flooded(l, f, static_cast<float>(wall));
    const std::vector<float> to_outside = squared_to(l, outside, progress);
    // The surface at the distance `skin` from the mesh, seen from outside. What is nearer to the outside than
    // the wall without the skin is at least that far from the mesh, since the outside is as far as the wall.
    for (std::size_t i = 0; i < f.size(); ++i) {
        const double d = static_cast<double>(f[i]),
                     depth = std::sqrt(static_cast<double>(to_outside[i])) * l.side - (wall - skin);
        const bool in = !outside[i] && (d < skin || depth > l.side);  // nodes lie apart
        const double hair = 1e-3 * l.side;
        f[i] =
            static_cast<float>(in ? std::min(d < skin ? d - skin : -depth, -hair) : std::max(d - skin, hair));
    }
    progress.stretch(0.25, 0.3, "Cutting");
    Wrapped w;
    w.mesh = Tetrahedra(l, f).run(progress);
    {
        const Progress::Part part(progress, 0.3, 0.55, "Drawing onto the mesh");
        draw_onto(w.mesh, tree, l.side, 2 * options.detail, progress);
        w.mesh = without_tiny_edges(w.mesh, options.detail, progress);
    }
    progress.stretch(0.55, 1, "Measuring the deviation");
    w.deviation = deviation(w.mesh, m, progress);
    return w;
}

}  // namespace pristine::repair
