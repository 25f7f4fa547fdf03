#include "render/report_pictures.h"

#include "render/renderer.h"

namespace pristine::render {
namespace {

constexpr std::uint64_t kMostPoints = 8'000'000;

}  // namespace

report::Image picture_of(const report::Shot& shot) {
    std::vector<DrawItem> items;
    for (const report::Seen& s : shot.things) {
        DrawItem d;
        d.id = items.size() + 1;
        d.cloud = s.cloud;
        d.hidden = s.hidden;
        d.selected = s.marked;
        d.style = s.style;
        d.drape = s.drape;
        d.decided = s.decided;
        items.push_back(std::move(d));
    }
    const auto scene = std::make_shared<const Scene>(std::move(items));
    RenderOptions options;
    options.depth_shading = shot.shading;
    options.gradient = false;
    options.palette.stage_bottom = options.palette.stage_top = report::kPaper;
    Renderer renderer;
    Picture picture;
    renderer.begin(scene, report::frame_of(shot, scene->bounds()), options);
    while (!renderer.step(kMostPoints) && renderer.drawn() < kMostPoints) {
    }
    renderer.resolve(picture);
    report::Image out{picture.width, picture.height, std::move(picture.pixels)};
    for (std::size_t k = 0; k < out.argb.size(); ++k)
        if (picture.keys[k] == kNothing) out.argb[k] = 0;
    return out;
}

}  // namespace pristine::render
