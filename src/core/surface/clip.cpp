#include "core/surface/clip.h"

#include <fmt/format.h>

#include <algorithm>
#include <atomic>
#include <cmath>
#include <map>

#include "core/base/error.h"
#include "core/base/parallel.h"
#include "core/geometry/polygon.h"
#include "core/geometry/predicates.h"
#include "core/surface/box_grid.h"
#include "core/surface/constrain.h"
#include "core/surface/delaunay.h"

namespace pristine::surface {
namespace {

// Pixels along the longer side of a polygon's mask: finer for many corners.
double mask_size(std::size_t corners) {
    return std::clamp(16 * std::sqrt(static_cast<double>(corners)), 32.0, 512.0);
}

int turn(const Plan& a, const Plan& b, const Plan& c) {
    return orientation(a.x, a.y, b.x, b.y, c.x, c.y);
}

// The stretches of all rings, in a frame of their own.
struct Stretch {
    Plan from, to;
    std::uint32_t from_number, to_number;  // of the corners, over all rings
};

Plan local(const Vec3& p, const Vec3& origin) {
    return {p.x - origin.x, p.y - origin.y};
}

Vec3 middle_of(const Rings& rings) {
    Box3 box;
    for (const auto& ring : rings)
        for (const Vec3& p : ring) box.add(p);
    return box.empty() ? Vec3{} : Vec3{std::round(box.centre().x), std::round(box.centre().y), 0};
}

std::vector<Stretch> stretches_of(const Rings& rings, const Vec3& origin) {
    std::vector<Stretch> all;
    std::uint32_t first = 0;
    for (const auto& ring : rings) {
        const auto n = static_cast<std::uint32_t>(ring.size());
        for (std::uint32_t i = 0; i < n; ++i)
            all.push_back(
                {local(ring[i], origin), local(ring[(i + 1) % n], origin), first + i, first + (i + 1) % n});
        first += n;
    }
    std::erase_if(all, [](const Stretch& s) { return s.from == s.to; });
    return all;
}

PlanBox box_of(const Stretch& s) {
    PlanBox b;
    b.add(s.from.x, s.from.y);
    b.add(s.to.x, s.to.y);
    return b;
}

// Cuts the triangles that the line passes through.
class Cutter {
  public:
    Cutter(const mesh::TriMesh& m, const Rings& rings, Keep keep)
        : m_(m),
          keep_(keep),
          inside_(rings),
          stretches_(stretches_of(rings, inside_.origin())),
          boxes_(stretches_.size()),
          grid_((std::transform(stretches_.begin(), stretches_.end(), boxes_.begin(), box_of), boxes_)) {}

    // A new vertex is known by what made it, so that neighbouring triangles share it.
    struct Origin {
        enum Kind : std::uint8_t { Vertex, Crossing, Corner, Other } kind = Vertex;
        std::uint32_t a = 0, b = 0, c = 0;
        auto operator<=>(const Origin&) const = default;
    };
    struct Part {
        std::vector<Origin> origins;
        std::vector<Vec3> places;
        std::vector<std::array<std::uint32_t, 3>> triangles;
    };

    bool keeps(const Plan& p) const {
        return inside_(p.x + inside_.origin().x, p.y + inside_.origin().y) == (keep_ == Keep::Inside);
    }
    Plan at(std::uint32_t v) const { return local(m_.vertices[v], inside_.origin()); }
    Plan middle(std::uint32_t t) const {
        const auto& c = m_.triangles[t];
        const Plan a = at(c[0]), b = at(c[1]), d = at(c[2]);
        return {(a.x + b.x + d.x) / 3, (a.y + b.y + d.y) / 3};
    }
    // Numbers of the stretches that may meet a triangle.
    std::vector<std::uint32_t> meeting(std::uint32_t t) const {
        std::vector<std::uint32_t> found;
        PlanBox b;
        const auto& c = m_.triangles[t];
        for (const std::uint32_t v : c) b.add(at(v).x, at(v).y);
        grid_.meeting(b, [&](std::uint32_t s) {
            // Wholly on one side of one of the triangle's edges, or it of the stretch: they do not meet.
            const Stretch& g = stretches_[s];
            for (int k = 0; k < 3; ++k) {
                const Plan p = at(c[static_cast<std::size_t>(k)]),
                           q = at(c[static_cast<std::size_t>(next(k))]);
                if (turn(p, q, g.from) <= 0 && turn(p, q, g.to) <= 0) return;
            }
            const int sa = turn(g.from, g.to, at(c[0])), sb = turn(g.from, g.to, at(c[1])),
                      sc = turn(g.from, g.to, at(c[2]));
            if ((sa >= 0 && sb >= 0 && sc >= 0) || (sa <= 0 && sb <= 0 && sc <= 0)) return;
            found.push_back(s);
        });
        std::sort(found.begin(), found.end());
        return found;
    }
    Part cut(std::uint32_t t, const std::vector<std::uint32_t>& by) const;

