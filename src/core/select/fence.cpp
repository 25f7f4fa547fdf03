#include "core/select/fence.h"

#include <immintrin.h>

#include <algorithm>
#include <array>
#include <cmath>

#include "core/base/parallel.h"
#include "core/base/vectorised.h"
#include "core/base/wrapped.h"
#include "core/select/triangle_fence.h"

namespace pristine::select {
namespace {

using cloud::IntBox;
using cloud::PointCloud;
using cloud::PositionPage;

// pixel = (a . X + a0) / (w . X + w0), X integers relative to the block's corner
struct PixelMap {
    float px[4], py[4], pw[4];
    bool perspective;
};

constexpr std::size_t kRun = 1024;
constexpr double kCellsAtHand =
    24'000;  // of a mask: so many lie in the first cache beside what else is there

// Compiled twice, chosen at run time; without contraction both give the same numbers.
PRISTINE_VECTORISED void map_run(const PixelMap& m, const std::int32_t* x, const std::int32_t* y,
                                 const std::int32_t* z, const std::array<std::int32_t, 3>& origin,
                                 std::size_t n, float* out_x, float* out_y) {
    for (std::size_t i = 0; i < n; ++i) {
        const auto fx = static_cast<float>(wrapped_difference(x[i], origin[0]));
        const auto fy = static_cast<float>(wrapped_difference(y[i], origin[1]));
        const auto fz = static_cast<float>(wrapped_difference(z[i], origin[2]));
        const float cx = m.px[0] * fx + m.px[1] * fy + m.px[2] * fz + m.px[3];
        const float cy = m.py[0] * fx + m.py[1] * fy + m.py[2] * fz + m.py[3];
        const float cw = m.pw[0] * fx + m.pw[1] * fy + m.pw[2] * fz + m.pw[3];
        const float s = 1.0f / cw;
        out_x[i] = cx * s;
        out_y[i] = cy * s;
    }
}

std::size_t cell_at(float cx, float cy, int shift, int width) {
    return static_cast<std::size_t>(static_cast<int>(cy) >> shift) * static_cast<std::size_t>(width) +
           static_cast<std::size_t>(static_cast<int>(cx) >> shift);
}

// The fine grid of a mask, or the coarse one.
struct CellGrid {
    const std::uint8_t* cells;
    int stride, shift;  // of a fine cell to one of this grid

