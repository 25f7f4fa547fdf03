#include "app/model/thumbnails.h"

#include <algorithm>
#include <array>
#include <cmath>
#include <numbers>

#include "render/renderer.h"

namespace pristine::app {

namespace {

// The box of most of the selection: a fence drawn through takes stretches of what lies behind, which would
// make the thing itself tiny. Median and MAD along each axis.
Box3 middle_of(const cloud::PointCloud& c, const ElementSet& selection, const Box3& whole) {
    std::array<std::vector<double>, 3> sample;
    const auto add = [&](std::uint64_t i) {
        const Vec3 w = c.position(i);
        for (int a = 0; a < 3; ++a) sample[static_cast<std::size_t>(a)].push_back(w[a]);
    };
    constexpr std::uint64_t kLarge = 500'000;
    if (selection.count() > kLarge) {
        // The heads of blocks are an even sample that needs no loading.
        const std::uint64_t step = 1 + selection.count() / (20'000 * (kBlockSize / kBlockHead));
        std::uint64_t k = 0;
        for (std::size_t p = 0; p < selection.page_count(); ++p) {
            if (selection.kind(p) == ElementSet::Kind::None) continue;
            const std::uint64_t first = std::uint64_t{p} * kPageSize, n = page_length(selection.size(), p);
            for (std::uint64_t b = 0; b < n; b += kBlockSize)
                for (std::uint64_t i = b; i < std::min(b + kBlockHead, n); ++i)
                    if (selection.contains(first + i) && k++ % step == 0) add(first + i);
        }
    }
    if (sample[0].size() < 1000) {
        for (auto& s : sample) s.clear();
        const std::uint64_t stride = std::max<std::uint64_t>(1, selection.count() / 20'000);
        std::uint64_t k = 0;
        selection.for_each([&](std::uint64_t i) {
            if (k++ % stride == 0) add(i);
        });
    }
    Box3 box;
    for (int a = 0; a < 3; ++a) {
        auto& v = sample[static_cast<std::size_t>(a)];
        const auto middle = v.begin() + static_cast<std::ptrdiff_t>(v.size() / 2);
        std::nth_element(v.begin(), middle, v.end());
        const double median = *middle;
        for (double& x : v) x = std::fabs(x - median);
        std::nth_element(v.begin(), middle, v.end());
        const double reach = std::max(3.5 * *middle, 0.02 * whole.diagonal());
        box.lo[a] = std::max(median - reach, whole.lo[a]);
        box.hi[a] = std::min(median + reach, whole.hi[a]);
    }
    return box;
}

// Triangles that mostly face one way, as those of a fill do, are looked at from their front: from elsewhere
// they may be a mere line.
void face(render::Camera& camera, const mesh::TriMesh& m, const ElementSet& set) {
    Vec3 sum;
    double area = 0;
    set.for_each([&](std::uint64_t t) {
        const auto& c = m.triangles[t];
        const Vec3 n = cross(m.vertices[c[1]] - m.vertices[c[0]], m.vertices[c[2]] - m.vertices[c[0]]);
        sum = sum + n;
        area += norm(n);
    });
    if (!(norm(sum) > 0.4 * area)) return;
    const Vec3 look = normalized(sum) * -1.0;
    camera.pitch_deg = std::asin(std::clamp(look.z, -1.0, 1.0)) * 180 / std::numbers::pi;
    if (std::hypot(look.x, look.y) > 1e-6)
        camera.yaw_deg = std::atan2(look.x, look.y) * 180 / std::numbers::pi;
}

}  // namespace

std::shared_ptr<const site::Thumbnail> selection_thumbnail(const site::Site& s, const Box3& of_selection,
                                                           render::Camera camera) {
    // Of several items that which holds most of it.
    const auto most =
        std::max_element(s.selection.begin(), s.selection.end(),
                         [](const auto& a, const auto& b) { return a.second->count() < b.second->count(); });
    const site::ItemPtr item = most == s.selection.end() ? nullptr : s.item(most->first);
    if (!item) return nullptr;
    return thumbnail_of(item->cloud, *most->second, item->style, of_selection, camera);
}

std::shared_ptr<const site::Thumbnail> thumbnail_of(const std::shared_ptr<const cloud::PointCloud>& c,
                                                    const ElementSet& set, const site::Style& style,
                                                    const Box3& whole, render::Camera camera) {
    constexpr int width = 184, height = 144;
    constexpr std::uint64_t points = 1'500'000;
    if (whole.empty() || set.empty()) return nullptr;
    camera.perspective = false;
    if (c->triangles()) face(camera, *c->triangles(), set);
    // The thing alone: whatever stands between it and the eye would hide it.
    camera.look_at_all(middle_of(*c, set, whole), static_cast<double>(width) / height);
    const auto rest = std::make_shared<const ElementSet>(~set);
    const auto scene = std::make_shared<const render::Scene>(
        std::vector<render::DrawItem>{{1, c, rest, nullptr, nullptr, style}});
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

std::shared_ptr<const site::Thumbnail> thumbnail_of(const std::shared_ptr<const cloud::PointCloud>& c,
                                                    const ElementSet& set, const site::Style& style,
                                                    render::Camera camera) {
    Box3 box;
    for (std::size_t p = 0; p < set.page_count(); ++p) {
        const cloud::PositionPage page = c->positions(p);
        set.for_each_in_page(
            p, [&](std::size_t i) { box.add(c->grid().world(page.x[i], page.y[i], page.z[i])); });
    }
    return thumbnail_of(c, set, style, box, camera);
}

}  // namespace pristine::app
