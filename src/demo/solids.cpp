#include "demo/solids.h"

#include <algorithm>
#include <cmath>
#include <numbers>
#include <set>

#include "core/mesh/weld.h"

namespace pristine::demo {
namespace {

using Triangle = std::array<std::uint32_t, 3>;

// Makes one vertex of corners that rounding made two.
mesh::TriMesh snapped(std::vector<Vec3> corners) {
    for (Vec3& p : corners)
        for (int a = 0; a < 3; ++a) p[a] = std::round(p[a] * 1e9) / 1e9;
    return mesh::weld(corners);
}

double edge_length(const mesh::TriMesh& m) {
    const Triangle& t = m.triangles[m.triangles.size() / 2];
    return norm(m.vertices[t[1]] - m.vertices[t[0]]);
}

Vec3 normal_at(const mesh::TriMesh& m, std::uint32_t v) {
    Vec3 n;
    for (const Triangle& t : m.triangles)
        if (t[0] == v || t[1] == v || t[2] == v)
            n = n + cross(m.vertices[t[1]] - m.vertices[t[0]], m.vertices[t[2]] - m.vertices[t[0]]);
    return normalized(n);
}

std::vector<std::uint32_t> near(const mesh::TriMesh& m, const Vec3& at, double r) {
    std::vector<std::uint32_t> out;
    for (std::uint32_t t = 0; t < m.triangles.size(); ++t) {
        const Triangle& c = m.triangles[t];
        if (norm((m.vertices[c[0]] + m.vertices[c[1]] + m.vertices[c[2]]) * (1 / 3.0) - at) < r)
            out.push_back(t);
    }
    return out;
}

}  // namespace

mesh::TriMesh ball(int n, double radius, const Vec3& centre) {
    std::vector<Vec3> corners;
    const auto on = [&](const Vec3& a, const Vec3& b, const Vec3& c, int i, int j) {
        const double u = double(i) / n, v = double(j) / n;
        return centre + normalized(a * (1 - u - v) + b * u + c * v) * radius;
    };
    for (const double x : {1., -1.})
        for (const double y : {1., -1.})
            for (const double z : {1., -1.}) {
                const Vec3 a{x, 0, 0}, b = x * y * z > 0 ? Vec3{0, y, 0} : Vec3{0, 0, z},
                                       c = x * y * z > 0 ? Vec3{0, 0, z} : Vec3{0, y, 0};
                for (int i = 0; i < n; ++i)
                    for (int j = 0; i + j < n; ++j) {
                        for (const auto& [p, q] : {std::pair{0, 0}, {1, 0}, {0, 1}})
                            corners.push_back(on(a, b, c, i + p, j + q));
                        if (i + j + 1 < n)
                            for (const auto& [p, q] : {std::pair{1, 0}, {1, 1}, {0, 1}})
                                corners.push_back(on(a, b, c, i + p, j + q));
                    }
            }
    return snapped(std::move(corners));
}

mesh::TriMesh block(int n, const Vec3& lo, const Vec3& hi) {
    std::vector<Vec3> corners;
    for (int axis = 0; axis < 3; ++axis)
        for (const bool top : {false, true}) {
            const int u = (axis + 1) % 3, v = (axis + 2) % 3;
            const auto at = [&](int i, int j) {
                Vec3 p;
                p[axis] = top ? hi[axis] : lo[axis];
                p[u] = lo[u] + (hi[u] - lo[u]) * i / n;
                p[v] = lo[v] + (hi[v] - lo[v]) * j / n;
                return p;
            };
            for (int i = 0; i < n; ++i)
                for (int j = 0; j < n; ++j) {
                    std::array<Vec3, 4> q{at(i, j), at(i + 1, j), at(i + 1, j + 1), at(i, j + 1)};
                    if (!top) std::reverse(q.begin(), q.end());
                    for (const int k : {0, 1, 2, 0, 2, 3}) corners.push_back(q[static_cast<std::size_t>(k)]);
                }
        }
    return snapped(std::move(corners));
}

mesh::TriMesh ring(int n, double radius, double thickness) {
    std::vector<Vec3> corners;
    const int across = std::max(3, n / 3);
    const auto at = [&](int i, int j) {
        const double a = 2 * std::numbers::pi * (i % n) / n, b = 2 * std::numbers::pi * (j % across) / across;
        const double r = radius + thickness * std::cos(b);
        return Vec3{r * std::cos(a), r * std::sin(a), thickness * std::sin(b)};
    };
    for (int i = 0; i < n; ++i)
        for (int j = 0; j < across; ++j) {
            const std::array<Vec3, 4> q{at(i, j), at(i + 1, j), at(i + 1, j + 1), at(i, j + 1)};
            for (const int k : {0, 1, 2, 0, 2, 3}) corners.push_back(q[static_cast<std::size_t>(k)]);
        }
    return snapped(std::move(corners));
}

bool break_mesh(mesh::TriMesh& m, Break kind, std::mt19937_64& dice, std::vector<Vec3>& where) {
    const auto any = [&](std::size_t n) { return static_cast<std::uint32_t>(dice() % n); };
    const double e = edge_length(m);
    const std::uint32_t t = any(m.triangles.size());
    const Triangle c = m.triangles[t];
    const std::uint32_t v = c[0];
    // Places broken before are left alone, so that each fault is what it says.
    for (const Vec3& w : where)
        if (norm(w - m.vertices[v]) < 14 * e) return false;
    where.push_back(m.vertices[v]);
    std::uniform_real_distribution<double> u(0, 1);
    switch (kind) {
        case Break::Hole: {
            const auto gone = near(m, m.vertices[v], e * (1.5 + 3 * u(dice)));
            for (auto k = gone.rbegin(); k != gone.rend(); ++k)
                m.triangles.erase(m.triangles.begin() + static_cast<std::ptrdiff_t>(*k));
            return true;
        }
        case Break::Fin: {
            const Vec3 tip = (m.vertices[c[0]] + m.vertices[c[1]]) * 0.5 + normal_at(m, v) * (1.2 * e);
            m.vertices.push_back(tip);
            m.triangles.push_back({c[0], c[1], static_cast<std::uint32_t>(m.vertices.size() - 1)});
            return true;
        }
        case Break::DoubledFace:
            m.triangles.push_back(u(dice) < 0.5 ? c : Triangle{c[1], c[0], c[2]});
            return true;
        case Break::TurnedFaces:
            for (const std::uint32_t k : near(m, m.vertices[v], 2 * e))
                std::swap(m.triangles[k][1], m.triangles[k][2]);
            return true;
        case Break::Needle:
            m.vertices[v] = m.vertices[v] + normal_at(m, v) * (12 * e);
            return true;
        case Break::FlatTriangle: {
            // A new corner almost on an edge of both its triangles, so that one of four is flat.
            std::uint32_t other = UINT32_MAX;
            for (std::uint32_t k = 0; k < m.triangles.size(); ++k) {
                const Triangle& d = m.triangles[k];
                for (std::size_t i = 0; i < 3; ++i)
                    if (d[i] == c[1] && d[(i + 1) % 3] == c[0]) other = k;
            }
            if (other == UINT32_MAX) return false;
            m.vertices.push_back(m.vertices[c[0]] * 0.4 + m.vertices[c[1]] * 0.6);
            const auto n = static_cast<std::uint32_t>(m.vertices.size() - 1);
            m.triangles[t] = {n, c[1], c[2]};
            m.triangles.push_back({c[0], n, c[2]});
            m.triangles.push_back({c[1], n, c[0]});  // along the edge of the other, which stays whole
            return true;
        }
        case Break::ShortEdge:
            m.vertices[c[1]] = m.vertices[c[0]] + (m.vertices[c[1]] - m.vertices[c[0]]) * 1e-5;
            return true;
        case Break::FloatingPiece: {
            const Vec3 at = m.vertices[v] + normal_at(m, v) * (6 * e);
            const auto first = static_cast<std::uint32_t>(m.vertices.size());
            for (const Vec3& p : {Vec3{0, 0, 0}, {1, 0, 0}, {0, 1, 0}, {0, 0, 1}})
                m.vertices.push_back(at + p * e);
            for (const Triangle& k : {Triangle{0, 2, 1}, {0, 1, 3}, {1, 2, 3}, {0, 3, 2}})
                m.triangles.push_back({first + k[0], first + k[1], first + k[2]});
            return true;
        }
        case Break::PushedThrough: {
            // Aside by three edges and under: its triangles pass through their neighbours.
            const Vec3 n = normal_at(m, v), side = normalized(cross(n, {0.3, 0.5, 0.8}));
            m.vertices[v] = m.vertices[v] + side * (3.4 * e) - n * (1.1 * e);
            return true;
        }
        case Break::CrossingBody: {
            const mesh::TriMesh stuck = ball(4, 3.3 * e, m.vertices[v] + normal_at(m, v) * (0.9 * e));
            const auto first = static_cast<std::uint32_t>(m.vertices.size());
            m.vertices.insert(m.vertices.end(), stuck.vertices.begin(), stuck.vertices.end());
            for (const Triangle& k : stuck.triangles)
                m.triangles.push_back({first + k[0], first + k[1], first + k[2]});
            return true;
        }
        case Break::PinchedCorner: {
            // The nearest corner across the body, from where the surface faces the other way.
            const Vec3 n = normal_at(m, v);
            std::uint32_t best = UINT32_MAX;
            for (std::uint32_t o = 0; o < m.vertices.size(); ++o) {
                const Vec3 d = m.vertices[o] - m.vertices[v];
                if (norm(d) < 6 * e || norm(d) > 60 * e || dot(normalized(d), n) > -0.9) continue;
                if (best == UINT32_MAX || norm(d) < norm(m.vertices[best] - m.vertices[v])) best = o;
            }
            if (best == UINT32_MAX) return false;
            for (const Vec3& w : where)
                if (&w != &where.back() && norm(w - m.vertices[best]) < 14 * e) return false;
            where.push_back(m.vertices[best]);
            const Vec3 meet = (m.vertices[v] + m.vertices[best]) * 0.5;
            m.vertices[v] = meet;
            for (Triangle& k : m.triangles)
                for (std::uint32_t& w : k)
                    if (w == best) w = v;
            return true;
        }
    }
    return false;
}

}  // namespace pristine::demo
