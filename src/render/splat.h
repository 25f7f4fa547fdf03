// Points into a key buffer: the innermost loop of the program.
//
// A pixel holds one 64-bit key: the bits of the depth (a positive float, so they sort like the number) above,
// the element id below. The smaller key wins, whatever the order of drawing, so the picture does not depend
// on threads.

#pragma once

#include <array>
#include <cstdint>

namespace pristine::render {

inline constexpr std::uint64_t kNothing = ~std::uint64_t{0};

/// Row-major affine map from page-local integers to (x * depth, y * depth, depth) in pixels; in parallel
/// views x, y come undivided.
struct PageMap {
    std::array<float, 4> x, y, depth;
    bool perspective = false;
};

struct SplatRun {
    const std::int32_t *x = nullptr, *y = nullptr, *z = nullptr;  ///< of the run's element 0
    std::array<std::int32_t, 3> origin{};  ///< taken off in integers before anything becomes a float
    std::uint32_t first_id = 0;            ///< id of element 0; a multiple of 64
    std::uint32_t begin = 0, end = 0;      ///< elements to draw
    const std::uint64_t* bits = nullptr;   ///< membership bits from element 0 on, or null
    bool draw_members = false;             ///< with bits: draw members only; false: draw all but members
    float radius_per_depth = 0;  ///< > 0: discs of this many pixels at depth 1 (perspective) or everywhere
    float least_radius = 0, most_radius = 0;
    const float* apart = nullptr;  ///< of element 0 on: the distance to the next point (apart.h), or null
    float apart_from = 0;          ///< what lies no farther apart than this belongs to a surface
    float apart_per_depth = 0;     ///< of that distance, pixels at depth 1 (perspective) or everywhere
};

/// Discs this large close the gaps between points that lie this far from the next one, in pixels. What lies
/// farther apart cannot be closed any more and becomes a point: of this radius, from twice that distance on.
inline constexpr float kLargestDisc_px = 4.5f, kApart_px = 5.5f, kLone_px = 1.0f;

struct Target {
    std::uint64_t* keys = nullptr;  ///< width * height, and 8 more that are written to but mean nothing
    int width = 0, height = 0;
    float near_depth = 0;
};

/// One-pixel splats. Same result as splat_scalar, by AVX2 where the machine has it.
void splat(const PageMap&, const SplatRun&, const Target&);
/// The plain twin.
void splat_scalar(const PageMap&, const SplatRun&, const Target&);
/// The AVX2 version; only where has_avx2().
void splat_avx2(const PageMap&, const SplatRun&, const Target&);
bool has_avx2();

/// Discs whose size follows the depth, for places where points are sparse on the screen.
void splat_discs(const PageMap&, const SplatRun&, const Target&);

}  // namespace pristine::render