    static CellGrid fine(const PolygonMask& m) { return {m.cells(), m.width(), 0}; }
    static CellGrid coarse(const PolygonMask& m) {
        return {m.coarse_cells(), m.coarse_width(), PolygonMask::kCoarseBits};
    }
};

// For each mapped point one bit: surely inside; or near an edge, so that somebody must look closer.
void look_up_one(const PolygonMask& mask, const CellGrid& grid, const float* cx, const float* cy,
                 std::size_t i, std::uint64_t* inside, std::uint64_t* edge) {
    if (!(cx[i] >= 0 && cy[i] >= 0 && cx[i] < static_cast<float>(mask.width()) &&
          cy[i] < static_cast<float>(mask.height())))
        return;
    const std::uint8_t cell = grid.cells[cell_at(cx[i], cy[i], grid.shift, grid.stride)];
    inside[i / 64] |= std::uint64_t{cell == PolygonMask::Inside} << (i % 64);
    edge[i / 64] |= std::uint64_t{cell == PolygonMask::Edge} << (i % 64);
}

// Eight at a time, without a branch that depends on where a point lies. Each gather reads four bytes of which
// one counts: the mask has room for the other three at its end.
__attribute__((target("avx2"))) std::size_t look_up_avx2(const PolygonMask& mask, const CellGrid& grid,
                                                         const float* cx, const float* cy, std::size_t n,
                                                         std::uint64_t* inside, std::uint64_t* edge) {
    const __m256 zero = _mm256_setzero_ps(), width = _mm256_set1_ps(static_cast<float>(mask.width())),
                 height = _mm256_set1_ps(static_cast<float>(mask.height()));
    const __m256i stride = _mm256_set1_epi32(grid.stride), byte = _mm256_set1_epi32(255);
    const __m256i is_inside = _mm256_set1_epi32(PolygonMask::Inside),
                  is_edge = _mm256_set1_epi32(PolygonMask::Edge);
    std::size_t i = 0;
    for (; i + 8 <= n; i += 8) {
        const __m256 x = _mm256_loadu_ps(cx + i), y = _mm256_loadu_ps(cy + i);
        const __m256 ok = _mm256_and_ps(
            _mm256_and_ps(_mm256_cmp_ps(x, zero, _CMP_GE_OQ), _mm256_cmp_ps(x, width, _CMP_LT_OQ)),
            _mm256_and_ps(_mm256_cmp_ps(y, zero, _CMP_GE_OQ), _mm256_cmp_ps(y, height, _CMP_LT_OQ)));
        const __m256i column = _mm256_srai_epi32(_mm256_cvttps_epi32(x), grid.shift),
                      row = _mm256_srai_epi32(_mm256_cvttps_epi32(y), grid.shift);
        __m256i at = _mm256_add_epi32(_mm256_mullo_epi32(row, stride), column);
        at = _mm256_and_si256(at, _mm256_castps_si256(ok));
        const __m256i cell =
            _mm256_and_si256(_mm256_i32gather_epi32(reinterpret_cast<const int*>(grid.cells), at, 1), byte);
        // What lies beside the grid was looked up in its first cell, which may hold an edge.
        const __m256 in = _mm256_and_ps(ok, _mm256_castsi256_ps(_mm256_cmpeq_epi32(cell, is_inside))),
                     near = _mm256_and_ps(ok, _mm256_castsi256_ps(_mm256_cmpeq_epi32(cell, is_edge)));
        inside[i / 64] |= std::uint64_t{static_cast<unsigned>(_mm256_movemask_ps(in))} << (i % 64);
        edge[i / 64] |= std::uint64_t{static_cast<unsigned>(_mm256_movemask_ps(near))} << (i % 64);
    }
    return i;
}

void look_up(const PolygonMask& mask, const CellGrid& grid, const float* cx, const float* cy, std::size_t n,
             std::uint64_t* inside, std::uint64_t* edge) {
    static const bool avx2 = __builtin_cpu_supports("avx2") != 0;
    std::size_t i = avx2 ? look_up_avx2(mask, grid, cx, cy, n, inside, edge) : 0;
    for (; i < n; ++i) look_up_one(mask, grid, cx, cy, i, inside, edge);
}

class FenceTest {
  public:
    FenceTest(const PointCloud& cloud, const PreparedFence& fence, const ElementSet& eligible,
              const FenceOptions& options)
        : cloud_(cloud),
          view_(fence.shape().view),
          mask_(*fence.mask()),
          eligible_(eligible),
          options_(options) {}

    // None, all, or some: then `bits` says which.
    ElementSet::Kind page(std::size_t p, PageBits& bits) const {
        if (eligible_.kind(p) == ElementSet::Kind::None) return ElementSet::Kind::None;
        const cloud::PageInfo& info = cloud_.info(p);
        double cells = 0;
        const Side side = judge(info.bounds, cells);
        if (side == Side::Out) return ElementSet::Kind::None;
        if (side == Side::In && !options_.seen) return ElementSet::Kind::All;
        const PositionPage& points = cloud_.positions(p);
        for (std::size_t b = 0; b * kBlockSize < points.size(); ++b) {
            const Side of_block = side == Side::In ? Side::In : judge(info.blocks[b], cells);
            if (of_block == Side::Out) continue;
            const std::size_t first = b * kBlockSize, last = std::min(first + kBlockSize, points.size());
            if (of_block == Side::In)
                set_all(bits, first, last);
            else if (of_block == Side::Crossing)
                crossing_block(points, info.blocks[b], cells > kCellsAtHand, first, last, bits);
            else
                exact_block(points, first, last, bits);
            if (options_.seen) drop_unseen(points, first, last, info.spacing[b], bits);
        }
        return ElementSet::Kind::Some;
    }

