#include "render/splat.h"

#include <algorithm>
#include <bit>
#include <cmath>

#include "core/base/wrapped.h"

namespace pristine::render {
namespace {

struct Placed {
    float x, y, depth;
};

// The order of operations is that of the AVX2 version, so that both give the same bits.
Placed place(const PageMap& m, const SplatRun& r, std::uint32_t i) {
    const auto fx = static_cast<float>(wrapped_difference(r.x[i], r.origin[0]));
    const auto fy = static_cast<float>(wrapped_difference(r.y[i], r.origin[1]));
    const auto fz = static_cast<float>(wrapped_difference(r.z[i], r.origin[2]));
    Placed p{};
    p.x = ((m.x[0] * fx + m.x[1] * fy) + m.x[2] * fz) + m.x[3];
    p.y = ((m.y[0] * fx + m.y[1] * fy) + m.y[2] * fz) + m.y[3];
    p.depth = ((m.depth[0] * fx + m.depth[1] * fy) + m.depth[2] * fz) + m.depth[3];
    if (m.perspective) {
        const float s = 1.0f / p.depth;
        p.x = p.x * s;
        p.y = p.y * s;
    }
    return p;
}

bool drawn(const SplatRun& r, std::uint32_t i) {
    return !r.bits || (((r.bits[i / 64] >> (i % 64)) & 1u) != 0) == r.draw_members;
}

std::uint64_t key_of(float depth, std::uint32_t id) {
    return std::uint64_t{std::bit_cast<std::uint32_t>(depth)} << 32 | id;
}

// A point far from all others is no larger than a point.
float radius_of(const SplatRun& r, std::uint32_t i, float per_depth) {
    const float radius = std::clamp(r.radius_per_depth * per_depth, r.least_radius, r.most_radius);
    if (!r.apart || r.apart[i] <= r.apart_from) return radius;
    const float lone = std::max(kLone_px, r.least_radius);
    if (radius <= lone) return radius;
    const float near = std::clamp(2 - r.apart[i] * r.apart_per_depth * per_depth / kApart_px, 0.0f, 1.0f);
    return lone + near * (radius - lone);
}

}  // namespace

void splat_scalar(const PageMap& m, const SplatRun& r, const Target& t) {
    const auto width = static_cast<float>(t.width), height = static_cast<float>(t.height);
    for (std::uint32_t i = r.begin; i < r.end; ++i) {
        if (!drawn(r, i)) continue;
        const Placed p = place(m, r, i);
        if (!(p.depth > t.near_depth && p.x >= 0 && p.x < width && p.y >= 0 && p.y < height)) continue;
        std::uint64_t& at = t.keys[static_cast<std::size_t>(p.y) * static_cast<std::size_t>(t.width) +
                                   static_cast<std::size_t>(p.x)];
        at = std::min(at, key_of(p.depth, r.first_id + i));
    }
}

void splat_discs(const PageMap& m, const SplatRun& r, const Target& t) {
    for (std::uint32_t i = r.begin; i < r.end; ++i) {
        if (!drawn(r, i)) continue;
        const Placed p = place(m, r, i);
        if (!(p.depth > t.near_depth)) continue;
        const float radius = radius_of(r, i, m.perspective ? 1 / p.depth : 1.0f);
        if (!(p.x > -radius && p.x < static_cast<float>(t.width) + radius && p.y > -radius &&
              p.y < static_cast<float>(t.height) + radius))
            continue;
        const std::uint64_t key = key_of(p.depth, r.first_id + i);
        const int y0 = std::max(0, static_cast<int>(std::floor(p.y - radius + 0.5f)));
        const int y1 = std::min(t.height - 1, static_cast<int>(std::floor(p.y + radius - 0.5f)));
        for (int y = y0; y <= y1; ++y) {
            const float dy = static_cast<float>(y) + 0.5f - p.y;
            const float half = std::sqrt(std::max(0.0f, radius * radius - dy * dy));
            const int x0 = std::max(0, static_cast<int>(std::floor(p.x - half + 0.5f)));
            const int x1 = std::min(t.width - 1, static_cast<int>(std::floor(p.x + half - 0.5f)));
            std::uint64_t* row = t.keys + static_cast<std::size_t>(y) * static_cast<std::size_t>(t.width);
            for (int x = x0; x <= x1; ++x) row[x] = std::min(row[x], key);
        }
    }
}

bool has_avx2() {
    static const bool has = __builtin_cpu_supports("avx2") != 0;
    return has;
}

void splat(const PageMap& m, const SplatRun& r, const Target& t) {
    if (has_avx2())
        splat_avx2(m, r, t);
    else
        splat_scalar(m, r, t);
}

}  // namespace pristine::render
