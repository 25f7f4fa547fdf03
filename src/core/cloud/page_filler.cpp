#include "core/cloud/page_filler.h"

#include <algorithm>
#include <cmath>
#include <numeric>

#include "core/base/compress.h"
#include "core/base/vectorised.h"
#include "core/base/wrapped.h"
#include "core/cloud/builder.h"

namespace pristine::cloud {
namespace {

constexpr int kIndexBits = 64 - 3 * kCurveBits;  // a bucket up to 2^19 points sorts on one 64-bit key

template <class T>
void shuffle_blocks(std::vector<T>& column) {
    std::vector<T> scratch;
    for (std::size_t b = 0; b < column.size(); b += kBlockSize) {
        const std::size_t n = std::min(kBlockSize, column.size() - b);
        const auto& shuffle = block_shuffle(n);
        scratch.assign(column.begin() + static_cast<std::ptrdiff_t>(b),
                       column.begin() + static_cast<std::ptrdiff_t>(b + n));
        for (std::size_t i = 0; i < n; ++i) column[b + i] = scratch[shuffle[i]];
    }
}

// Compiled twice, chosen at run time; min and max of integers are the same either way.
PRISTINE_VECTORISED void min_max(const std::int32_t* v, std::size_t n, std::int32_t& lo, std::int32_t& hi) {
    std::int32_t a = v[0], b = v[0];
    for (std::size_t i = 0; i < n; ++i) {
        a = v[i] < a ? v[i] : a;
        b = v[i] > b ? v[i] : b;
    }
    lo = a;
    hi = b;
}

IntBox box_of(const PositionPage& p, std::size_t first, std::size_t last) {
    IntBox box;
    const std::span<const std::int32_t> axes[3] = {p.x, p.y, p.z};
    for (std::size_t a = 0; a < 3; ++a) min_max(axes[a].data() + first, last - first, box.lo[a], box.hi[a]);
    return box;
}

// Squared distance from point q to the nearest of the others that is not at the same place. Compiled twice;
// without contraction both give the same bits.
PRISTINE_VECTORISED float nearest_squared(const std::int32_t* x, const std::int32_t* y, const std::int32_t* z,
                                          std::size_t n, std::size_t q, float sx, float sy, float sz) {
    const std::int32_t qx = x[q], qy = y[q], qz = z[q];
    float best = 3e38f;
    for (std::size_t i = 0; i < n; ++i) {
        // Differences of integers first: the coordinates themselves would not fit a float.
        const float dx = static_cast<float>(wrapped_difference(x[i], qx)) * sx;
        const float dy = static_cast<float>(wrapped_difference(y[i], qy)) * sy;
        const float dz = static_cast<float>(wrapped_difference(z[i], qz)) * sz;
        const float d = dx * dx + dy * dy + dz * dz;
        const float other = d > 0 ? d : 3e38f;
        best = other < best ? other : best;
    }
    return best;
}

}  // namespace

void Bucket::allocate(const ColumnSet& set) {
    x = std::make_unique_for_overwrite<std::int32_t[]>(size);
    y = std::make_unique_for_overwrite<std::int32_t[]>(size);
    z = std::make_unique_for_overwrite<std::int32_t[]>(size);
    if (set.intensity) intensity = std::make_unique_for_overwrite<std::uint16_t[]>(size);
    if (set.colour) colour = std::make_unique_for_overwrite<std::uint32_t[]>(size);
    if (set.classification) classification = std::make_unique_for_overwrite<std::uint8_t[]>(size);
    order = std::make_unique_for_overwrite<std::uint32_t[]>(size);
}

std::vector<std::uint32_t> sorted(const Bucket& bucket, const CurveFrame& frame) {
    const std::size_t n = bucket.size;
    std::vector<std::uint32_t> order(n);
    if (n > (std::size_t{1} << kIndexBits)) {  // only when very many points share a place
        std::vector<std::uint64_t> code(n);
        for (std::size_t i = 0; i < n; ++i) code[i] = frame.index(bucket.x[i], bucket.y[i], bucket.z[i]);
        std::iota(order.begin(), order.end(), 0u);
        std::stable_sort(order.begin(), order.end(), [&](auto a, auto b) { return code[a] < code[b]; });
        return order;
    }
    std::vector<std::uint64_t> keys(n), other(n);
    std::uint64_t differ = 0;
    for (std::size_t i = 0; i < n; ++i) {
        keys[i] = frame.index(bucket.x[i], bucket.y[i], bucket.z[i]) << kIndexBits | i;
        differ |= keys[i] ^ keys[0];
    }
    // Radix sort from the lowest digit of the curve index; digits in which all keys agree are skipped.
    for (int shift = kIndexBits; shift < 64; shift += 11) {
        if (((differ >> shift) & 2047u) == 0) continue;
        std::array<std::uint32_t, 2049> first{};
        for (const std::uint64_t key : keys) ++first[((key >> shift) & 2047u) + 1];
        for (std::size_t d = 0; d < 2048; ++d) first[d + 1] += first[d];
        for (const std::uint64_t key : keys) other[first[(key >> shift) & 2047u]++] = key;
        keys.swap(other);
    }
    for (std::size_t i = 0; i < n; ++i)
        order[i] = static_cast<std::uint32_t>(keys[i] & ((std::uint64_t{1} << kIndexBits) - 1));
    return order;
}

// A page while it is being filled by one or more buckets.
struct PageFiller::OpenPage {
    std::once_flag opened;
    std::atomic<std::size_t> filled{0};
    PageColumns columns;
    std::vector<std::uint32_t> order;
};

PageFiller::PageFiller(std::uint64_t points, const ColumnSet& set, const Grid& grid, PageSink& sink)
    : size_(points), set_(set), grid_(grid), sink_(sink), open_(pages_for(points)), info_(open_.size()) {}
PageFiller::~PageFiller() = default;

void PageFiller::open(OpenPage& page, std::size_t length) const {
    page.columns.x.resize(length);
    page.columns.y.resize(length);
    page.columns.z.resize(length);
    if (set_.intensity) page.columns.intensity.resize(length);
    if (set_.colour) page.columns.colour.resize(length);
    if (set_.classification) page.columns.classification.resize(length);
    page.order.resize(length);
}

PageFiller::OpenPage& PageFiller::page_at(std::size_t p) {
    const std::lock_guard guard(mutex_);
    if (!open_[p]) open_[p] = std::make_unique<OpenPage>();
    return *open_[p];
}

void PageFiller::pour(const Bucket& bucket, const CurveFrame& frame) {
    const std::vector<std::uint32_t> from = sorted(bucket, frame);
    for (std::size_t done = 0; done < bucket.size;) {
        const std::uint64_t element = bucket.start + done;
        const std::size_t p = element / kPageSize, at = element % kPageSize;
        const std::size_t length = page_length(size_, p);
        const std::size_t n = std::min(bucket.size - done, length - at);
        OpenPage& page = page_at(p);
        std::call_once(page.opened, [&] { open(page, length); });
        const std::uint32_t* take = from.data() + done;
        const auto gather = [&](auto& to, const auto& column) {
            for (std::size_t i = 0; i < n; ++i) to[at + i] = column[take[i]];
        };
        gather(page.columns.x, bucket.x);
        gather(page.columns.y, bucket.y);
        gather(page.columns.z, bucket.z);
        if (set_.intensity) gather(page.columns.intensity, bucket.intensity);
        if (set_.colour) gather(page.columns.colour, bucket.colour);
        if (set_.classification) gather(page.columns.classification, bucket.classification);
        gather(page.order, bucket.order);
        if (page.filled.fetch_add(n) + n == length) close(p);
        done += n;
    }
}

// Called once a page, by whoever brought its last point.
void PageFiller::close(std::size_t p) {
    std::unique_ptr<OpenPage> page;
    {
        const std::lock_guard guard(mutex_);
        page = std::move(open_[p]);
    }
    PageColumns& c = page->columns;
    c.packed_order = pack_deltas(page->order);
    shuffle_blocks(c.x);
    shuffle_blocks(c.y);
    shuffle_blocks(c.z);
    shuffle_blocks(c.intensity);
    shuffle_blocks(c.colour);
    shuffle_blocks(c.classification);
    info_[p] = describe(c, grid_);
    sink_.put(p, std::move(c));
}

PageInfo describe(const PageColumns& c, const Grid& grid) {
    const PositionPage pos{c.x, c.y, c.z};
    PageInfo info;
    for (std::size_t b = 0; b * kBlockSize < pos.size(); ++b) {
        const std::size_t first = b * kBlockSize, n = std::min(kBlockSize, pos.size() - first);
        info.blocks[b] = box_of(pos, first, first + n);
        info.spacing[b] = block_spacing(pos, first, n, grid);
    }
    info.bounds = box_of(pos, 0, pos.size());
    if (!c.intensity.empty()) {
        const auto [lo, hi] = std::minmax_element(c.intensity.begin(), c.intensity.end());
        info.intensity_lo = *lo;
        info.intensity_hi = *hi;
    }
    return info;
}

float block_spacing(const PositionPage& p, std::size_t first, std::size_t count, const Grid& grid) {
    if (count < 2) return 0;
    const auto sx = static_cast<float>(grid.scale.x), sy = static_cast<float>(grid.scale.y),
               sz = static_cast<float>(grid.scale.z);
    constexpr std::size_t queries = 12;
    std::vector<float> nearest;
    for (std::size_t q = 0; q < std::min(queries, count); ++q) {
        const float d =
            nearest_squared(p.x.data() + first, p.y.data() + first, p.z.data() + first, count, q, sx, sy, sz);
        if (d < 1e38f) nearest.push_back(std::sqrt(d));
    }
    if (nearest.empty()) return 0;
    std::nth_element(nearest.begin(), nearest.begin() + static_cast<std::ptrdiff_t>(nearest.size() / 2),
                     nearest.end());
    // On a plane with r points per area the mean nearest distance is 0.5 / sqrt(r); spacing is 1 / sqrt(r).
    return 2 * nearest[nearest.size() / 2];
}

}  // namespace pristine::cloud
