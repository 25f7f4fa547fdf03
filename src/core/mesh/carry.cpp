#include "core/mesh/carry.h"

#include <algorithm>
#include <cmath>

#include "core/base/parallel.h"
#include "core/mesh/box_tree.h"
#include "core/mesh/weld.h"

namespace pristine::mesh {
namespace {

constexpr std::size_t kPiece = 4096;  // triangles
constexpr int kRounds = 200;          // of evening out; a hole is seldom more corners across

using Triangle = std::array<std::uint32_t, 3>;

std::array<Vec3, 3> corners(const TriMesh& m, std::size_t t) {
    const Triangle& c = m.triangles[t];
    return {m.vertices[c[0]], m.vertices[c[1]], m.vertices[c[2]]};
}

class Carrier {
  public:
    Carrier(const TriMesh& from, const Attributes& a, const TriMesh& to, Progress& progress)
        : from_(from), a_(a), to_(to), progress_(progress), tree_(from) {}

    Attributes run() {
        number_places();
        find_same();
        out_.groups = a_.groups;
        out_.materials = a_.materials;
        const std::size_t n = to_.triangles.size();
        if (!a_.colours.empty()) out_.colours.resize(n);
        if (!a_.normals.empty()) out_.normals.resize(n);
        if (!a_.texture.empty()) out_.texture.resize(n);
        if (!a_.group.empty()) out_.group.resize(n);
        if (!a_.material.empty()) out_.material.resize(n);
        parallel::for_ranges(n, kPiece, [&](std::size_t first, std::size_t last) {
            progress_.check();
            for (std::size_t t = first; t < last; ++t) same_[t] == kNone ? anew(t) : keep(t);
        });
        if (!a_.colours.empty()) colour_anew();
        return std::move(out_);
    }

  private:
    static constexpr std::uint32_t kNone = UINT32_MAX;

    // One number for each place, whichever of the two meshes it is in: corners are found again by it.
    void number_places() {
        std::vector<Vec3> all;
        all.reserve(3 * (from_.triangles.size() + to_.triangles.size()));
        for (const TriMesh* m : {&from_, &to_})
            for (const Triangle& t : m->triangles)
                for (const std::uint32_t v : t) all.push_back(m->vertices[v]);
        TriMesh both = weld(all);
        places_ = std::move(both.triangles);
        place_ = std::move(both.vertices);
    }

    static Triangle sorted(Triangle t) {
        std::sort(t.begin(), t.end());
        return t;
    }

    void find_same() {
        const std::size_t n = from_.triangles.size();
        std::vector<std::pair<Triangle, std::uint32_t>> known(n);
        for (std::size_t t = 0; t < n; ++t) known[t] = {sorted(places_[t]), static_cast<std::uint32_t>(t)};
        std::sort(known.begin(), known.end());
        same_.assign(to_.triangles.size(), kNone);
        parallel::for_ranges(to_.triangles.size(), kPiece, [&](std::size_t first, std::size_t last) {
            for (std::size_t t = first; t < last; ++t) {
                const Triangle key = sorted(places_[n + t]);
                const auto at =
                    std::lower_bound(known.begin(), known.end(), std::pair{key, std::uint32_t{0}});
                if (at != known.end() && at->first == key) same_[t] = at->second;
            }
        });
    }

    void keep(std::size_t t) {
        const std::size_t s = same_[t];
        const Triangle &is = places_[from_.triangles.size() + t], &was = places_[s];
        std::array<std::size_t, 3> corner{};
        for (std::size_t k = 0; k < 3; ++k)
            corner[k] = static_cast<std::size_t>(std::find(was.begin(), was.end(), is[k]) - was.begin());
        const bool turned = (corner[1] + 3 - corner[0]) % 3 == 2;
        for (std::size_t k = 0; k < 3; ++k) {
            if (!a_.colours.empty()) out_.colours[t][k] = a_.colours[s][corner[k]];
            if (!a_.texture.empty()) out_.texture[t][k] = a_.texture[s][corner[k]];
            if (!a_.normals.empty())
                for (std::size_t i = 0; i < 3; ++i)
                    out_.normals[t][k][i] = (turned ? -1.0F : 1.0F) * a_.normals[s][corner[k]][i];
        }
        if (!a_.group.empty()) out_.group[t] = a_.group[s];
        if (!a_.material.empty()) out_.material[t] = a_.material[s];
    }

    void anew(std::size_t t) {
        const std::array<Vec3, 3> c = corners(to_, t);
        const Vec3 middle = (c[0] + c[1] + c[2]) * (1 / 3.0);
        if (!a_.normals.empty()) {
            const Vec3 n = normalized(cross(c[1] - c[0], c[2] - c[0]));
            for (auto& at : out_.normals[t])
                for (std::size_t i = 0; i < 3; ++i) at[i] = static_cast<float>(n[static_cast<int>(i)]);
        }
        const std::uint32_t s = tree_.nearest(middle).triangle;
        if (s == kNone) return;
        if (!a_.group.empty()) out_.group[t] = a_.group[s];
        if (!a_.material.empty()) out_.material[t] = a_.material[s];
        if (a_.texture.empty()) return;
        const std::array<Vec3, 3> of = corners(from_, s);
        for (std::size_t k = 0; k < 3; ++k) {
            const auto b = barycentric(closest_on_triangle(c[k], of[0], of[1], of[2]), of[0], of[1], of[2]);
            for (std::size_t i = 0; i < 2; ++i)
                out_.texture[t][k][i] = static_cast<float>(b[0] * static_cast<double>(a_.texture[s][0][i]) +
                                                           b[1] * static_cast<double>(a_.texture[s][1][i]) +
                                                           b[2] * static_cast<double>(a_.texture[s][2][i]));
        }
    }