  private:
    struct Mini {
        std::vector<Plan> plan;
        std::vector<Origin> origins;
        std::vector<double> heights;
        std::vector<std::uint8_t> on;  // bit k: lies on edge k of the triangle
        std::map<Origin, std::uint32_t> known;
        std::uint32_t add(const Origin& o, const Plan& p, double z, std::uint8_t edges) {
            const auto [it, fresh] = known.emplace(o, static_cast<std::uint32_t>(plan.size()));
            if (fresh) {
                plan.push_back(p);
                origins.push_back(o);
                heights.push_back(z);
                on.push_back(edges);
            }
            return it->second;
        }
    };
    // Where a stretch crosses the edge between two vertices, the same from both sides.
    void crossing(std::uint32_t u, std::uint32_t v, const Stretch& g, Plan& p, double& z) const {
        if (u > v) std::swap(u, v);
        const Plan a = at(u), b = at(v);
        const double dx = g.to.x - g.from.x, dy = g.to.y - g.from.y, ex = b.x - a.x, ey = b.y - a.y;
        const double s =
            std::clamp((dx * (a.y - g.from.y) - dy * (a.x - g.from.x)) / (dy * ex - dx * ey), 0.0, 1.0);
        p = {a.x + s * ex, a.y + s * ey};
        z = m_.vertices[u].z + s * (m_.vertices[v].z - m_.vertices[u].z);
    }
    double height_in(std::uint32_t t, const Plan& p) const {
        const auto& c = m_.triangles[t];
        const Plan a = at(c[0]), b = at(c[1]), d = at(c[2]);
        const double w = (b.x - a.x) * (d.y - a.y) - (b.y - a.y) * (d.x - a.x);
        const double wb = ((p.x - a.x) * (d.y - a.y) - (p.y - a.y) * (d.x - a.x)) / w,
                     wd = ((b.x - a.x) * (p.y - a.y) - (b.y - a.y) * (p.x - a.x)) / w;
        const double z = m_.vertices[c[0]].z;
        return z + wb * (m_.vertices[c[1]].z - z) + wd * (m_.vertices[c[2]].z - z);
    }
    void add_stretch(std::uint32_t t, std::uint32_t s, Mini& mini,
                     std::vector<std::array<std::uint32_t, 2>>& segments) const;

