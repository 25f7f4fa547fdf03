#include "core/surface/definition.h"

#include <algorithm>
#include <cmath>
#include <numbers>

#include "core/base/error.h"
#include "core/base/parallel.h"
#include "core/surface/constrain.h"
#include "core/surface/delaunay.h"
#include "core/topology/adjacency.h"

namespace pristine::surface {
namespace {

// All points, and the segments of breaklines between them.
struct Input {
    std::vector<Plan> plan;
    std::vector<double> heights;
    std::vector<std::array<std::uint32_t, 2>> segments;
    std::vector<std::uint32_t> line_of;  // of each segment
};

Input gather(const Definition& d) {
    Input in;
    const auto add = [&](const Vec3& p) {
        in.plan.push_back({p.x, p.y});
        in.heights.push_back(p.z);
    };
    in.plan.reserve(d.points.size());
    in.heights.reserve(d.points.size());
    for (const Vec3& p : d.points) add(p);
    for (std::uint32_t l = 0; l < d.breaklines.size(); ++l) {
        const Breakline& line = d.breaklines[l];
        const auto first = static_cast<std::uint32_t>(in.plan.size()),
                   n = static_cast<std::uint32_t>(line.points.size());
        for (const Vec3& p : line.points) add(p);
        for (std::uint32_t i = 0; i + 1 < n + (line.closed && n > 2 ? 1 : 0); ++i) {
            in.segments.push_back({first + i, first + (i + 1) % n});
            in.line_of.push_back(l);
        }
    }
    return in;
}

// Heights of the points of the mesh; points in one place by the rule.
std::vector<double> heights_of(const Definition& d, const Input& in, const Delaunay& plan,
                               BuildReport& report) {
    std::vector<double> z(plan.source.size());
    std::vector<std::uint32_t> count(z.size(), 0);
    for (std::size_t v = 0; v < z.size(); ++v) z[v] = in.heights[plan.source[v]];
    std::vector<std::uint32_t> doubled;
    for (std::uint32_t i = 0; i < in.plan.size(); ++i)
        if (++count[plan.vertex[i]] == 2) doubled.push_back(plan.vertex[i]);
    if (doubled.empty()) return z;
    std::sort(doubled.begin(), doubled.end());
    std::vector<std::vector<double>> all(doubled.size());
    for (std::uint32_t i = 0; i < in.plan.size(); ++i) {
        const std::uint32_t v = plan.vertex[i];
        if (count[v] < 2) continue;
        const auto at = std::lower_bound(doubled.begin(), doubled.end(), v) - doubled.begin();
        all[static_cast<std::size_t>(at)].push_back(in.heights[i]);
    }
    for (std::size_t k = 0; k < doubled.size(); ++k) {
        std::vector<double>& h = all[k];
        const double first = h.front();
        std::sort(h.begin(), h.end());  // so that the mean does not depend on the order
        double mean = 0;
        for (const double v : h) mean += v / static_cast<double>(h.size());
        double& own = z[doubled[k]];
        own = d.duplicates == Duplicates::First     ? first
              : d.duplicates == Duplicates::Mean    ? mean
              : d.duplicates == Duplicates::Highest ? h.back()
                                                    : h.front();
        const Plan p = plan.mesh.points[doubled[k]];
        // A corner where breaklines with equal heights meet is no finding.
        if (h.front() != h.back() || plan.source[doubled[k]] < d.points.size())
            report.duplicates.push_back(
                {{p.x, p.y, own}, h.front(), h.back(), static_cast<std::uint32_t>(h.size())});
    }
    return z;
}

double along(const Input& in, const std::array<std::uint32_t, 2>& s, const Plan& p) {
    const Plan &a = in.plan[s[0]], &b = in.plan[s[1]];
    const double dx = b.x - a.x, dy = b.y - a.y, l = dx * dx + dy * dy;
    const double t = l > 0 ? std::clamp(((p.x - a.x) * dx + (p.y - a.y) * dy) / l, 0.0, 1.0) : 0;
    return in.heights[s[0]] + t * (in.heights[s[1]] - in.heights[s[0]]);
}

void resolve(const Definition& d, const Input& in, const ConstrainResult& result, const Triangulation& mesh,
             std::vector<double>& z, BuildReport& report) {
    z.resize(mesh.points.size(), NAN);
    for (const Crossing& c : result.crossings) {
        const Plan p = mesh.points[c.vertex];
        const double earlier = along(in, in.segments[c.earlier], p),
                     later = along(in, in.segments[c.later], p);
        double& own = z[c.vertex];
        if (std::isnan(own))
            own = d.crossings == Crossings::Mean      ? 0.5 * (earlier + later)
                  : d.crossings == Crossings::Earlier ? earlier
                  : d.crossings == Crossings::Later   ? later
                  : d.crossings == Crossings::Highest ? std::max(earlier, later)
                                                      : std::min(earlier, later);
        report.crossings.push_back({{p.x, p.y, own},
                                    earlier,
                                    later,
                                    d.breaklines[in.line_of[c.earlier]].name,
                                    d.breaklines[in.line_of[c.later]].name});
    }
}

double plan_length(const Vec3& a, const Vec3& b) {
    return std::hypot(b.x - a.x, b.y - a.y);
}

mesh::TriMesh triangulate(const Definition& d, BuildReport& report, std::vector<std::uint8_t>& fixed,
                          bool& distinct, Progress& progress) {
    const Input in = gather(d);
    report.points = in.plan.size();
    progress.stretch(0, 0.6, "Triangulating");
    Delaunay plan = delaunay(in.plan, progress);
    if (plan.mesh.size() == 0)
        throw Error(ErrorCode::Usage,
                    "A surface needs three points at least that are not in one line in plan");
    std::vector<double> z = heights_of(d, in, plan, report);
    std::vector<std::array<std::uint32_t, 2>> segments;
    for (const auto& s : in.segments) segments.push_back({plan.vertex[s[0]], plan.vertex[s[1]]});
    progress.stretch(0.6, 0.8, "Following breaklines");
    const ConstrainResult result = constrain(plan.mesh, segments, progress);
    report.breakline_segments = result.edges;
    distinct = result.crossings.empty();
    resolve(d, in, result, plan.mesh, z, report);
    mesh::TriMesh m;
    m.vertices.reserve(z.size());
    for (std::size_t v = 0; v < z.size(); ++v)
        m.vertices.push_back({plan.mesh.points[v].x, plan.mesh.points[v].y, z[v]});
    m.triangles = std::move(plan.mesh.corners);
    fixed = std::move(plan.mesh.constrained);
    return m;
}

}  // namespace

mesh::TriMesh only(const mesh::TriMesh& m, const std::vector<std::uint32_t>& triangles) {
    mesh::TriMesh out;
    std::vector<std::uint32_t> number(m.vertices.size(), kNone);
    for (const std::uint32_t t : triangles)
        for (const std::uint32_t v : m.triangles[t]) number[v] = 0;
    for (std::size_t v = 0; v < number.size(); ++v)
        if (number[v] == 0) {
            number[v] = static_cast<std::uint32_t>(out.vertices.size());
            out.vertices.push_back(m.vertices[v]);
        }
    out.triangles.reserve(triangles.size());
    for (const std::uint32_t t : triangles) {
        const auto& c = m.triangles[t];
        out.triangles.push_back({number[c[0]], number[c[1]], number[c[2]]});
    }
    return out;
}

std::vector<std::uint32_t> within_limits(const mesh::TriMesh& m, const Limits& limits,
                                         const std::vector<std::uint8_t>& fixed) {
    const std::size_t n = m.triangles.size();
    std::vector<char> gone(n, 0);
    const auto corner = [&](std::uint32_t t, std::size_t k) -> const Vec3& {
        return m.vertices[m.triangles[t][k % 3]];
    };
    if (limits.longest_edge > 0)
        for (std::uint32_t t = 0; t < n; ++t)
            for (std::size_t k = 0; k < 3; ++k)
                if (plan_length(corner(t, k), corner(t, k + 1)) > limits.longest_edge) gone[t] = 1;
    if (limits.rim_edge > 0 || limits.rim_angle > 0) {
        const topology::Adjacency a = topology::adjacency(m.triangles);
        const double cosine = std::cos(limits.rim_angle * std::numbers::pi / 180);
        const auto beyond = [&](std::uint32_t t, std::size_t k) {
            if (!fixed.empty() && (fixed[t] >> k & 1)) return false;
            const Vec3 &p = corner(t, k), &u = corner(t, k + 1), &v = corner(t, k + 2);
            if (limits.rim_edge > 0 && plan_length(u, v) > limits.rim_edge) return true;
            return limits.rim_angle > 0 && (u.x - p.x) * (v.x - p.x) + (u.y - p.y) * (v.y - p.y) <
                                               cosine * plan_length(p, u) * plan_length(p, v);
        };
        std::vector<std::uint32_t> open;
        for (std::uint32_t t = 0; t < n; ++t) open.push_back(t);
        while (!open.empty()) {
            const std::uint32_t t = open.back();
            open.pop_back();
            if (gone[t]) continue;
            for (std::size_t k = 0; k < 3 && !gone[t]; ++k) {
                const std::uint32_t o = a.across[t][k];
                if ((o == topology::kNone || gone[o]) && beyond(t, k)) gone[t] = 1;
            }
            if (gone[t])
                for (const std::uint32_t o : a.across[t])
                    if (o != topology::kNone) open.push_back(o);
        }
    }
    std::vector<std::uint32_t> stay;
    for (std::uint32_t t = 0; t < n; ++t)
        if (!gone[t]) stay.push_back(t);
    return stay;
}

Rings boundary_of(const mesh::TriMesh& m) {
    Rings rings;
    for (const auto& loop : topology::boundary_loops(m.triangles, topology::adjacency(m.triangles))) {
        rings.emplace_back();
        for (const std::uint32_t v : loop) rings.back().push_back(m.vertices[v]);
    }
    return rings;
}

Rings rings_round(const mesh::TriMesh& m, const std::vector<std::uint32_t>& triangles) {
    return boundary_of(only(m, triangles));
}

Built build(const Definition& d, Progress& progress) {
    Built b;
    std::vector<std::uint8_t> fixed;
    if (!d.given.triangles.empty()) {
        b.mesh = d.given;
        b.report.points = d.given.vertices.size();
    } else {
        b.mesh = triangulate(d, b.report, fixed, b.distinct, progress);
        Limits limits = d.limits;
        // A boundary says where the surface ends: inside it nothing is peeled off the rim.
        if (!d.boundary.empty()) limits.rim_edge = limits.rim_angle = 0;
        if (limits != Limits()) {
            const auto stay = within_limits(b.mesh, limits, fixed);
            b.report.beyond_limits = b.mesh.triangles.size() - stay.size();
            b.mesh = only(b.mesh, stay);
        }
    }
    progress.stretch(0.8, 1, "Cutting");
    if (!d.patches.empty() || !d.boundary.empty() || !d.exclusions.empty()) b.distinct = false;
    for (const Patch& p : d.patches) b.mesh = replace_part(b.mesh, p, progress);
    if (!d.boundary.empty()) {
        const std::size_t before = b.mesh.triangles.size();
        b.mesh = clip(b.mesh, d.boundary, Keep::Inside, d.boundary_edges, progress);
        b.report.beyond_boundary = before - std::min(before, b.mesh.triangles.size());
    }
    for (const Exclusion& e : d.exclusions)
        if (e.active) b.mesh = clip(b.mesh, e.rings, Keep::Outside, Edges::Exact, progress);
    return b;
}

}  // namespace pristine::surface
