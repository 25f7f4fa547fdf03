#include "core/repair/smooth.h"

#include <algorithm>
#include <cmath>

#include "core/base/error.h"
#include "core/geometry/plane_fit.h"
#include "core/repair/edges.h"

namespace pristine::repair {
namespace {

// Taubin's pair: the second step takes back what the first shrank.
constexpr double kIn = 0.5, kOut = -0.53;

class Brush {
  public:
    Brush(const mesh::TriMesh& m, const BrushStroke& s, const std::vector<char>& may, bool rims)
        : out_(m), stroke_(s), at_(m) {
        fixed_.assign(m.vertices.size(), 0);
        if (!rims)
            each_edge(edge_uses(m.triangles), [&](std::span<const EdgeUse> e) {
                if (e.size() == 1) fixed_[e[0].lower] = fixed_[e[0].higher] = 1;
            });
        for (std::size_t t = 0; t < may.size(); ++t)
            if (!may[t])
                for (const std::uint32_t v : m.triangles[t]) fixed_[v] = 1;
        const double reach = 2 * s.radius;  // a corner that moves farther than that is left
        Box3 box;
        for (const Vec3& p : s.places) {
            box.add(p - Vec3{reach, reach, reach});
            box.add(p + Vec3{reach, reach, reach});
        }
        const auto in_box = [&](const Vec3& p) {
            return p.x >= box.lo.x && p.x <= box.hi.x && p.y >= box.lo.y && p.y <= box.hi.y &&
                   p.z >= box.lo.z && p.z <= box.hi.z;
        };
        for (std::uint32_t v = 0; v < m.vertices.size(); ++v)
            if (in_box(m.vertices[v]) && near_stroke(m.vertices[v], reach)) near_.push_back(v);
    }

    mesh::TriMesh run(Progress& progress) {
        for (const Vec3& place : stroke_.places) {
            progress.check();
            under(place);
            if (stroke_.kind == BrushKind::Flatten) {
                flatten();
            } else {
                relax(kIn);
                relax(kOut);
            }
        }
        return std::move(out_);
    }

  private:
    struct Under {
        std::uint32_t v;
        double pull;
    };

    bool near_stroke(const Vec3& p, double reach) const {
        const double r2 = reach * reach;
        return std::any_of(stroke_.places.begin(), stroke_.places.end(), [&](const Vec3& q) {
            const Vec3 d = p - q;
            return dot(d, d) < r2;
        });
    }

    void under(const Vec3& place) {
        under_.clear();
        const double r2 = stroke_.radius * stroke_.radius;
        for (const std::uint32_t v : near_) {
            const Vec3 d = out_.vertices[v] - place;
            const double share = dot(d, d) / r2;
            if (share < 1) under_.push_back({v, stroke_.strength * (1 - share) * (1 - share)});
        }
    }

    Vec3 mean_of_neighbours(std::uint32_t v) const {
        Vec3 sum;
        double n = 0;
        const Vec3& own = out_.vertices[v];
        for (const std::uint32_t t : at_.of(v))
            for (const std::uint32_t o : out_.triangles[t])
                if (o != v) sum = sum + (out_.vertices[o] - own), ++n;
        return n > 0 ? own + sum * (1 / n) : own;
    }

    void relax(double step) {
        moved_.clear();
        for (const Under& u : under_)
            moved_.push_back(fixed_[u.v]
                                 ? out_.vertices[u.v]
                                 : out_.vertices[u.v] +
                                       (mean_of_neighbours(u.v) - out_.vertices[u.v]) * (step * u.pull));
        for (std::size_t i = 0; i < under_.size(); ++i) out_.vertices[under_[i].v] = moved_[i];
    }

    void flatten() {
        std::vector<Vec3> places;
        for (const Under& u : under_) places.push_back(out_.vertices[u.v]);
        const auto plane = fit_plane(places);
        if (!plane) return;
        for (const Under& u : under_) {
            if (fixed_[u.v]) continue;
            Vec3& p = out_.vertices[u.v];
            p = p - plane->normal * (u.pull * dot(p - plane->point, plane->normal));
        }
    }