  private:
    static void set_all(PageBits& bits, std::size_t first, std::size_t last) {
        // Blocks begin at whole words; only the last block of a cloud may end inside one.
        for (std::size_t w = first / 64; w < last / 64; ++w) bits.words[w] = ~std::uint64_t{0};
        for (std::size_t i = last / 64 * 64; i < last; ++i) bits.set(i);
    }

    enum class Side { Out, In, Crossing, Exact };

    // `cells`: how many of the fine grid the box may touch; set where it crosses.
    Side judge(const IntBox& box, double& cells) const {
        PixelRect r;
        double nearest = INFINITY, farthest = -INFINITY;
        for (int corner = 0; corner < 8; ++corner) {
            const Vec3 w =
                cloud_.grid().world(corner & 1 ? box.hi[0] : box.lo[0], corner & 2 ? box.hi[1] : box.lo[1],
                                    corner & 4 ? box.hi[2] : box.lo[2]);
            const double depth = view_.depth(w);
            nearest = std::min(nearest, depth);
            farthest = std::max(farthest, depth);
            const PixelPoint q = view_.project(w);
            if (corner == 0) r = {q.x, q.y, q.x, q.y};
            r = {std::min(r.x0, q.x), std::min(r.y0, q.y), std::max(r.x1, q.x), std::max(r.y1, q.y)};
        }
        if (farthest < view_.near_depth) return Side::Out;
        if (nearest < view_.near_depth) return Side::Exact;
        // The corners were rounded: a hair's breadth of margin keeps the verdict right for every point.
        const double hair =
            1e-6 * (1 + std::max({std::fabs(r.x0), std::fabs(r.x1), std::fabs(r.y0), std::fabs(r.y1)}));
        r = {r.x0 - hair, r.y0 - hair, r.x1 + hair, r.y1 + hair};
        const PolygonMask::Cell cell = mask_.classify(r);
        if (cell == PolygonMask::Outside) return Side::Out;
        if (cell == PolygonMask::Inside) return Side::In;
        // Single precision holds a hundredth of a pixel unless the block reaches right up to the eye or spans
        // a world.
        cells = (r.x1 - r.x0) * (r.y1 - r.y0) * mask_.cells_per_pixel() * mask_.cells_per_pixel();
        const bool fits =
            r.x1 - r.x0 < 1e5 && r.y1 - r.y0 < 1e5 && (!view_.perspective || nearest * 100 > farthest);
        return fits ? Side::Crossing : Side::Exact;
    }

    bool exactly_in(const PositionPage& p, std::size_t i) const {
        const Vec3 w = cloud_.grid().world(p.x[i], p.y[i], p.z[i]);
        return view_.depth(w) >= view_.near_depth && mask_.contains_exactly(view_.project(w));
    }

    // Point at + k, which the coarse grid did not decide; it was mapped to cell (cx[k], cy[k]).
    bool near_edge_in(const PositionPage& p, std::size_t at, std::size_t k, const float* cx,
                      const float* cy) const {
        const std::uint8_t cell = mask_.cells()[cell_at(cx[k], cy[k], 0, mask_.width())];
        return cell == PolygonMask::Edge ? exactly_in(p, at + k) : cell == PolygonMask::Inside;
    }

    void exact_block(const PositionPage& p, std::size_t first, std::size_t last, PageBits& bits) const {
        for (std::size_t i = first; i < last; ++i)
            if (exactly_in(p, i)) bits.set(i);
    }

