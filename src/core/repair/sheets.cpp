// Which way triangles face, and sheets that meet in an edge or a corner.

#include <algorithm>
#include <cmath>
#include <numbers>

#include "core/base/disjoint_sets.h"
#include "core/mesh/winding.h"
#include "core/repair/edges.h"
#include "core/repair/steps.h"

namespace pristine::repair {
namespace {

constexpr double kNudge = 1e-3;  // of the shortest edge of a fan

Vec3 normal_of(const mesh::TriMesh& m, std::uint32_t t) {
    const Triangle& c = m.triangles[t];
    return cross(m.vertices[c[1]] - m.vertices[c[0]], m.vertices[c[2]] - m.vertices[c[0]]);
}

Vec3 middle_of(const mesh::TriMesh& m, std::uint32_t t) {
    const Triangle& c = m.triangles[t];
    return (m.vertices[c[0]] + m.vertices[c[1]] + m.vertices[c[2]]) * (1 / 3.0);
}

std::int32_t number(std::uint32_t t) {
    return static_cast<std::int32_t>(t);
}

// ---- facing

struct Links {
    // Of each triangle: across each edge of two triangles, the other one, and whether it faces the same way.
    std::vector<std::array<std::uint32_t, 3>> across;
    std::vector<std::array<char, 3>> same;
    std::vector<char> open;  // has an edge that is not of two triangles
};

Links links_of(const mesh::TriMesh& m) {
    Links l;
    l.across.assign(m.triangles.size(), {UINT32_MAX, UINT32_MAX, UINT32_MAX});
    l.same.assign(m.triangles.size(), {1, 1, 1});
    l.open.assign(m.triangles.size(), 0);
    const auto uses = edge_uses(m.triangles);
    each_edge(uses, [&](std::span<const EdgeUse> e) {
        if (e.size() != 2) {
            for (const EdgeUse& u : e) l.open[u.triangle] = 1;
            return;
        }
        for (std::size_t k = 0; k < 2; ++k) {
            l.across[e[k].triangle][e[k].k] = e[1 - k].triangle;
            l.same[e[k].triangle][e[k].k] = e[0].forward != e[1].forward;
        }
    });
    return l;
}

struct Piece {
    std::vector<std::uint32_t> triangles;
    bool closed = true, one_sided = false;
};

// Gives each triangle a turn, 0 or 1, so that neighbours face alike; pieces joined across edges of two.
std::vector<Piece> turns_of(const Links& l, std::vector<char>& turned) {
    std::vector<Piece> pieces;
    turned.assign(l.across.size(), 2);
    for (std::uint32_t first = 0; first < turned.size(); ++first) {
        if (turned[first] != 2) continue;
        Piece p;
        turned[first] = 0;
        p.triangles.push_back(first);
        for (std::size_t i = 0; i < p.triangles.size(); ++i) {
            const std::uint32_t t = p.triangles[i];
            p.closed &= !l.open[t];
            for (std::size_t k = 0; k < 3; ++k) {
                const std::uint32_t o = l.across[t][k];
                if (o == UINT32_MAX) continue;
                const char wanted = static_cast<char>(l.same[t][k] ? turned[t] : 1 - turned[t]);
                if (turned[o] == 2) {
                    turned[o] = wanted;
                    p.triangles.push_back(o);
                } else if (turned[o] != wanted) {
                    p.one_sided = true;
                }
            }
        }
        pieces.push_back(std::move(p));
    }
    return pieces;
}

double volume_of(const mesh::TriMesh& m, const Piece& p) {
    double v = 0;
    const Vec3 o = m.vertices[m.triangles[p.triangles[0]][0]];
    for (const std::uint32_t t : p.triangles) {
        const Triangle& c = m.triangles[t];
        v += dot(m.vertices[c[0]] - o, cross(m.vertices[c[1]] - o, m.vertices[c[2]] - o)) / 6;
    }
    return v;
}

void flip(Triangle& t) {
    std::swap(t[1], t[2]);
}

// Whether a piece lies inside another closed one.
bool is_inner(const mesh::TriMesh& m, const std::vector<Piece>& pieces, std::size_t p) {
    const Vec3 at = m.vertices[m.triangles[pieces[p].triangles[0]][0]];
    for (std::size_t o = 0; o < pieces.size(); ++o) {
        if (o == p || !pieces[o].closed) continue;
        Box3 box;
        for (const std::uint32_t t : pieces[o].triangles)
            for (const std::uint32_t v : m.triangles[t]) box.add(m.vertices[v]);
        bool within = true;
        for (int a = 0; a < 3; ++a) within &= box.lo[a] <= at[a] && at[a] <= box.hi[a];
        if (within && std::fabs(mesh::winding(m, pieces[o].triangles, at)) > 0.5) return true;
    }
    return false;
}

// ---- sheets

// Which triangles stay joined across edges of more than two.
struct Pairing {
    std::vector<std::array<EdgeUse, 2>> pairs;
    std::vector<EdgeUse> left;
};

class Sheets {
  public:
    explicit Sheets(const mesh::TriMesh& m)
        : m_(m), uses_(edge_uses(m.triangles)), joined_(m.triangles.size()), size_(m.triangles.size(), 0) {
        each_edge(uses_, [&](std::span<const EdgeUse> e) {
            if (e.size() == 2) joined_.join(number(e[0].triangle), number(e[1].triangle));
        });
        for (std::uint32_t t = 0; t < m.triangles.size(); ++t) ++size_[sheet(t)];
        largest_ = *std::max_element(size_.begin(), size_.end());
    }
    std::size_t sheet(std::uint32_t t) { return static_cast<std::size_t>(joined_.find(number(t))); }

