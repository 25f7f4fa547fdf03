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

}  // namespace

mesh::TriMesh brushed(const mesh::TriMesh& m, const BrushStroke& s, const std::vector<char>& may, bool rims,
                      Progress& progress) {
    if (!(s.radius > 0) || !(s.strength >= 0) || !(s.strength <= 1))
        throw Error(ErrorCode::Usage, "The radius of a brush is positive, its strength between 0 and 1");
    return Brush(m, s, may, rims).run(progress);
}

}  // namespace pristine::repair
