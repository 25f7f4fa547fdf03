#include "core/repair/patch_mesh.h"

#include <algorithm>
#include <cmath>
#include <unordered_map>

namespace pristine::repair {
namespace {

constexpr std::size_t kMostVertices = 400'000;
constexpr std::uint32_t kNoTriangle = UINT32_MAX;

std::uint64_t edge_key(std::uint32_t a, std::uint32_t b) {
    return std::uint64_t{std::min(a, b)} << 32 | std::max(a, b);
}

class PatchRefiner {
  public:
    explicit PatchRefiner(PatchMesh& p) : p_(p) {
        for (std::uint32_t t = 0; t < p.triangles.size(); ++t) enter(t);
    }
    void run(Progress& progress) {
        relax();
        for (int round = 0; round < 24 && p_.vertices.size() < kMostVertices; ++round) {
            progress.check();
            if (!split()) break;
            relax();
        }
    }

  private:
    struct Sides {
        std::uint32_t a = kNoTriangle, b = kNoTriangle;
    };
    void enter(std::uint32_t t) {
        for (std::size_t k = 0; k < 3; ++k) {
            Sides& s = edges_[edge_key(p_.triangles[t][k], p_.triangles[t][(k + 1) % 3])];
            (s.a == kNoTriangle ? s.a : s.b) = t;
        }
    }
    void replace(std::uint64_t edge, std::uint32_t was, std::uint32_t now) {
        Sides& s = edges_[edge];
        (s.a == was ? s.a : s.b) = now;
    }
    bool split() {
        bool any = false;
        const std::size_t n = p_.triangles.size();
        for (std::uint32_t t = 0; t < n; ++t) {
            const auto c = p_.triangles[t];
            const Vec3 middle = (p_.vertices[c[0]] + p_.vertices[c[1]] + p_.vertices[c[2]]) * (1 / 3.0);
            const double scale = (p_.scale[c[0]] + p_.scale[c[1]] + p_.scale[c[2]]) / 3;
            bool large = true;
            for (const std::uint32_t v : c) {
                const double off = std::sqrt(2.0) * norm(middle - p_.vertices[v]);
                large &= off > scale && off > p_.scale[v];
            }
            if (!large) continue;
            any = true;
            const auto v = static_cast<std::uint32_t>(p_.vertices.size());
            p_.vertices.push_back(middle);
            p_.scale.push_back(scale);
            const auto second = static_cast<std::uint32_t>(p_.triangles.size()), third = second + 1;
            p_.triangles[t] = {c[0], c[1], v};
            p_.triangles.push_back({c[1], c[2], v});
            p_.triangles.push_back({c[2], c[0], v});
            replace(edge_key(c[1], c[2]), t, second);
            replace(edge_key(c[2], c[0]), t, third);
            edges_[edge_key(c[0], v)] = {t, third};
            edges_[edge_key(c[1], v)] = {t, second};
            edges_[edge_key(c[2], v)] = {second, third};
        }
        return any;
    }
    double angle_at(std::uint32_t at, std::uint32_t a, std::uint32_t b) const {
        const Vec3 u = p_.vertices[a] - p_.vertices[at], v = p_.vertices[b] - p_.vertices[at];
        return std::atan2(norm(cross(u, v)), dot(u, v));
    }
    // Turns an edge if that is better and allowed.
    bool turn(std::uint64_t edge) {
        const auto found = edges_.find(edge);
        if (found == edges_.end() || found->second.b == kNoTriangle) return false;
        const auto [s, t] = found->second;
        std::size_t k = 0;
        const auto a = static_cast<std::uint32_t>(edge >> 32), b = static_cast<std::uint32_t>(edge);
        while (p_.triangles[s][k] == a || p_.triangles[s][k] == b) ++k;
        const std::uint32_t c = p_.triangles[s][k], u = p_.triangles[s][(k + 1) % 3],
                            v = p_.triangles[s][(k + 2) % 3];
        std::size_t l = 0;
        while (p_.triangles[t][l] == a || p_.triangles[t][l] == b) ++l;
        const std::uint32_t d = p_.triangles[t][l];
        if (c == d || edges_.contains(edge_key(c, d))) return false;
        constexpr double kPi = 3.14159265358979;
        if (!(angle_at(c, u, v) + angle_at(d, u, v) > kPi + 1e-9)) return false;
        // Two corners of the rim get no edge that the mesh may have already, and triangles must not turn
        // over.
        if (c < p_.rim && d < p_.rim) return false;
        const auto normal = [&](std::uint32_t x, std::uint32_t y, std::uint32_t z) {
            return cross(p_.vertices[y] - p_.vertices[x], p_.vertices[z] - p_.vertices[x]);
        };
        const Vec3 before = normal(c, u, v) + normal(d, v, u);
        if (!(dot(normal(c, u, d), before) > 0) || !(dot(normal(c, d, v), before) > 0)) return false;
        p_.triangles[s] = {c, u, d};
        p_.triangles[t] = {c, d, v};
        edges_.erase(edge);
        edges_[edge_key(c, d)] = {s, t};
        replace(edge_key(v, c), s, t);
        replace(edge_key(u, d), t, s);
        return true;
    }
    void relax() {
        for (int round = 0; round < 40; ++round) {
            std::vector<std::uint64_t> all;
            all.reserve(edges_.size());
            for (const auto& [edge, sides] : edges_)
                if (sides.b != kNoTriangle) all.push_back(edge);
            std::sort(all.begin(), all.end());  // the same whatever the hash
            std::size_t turned = 0;
            for (const std::uint64_t edge : all) turned += turn(edge);
            if (turned == 0) return;
        }
    }

    PatchMesh& p_;
    std::unordered_map<std::uint64_t, Sides> edges_;
};

}  // namespace

void refine(PatchMesh& p, Progress& progress) {
    PatchRefiner(p).run(progress);
}

}  // namespace pristine::repair
