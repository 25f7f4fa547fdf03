// Figures of the core and the renderer, each as a ratio or a rate measured in one run.
//   bench_core [points in the large cloud, default 50,000,000] [folder with a LAS file, optional]

#include <fmt/format.h>
#include <sys/resource.h>

#include <nanoflann.hpp>

#include "bench_support.h"
#include "core/base/memory.h"
#include "core/base/parallel.h"
#include "core/io/cloud_io.h"
#include "core/select/fence.h"
#include "core/site/history.h"
#include "render/camera.h"
#include "render/renderer.h"
#include "render/splat.h"

using namespace pristine;
using namespace pristine::bench;

namespace {

struct FilePoints {
    std::vector<float> xyz;
    std::size_t kdtree_get_point_count() const { return xyz.size() / 3; }
    float kdtree_get_pt(std::size_t i, std::size_t d) const { return xyz[3 * i + d]; }
    template <class B>
    bool kdtree_get_bbox(B&) const {
        return false;
    }
};

void page_building() {
    constexpr std::uint64_t n = 10'000'000;
    FilePoints file;
    file.xyz.reserve(3 * n);
    auto batches = scan_like(n);
    for (const auto& b : batches)
        for (std::size_t i = 0; i < b.size(); ++i)
            for (const std::int32_t v : {b.x[i], b.y[i], b.z[i]})
                file.xyz.push_back(static_cast<float>(v) * 0.001f);
    using Tree =
        nanoflann::KDTreeSingleIndexAdaptor<nanoflann::L2_Simple_Adaptor<float, FilePoints>, FilePoints, 3>;
    double tree = 0;
    {
        tree = seconds([&] {
            Tree t(3, file, nanoflann::KDTreeSingleIndexAdaptorParams(16));
            t.buildIndex();
        });
    }
    auto copy = batches;
    const double many = seconds([&] { cloud::build(std::move(copy), {}); });
    double one = 0;
    {
        const parallel::WorkerLimit limit(1);
        one = seconds([&] { cloud::build(std::move(batches), {}); });
    }
    fmt::print(
        "page building, {} M points: {:.2f} s on one core, {:.2f} s on {}; nanoflann kd-tree in file order "
        "{:.2f} s on one core\n"
        "  ratio {:.1f} (one core against one core), {:.1f} (all cores)\n",
        n / 1'000'000, one, many, parallel::workers(), tree, tree / one, tree / many);
}

select::Fence large_fence(const cloud::PointCloud& c) {
    render::Camera camera;
    camera.yaw_deg = 25;
    camera.pitch_deg = -55;
    camera.look_at_all(c.robust_bounds(), 1.6);
    select::Fence f{camera.frame(1280, 800, c.bounds()), {}};
    for (int i = 0; i < 60; ++i) {
        const double a = i * 0.104719755, r = 190 + 70 * std::sin(5 * a);
        f.corners.push_back({640 + r * std::cos(a), 400 + r * std::sin(a)});
    }
    return f;
}

// The plain way: project, then walk round the polygon in floating point, for every point.
std::uint64_t plain_fence(const cloud::PointCloud& c, const select::Fence& f) {
    std::uint64_t in = 0;
    for (std::size_t p = 0; p < c.page_count(); ++p) {
        const auto& pos = c.positions(p);
        for (std::size_t i = 0; i < pos.size(); ++i) {
            const Vec3 w = c.grid().world(pos.x[i], pos.y[i], pos.z[i]);
            if (f.view.depth(w) < f.view.near_depth) continue;
            const PixelPoint q = f.view.project(w);
            bool inside = false;
            for (std::size_t k = 0, j = f.corners.size() - 1; k < f.corners.size(); j = k++) {
                const PixelPoint a = f.corners[k], b = f.corners[j];
                if ((a.y > q.y) != (b.y > q.y) && q.x < (b.x - a.x) * (q.y - a.y) / (b.y - a.y) + a.x)
                    inside = !inside;
            }
            in += inside;
        }
    }
    return in;
}

void fences(const cloud::PointCloud& c) {
    const select::Fence f = large_fence(c);
    const ElementSet all = ElementSet::all(c.size());
    std::uint64_t ours = 0, theirs = 0;
    const double t = median_seconds(5, [&] { ours = select::fence(c, f, all).count(); });
    double one = 0;
    {
        const parallel::WorkerLimit limit(1);
        one = median_seconds(3, [&] { ours = select::fence(c, f, all).count(); });
    }
    const double plain = seconds([&] { theirs = plain_fence(c, f); });
    fmt::print(
        "fence of 60 corners on {:.0f} M points: {:.1f} ms ({:.1f} ms on one core), {} selected; plain "
        "crossing-number loop {:.2f} s, {} selected\n"
        "  ratio {:.0f} (all cores), {:.0f} (one core against one core)\n",
        static_cast<double>(c.size()) / 1e6, t * 1e3, one * 1e3, ours, plain, theirs, plain / t, plain / one);
}

// The same points as thirty scans that all cover the site, as in a registered building.
void fences_over_items(const cloud::PointCloud& whole, std::uint64_t n) {
    constexpr std::size_t kItems = 30;
    std::vector<std::vector<cloud::PointBatch>> of(kItems);
    std::size_t turn = 0;
    for (const cloud::PointBatch& b : scan_like(n)) {
        for (auto& batches : of) batches.emplace_back();
        for (std::size_t i = 0; i < b.x.size(); ++i) {
            cloud::PointBatch& out = of[turn++ % kItems].back();
            out.x.push_back(b.x[i]);
            out.y.push_back(b.y[i]);
            out.z.push_back(b.z[i]);
            out.intensity.push_back(b.intensity[i]);
        }
    }
    std::vector<std::shared_ptr<const cloud::PointCloud>> items;
    for (auto& batches : of) {
        cloud::PointCloud::Parts parts;
        parts.grid = whole.grid();
        items.push_back(cloud::build(std::move(batches), std::move(parts)));
    }
    const select::Fence f = large_fence(whole);
    const ElementSet all = ElementSet::all(whole.size());
    std::uint64_t one = 0, many = 0;
    const double t1 = median_seconds(5, [&] { one = select::fence(whole, f, all).count(); });
    const double t30 = median_seconds(5, [&] {
        many = 0;
        const select::PreparedFence prepared(f);
        for (const auto& c : items) many += select::fence(*c, prepared, ElementSet::all(c->size())).count();
    });
    fmt::print(
        "the same fence over {} items with {:.0f} M points together: {:.1f} ms, {} selected; one item {:.1f} "
        "ms, {}; ratio {:.2f}\n",
        kItems, static_cast<double>(n) / 1e6, t30 * 1e3, many, t1 * 1e3, one, t30 / t1);
}

void drawing(const std::shared_ptr<const cloud::PointCloud>& c) {
    const auto scene = std::make_shared<const render::Scene>(
        std::vector<render::DrawItem>{{1, c, nullptr, nullptr, nullptr, {}}});
    render::Camera camera;
    camera.yaw_deg = 25;
    camera.pitch_deg = -40;
    camera.look_at_all(c->robust_bounds(), 1.6);
    const ViewFrame v = camera.frame(1280, 800, scene->bounds());
    render::Renderer r;
    render::Picture p;
    std::uint64_t drawn = 0;
    const double moving = median_seconds(15, [&] {
        r.begin(scene, v);
        r.step(1'000'000);
        r.resolve(p);
        drawn = r.drawn();
    });
    const double rest = median_seconds(5, [&] {
        r.begin(scene, v);
        r.step(UINT64_MAX);
        r.resolve(p);
    });
    double splat = 0;
    {
        const parallel::WorkerLimit limit(1);
        splat = median_seconds(3, [&] {
            r.begin(scene, v);
            r.step(UINT64_MAX);
        });
    }
    fmt::print(
        "drawing at 1280 x 800: moving frame of {:.2f} M points {:.1f} ms all in; {:.0f} M points at rest "
        "{:.0f} ms all in; splatting {:.0f} M points/s on one core\n",
        static_cast<double>(drawn) / 1e6, moving * 1e3, static_cast<double>(c->size()) / 1e6, rest * 1e3,
        static_cast<double>(c->size()) / 1e6 / splat);
}

void undo(const std::shared_ptr<const cloud::PointCloud>& c) {
    site::History h(site::add_cloud({}, c, "Large", ""));
    h.commit(site::select(*h.now(), select::fence(*c, large_fence(*c), ElementSet::all(c->size())),
                          site::Combine::New),
             "Select");
    const double remove = seconds([&] {
        h.commit(site::remove_selection(*h.now(), {"Noise", {}, {}, nullptr}), "Remove");
    });
    const double t = median_seconds(21, [&] {
        h.undo();
        const render::Scene s = render::scene_of(*h.now());
        h.redo();
    });
    fmt::print("remove on {:.0f} M points {:.2f} ms; undo, a new scene, and redo {:.2f} ms\n",
               static_cast<double>(c->size()) / 1e6, remove * 1e3, t * 1e3);
}

void reading(const std::string& path) {
    const std::string cat = "cat '" + path + "' > /dev/null";
    const auto run_cat = [&] {
        if (std::system(cat.c_str()) != 0) fmt::print("cat failed\n");
    };
    run_cat();  // both read from the page cache
    const double plain = median_seconds(3, run_cat);
    const auto before = resident_memory();
    std::shared_ptr<const cloud::PointCloud> c;
    const double t = seconds([&] { c = io::read_cloud(path).cloud; });
    const auto after = resident_memory();
    const auto n = static_cast<double>(c->size());
    fmt::print(
        "LAS read, sorted into pages, {:.1f} M points: {:.2f} s; cat of the file {:.2f} s; ratio {:.1f}\n"
        "  resident after loading {:.1f} bytes a point (packed order in memory included), peak while loading "
        "{:.1f}\n",
        n / 1e6, t, plain, t / plain, static_cast<double>(after.now - before.now) / n,
        static_cast<double>(after.peak - before.now) / n);
}

}  // namespace

int main(int argc, char** argv) {
    give_freed_pages_back();
    const std::uint64_t n = argc > 1 ? std::stoull(argv[1]) : 50'000'000;
    if (argc > 2) reading(argv[2]);  // first, while the peak of memory is its own
    page_building();
    {
        cloud::PointCloud::Parts parts;
        parts.grid = {{0.001, 0.001, 0.001}, {412300, 5218930, 58}};
        drawing(cloud::build(scan_like(20'000'000), std::move(parts)));
    }
    cloud::PointCloud::Parts parts;
    parts.grid = {{0.001, 0.001, 0.001}, {412300, 5218930, 58}};
    const auto large = cloud::build(scan_like(n), std::move(parts));
    fences(*large);
    fences_over_items(*large, n);
    undo(large);
}