    const mesh::TriMesh& m_;
    Keep keep_;
    Inside inside_;
    std::vector<Stretch> stretches_;
    std::vector<PlanBox> boxes_;
    BoxGrid grid_;
};

// The points of a stretch in a triangle, in their order along it, and the segments between them.
void Cutter::add_stretch(std::uint32_t t, std::uint32_t s, Mini& mini,
                         std::vector<std::array<std::uint32_t, 2>>& segments) const {
    const Stretch& g = stretches_[s];
    const auto& c = m_.triangles[t];
    std::vector<std::pair<double, std::uint32_t>> along;
    const double dx = g.to.x - g.from.x, dy = g.to.y - g.from.y;
    const auto add = [&](std::uint32_t i) {
        along.push_back({(mini.plan[i].x - g.from.x) * dx + (mini.plan[i].y - g.from.y) * dy, i});
    };
    const auto end = [&](const Plan& p, std::uint32_t number) {
        std::uint8_t edges = 0;
        for (int k = 0; k < 3; ++k) {
            const std::uint32_t u = c[static_cast<std::size_t>(next(k))],
                                v = c[static_cast<std::size_t>(previous(k))];
            const int side = turn(at(u), at(v), p);
            if (side < 0) return;  // outside
            if (side == 0) edges = static_cast<std::uint8_t>(edges | 1 << k);
        }
        for (std::uint32_t k = 0; k < 3; ++k)
            if (at(c[k]) == p) return add(k);
        double z = height_in(t, p);
        for (int k = 0; k < 3; ++k)
            if (edges >> k & 1) {
                // On an edge both triangles take the height along it.
                std::uint32_t u = c[static_cast<std::size_t>(next(k))],
                              v = c[static_cast<std::size_t>(previous(k))];
                if (u > v) std::swap(u, v);
                const Plan a = at(u), b = at(v);
                const double f = std::fabs(b.x - a.x) > std::fabs(b.y - a.y) ? (p.x - a.x) / (b.x - a.x)
                                                                             : (p.y - a.y) / (b.y - a.y);
                z = m_.vertices[u].z + f * (m_.vertices[v].z - m_.vertices[u].z);
            }
        add(mini.add({Origin::Corner, number, 0, 0}, p, z, edges));
    };
    end(g.from, g.from_number);
    end(g.to, g.to_number);
    for (int k = 0; k < 3; ++k) {
        const std::uint32_t u = c[static_cast<std::size_t>(next(k))],
                            v = c[static_cast<std::size_t>(previous(k))];
        const int su = turn(g.from, g.to, at(u)), sv = turn(g.from, g.to, at(v));
        const int sf = turn(at(u), at(v), g.from), st = turn(at(u), at(v), g.to);
        if (su * sv < 0 && sf * st < 0) {
            Plan p;
            double z = 0;
            crossing(u, v, g, p, z);
            if (p == at(u) || p == at(v)) {  // as near as rounding allows
                add(p == at(u) ? static_cast<std::uint32_t>(next(k))
                               : static_cast<std::uint32_t>(previous(k)));
                continue;
            }
            add(mini.add({Origin::Crossing, std::min(u, v), std::max(u, v), s}, p, z,
                         static_cast<std::uint8_t>(1 << k)));
        }
        // A corner exactly on the stretch.
        if (turn(g.from, g.to, at(c[static_cast<std::size_t>(k)])) == 0) {
            const Plan p = at(c[static_cast<std::size_t>(k)]);
            const double f = (p.x - g.from.x) * dx + (p.y - g.from.y) * dy;
            if (f > 0 && f < dx * dx + dy * dy) add(static_cast<std::uint32_t>(k));
        }
    }
    std::sort(along.begin(), along.end());
    for (std::size_t i = 1; i < along.size(); ++i)
        if (along[i - 1].second != along[i].second)
            segments.push_back({along[i - 1].second, along[i].second});
}

Cutter::Part Cutter::cut(std::uint32_t t, const std::vector<std::uint32_t>& by) const {
    Mini mini;
    const auto& c = m_.triangles[t];
    for (std::uint32_t k = 0; k < 3; ++k)
        mini.add({Origin::Vertex, c[k], 0, 0}, at(c[k]), m_.vertices[c[k]].z,
                 static_cast<std::uint8_t>(7 & ~(1 << k)));
    std::vector<std::array<std::uint32_t, 2>> segments;
    for (const std::uint32_t s : by) add_stretch(t, s, mini, segments);
    Delaunay d = delaunay(mini.plan);
    for (auto& s : segments) s = {d.vertex[s[0]], d.vertex[s[1]]};
    constrain(d.mesh, segments);
    // Of points in one place, and of crossings of stretches, that only rounding makes.
    std::vector<std::uint32_t> source = d.source;
    for (std::size_t v = source.size(); v < d.mesh.points.size(); ++v) {
        const Plan p = d.mesh.points[v];
        source.push_back(
            mini.add({Origin::Other, t, static_cast<std::uint32_t>(v), 0}, p, height_in(t, p), 0));
    }
    Part part;
    part.origins = mini.origins;
    for (std::size_t i = 0; i < mini.plan.size(); ++i)
        part.places.push_back(mini.origins[i].kind == Origin::Vertex
                                  ? m_.vertices[mini.origins[i].a]
                                  : Vec3{mini.plan[i].x + inside_.origin().x,
                                         mini.plan[i].y + inside_.origin().y, mini.heights[i]});
    for (std::uint32_t s = 0; s < d.mesh.size(); ++s) {
        const std::uint32_t i = source[d.mesh.corner(s, 0)], j = source[d.mesh.corner(s, 1)],
                            k = source[d.mesh.corner(s, 2)];
        if (mini.on[i] & mini.on[j] & mini.on[k]) continue;  // along an edge: nothing but rounding
        const Plan &p = d.mesh.point(s, 0), &q = d.mesh.point(s, 1), &r = d.mesh.point(s, 2);
        if (keeps({(p.x + q.x + r.x) / 3, (p.y + q.y + r.y) / 3})) part.triangles.push_back({i, j, k});
    }
    return part;
}

constexpr std::size_t kRun = 4096;  // triangles that one task cuts

// Leaves out vertices that no triangle uses.
void compact(mesh::TriMesh& m) {
    std::vector<std::uint32_t> number(m.vertices.size(), 0);
    parallel::for_ranges(m.triangles.size(), kRun, [&](std::size_t from, std::size_t to) {
        for (std::size_t t = from; t < to; ++t)
            for (const std::uint32_t v : m.triangles[t])
                std::atomic_ref(number[v]).store(1, std::memory_order_relaxed);
    });
    std::uint32_t used = 0;
    for (std::size_t v = 0; v < number.size(); ++v)
        if (number[v] != 0) {
            m.vertices[used] = m.vertices[v];
            number[v] = used++;
        }
    m.vertices.resize(used);
    parallel::for_ranges(m.triangles.size(), kRun, [&](std::size_t from, std::size_t to) {
        for (std::size_t t = from; t < to; ++t)
            for (std::uint32_t& v : m.triangles[t]) v = number[v];
    });
}

// What is left of a run of triangles.
struct Left {
    std::vector<std::uint32_t> whole;
    std::vector<Cutter::Part> parts;
    std::vector<std::array<std::uint32_t, 3>> pieces{};  // of the parts, in numbers of the new mesh
};

// Gives the vertices of all parts their numbers; those that were made are added.
void number_parts(std::vector<Left>& runs, std::vector<Vec3>& vertices) {
    std::map<Cutter::Origin, std::uint32_t> made;
    std::vector<std::uint32_t> number;
    for (Left& run : runs)
        for (const Cutter::Part& part : run.parts) {
            number.clear();
            for (std::size_t i = 0; i < part.origins.size(); ++i) {
                const Cutter::Origin& o = part.origins[i];
                if (o.kind == Cutter::Origin::Vertex) {
                    number.push_back(o.a);
                    continue;
                }
                const auto [it, fresh] = made.emplace(o, static_cast<std::uint32_t>(vertices.size()));
                if (fresh) vertices.push_back(part.places[i]);
                number.push_back(it->second);
            }
            for (const auto& t : part.triangles)
                run.pieces.push_back({number[t[0]], number[t[1]], number[t[2]]});
        }
}

}  // namespace

struct Inside::Masks {
    double scale = 1;
    std::vector<PolygonMask> all;
};

Inside::Inside(const Rings& rings) : origin_(middle_of(rings)), masks_(std::make_unique<Masks>()) {
    double size = 1e-300;
    std::size_t corners = 0;
    for (const auto& ring : rings) corners += ring.size();
    for (const auto& ring : rings)
        for (const Vec3& p : ring)
            size = std::max({size, std::fabs(p.x - origin_.x), std::fabs(p.y - origin_.y)});
    // A power of two, so that no coordinate is rounded.
    masks_->scale = std::exp2(std::floor(std::log2(mask_size(corners) / 2 / size)));
    for (const auto& ring : rings) {
        Polygon polygon;
        for (const Vec3& p : ring)
            polygon.push_back({(p.x - origin_.x) * masks_->scale, (p.y - origin_.y) * masks_->scale});
        masks_->all.emplace_back(std::move(polygon));
    }
}

Inside::~Inside() = default;

bool Inside::operator()(double x, double y) const {
    const PixelPoint p{(x - origin_.x) * masks_->scale, (y - origin_.y) * masks_->scale};
    bool in = false;
    for (const PolygonMask& m : masks_->all) {
        const auto cell = m.at(p);
        in ^= cell == PolygonMask::Edge ? m.contains_exactly(p) : cell == PolygonMask::Inside;
    }
    return in;
}

std::optional<RingTrouble> trouble_of(const Rings& rings) {
    for (const auto& ring : rings)
        if (ring.size() < 3)
            return RingTrouble{"A boundary has fewer than three points", {}, ring.empty() ? Vec3{} : ring[0]};
    const Vec3 origin = middle_of(rings);
    const std::vector<Stretch> all = stretches_of(rings, origin);
    std::vector<PlanBox> boxes;
    for (const Stretch& s : all) boxes.push_back(box_of(s));
    const BoxGrid grid(boxes);
    std::optional<RingTrouble> found;
    for (std::uint32_t i = 0; i < all.size() && !found; ++i)
        grid.meeting(boxes[i], [&](std::uint32_t j) {
            if (j <= i || found) return;
            const Stretch &a = all[i], &b = all[j];
            const int p = turn(a.from, a.to, b.from), q = turn(a.from, a.to, b.to),
                      r = turn(b.from, b.to, a.from), s = turn(b.from, b.to, a.to);
            if (p * q >= 0 || r * s >= 0) return;
            const double dx = a.to.x - a.from.x, dy = a.to.y - a.from.y, ex = b.to.x - b.from.x,
                         ey = b.to.y - b.from.y;
            const double t = std::clamp(
                (ex * (a.from.y - b.from.y) - ey * (a.from.x - b.from.x)) / (ey * dx - ex * dy), 0.0, 1.0);
            found = RingTrouble{"A boundary crosses itself or another",
                                "Move or take away a corner there.",
                                {a.from.x + t * dx + origin.x, a.from.y + t * dy + origin.y, 0}};
        });
    if (!found) return found;
    // In space, near the corner that is nearest in plan.
    double nearest = INFINITY;
    for (const auto& ring : rings)
        for (const Vec3& v : ring)
            if (const double d = std::hypot(v.x - found->where.x, v.y - found->where.y); d < nearest) {
                nearest = d;
                found->where.z = v.z;
            }
    return found;
}

void check_rings(const Rings& rings) {
    if (const auto t = trouble_of(rings))
        throw Error(ErrorCode::Usage, t->what, fmt::format("at {:.3f} {:.3f}", t->where.x, t->where.y),
                    t->advice);
}

mesh::TriMesh clip(const mesh::TriMesh& m, const Rings& rings, Keep keep, Edges edges, Progress& progress) {
    check_rings(rings);
    const Cutter cutter(m, rings, keep);
    const std::size_t runs = (m.triangles.size() + kRun - 1) / kRun;
    std::vector<Left> left = parallel::map<Left>(runs, [&](std::size_t r) {
        progress.check();
        Left own;
        for (std::size_t i = r * kRun; i < std::min(m.triangles.size(), (r + 1) * kRun); ++i) {
            const auto t = static_cast<std::uint32_t>(i);
            const auto by = edges == Edges::Exact ? cutter.meeting(t) : std::vector<std::uint32_t>();
            if (!by.empty())
                own.parts.push_back(cutter.cut(t, by));
            else if (cutter.keeps(cutter.middle(t)))
                own.whole.push_back(t);
        }
        return own;
    });
    mesh::TriMesh out;
    out.vertices = m.vertices;
    number_parts(left, out.vertices);
    std::vector<std::size_t> first(runs + 1, 0);
    for (std::size_t r = 0; r < runs; ++r)
        first[r + 1] = first[r] + left[r].whole.size() + left[r].pieces.size();
    out.triangles.resize(first[runs]);
    parallel::for_each(runs, [&](std::size_t r) {
        auto to = out.triangles.begin() + static_cast<std::ptrdiff_t>(first[r]);
        for (const std::uint32_t t : left[r].whole) *to++ = m.triangles[t];
        std::copy(left[r].pieces.begin(), left[r].pieces.end(), to);
    });
    compact(out);
    return out;
}

}  // namespace pristine::surface
