// A cloud larger than memory, from import to export, with what is resident at each step.
//   bench_large LAS [budget, default 1G]

#include <fmt/format.h>

#include <filesystem>

#include "bench_support.h"
#include "core/base/memory.h"
#include "core/io/cloud_io.h"
#include "core/io/keep.h"
#include "core/select/fence.h"
#include "core/select/summary.h"
#include "core/site/history.h"
#include "core/store/journal.h"
#include "core/store/project.h"
#include "core/terrain/floors.h"
#include "render/camera.h"
#include "render/renderer.h"

using namespace pristine;
using namespace pristine::bench;

namespace {

void step(const char* what, const std::function<void()>& work) {
    const double t = seconds(work);
    const ResidentMemory m = resident_memory();
    fmt::print("{:<46} {:8.3f} s   resident {:>10}, most so far {:>10}\n", what, t, bytes_text(m.now),
               bytes_text(m.peak));
    std::fflush(stdout);
}

std::shared_ptr<const render::Scene> scene_of(const site::Item& item) {
    render::DrawItem d;
    d.cloud = item.cloud;
    d.hidden = item.absent;
    d.style = item.style;
    return std::make_shared<render::Scene>(std::vector<render::DrawItem>{d});
}

select::Fence fence_in(const ViewFrame& view) {
    select::Fence f{view, {}};
    for (int i = 0; i < 60; ++i) {
        const double a = i * 0.104719755, r = 190 + 70 * std::sin(5 * a);
        f.corners.push_back({640 + r * std::cos(a), 400 + r * std::sin(a)});
    }
    return f;
}

}  // namespace

int main(int argc, char** argv) {
    if (argc < 2) return 2;
    give_freed_pages_back();
    set_memory_budget(parse_bytes(argc > 2 ? argv[2] : "1G"));
    const std::filesystem::path las = argv[1], folder = las.parent_path();
    fmt::print("budget {}\n", bytes_text(memory_budget()));
    io::ReadResult read;
    step("import", [&] { read = io::read_cloud(las); });
    const std::uint64_t n = read.cloud->size();
    fmt::print("  {} points, {} in the file\n", n, bytes_text(std::filesystem::file_size(las)));
    site::SitePtr s = site::add_cloud(site::Site{}, read.cloud, "large", las.string());

    render::Camera camera;
    camera.yaw_deg = 25;
    camera.pitch_deg = -55;
    camera.look_at_all(read.cloud->robust_bounds(), 1.6);
    const ViewFrame whole = camera.frame(1280, 800, read.cloud->bounds());
    render::Renderer renderer;
    render::Picture picture;
    auto scene = scene_of(*s->active_item());
    const auto moving = [&] {
        renderer.begin(scene, whole, {});
        renderer.step(1'000'000);
        renderer.resolve(picture);
    };
    step("first moving frame, 1 M points", moving);
    for (const std::uint64_t points : {1'000'000u, 250'000u, 50'000u})
        step("moving frame, median of 9", [&] {
            const double t = median_seconds(9, [&] {
                renderer.begin(scene, whole, {});
                renderer.step(points);
                renderer.resolve(picture);
            });
            fmt::print("  {:.1f} ms with a budget of {} points\n", 1e3 * t, points);
        });
    if (argc > 3) return 0;
    step("all points at rest, first time", [&] {
        renderer.step(UINT64_MAX);
        renderer.resolve(picture);
    });
    fmt::print("  {} points drawn\n", renderer.drawn());
    step("all points at rest, again", [&] { picture = render::render_picture(scene, whole, {}); });

    const auto fence = fence_in(whole);
    ElementSet set;
    step("fence of 60 corners", [&] { set = select::fence(*read.cloud, fence, ElementSet::all(n)); });
    fmt::print("  {} points selected\n", set.count());
    std::shared_ptr<const terrain::GroundModel> ground;
    step("ground under it, sampled", [&] {
        terrain::GroundOptions options;
        options.most_points = 4'000'000;
        ground = std::make_shared<terrain::GroundModel>(*read.cloud, ElementSet::all(n), options);
    });
    step("numbers of the selection", [&] {
        const auto sum = select::summarise(*read.cloud, set, ElementSet::all(n), ground.get());
        fmt::print("  lowest {:.2f} above the ground\n", sum.lowest_above_ground.value_or(NAN));
    });
    site::SitePtr selected, removed;
    step("select and remove", [&] {
        selected = site::select(*s, set, site::Combine::New);
        removed = site::remove_selection(*selected, {});
    });
    scene = scene_of(*removed->active_item());
    step("all points at rest without them", [&] { picture = render::render_picture(scene, whole, {}); });
    scene = scene_of(*s->active_item());
    step("undo: moving frame with them again", moving);

    const auto project = folder / "bench-large.pristine";
    std::filesystem::remove(project);
    step("into the project file", [&] {
        store::Journal journal(store::Project::create(project));
        journal.commit({1, "import", removed});
        journal.flush();
    });
    const auto bytes = std::filesystem::file_size(project);
    fmt::print("  {} = {:.2f} bytes a point\n", bytes_text(bytes),
               static_cast<double>(bytes) / static_cast<double>(n));
    const auto out = folder / "bench-large-out.las";
    step("export what is left", [&] {
        const auto keep = io::keep_all_but(*read.cloud, *removed->active_item()->removed);
        io::WriteOptions options;
        options.replace = true;
        io::write_cloud({{read.cloud, keep}}, out, options);
    });
    fmt::print("  {} written\n", bytes_text(std::filesystem::file_size(out)));
    std::filesystem::remove(out);
    read = {};
    s = selected = removed = nullptr;
    scene = nullptr;
    picture = {};
    renderer = {};
    step("open the project again", [&] {
        auto p = store::Project::open(project);
        s = p->load().now();
    });
    fmt::print("  {} points\n", s->active_item()->cloud->size());
    std::filesystem::remove(project);
}
