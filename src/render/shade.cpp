#include "render/shade.h"

#include <algorithm>
#include <bit>
#include <cmath>
#include <utility>

#include "core/base/parallel.h"
#include "render/splat.h"

namespace pristine::render {
namespace {

constexpr std::size_t kRows = 16;  // a piece of parallel work
constexpr Rgb kBack = 0x4A5A78;    // of triangles seen from behind
constexpr float kNoStep_px = 4;    // smaller steps come from the discs themselves on slanting surfaces
constexpr float kFade_px = 130;    // jumps larger than this belong to different things
constexpr float kBehind_px =
    8;  // so far behind a neighbour, in pixel sizes, a pixel is a gap and not a surface

float depth_of(std::uint64_t key) {
    return std::bit_cast<float>(static_cast<std::uint32_t>(key >> 32));
}

// World size of a pixel at a depth: a * depth + b.
struct PixelSize {
    float a, b;
    explicit PixelSize(const ViewFrame& v)
        : a(v.perspective ? static_cast<float>(1 / v.scale) : 0),
          b(v.perspective ? 0 : static_cast<float>(1 / v.scale)) {}
    float operator()(float depth) const { return a * depth + b; }
};

// 1: untouched, 0: black.
float light(const std::uint64_t* keys, int x, int y, int width, int height, float depth, float pixel) {
    float sum = 0;
    constexpr int offsets[8][2] = {{-1, 0}, {1, 0}, {0, -1}, {0, 1}, {-2, -2}, {2, -2}, {-2, 2}, {2, 2}};
    for (const auto& o : offsets) {
        const int u = x + o[0], v = y + o[1];
        if (u < 0 || v < 0 || u >= width || v >= height) continue;
        const std::uint64_t key = keys[v * width + u];
        if (key == kNothing) continue;
        const float jump = (depth - depth_of(key)) / pixel;  // in pixels, towards the eye
        if (jump <= kNoStep_px) continue;
        const float step = jump - kNoStep_px, far = jump / kFade_px;
        sum += step / (step + 18.0f) / (1 + far * far);
    }
    return 1 / (1 + 0.22f * sum);
}

// Whether at least two elements among the eight neighbours lie at the depth of the nearest: a gap in a
// surface. The surroundings of a lone disc have one only, so that strays are not blown up.
bool is_gap(const std::uint64_t* up, const std::uint64_t* mid, const std::uint64_t* low, int x, int width,
            float limit) {
    std::uint64_t one = kNothing;
    for (const std::uint64_t* row : {up, mid, low})
        for (int u = std::max(0, x - 1); u <= std::min(width - 1, x + 1); ++u) {
            if (row[u] == kNothing || depth_of(row[u]) > limit) continue;
            if (one != kNothing && one != row[u] &&
                static_cast<std::uint32_t>(one) != static_cast<std::uint32_t>(row[u]))
                return true;
            one = row[u];
        }
    return false;
}

// Where keys are looked up by column and row; nothing outside.
struct Keys {
    const std::uint64_t* keys;
    int width, height;
    std::uint64_t at(int x, int y) const {
        if (x < 0 || y < 0 || x >= width || y >= height) return kNothing;
        return keys[static_cast<std::ptrdiff_t>(y) * width + x];
    }
    // Whether the pixel has nothing of its depth around it.
    bool lone(int x, int y, float slack) const {
        const float depth = depth_of(at(x, y));
        for (int v = y - 1; v <= y + 1; ++v)
            for (int u = x - 1; u <= x + 1; ++u) {
                const std::uint64_t k = u == x && v == y ? kNothing : at(u, v);
                if (k != kNothing && depth_of(k) <= depth + slack) return false;
            }
        return true;
    }
    // Two by two pixels for a point that has one: what lies left of, above or left above this pixel.
    std::uint64_t from_lone(int x, int y, std::uint64_t best, float slack) const {
        for (const auto& [u, v] : {std::pair(x - 1, y), std::pair(x, y - 1), std::pair(x - 1, y - 1)})
            if (at(u, v) == best) return lone(u, v, slack) ? best : kNothing;
        return kNothing;
    }
};

std::uint32_t opaque(Rgb c) {
    return 0xFF000000u | c;
}

struct Shader {
    const Scene& scene;
    const ViewFrame& view;
    const RenderOptions& options;
    const std::uint64_t* keys;
    const std::uint64_t* ghosts;
    PixelSize pixel_size;
    bool edges;  // false: points stand in for triangles

    void row(int y, std::uint32_t* out) const {
        const int width = view.width;
        const std::uint64_t* k = keys + static_cast<std::ptrdiff_t>(y) * width;
        const Rgb background = background_at(y);
        for (int x = 0; x < width; ++x) {
            constexpr int ahead = 24;
            if (x + ahead < width && k[x + ahead] != kNothing)
                scene.prefetch(static_cast<std::uint32_t>(k[x + ahead]));
            Rgb c = background;
            if (k[x] != kNothing) c = point(k[x], x, y);
            if (ghosts) c = with_ghost(c, k[x], ghosts[static_cast<std::ptrdiff_t>(y) * width + x]);
            out[x] = opaque(c);
        }
    }