    PixelMap map_for(const std::array<std::int32_t, 3>& origin) const {
        PixelMap m{};
        const cloud::Grid& g = cloud_.grid();
        const Vec3 o = g.world(origin[0], origin[1], origin[2]) - view_.eye;
        // Relative to the mask's corner and in its cells, so that large pixel numbers cost no digits.
        const double k = mask_.cells_per_pixel();
        const double ox = (view_.centre_x - mask_.x0()) * k, oy = (view_.centre_y - mask_.y0()) * k;
        const auto row = [&](Vec3 direction, double scale, double constant, float out[4]) {
            // cell = scale * dot(direction, v) + constant * w
            const Vec3 ahead = view_.perspective ? view_.ahead : Vec3{};
            const double w0 = view_.perspective ? dot(view_.ahead, o) : 1;
            for (int a = 0; a < 3; ++a)
                out[a] = static_cast<float>((scale * direction[a] + constant * ahead[a]) * g.scale[a]);
            out[3] = static_cast<float>(scale * dot(direction, o) + constant * w0);
        };
        row(view_.right, view_.scale * k, ox, m.px);
        row(view_.down, view_.scale * k, oy, m.py);
        row({}, 0, 1, m.pw);
        m.perspective = view_.perspective;
        return m;
    }

    // Over a wide block the coarse grid is asked first.
    void crossing_block(const PositionPage& p, const IntBox& box, bool wide, std::size_t first,
                        std::size_t last, PageBits& bits) const {
        const PixelMap m = map_for(box.lo);
        const CellGrid grid = wide ? CellGrid::coarse(mask_) : CellGrid::fine(mask_);
        float cx[kRun], cy[kRun];
        for (std::size_t at = first; at < last; at += kRun) {
            const std::size_t n = std::min(kRun, last - at);
            map_run(m, p.x.data() + at, p.y.data() + at, p.z.data() + at, box.lo, n, cx, cy);
            std::uint64_t inside[kRun / 64] = {}, edge[kRun / 64] = {};
            look_up(mask_, grid, cx, cy, n, inside, edge);
            for (std::size_t w = 0; w < (n + 63) / 64; ++w) {
                for (std::uint64_t rest = edge[w]; rest != 0; rest &= rest - 1) {
                    const auto k = static_cast<std::size_t>(__builtin_ctzll(rest));
                    const bool in =
                        wide ? near_edge_in(p, at, w * 64 + k, cx, cy) : exactly_in(p, at + w * 64 + k);
                    inside[w] |= std::uint64_t{in} << k;
                }
                bits.words[at / 64 + w] |= inside[w];
            }
        }
    }

    void drop_unseen(const PositionPage& p, std::size_t first, std::size_t last, float spacing,
                     PageBits& bits) const {
        const DepthPicture& seen = *options_.seen;
        for (std::size_t i = first; i < last; ++i) {
            if (!bits.test(i)) continue;
            const Vec3 w = cloud_.grid().world(p.x[i], p.y[i], p.z[i]);
            const double depth = view_.depth(w);
            const PixelPoint q = view_.project(w);
            const double slack = 2 * static_cast<double>(spacing) + 2 / view_.pixels_per_unit(depth);
            if (!is_seen(seen, q, depth - slack)) bits.words[i / 64] &= ~(std::uint64_t{1} << (i % 64));
        }
    }

    // Not behind what its own pixel shows, nor in a pinhole: most of the pixels round it lie in front.
    static bool is_seen(const DepthPicture& seen, PixelPoint q, double limit) {
        if (!(q.x >= 0 && q.y >= 0 && q.x < seen.width && q.y < seen.height)) return false;
        const int cx = static_cast<int>(q.x), cy = static_cast<int>(q.y);
        int in_front = 0;
        for (int y = std::max(0, cy - 1); y <= std::min(seen.height - 1, cy + 1); ++y)
            for (int x = std::max(0, cx - 1); x <= std::min(seen.width - 1, cx + 1); ++x) {
                const float front =
                    seen.depth[static_cast<std::size_t>(y) * static_cast<std::size_t>(seen.width) +
                               static_cast<std::size_t>(x)];
                if (static_cast<double>(front) >= limit) continue;
                if (x == cx && y == cy) return false;
                ++in_front;
            }
        return in_front < 5;
    }

