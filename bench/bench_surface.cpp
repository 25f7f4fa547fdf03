// Triangulation against CGAL's Delaunay_triangulation_2 (kernel with exact predicates, inexact constructions,
// points inserted as a range, which it sorts itself), one thread and two; constraints against its constrained
// triangulation; difference of two surfaces; a range of a triangle score; a step of dragging a breakline.
//   bench_surface [points, default 1,000,000]

#include <fmt/format.h>

#include <CGAL/Constrained_Delaunay_triangulation_2.h>
#include <CGAL/Delaunay_triangulation_2.h>
#include <CGAL/Exact_predicates_inexact_constructions_kernel.h>

#include "bench_support.h"
#include "core/base/memory.h"
#include "core/base/parallel.h"
#include "core/cloud/triangles.h"
#include "core/measure/difference.h"
#include "core/site/surface_source.h"
#include "core/surface/constrain.h"
#include "core/surface/definition.h"
#include "core/surface/delaunay.h"
#include "core/surface/triangle_values.h"

using namespace pristine;
using namespace pristine::bench;
using Kernel = CGAL::Exact_predicates_inexact_constructions_kernel;

namespace {

std::vector<surface::Plan> random_plan(std::size_t n, std::uint64_t seed) {
    std::mt19937_64 dice(seed);
    std::uniform_real_distribution<double> u(0, std::sqrt(static_cast<double>(n)));
    std::vector<surface::Plan> p(n);
    for (auto& q : p) q = {4'412'300 + u(dice), 5'218'930 + u(dice)};
    return p;
}

mesh::TriMesh ground(std::size_t points, std::uint64_t seed, double lift) {
    surface::Definition d;
    for (const surface::Plan& p : random_plan(points, seed))
        d.points.push_back({p.x, p.y, 3 * std::sin(0.02 * p.x) + 2 * std::cos(0.03 * p.y) + lift});
    return surface::build(d).mesh;
}

// Short stretches between points that lie near each other, as breaklines are.
std::vector<std::array<std::uint32_t, 2>> breaklines(const surface::Delaunay& d, std::size_t count) {
    std::mt19937_64 dice(3);
    std::vector<std::array<std::uint32_t, 2>> s;
    const auto n = static_cast<std::uint32_t>(d.mesh.points.size());
    while (s.size() < count) {
        const auto a = static_cast<std::uint32_t>(dice() % n),
                   b = std::min(n - 1, a + 1 + static_cast<std::uint32_t>(dice() % 40));
        if (a != b) s.push_back({a, b});
    }
    return s;
}

constexpr int kRounds = 5;

// Times of two ways that were run in turn.
struct Ratios {
    std::vector<double> theirs, ours, ratio;
    void add(double their, double own) {
        theirs.push_back(their);
        ours.push_back(own);
        ratio.push_back(their / own);
    }
    void say(const std::string& what) {
        for (auto* all : {&theirs, &ours, &ratio}) std::sort(all->begin(), all->end());
        const auto middle = [](const std::vector<double>& v) { return v[v.size() / 2]; };
        fmt::print("  {}: {:.3f} s, {:.3f} s; {:.2f} times in the median, {:.2f} to {:.2f}\n", what,
                   middle(theirs), middle(ours), middle(ratio), ratio.front(), ratio.back());
    }
};

// What the window does for each step while a corner of a breakline is dragged: 100,000 points, 1,000
// segments, perhaps a boundary of 1,000 corners that is cut exactly.
void report_dragging(bool bounded) {
    constexpr int kSteps = 60, kCorners = 1000;
    constexpr std::size_t kPoints = 100'000;
    const double side = std::sqrt(static_cast<double>(kPoints));
    site::Line line, ring;
    line.id = 1, ring.id = 2, ring.closed = true;
    for (int i = 0; i <= kCorners; ++i)
        line.points.push_back({4'412'300 + side * (0.02 + 0.96 * i / kCorners),
                               5'218'930 + side * (0.5 + 0.1 * std::sin(0.02 * i)), 3});
    for (int i = 0; i < kCorners; ++i)
        ring.points.push_back({4'412'300 + side * (0.5 + 0.48 * std::cos(2 * M_PI * i / kCorners)),
                               5'218'930 + side * (0.5 + 0.48 * std::sin(2 * M_PI * i / kCorners)), 0});
    auto source = std::make_shared<site::SurfaceSource>();
    source->definition.points = ground(kPoints, 7, 0).vertices;
    source->definition.breaklines = {{"Toe", line.points, false}};
    source->breakline_ids = {1};
    if (bounded) {
        source->definition.boundary = {ring.points};
        source->boundary_ids = {2};
    }
    site::Site site;
    auto item = std::make_shared<site::Item>();
    item->id = 1;
    item->source = source;
    item->cloud =
        cloud::cloud_of_triangles(surface::build(source->definition).mesh, {"m", "", true, {}, {}, {}});
    item->refresh();
    site.items = {item};
    site.lines = {std::make_shared<site::Line>(line), std::make_shared<site::Line>(ring)};
    const auto before = std::make_shared<const site::Site>(std::move(site));
    std::vector<double> times;
    for (int step = 0; step < kSteps; ++step) {
        line.points[kCorners / 2].y += 0.1;
        times.push_back(1000 * seconds([&] {
                            const site::SitePtr now = site::put_lines(*before, {line});
                            const site::SourcePtr next = site::with_lines_of(*source, *now);
                            site::replace_surface(*now, 1, site::rebuild(*item, *next));
                        }));
    }
    std::sort(times.begin(), times.end());
    fmt::print("a step of dragging, {} points, {}: {:.0f} ms in the median, {:.0f} ms at most of {}\n",
               kPoints, bounded ? "cut at a boundary" : "no boundary", times[kSteps / 2], times.back(),
               kSteps);
}

}  // namespace

