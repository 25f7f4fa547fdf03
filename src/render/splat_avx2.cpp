// Compiled for AVX2; nothing here may run before has_avx2() said yes. No fused multiply-add, so that the
// scalar twin gives the same bits.

#include <immintrin.h>

#include <algorithm>

#include "render/splat.h"

namespace pristine::render {
namespace {

struct Row {
    __m256 a, b, c, d;
    explicit Row(const std::array<float, 4>& r)
        : a(_mm256_set1_ps(r[0])),
          b(_mm256_set1_ps(r[1])),
          c(_mm256_set1_ps(r[2])),
          d(_mm256_set1_ps(r[3])) {}
    __m256 operator()(__m256 x, __m256 y, __m256 z) const {
        return _mm256_add_ps(
            _mm256_add_ps(_mm256_add_ps(_mm256_mul_ps(a, x), _mm256_mul_ps(b, y)), _mm256_mul_ps(c, z)), d);
    }
};

__m256 local(const std::int32_t* at, __m256i origin) {
    return _mm256_cvtepi32_ps(
        _mm256_sub_epi32(_mm256_loadu_si256(reinterpret_cast<const __m256i*>(at)), origin));
}

template <bool Perspective, bool Masked>
void run(const PageMap& m, const SplatRun& r, const Target& t, std::uint32_t end) {
    const Row rx(m.x), ry(m.y), rd(m.depth);
    const __m256i ox = _mm256_set1_epi32(r.origin[0]), oy = _mm256_set1_epi32(r.origin[1]),
                  oz = _mm256_set1_epi32(r.origin[2]);
    const __m256 zero = _mm256_setzero_ps(), one = _mm256_set1_ps(1.0f),
                 near_depth = _mm256_set1_ps(t.near_depth);
    const __m256 width = _mm256_set1_ps(static_cast<float>(t.width)),
                 height = _mm256_set1_ps(static_cast<float>(t.height));
    const __m256i stride = _mm256_set1_epi32(t.width), nowhere = _mm256_set1_epi32(t.width * t.height);
    const __m256i lane_bits = _mm256_setr_epi32(1, 2, 4, 8, 16, 32, 64, 128);
    const auto* bytes = reinterpret_cast<const unsigned char*>(r.bits);
    alignas(32) std::uint32_t at[8], depth_bits[8];
    for (std::uint32_t i = r.begin; i < end; i += 8) {
        const __m256 x = local(r.x + i, ox), y = local(r.y + i, oy), z = local(r.z + i, oz);
        __m256 px = rx(x, y, z), py = ry(x, y, z);
        const __m256 depth = rd(x, y, z);
        if constexpr (Perspective) {
            const __m256 s = _mm256_div_ps(one, depth);
            px = _mm256_mul_ps(px, s);
            py = _mm256_mul_ps(py, s);
        }
        __m256 ok = _mm256_and_ps(
            _mm256_and_ps(_mm256_cmp_ps(px, zero, _CMP_GE_OQ), _mm256_cmp_ps(px, width, _CMP_LT_OQ)),
            _mm256_and_ps(_mm256_cmp_ps(py, zero, _CMP_GE_OQ), _mm256_cmp_ps(py, height, _CMP_LT_OQ)));
        ok = _mm256_and_ps(ok, _mm256_cmp_ps(depth, near_depth, _CMP_GT_OQ));
        if constexpr (Masked) {
            const unsigned wanted = r.draw_members ? bytes[i / 8] : static_cast<unsigned char>(~bytes[i / 8]);
            const __m256i chosen = _mm256_and_si256(_mm256_set1_epi32(static_cast<int>(wanted)), lane_bits);
            ok = _mm256_and_ps(ok, _mm256_castsi256_ps(_mm256_cmpeq_epi32(chosen, lane_bits)));
        }
        if (_mm256_movemask_ps(ok) == 0) continue;
        const __m256i index =
            _mm256_add_epi32(_mm256_mullo_epi32(_mm256_cvttps_epi32(py), stride), _mm256_cvttps_epi32(px));
        // What is out of the view goes to a cell behind the buffer: no branch per point.
        _mm256_store_si256(reinterpret_cast<__m256i*>(at),
                           _mm256_blendv_epi8(nowhere, index, _mm256_castps_si256(ok)));
        _mm256_store_ps(reinterpret_cast<float*>(depth_bits), depth);
        for (std::uint32_t k = 0; k < 8; ++k) {
            const std::uint64_t key = std::uint64_t{depth_bits[k]} << 32 | (r.first_id + i + k);
            std::uint64_t* cell = t.keys + at[k];
            const std::uint64_t before = *cell;
            *cell = key < before ? key : before;
        }
    }
}

}  // namespace

void splat_avx2(const PageMap& m, const SplatRun& r, const Target& t) {
    SplatRun head = r, tail = r;
    head.begin = r.begin;
    head.end = std::min(r.end, (r.begin + 7) / 8 * 8);  // bits are taken a byte at a time
    if (head.begin < head.end) splat_scalar(m, head, t);
    SplatRun body = r;
    body.begin = head.end;
    const std::uint32_t end = body.begin + (r.end - body.begin) / 8 * 8;
    if (m.perspective)
        r.bits ? run<true, true>(m, body, t, end) : run<true, false>(m, body, t, end);
    else
        r.bits ? run<false, true>(m, body, t, end) : run<false, false>(m, body, t, end);
    tail.begin = end;
    if (tail.begin < tail.end) splat_scalar(m, tail, t);
}

}  // namespace pristine::render