    Pairing pair() {
        Pairing p;
        each_edge(uses_, [&](std::span<const EdgeUse> e) {
            if (e.size() < 2) return;
            if (e.size() == 2) return p.pairs.push_back({e[0], e[1]});
            std::vector<EdgeUse> open(e.begin(), e.end());
            while (open.size() >= 2 && take_best(open, p)) {
            }
            p.left.insert(p.left.end(), open.begin(), open.end());
        });
        return p;
    }
    // Small sheets that end where others go on.
    std::vector<char> loose(const Pairing& p) {
        std::vector<char> gone(m_.triangles.size(), 0), drop(size_.size(), 0);
        for (const EdgeUse& u : p.left)
            if (size_[sheet(u.triangle)] * 5 < largest_) drop[sheet(u.triangle)] = 1;
        for (std::uint32_t t = 0; t < gone.size(); ++t) gone[t] = drop[sheet(t)];
        return gone;
    }

  private:
    bool take_best(std::vector<EdgeUse>& open, Pairing& p) {
        double best = -1;
        std::size_t at[2] = {0, 0};
        for (std::size_t i = 0; i < open.size(); ++i)
            for (std::size_t j = i + 1; j < open.size(); ++j) {
                if (open[i].forward == open[j].forward) continue;
                const std::size_t a = sheet(open[i].triangle), b = sheet(open[j].triangle);
                const double even = dot(normalized(normal_of(m_, open[i].triangle)),
                                        normalized(normal_of(m_, open[j].triangle)));
                // One sheet before all; then large ones; then an even run.
                const double size =
                    static_cast<double>(std::min(size_[a], size_[b])) / static_cast<double>(largest_);
                const double score = (a == b ? 1000 : 0) + 10 * (size > 0.2 ? 1 : size) + 1 + even;
                if (score > best) best = score, at[0] = i, at[1] = j;
            }
        if (best < 0) return false;
        p.pairs.push_back({open[at[0]], open[at[1]]});
        open.erase(open.begin() + static_cast<std::ptrdiff_t>(at[1]));
        open.erase(open.begin() + static_cast<std::ptrdiff_t>(at[0]));
        return true;
    }