    Rgb point(std::uint64_t key, int x, int y) const {
        const auto id = static_cast<std::uint32_t>(key);
        const bool triangle = scene.triangle(id);
        const Scene::Facing facing = triangle ? scene.facing(id, view) : Scene::Facing();
        Rgb c = scene.painted(id) ? painted(id, key, x, y)
                : triangle        ? scaled(scene.plain_colour(id), facing.light)
                                  : scene.plain_colour(id);
        if (const surface::Orthophoto* picture = scene.drape(id)) c = draped(*picture, c, key, x, y);
        // Backs in a tone of their own, so that a face that looks the wrong way is seen.
        if (facing.away) c = mix(c, kBack, 0.75);
        if (scene.selected(id)) c = mix(c, options.palette.pick, 0.72);
        if (triangle && edges && scene.faces(id) == site::Faces::EdgesOnly && !on_edge(x, y, id))
            return scene.selected(id) ? scaled(c, 0.5) : background_at(y);
        if (triangle && edges && scene.faces(id) == site::Faces::Edged && !scene.drape(id) &&
            on_edge(x, y, id))
            c = scaled(c, 0.62);
        // Dotted, so that it is told from a selection without its colour.
        if (((x + (y / 2 % 2) * 2) & 3) < 2 && y % 2 == 0 && scene.guarded(id))
            c = mix(c, options.palette.guard, 0.85);
        if (!options.depth_shading) return c;
        const float depth = depth_of(key);
        return scaled(
            c, static_cast<double>(light(keys, x, y, view.width, view.height, depth, pixel_size(depth))));
    }

    Rgb background_at(int y) const {
        const double down = view.height > 1 ? static_cast<double>(y) / (view.height - 1) : 1;
        return mix(options.palette.stage_top, options.palette.stage_bottom, options.gradient ? down : 1);
    }
    Rgb painted(std::uint32_t id, std::uint64_t key, int x, int y) const {
        const float depth = depth_of(key);
        return scene.paint(id, view.lift({x + 0.5, y + 0.5}, static_cast<double>(depth)),
                           static_cast<double>(pixel_size(depth)));
    }
    // The picture has light and shade of its own.
    Rgb draped(const surface::Orthophoto& picture, Rgb bare, std::uint64_t key, int x, int y) const {
        const float depth = depth_of(key);
        const Vec3 w = view.lift({x + 0.5, y + 0.5}, static_cast<double>(depth));
        const std::uint32_t c = picture.colour(w.x, w.y, static_cast<double>(pixel_size(depth)));
        return c >> 24 == 0 ? bare : c & 0xFFFFFFu;
    }

    // Where one triangle meets another; not where triangles are no larger than a pixel.
    bool on_edge(int x, int y, std::uint32_t id) const {
        const auto other = [&](int u, int v) {
            if (u < 0 || v < 0 || u >= view.width || v >= view.height) return false;
            const std::uint64_t k = keys[static_cast<std::ptrdiff_t>(v) * view.width + u];
            return k != kNothing && static_cast<std::uint32_t>(k) != id;
        };
        const bool right = other(x + 1, y), below = other(x, y + 1);
        return (right || below) && !(other(x - 1, y) && other(x, y - 1) && right && below);
    }

    Rgb with_ghost(Rgb c, std::uint64_t key, std::uint64_t ghost) const {
        if (ghost == kNothing) return c;
        const float depth = depth_of(ghost);
        // A removed point lies among what stayed around it: a little behind is still in front for the eye.
        if (key != kNothing && depth > depth_of(key) + 2 * pixel_size(depth)) return c;
        if (scene.picked_ghost(static_cast<std::uint32_t>(ghost))) return mix(c, options.palette.pick, 0.72);
        return mix(mix(c, scene.colour(static_cast<std::uint32_t>(ghost)), 0.25), options.palette.ghost,
                   0.35);
    }
};

}  // namespace

void grow_keys(const ViewFrame& view, const std::uint64_t* from, std::uint64_t* to) {
    const int width = view.width, height = view.height;
    const PixelSize pixel_size(view);
    const Keys all{from, width, height};
    parallel::for_ranges(static_cast<std::size_t>(height), kRows, [&](std::size_t y0, std::size_t y1) {
        std::vector<std::uint64_t> column(static_cast<std::size_t>(width) + 2, kNothing);
        for (auto y = static_cast<int>(y0); y < static_cast<int>(y1); ++y) {
            const std::uint64_t* mid = from + static_cast<std::ptrdiff_t>(y) * width;
            const std::uint64_t* up = y > 0 ? mid - width : mid;
            const std::uint64_t* low = y + 1 < height ? mid + width : mid;
            for (int x = 0; x < width; ++x)
                column[static_cast<std::size_t>(x) + 1] = std::min(std::min(up[x], low[x]), mid[x]);
            std::uint64_t* out = to + static_cast<std::ptrdiff_t>(y) * width;
            for (int x = 0; x < width; ++x) {
                const auto i = static_cast<std::size_t>(x);
                const std::uint64_t best = std::min(std::min(column[i], column[i + 1]), column[i + 2]);
                std::uint64_t own = mid[x];
                if (best < own) {
                    const float depth = depth_of(own), nearer = depth_of(best);
                    const float slack = kBehind_px * pixel_size(nearer);
                    if (own == kNothing || depth - nearer > slack) {
                        if (is_gap(up, mid, low, x, width, nearer + slack))
                            own = best;
                        else if (all.from_lone(x, y, best, slack) == best)
                            own = best;
                    }
                }
                out[x] = own;
            }
        }
    });
}

void shade(const RenderOptions& options, const std::uint64_t* ghosts, Picture& picture) {
    const Shader shader{*picture.scene,          picture.view,     options, picture.keys.data(), ghosts,
                        PixelSize(picture.view), !picture.stand_in};
    parallel::for_ranges(
        static_cast<std::size_t>(picture.height), kRows, [&](std::size_t y0, std::size_t y1) {
            for (std::size_t y = y0; y < y1; ++y)
                shader.row(static_cast<int>(y),
                           picture.pixels.data() + y * static_cast<std::size_t>(picture.width));
        });
}

}  // namespace pristine::render
