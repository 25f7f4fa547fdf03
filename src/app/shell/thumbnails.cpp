#include "app/shell/thumbnails.h"

#include <algorithm>

#include "render/renderer.h"

namespace pristine::app {

std::shared_ptr<const site::Thumbnail> selection_thumbnail(const site::Site& s, const Box3& of_selection, render::Camera camera) {
    constexpr int width = 184, height = 144;
    constexpr std::uint64_t points = 1'500'000;
    if (of_selection.empty()) return nullptr;
    Box3 box = of_selection;
    const double margin = std::max(box.diagonal() * 0.15, 1e-3);
    box.lo = box.lo - Vec3{margin, margin, margin};
    box.hi = box.hi + Vec3{margin, margin, margin};
    camera.perspective = false;
    camera.look_at_all(box, static_cast<double>(width) / height);
    // The thing alone: whatever stands between it and the eye would hide it.
    const site::ItemPtr item = s.active_item();
    if (!item || !s.selection) return nullptr;
    const auto rest = std::make_shared<const ElementSet>(~*s.selection);
    const auto scene = std::make_shared<const render::Scene>(std::vector<render::DrawItem>{{item->id, item->cloud, rest, nullptr, nullptr, item->style}});
    render::Renderer r;
    render::Picture picture;
    r.begin(scene, camera.frame(width, height, scene->bounds()));
    r.step(points);
    r.resolve(picture);
    auto t = std::make_shared<site::Thumbnail>();
    t->width = width;
    t->height = height;
    for (const std::uint32_t p : picture.pixels)
        for (const int shift : {16, 8, 0}) t->rgb.push_back(static_cast<std::uint8_t>(p >> shift));
    return t;
}

}  // namespace pristine::app