    using Colour = std::array<float, 3>;
    static Colour split(std::uint32_t c) {
        return {static_cast<float>(c >> 16 & 255u), static_cast<float>(c >> 8 & 255u),
                static_cast<float>(c & 255u)};
    }

    // Corners that `from` has too keep the colour that they have there first; the others take that of their
    // nearest place, and those off the mesh become the mean of their neighbours.
    void colour_anew() {
        const std::size_t n = from_.triangles.size();
        std::vector<Colour> colour(place_.size());
        std::vector<char> known(place_.size(), 0), off(place_.size(), 0), wanted(place_.size(), 0);
        for (std::size_t t = 0; t < n; ++t)
            for (std::size_t k = 0; k < 3; ++k) {
                const std::uint32_t p = places_[t][k];
                if (!known[p]) colour[p] = split(a_.colours[t][k]);
                known[p] = 1;
            }
        for (std::size_t t = 0; t < same_.size(); ++t)
            if (same_[t] == kNone)
                for (const std::uint32_t p : places_[n + t]) wanted[p] = 1;
        const std::vector<double> edge = shortest_edges();
        parallel::for_ranges(place_.size(), kPiece, [&](std::size_t first, std::size_t last) {
            progress_.check();
            for (std::size_t p = first; p < last; ++p) {
                if (known[p] || !wanted[p]) continue;
                const auto near = tree_.nearest(place_[p]);
                if (near.triangle == kNone) continue;
                const auto of = corners(from_, near.triangle);
                colour[p] =
                    split(mixed(a_.colours[near.triangle], barycentric(near.place, of[0], of[1], of[2])));
                off[p] = near.distance > 0.3 * edge[p];
            }
        });
        even_out(colour, off);
        for (std::size_t t = 0; t < same_.size(); ++t)
            if (same_[t] == kNone)
                for (std::size_t k = 0; k < 3; ++k) {
                    const Colour& c = colour[places_[n + t][k]];
                    out_.colours[t][k] = static_cast<std::uint32_t>(std::lround(c[0])) << 16 |
                                         static_cast<std::uint32_t>(std::lround(c[1])) << 8 |
                                         static_cast<std::uint32_t>(std::lround(c[2]));
                }
    }

    std::vector<double> shortest_edges() const {
        std::vector<double> edge(place_.size(), INFINITY);
        for (std::size_t t = from_.triangles.size(); t < places_.size(); ++t)
            for (std::size_t k = 0; k < 3; ++k) {
                const std::uint32_t p = places_[t][k], q = places_[t][(k + 1) % 3];
                const double l = norm(place_[p] - place_[q]);
                edge[p] = std::min(edge[p], l);
                edge[q] = std::min(edge[q], l);
            }
        return edge;
    }

    void even_out(std::vector<Colour>& colour, const std::vector<char>& off) const {
        std::vector<std::uint32_t> free;
        std::vector<std::vector<std::uint32_t>> around(place_.size());
        for (std::size_t t = from_.triangles.size(); t < places_.size(); ++t)
            for (std::size_t k = 0; k < 3; ++k)
                if (off[places_[t][k]])
                    for (const std::size_t o : {1u, 2u})
                        around[places_[t][k]].push_back(places_[t][(k + o) % 3]);
        for (std::uint32_t p = 0; p < place_.size(); ++p)
            if (!around[p].empty()) free.push_back(p);
        std::vector<Colour> next(free.size());
        for (int round = 0; round < kRounds && !free.empty(); ++round) {
            progress_.check();
            float change = 0;
            for (std::size_t i = 0; i < free.size(); ++i) {
                Colour sum{};
                for (const std::uint32_t q : around[free[i]])
                    for (std::size_t c = 0; c < 3; ++c) sum[c] += colour[q][c];
                for (std::size_t c = 0; c < 3; ++c) {
                    next[i][c] = sum[c] / static_cast<float>(around[free[i]].size());
                    change = std::max(change, std::fabs(next[i][c] - colour[free[i]][c]));
                }
            }
            for (std::size_t i = 0; i < free.size(); ++i) colour[free[i]] = next[i];
            if (change < 0.05F) break;
        }
    }

    const TriMesh& from_;
    const Attributes& a_;
    const TriMesh& to_;
    Progress& progress_;
    BoxTree tree_;
    std::vector<Triangle> places_;  // of the triangles of `from`, then of `to`
    std::vector<Vec3> place_;
    std::vector<std::uint32_t> same_;  // triangle of `from` for each of `to`
    Attributes out_;
};

}  // namespace

Attributes carried(const TriMesh& from, const Attributes& a, const TriMesh& to, Progress& progress) {
    if (a.empty() || from.triangles.empty()) return {};
    return Carrier(from, a, to, progress).run();
}

}  // namespace pristine::mesh
