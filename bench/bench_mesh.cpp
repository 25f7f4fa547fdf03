// Meshes: how many of generated broken ones become sound, how far curvature fills leave a sphere, how long
// checks, wraps, and steps of hand tools take.
//   bench_mesh quality [meshes, default 200] [first seed]
//   bench_mesh speed [triangles, default 2,000,000]
//   bench_mesh reduce

#include <fmt/format.h>

#include <cmath>
#include <cstring>
#include <numbers>

#include "bench_support.h"
#include "core/cloud/triangles.h"
#include "core/repair/collapse.h"
#include "core/repair/deviation.h"
#include "core/repair/repair.h"
#include "core/repair/steps.h"
#include "core/repair/wrap.h"
#include "core/score/limits.h"
#include "core/score/score.h"
#include "core/select/triangle_growth.h"
#include "core/select/triangle_solid.h"
#include "core/topology/adjacency.h"
#include "demo/milestone.h"
#include "demo/solids.h"

using namespace pristine;
using namespace pristine::bench;

namespace {

void broken_meshes(int count, std::uint64_t first) {
    int sound = 0, listed = 0;
    std::array<int, demo::kBreaks> of_kind{};
    std::uint64_t findings = 0;
    for (int s = 0; s < count; ++s) {
        std::mt19937_64 dice(first + static_cast<std::uint64_t>(s));
        mesh::TriMesh m = s % 3 == 0   ? demo::ball(24, 1)
                          : s % 3 == 1 ? demo::block(16, {0, 0, 0}, {1, 1.2, 0.8})
                                       : demo::ring(90, 1, 0.3);
        std::vector<Vec3> where;
        for (int k = 0, made = 0; k < 16 && made < 4; ++k) {
            mesh::TriMesh next = m;
            auto places = where;
            const int kind = (s + 3 * k) % demo::kBreaks;
            if (!demo::break_mesh(next, static_cast<demo::Break>(kind), dice, places)) continue;
            m = std::move(next);
            where = std::move(places);
            ++of_kind[static_cast<std::size_t>(kind)];
            ++made;
        }
        const repair::Repaired r = repair::repair(m);
        for (const auto& f : r.before.findings) findings += f.size();
        sound += r.after.sound() && r.unrepaired.empty();
        listed += !r.after.sound() && !r.unrepaired.empty();
    }
    fmt::print(
        "repair all and fill: {} of {} meshes sound, {} others listed with the reason; {} findings; breaks "
        "of each kind:",
        sound, count, listed, findings);
    for (const int n : of_kind) fmt::print(" {}", n);
    fmt::print("\n");
}

void sphere_fills() {
    for (const double rim : {30.0, 60.0, 120.0}) {
        mesh::TriMesh m = demo::ball(32, 1);
        std::vector<char> gone(m.triangles.size(), 0);
        for (std::size_t t = 0; t < gone.size(); ++t) {
            const auto& c = m.triangles[t];
            const Vec3 p = (m.vertices[c[0]] + m.vertices[c[1]] + m.vertices[c[2]]) * (1 / 3.0);
            gone[t] = p.z > norm(p) * std::cos(0.5 * rim * std::numbers::pi / 180);
        }
        m = repair::without(m, gone);
        const auto loop = topology::boundary_loops(m.triangles, topology::adjacency(m.triangles))[0];
        fmt::print("cap of a sphere, rim {} degrees:", rim);
        for (const auto& [name, kind] : {std::pair{"flat", repair::FillKind::Flat},
                                         {"tangent", repair::FillKind::Tangent},
                                         {"curvature", repair::FillKind::Curvature}}) {
            double worst = 0;
            for (const Vec3& v : repair::fill_boundary(m, loop, {kind, 1, true}).vertices)
                worst = std::max(worst, std::fabs(norm(v) - 1));
            fmt::print("  {} {:.4f}", name, worst);
        }
        fmt::print(" of the radius\n");
    }
}

void milestone() {
    mesh::TriMesh m = demo::milestone_scan();
    std::erase_if(m.triangles, [&](const auto& t) {
        double top = -1, left = 1;
        for (const std::uint32_t v : t)
            top = std::max(top, m.vertices[v].z), left = std::min(left, m.vertices[v].x);
        return top < -1e-4 || left > 0.2025;
    });
    const repair::Repaired r = repair::repair(m);
    fmt::print("milestone: {}, volume {:+.4f} % of the truth\n", r.after.sound() ? "sound" : "not sound",
               100 * (mesh::signed_volume(r.mesh) / mesh::signed_volume(demo::milestone()) - 1));
    const double detail = 0.01;
    const repair::Wrapped w = repair::wrap(r.mesh, {detail, 0});
    fmt::print("wrap of it at {}: p95 {:.5f}, largest {:.5f}, {} triangles\n", detail, w.deviation.p95,
               w.deviation.max, w.mesh.triangles.size());
}

void checks(std::size_t triangles) {
    double small = 0;
    for (const double share : {0.1, 1.0}) {
        const int n = static_cast<int>(std::sqrt(static_cast<double>(triangles) * share / 8));
        const mesh::TriMesh ball = demo::ball(n, 1, {412300, 5218930, 58});
        const double s = median_seconds(3, [&] { repair::check(ball); });
        fmt::print("check of {} triangles of a ball: {:.2f} s", ball.triangles.size(), s);
        if (share < 1) small = s;
        if (share < 1)
            fmt::print("\n");
        else
            fmt::print(" ({:.1f} times the time of a tenth of them)\n", s / small);
    }
    const int side = static_cast<int>(std::sqrt(static_cast<double>(triangles) / 12));
    const mesh::TriMesh block = demo::block(side, {0, 0, 0}, {1, 1.2, 0.8});
    fmt::print("check of {} triangles of a block: {:.2f} s\n", block.triangles.size(),
               median_seconds(3, [&] { repair::check(block); }));
}

void hand_tools(std::size_t triangles) {
    const int n = static_cast<int>(std::sqrt(static_cast<double>(triangles) / 8));
    const auto c = cloud::cloud_of_triangles(demo::ball(n, 1), {"m", "", false, {}, {}});
    const ElementSet all = ElementSet::all(c->size());
    ElementSet set = select::in_ball(*c, {1, 0, 0}, 0.05, all, select::Reach::Touches);
    double brush = 0, ring = 0;
    for (int k = 0; k < 40; ++k) {
        const double a = 0.02 * k;
        brush = std::max(
            brush, seconds([&] {
                select::in_ball(*c, {std::cos(a), std::sin(a), 0}, 0.05, all, select::Reach::Touches);
            }));
        ring = std::max(ring, seconds([&] { set = select::grown_by_ring(*c, set, all); }));
    }
    fmt::print("{} triangles: longest of 40 steps of the ball brush {:.1f} ms, of ring growth {:.1f} ms\n",
               c->size(), 1000 * brush, 1000 * ring);
}

// What a drag of a histogram's end costs: the set of a range, many times a second.
void drag_of_a_range(std::size_t triangles) {
    const auto c = cloud::cloud_of_triangles(
        demo::ball(static_cast<int>(std::sqrt(static_cast<double>(triangles) / 8)), 1),
        {"m", "", false, {}, {}});
    const ElementSet all = ElementSet::all(c->size());
    const score::Column column = score::compute(score::find("edge"), {*c, all}, {});
    const score::Profile p = score::profile(column);
    double worst = 0, sum = 0;
    constexpr int kSteps = 50;
    std::uint64_t taken = 0;
    for (int k = 0; k < kSteps; ++k) {
        score::Limits limits;
        limits.lo = p.min + (p.max - p.min) * k / kSteps;
        limits.hi = p.max;
        const double s = seconds([&] { taken += score::within(column, all, limits).count(); });
        worst = std::max(worst, s);
        sum += s;
    }
    fmt::print("range of longest edge on {} triangles: mean {:.1f} ms, worst {:.1f} ms ({} taken)\n",
               c->size(), 1000 * sum / kSteps, 1000 * worst, taken);
}

// Closing up of edges, what it costs to measure the result, and whether it is sound.
void reductions() {
    const struct {
        const char* name;
        mesh::TriMesh mesh;
        std::size_t to;
    } cases[] = {{"milestone", demo::milestone(), 21'600},
                 {"milestone", demo::milestone(), 1000},
                 {"block", demo::block(24, {0, 0, 0}, {1, 1.2, 0.8}), 12},
                 {"ring", demo::ring(90, 1, 0.3), 60},
                 {"ball", demo::ball(100, 1), 500},
                 {"ball", demo::ball(350, 1), 490'000},
                 {"ball", demo::ball(350, 1), 49'000},
                 {"block", demo::block(350, {0, 0, 0}, {1, 1, 1}), 147'000}};
    for (const auto& c : cases) {
        mesh::TriMesh out;
        const double took = seconds([&] { out = repair::collapsed(c.mesh, {c.to, true, {}}); });
        repair::Deviation d;
        const double measured = seconds([&] { d = repair::deviation(out, c.mesh); });
        fmt::print("{} of {} triangles to {}: {:.2f} s, deviation at most {:.2g} in {:.2f} s; {}\n", c.name,
                   c.mesh.triangles.size(), out.triangles.size(), took, d.max, measured,
                   repair::check(out).sound() ? "sound" : "NOT SOUND");
    }
}

}  // namespace

int main(int argc, char** argv) {
    if (argc > 1 && std::strcmp(argv[1], "speed") == 0) {
        checks(argc > 2 ? std::stoull(argv[2]) : 2'000'000);
        hand_tools(5'000'000);
        drag_of_a_range(10'000'000);
        return 0;
    }
    if (argc > 1 && std::strcmp(argv[1], "reduce") == 0) {
        reductions();
        return 0;
    }
    broken_meshes(argc > 2 ? std::stoi(argv[2]) : 200, argc > 3 ? std::stoull(argv[3]) : 70'000);
    sphere_fills();
    milestone();
    return 0;
}