    mesh::TriMesh out_;
    const BrushStroke& stroke_;
    Incidence at_;
    std::vector<char> fixed_;
    std::vector<std::uint32_t> near_;
    std::vector<Under> under_;
    std::vector<Vec3> moved_;
};

// Corners that may move: inside of what is chosen, not on rims.
std::vector<std::uint32_t> loose_corners(const mesh::TriMesh& m, const std::vector<char>& chosen) {
    std::vector<char> fixed(m.vertices.size(), 1);
    for (const auto& t : m.triangles)
        for (const std::uint32_t v : t) fixed[v] = 0;
    for (std::size_t t = 0; t < chosen.size(); ++t)
        if (!chosen[t])
            for (const std::uint32_t v : m.triangles[t]) fixed[v] = 1;
    each_edge(edge_uses(m.triangles), [&](std::span<const EdgeUse> e) {
        if (e.size() == 1) fixed[e[0].lower] = fixed[e[0].higher] = 1;
    });
    std::vector<std::uint32_t> loose;
    for (std::uint32_t v = 0; v < fixed.size(); ++v)
        if (!fixed[v]) loose.push_back(v);
    return loose;
}

Moved moved_from(const mesh::TriMesh& before, mesh::TriMesh after, const std::vector<std::uint32_t>& loose) {
    Moved out;
    for (const std::uint32_t v : loose) {
        const double by = norm(after.vertices[v] - before.vertices[v]);
        out.corners += by > 0;
        out.farthest = std::max(out.farthest, by);
    }
    out.mesh = std::move(after);
    return out;
}

}  // namespace

Moved smoothed(const mesh::TriMesh& m, const std::vector<char>& chosen, int rounds, double strength,
               Progress& progress) {
    if (!(strength > 0) || !(strength <= 1))
        throw Error(ErrorCode::Usage, "The strength of smoothing is above 0 and at most 1");
    const std::vector<std::uint32_t> loose = loose_corners(m, chosen);
    const Incidence at(m);
    mesh::TriMesh now = m;
    std::vector<Vec3> next(loose.size());
    const auto step = [&](double by) {
        for (std::size_t i = 0; i < loose.size(); ++i) {
            const Vec3& own = now.vertices[loose[i]];
            Vec3 sum;
            double n = 0;
            for (const std::uint32_t t : at.of(loose[i]))
                for (const std::uint32_t o : now.triangles[t])
                    if (o != loose[i]) sum = sum + (now.vertices[o] - own), ++n;
            next[i] = n > 0 ? own + sum * (by * strength / n) : own;
        }
        for (std::size_t i = 0; i < loose.size(); ++i) now.vertices[loose[i]] = next[i];
    };
    for (int k = 0; k < rounds; ++k) {
        progress.advance(static_cast<double>(k) / rounds);
        step(kIn);
        step(kOut);
    }
    return moved_from(m, std::move(now), loose);
}

Moved flattened(const mesh::TriMesh& m, const std::vector<char>& chosen, Progress& progress) {
    std::vector<char> of(m.vertices.size(), 0);
    for (std::size_t t = 0; t < m.triangles.size(); ++t)
        if (chosen.empty() || chosen[t])
            for (const std::uint32_t v : m.triangles[t]) of[v] = 1;
    std::vector<Vec3> places;
    for (std::size_t v = 0; v < of.size(); ++v)
        if (of[v]) places.push_back(m.vertices[v]);
    progress.check();
    const auto plane = fit_plane(places);
    if (!plane) throw Error(ErrorCode::Usage, "What is chosen lies on no plane", {}, "Choose more of it.");
    const std::vector<std::uint32_t> loose = loose_corners(m, chosen);
    mesh::TriMesh now = m;
    for (const std::uint32_t v : loose)
        now.vertices[v] =
            now.vertices[v] - plane->normal * dot(now.vertices[v] - plane->point, plane->normal);
    return moved_from(m, std::move(now), loose);
}

mesh::TriMesh brushed(const mesh::TriMesh& m, const BrushStroke& s, const std::vector<char>& may, bool rims,
                      Progress& progress) {
    if (!(s.radius > 0) || !(s.strength >= 0) || !(s.strength <= 1))
        throw Error(ErrorCode::Usage, "The radius of a brush is positive, its strength between 0 and 1");
    return Brush(m, s, may, rims).run(progress);
}

}  // namespace pristine::repair