    const mesh::TriMesh& m_;
    std::vector<EdgeUse> uses_;
    DisjointSets joined_;
    std::vector<std::uint64_t> size_;
    std::uint64_t largest_ = 0;
};

// Every fan at a corner gets a corner of its own.
void part_fans(const mesh::TriMesh& m, const Pairing& pairing, Step& step) {
    // Corners of triangles, 3 t + k, joined across pairs.
    DisjointSets corners(3 * m.triangles.size());
    const auto corner = [&](std::uint32_t t, std::uint32_t v) {
        std::size_t k = 0;
        while (m.triangles[t][k] != v) ++k;
        return static_cast<std::int32_t>(3 * t + k);
    };
    for (const auto& p : pairing.pairs)
        for (const std::uint32_t v : {p[0].lower, p[0].higher})
            corners.join(corner(p[0].triangle, v), corner(p[1].triangle, v));
    std::vector<std::int32_t> owner(m.vertices.size(), -1);
    std::vector<std::uint32_t> size(3 * m.triangles.size(), 0);
    for (std::int32_t c = 0; c < number(static_cast<std::uint32_t>(3 * m.triangles.size())); ++c)
        ++size[static_cast<std::size_t>(corners.find(c))];
    for (std::uint32_t t = 0; t < m.triangles.size(); ++t)
        for (std::size_t k = 0; k < 3; ++k) {
            const std::int32_t fan = corners.find(static_cast<std::int32_t>(3 * t + k));
            std::int32_t& own = owner[m.triangles[t][k]];
            if (own < 0 || size[static_cast<std::size_t>(fan)] > size[static_cast<std::size_t>(own)])
                own = fan;
        }
    struct Fan {
        std::uint32_t vertex;
        Vec3 sum;
        double shortest = INFINITY;
        std::uint32_t n = 0;
    };
    std::vector<std::uint32_t> fan_number(3 * m.triangles.size(), UINT32_MAX);
    std::vector<Fan> fans;
    step.mesh = m;
    std::vector<char> touched(m.triangles.size(), 0);
    for (std::uint32_t t = 0; t < m.triangles.size(); ++t)
        for (std::size_t k = 0; k < 3; ++k) {
            const std::uint32_t v = m.triangles[t][k];
            const auto fan = static_cast<std::size_t>(corners.find(static_cast<std::int32_t>(3 * t + k)));
            if (owner[v] == static_cast<std::int32_t>(fan)) continue;
            if (fan_number[fan] == UINT32_MAX) {
                fan_number[fan] = static_cast<std::uint32_t>(fans.size());
                fans.push_back({v, {}, INFINITY, 0});
            }
            Fan& f = fans[fan_number[fan]];
            f.sum = f.sum + (middle_of(m, t) - m.vertices[v]);
            ++f.n;
            for (std::size_t o = 1; o < 3; ++o)
                f.shortest =
                    std::min(f.shortest, norm(m.vertices[m.triangles[t][(k + o) % 3]] - m.vertices[v]));
            step.mesh.triangles[t][k] = static_cast<std::uint32_t>(m.vertices.size()) + fan_number[fan];
            touched[t] = 1;
        }
    for (const Fan& f : fans) {
        const Vec3 inward = normalized(f.sum * (1.0 / f.n));
        step.mesh.vertices.push_back(m.vertices[f.vertex] + inward * (kNudge * f.shortest));
    }
    const auto n = static_cast<std::uint64_t>(std::count(touched.begin(), touched.end(), 1));
    step.removed += n;
    step.made += n;
}

}  // namespace

Step orient_consistently(const mesh::TriMesh& m) {
    Step step;
    step.mesh = m;
    std::vector<char> turned;
    const auto pieces = turns_of(links_of(m), turned);
    for (const Piece& p : pieces) {
        if (p.one_sided)
            step.unrepaired.push_back({Fault::InconsistentEdge, middle_of(m, p.triangles[0]),
                                       "The piece has only one side, as a band twisted once"});
        std::size_t n = 0;
        for (const std::uint32_t t : p.triangles) n += turned[t] == 1;
        const char which = 2 * n > p.triangles.size() ? 0 : 1;
        for (const std::uint32_t t : p.triangles)
            if (turned[t] == which) {
                flip(step.mesh.triangles[t]);
                ++step.removed;
                ++step.made;
            }
    }
    for (std::size_t p = 0; p < pieces.size(); ++p) {
        if (!pieces[p].closed || pieces[p].one_sided || !(volume_of(step.mesh, pieces[p]) < 0)) continue;
        if (is_inner(step.mesh, pieces, p)) continue;  // a cavity faces inwards rightly
        for (const std::uint32_t t : pieces[p].triangles) flip(step.mesh.triangles[t]);
        step.removed += pieces[p].triangles.size();
        step.made += pieces[p].triangles.size();
    }
    return step;
}

Step split_non_manifold_edges(const mesh::TriMesh& m) {
    Step step;
    mesh::TriMesh now = m;
    for (int round = 0; round < 8 && !now.triangles.empty(); ++round) {
        Sheets sheets(now);
        const Pairing pairing = sheets.pair();
        const std::vector<char> gone = sheets.loose(pairing);
        const auto n = static_cast<std::uint64_t>(std::count(gone.begin(), gone.end(), 1));
        if (n == 0 || n == now.triangles.size()) {
            part_fans(now, pairing, step);
            return step;
        }
        step.removed += n;
        now = without(now, gone);
    }
    step.mesh = std::move(now);
    return step;
}

}  // namespace pristine::repair