int main(int argc, char** argv) {
    give_freed_pages_back();
    const std::size_t n = argc > 1 ? std::stoull(argv[1]) : 1'000'000;
    const auto plan = random_plan(n, 1);
    std::vector<Kernel::Point_2> points;
    for (const auto& p : plan) points.emplace_back(p.x, p.y);
    std::size_t faces = 0, own = 0;
    Ratios one, two, bound;
    for (int round = 0; round < kRounds; ++round) {
        const double other = seconds([&] {
            CGAL::Delaunay_triangulation_2<Kernel> t(points.begin(), points.end());
            faces = t.number_of_faces();
        });
        {
            const parallel::WorkerLimit alone(1);
            one.add(other, seconds([&] { own = surface::delaunay(plan).mesh.size(); }));
        }
        two.add(other, seconds([&] { own = surface::delaunay(plan).mesh.size(); }));
    }
    fmt::print("Delaunay, {} points, {} and {} triangles, {} rounds in turn\n", n, faces, own, kRounds);
    one.say("CGAL against ours on one core");
    two.say(fmt::format("CGAL against ours on {}", parallel::workers()));

    const surface::Delaunay base = surface::delaunay(plan);
    const auto segments = breaklines(base, n / 10);
    std::vector<Kernel::Point_2> sorted;
    for (const auto& p : base.mesh.points) sorted.emplace_back(p.x, p.y);
    using Cdt = CGAL::Constrained_Delaunay_triangulation_2<Kernel, CGAL::Default, CGAL::Exact_predicates_tag>;
    for (int round = 0; round < kRounds; ++round) {
        const double other = seconds([&] {
            Cdt t;
            std::vector<Cdt::Vertex_handle> handles;
            Cdt::Face_handle hint;
            for (const auto& p : sorted) {
                handles.push_back(t.insert(p, hint));
                hint = handles.back()->face();
            }
            for (const auto& s : segments) t.insert_constraint(handles[s[0]], handles[s[1]]);
        });
        const parallel::WorkerLimit alone(1);
        bound.add(other, seconds([&] {
                      surface::Delaunay d = surface::delaunay(plan);
                      std::vector<std::array<std::uint32_t, 2>> s = segments;
                      surface::constrain(d.mesh, s);
                  }));
    }
    bound.say(fmt::format("{} segments in them: CGAL against ours on one core", segments.size()));

    const mesh::TriMesh before = ground(n / 2, 5, 0), after = ground(n / 2, 6, 0.3);
    measure::Difference d;
    const double differ = seconds([&] { d = measure::difference(before, after); });
    fmt::print("difference of {} and {} triangles: {:.2f} s (net {:.3f})\n", before.triangles.size(),
               after.triangles.size(), differ, d.net());
    const double values =
        seconds([&] { surface::triangle_values(before, surface::TriangleValue::LongestEdge); });
    fmt::print("longest edges of {} triangles: {:.3f} s\n", before.triangles.size(), values);
    report_dragging(false);
    report_dragging(true);
}
