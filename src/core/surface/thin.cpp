#include "core/surface/thin.h"

#include <algorithm>
#include <cmath>

#include "core/base/error.h"
#include "core/base/parallel.h"
#include "core/surface/delaunay.h"

namespace pristine::surface {
namespace {

constexpr int kMostRounds = 60;
constexpr std::size_t kFirst = 256;

// The triangle of a mesh that holds a place, walked to from another; kNone outside.
std::uint32_t walk(const Triangulation& m, std::uint32_t t, const Plan& p) {
    for (std::size_t steps = 0; steps <= m.size(); ++steps) {
        std::uint32_t onward = t;
        for (int k = 0; k < 3; ++k) {
            const Plan &a = m.point(t, next(k)), &b = m.point(t, previous(k));
            if ((b.x - a.x) * (p.y - a.y) - (b.y - a.y) * (p.x - a.x) < 0) {
                onward = m.across(t, k);
                break;
            }
        }
        if (onward == t || onward == kNone) return onward;
        t = onward;
    }
    return kNone;
}

}  // namespace

std::vector<std::uint32_t> thinned(const std::vector<Vec3>& points, double tolerance, Progress& progress) {
    if (!(tolerance > 0)) throw Error(ErrorCode::Usage, "The tolerance must be more than 0");
    std::vector<Plan> plan;
    for (const Vec3& p : points) plan.push_back({p.x, p.y});
    // In an order in which neighbours follow each other; equal places once.
    const Delaunay whole = delaunay(plan, progress);
    const std::vector<std::uint32_t>& order = whole.source;
    std::vector<char> in(points.size(), 0);
    // The hull, and some spread evenly.
    for (std::uint32_t t = 0; t < whole.mesh.size(); ++t)
        for (int k = 0; k < 3; ++k)
            if (whole.mesh.across(t, k) == kNone)
                for (const int c : {next(k), previous(k)}) in[whole.source[whole.mesh.corner(t, c)]] = 1;
    for (std::size_t i = 0; i < order.size(); i += std::max<std::size_t>(1, order.size() / kFirst))
        in[order[i]] = 1;
    for (int round = 0; round < kMostRounds; ++round) {
        progress.check();
        progress.advance(static_cast<double>(round) / kMostRounds);
        std::vector<std::uint32_t> members;
        std::vector<Plan> some;
        for (const std::uint32_t i : order)
            if (in[i]) members.push_back(i), some.push_back(plan[i]);
        const Delaunay d = delaunay(some);
        if (d.mesh.size() == 0) return members;
        const auto z = [&](std::uint32_t v) { return points[members[d.source[v]]].z; };
        struct Worst {
            std::uint32_t triangle, point;
            double off;
        };
        constexpr std::size_t kRun = 16384;
        const auto found =
            parallel::map<std::vector<Worst>>((order.size() + kRun - 1) / kRun, [&](std::size_t r) {
                std::vector<Worst> own;
                std::uint32_t t = 0;
                for (std::size_t i = r * kRun; i < std::min(order.size(), (r + 1) * kRun); ++i) {
                    const std::uint32_t e = order[i];
                    if (in[e]) continue;
                    const Plan p = plan[e];
                    const std::uint32_t at = walk(d.mesh, t, p);
                    if (at == kNone) continue;
                    t = at;
                    const Plan &a = d.mesh.point(t, 0), &b = d.mesh.point(t, 1), &c = d.mesh.point(t, 2);
                    const double w = (b.x - a.x) * (c.y - a.y) - (b.y - a.y) * (c.x - a.x),
                                 wb = ((p.x - a.x) * (c.y - a.y) - (p.y - a.y) * (c.x - a.x)) / w,
                                 wc = ((b.x - a.x) * (p.y - a.y) - (b.y - a.y) * (p.x - a.x)) / w;
                    const double z0 = z(d.mesh.corner(t, 0));
                    const double off = std::fabs(points[e].z - z0 - wb * (z(d.mesh.corner(t, 1)) - z0) -
                                                 wc * (z(d.mesh.corner(t, 2)) - z0));
                    if (off > tolerance) own.push_back({t, e, off});
                }
                return own;
            });
        std::vector<Worst> worst(d.mesh.size(), {0, kNone, 0});
        bool any = false;
        for (const auto& part : found)
            for (const Worst& w : part)
                if (w.off > worst[w.triangle].off) worst[w.triangle] = w;
        for (const Worst& w : worst)
            if (w.point != kNone) in[w.point] = 1, any = true;
        if (!any) break;
    }
    std::vector<std::uint32_t> out;
    for (std::uint32_t i = 0; i < in.size(); ++i)
        if (in[i]) out.push_back(i);
    return out;
}

}  // namespace pristine::surface