    const PointCloud& cloud_;
    ViewFrame view_;
    const PolygonMask& mask_;
    const ElementSet& eligible_;
    FenceOptions options_;
};

}  // namespace

PreparedFence::PreparedFence(Fence shape) : shape_(std::move(shape)) {
    if (shape_.corners.size() >= 3) mask_ = std::make_shared<const PolygonMask>(shape_.corners);
}

ElementSet fence(const PointCloud& cloud, const PreparedFence& prepared, const ElementSet& eligible,
                 const FenceOptions& options, Progress& progress) {
    ElementSet result(cloud.size());
    if (!prepared.mask()) return result;
    if (cloud.triangles() && (options.reach != Reach::Middle || options.towards_only)) {
        const Fence& shape = prepared.shape();
        return fence_triangles(cloud, shape.view, {shape.corners}, eligible, options, progress);
    }
    const FenceTest test(cloud, prepared, eligible, options);
    parallel::for_each(cloud.page_count(), [&](std::size_t p) {
        progress.check();
        PageBits bits;
        const ElementSet::Kind kind = test.page(p, bits);
        if (kind == ElementSet::Kind::All) result.set_page_all(p);
        if (kind == ElementSet::Kind::Some) result.set_page(p, bits);
    });
    return result & eligible;
}

namespace {

// A view straight down, in which a pixel is a power of two of the unit: scaling the corners rounds nothing.
ViewFrame plan_view(const PixelRect& r) {
    ViewFrame view;
    const double side = std::max({r.x1 - r.x0, r.y1 - r.y0, 1e-9});
    view.scale = std::exp2(std::floor(std::log2(2000 / side)));
    view.eye = {0, 0, 0};
    view.down = {0, 1, 0};
    view.near_depth = -INFINITY;
    return view;
}

Polygon scaled(const Polygon& ring, double scale) {
    Polygon p;
    for (const PixelPoint& c : ring) p.push_back({c.x * scale, c.y * scale});
    return p;
}

ElementSet plan_fence_of_triangles(const PointCloud& cloud, const std::vector<Polygon>& rings,
                                   const ElementSet& eligible, Reach reach, Progress& progress) {
    PixelRect all{INFINITY, INFINITY, -INFINITY, -INFINITY};
    for (const Polygon& ring : rings) {
        const PixelRect r = bounds(ring);
        all = {std::min(all.x0, r.x0), std::min(all.y0, r.y0), std::max(all.x1, r.x1),
               std::max(all.y1, r.y1)};
    }
    const ViewFrame view = plan_view(all);
    std::vector<Polygon> drawn;
    for (const Polygon& ring : rings) drawn.push_back(scaled(ring, view.scale));
    FenceOptions options;
    options.reach = reach;
    return fence_triangles(cloud, view, drawn, eligible, options, progress);
}

}  // namespace

PlanFence::PlanFence(std::vector<Polygon> rings) : rings_(std::move(rings)) {
    for (const Polygon& ring : rings_) {
        const ViewFrame view = plan_view(bounds(ring));
        prepared_.emplace_back(Fence{view, scaled(ring, view.scale)});
    }
}

ElementSet plan_fence(const PointCloud& cloud, const PlanFence& shape, const ElementSet& eligible,
                      Progress& progress, Reach reach) {
    ElementSet result(cloud.size());
    if (shape.rings().empty()) return result;
    if (cloud.triangles() && reach != Reach::Middle)
        return plan_fence_of_triangles(cloud, shape.rings(), eligible, reach, progress);
    for (const PreparedFence& ring : shape.prepared()) {
        const ElementSet in = fence(cloud, ring, eligible, {}, progress);
        result = (result | in) - (result & in);
    }
    return result;
}

}  // namespace pristine::select
