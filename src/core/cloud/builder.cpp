#include "core/cloud/builder.h"

#include <algorithm>
#include <atomic>
#include <cmath>
#include <mutex>
#include <numeric>
#include <utility>

#include "core/base/compress.h"
#include "core/base/parallel.h"
#include "core/base/wrapped.h"

namespace pristine::cloud {
namespace {

constexpr std::size_t kBucketTarget = 1u << 18;
constexpr std::size_t kSampleTarget = 1u << 18;
constexpr int kIndexBits = 64 - 3 * kCurveBits;  // a bucket up to 2^19 points sorts on one 64-bit key

std::uint64_t total(const std::vector<PointBatch>& batches) {
    std::uint64_t n = 0;
    for (const PointBatch& b : batches) n += b.size();
    return n;
}

// Every stride-th point over all batches, as if they were one sequence.
template <class Visit>
void for_sample(const std::vector<PointBatch>& batches, Visit&& visit) {
    const std::uint64_t stride = std::max<std::uint64_t>(1, total(batches) / kSampleTarget);
    std::uint64_t next = 0, base = 0;
    for (const PointBatch& b : batches) {
        for (; next < base + b.size(); next += stride) visit(b, static_cast<std::size_t>(next - base));
        base += b.size();
    }
}

std::vector<std::uint64_t> find_splitters(const std::vector<PointBatch>& batches, const CurveFrame& frame,
                                          std::size_t buckets) {
    std::vector<std::uint64_t> sample;
    for_sample(batches, [&](const PointBatch& b, std::size_t i) {
        sample.push_back(frame.index(b.x[i], b.y[i], b.z[i]));
    });
    std::sort(sample.begin(), sample.end());
    std::vector<std::uint64_t> splitters;
    for (std::size_t k = 1; k < buckets; ++k) splitters.push_back(sample[k * sample.size() / buckets]);
    splitters.erase(std::unique(splitters.begin(), splitters.end()), splitters.end());
    return splitters;
}

// Columns of one bucket. Plain arrays, so that memory is only touched as points arrive.
struct Bucket {
    std::uint64_t start = 0;  // first element in the finished cloud
    std::size_t size = 0;
    std::unique_ptr<std::int32_t[]> x, y, z;
    std::unique_ptr<std::uint16_t[]> intensity;
    std::unique_ptr<std::uint32_t[]> colour;
    std::unique_ptr<std::uint8_t[]> classification;
    std::unique_ptr<std::uint32_t[]> order;

    void allocate(const PointBatch& like) {
        x = std::make_unique_for_overwrite<std::int32_t[]>(size);
        y = std::make_unique_for_overwrite<std::int32_t[]>(size);
        z = std::make_unique_for_overwrite<std::int32_t[]>(size);
        if (!like.intensity.empty()) intensity = std::make_unique_for_overwrite<std::uint16_t[]>(size);
        if (!like.colour.empty()) colour = std::make_unique_for_overwrite<std::uint32_t[]>(size);
        if (!like.classification.empty())
            classification = std::make_unique_for_overwrite<std::uint8_t[]>(size);
        order = std::make_unique_for_overwrite<std::uint32_t[]>(size);
    }
};

// A page while it is being filled by one or more buckets.
struct OpenPage {
    std::once_flag opened;
    std::atomic<std::size_t> filled{0};
    std::shared_ptr<PositionPage> positions;
    std::shared_ptr<std::vector<std::uint16_t>> intensity;
    std::shared_ptr<std::vector<std::uint32_t>> colour;
    std::shared_ptr<std::vector<std::uint8_t>> classification;
    std::vector<std::uint32_t> order;
};

template <class T>
void shuffle_block(T* block, std::size_t n, std::vector<T>& scratch) {
    const auto& shuffle = block_shuffle(n);
    scratch.assign(block, block + n);
    for (std::size_t i = 0; i < n; ++i) block[i] = scratch[shuffle[i]];
}

// Compiled twice, chosen at run time; min and max of integers are the same either way.
__attribute__((target_clones("avx2", "default"))) void min_max(const std::int32_t* v, std::size_t n,
                                                               std::int32_t& lo, std::int32_t& hi) {
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
    const std::vector<std::int32_t>* axes[3] = {&p.x, &p.y, &p.z};
    for (std::size_t a = 0; a < 3; ++a) min_max(axes[a]->data() + first, last - first, box.lo[a], box.hi[a]);
    return box;
}

// Squared distance from point q to the nearest of the others that is not at the same place. Compiled twice;
// without contraction both give the same bits.
__attribute__((target_clones("avx2", "default"))) float nearest_squared(const std::int32_t* x,
                                                                        const std::int32_t* y,
                                                                        const std::int32_t* z, std::size_t n,
                                                                        std::size_t q, float sx, float sy,
                                                                        float sz) {
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

class Sorter {
  public:
    Sorter(std::vector<PointBatch> batches, PointCloud::Parts parts, Progress& progress)
        : batches_(std::move(batches)),
          parts_(std::move(parts)),
          progress_(progress),
          size_(total(batches_)) {}

    std::shared_ptr<const PointCloud> run() {
        if (size_ > 0xFFFFFFFFu)
            throw Error(ErrorCode::Unsupported, "More than 4,294,967,295 points in one cloud", {},
                        "Split the file.");
        parts_.size = size_;
        parts_.positions.resize(pages_for(size_));
        parts_.info.resize(pages_for(size_));
        packed_order_.resize(pages_for(size_));
        if (size_ > 0) {
            for (const PointBatch& b : batches_)
                if (b.size() > 0) like_ = &b;
            has_intensity_ = !like_->intensity.empty();
            has_colour_ = !like_->colour.empty();
            has_class_ = !like_->classification.empty();
            sort();
        }
        collect();
        return std::make_shared<PointCloud>(std::move(parts_));
    }

  private:
    void sort() {
        const CurveFrame frame = frame_of(batches_);
        splitters_ = find_splitters(batches_, frame, std::max<std::size_t>(1, size_ / kBucketTarget));
        assign_buckets(frame);
        scatter();
        open_ = std::vector<OpenPage>(pages_for(size_));
        std::atomic<std::size_t> done{0};
        parallel::for_each(buckets_.size(), [&](std::size_t k) {
            progress_.check();
            pour(buckets_[k], frame);
            buckets_[k] = {};
            progress_.advance(0.4 + 0.6 * static_cast<double>(++done) / static_cast<double>(buckets_.size()));
        });
    }

    // For each batch: the bucket of each point, and how many go to each bucket.
    void assign_buckets(const CurveFrame& frame) {
        const std::size_t count = splitters_.size() + 1;
        bucket_of_.resize(batches_.size());
        offsets_.assign(batches_.size(), std::vector<std::uint32_t>(count, 0));
        parallel::for_each(batches_.size(), [&](std::size_t b) {
            progress_.check();
            const PointBatch& batch = batches_[b];
            bucket_of_[b].resize(batch.size());
            for (std::size_t i = 0; i < batch.size(); ++i) {
                const std::uint64_t at = frame.index(batch.x[i], batch.y[i], batch.z[i]);
                const auto k = static_cast<std::size_t>(
                    std::upper_bound(splitters_.begin(), splitters_.end(), at) - splitters_.begin());
                bucket_of_[b][i] = static_cast<std::uint16_t>(k);
                ++offsets_[b][k];
            }
        });
        buckets_.resize(count);
        std::uint64_t start = 0;
        for (std::size_t k = 0; k < count; ++k) {
            std::uint32_t sum = 0;
            for (auto& offsets : offsets_) sum += std::exchange(offsets[k], sum);
            buckets_[k].start = start;
            buckets_[k].size = sum;
            buckets_[k].allocate(*like_);
            start += sum;
        }
        progress_.advance(0.2);
    }

    void scatter() {
        std::vector<std::uint64_t> base(batches_.size() + 1, 0);
        for (std::size_t b = 0; b < batches_.size(); ++b) base[b + 1] = base[b] + batches_[b].size();
        parallel::for_each(batches_.size(), [&](std::size_t b) {
            progress_.check();
            const PointBatch batch = std::move(batches_[b]);
            std::vector<std::uint32_t>& offset = offsets_[b];
            for (std::size_t i = 0; i < batch.size(); ++i) {
                Bucket& bucket = buckets_[bucket_of_[b][i]];
                const std::size_t at = offset[bucket_of_[b][i]]++;
                bucket.x[at] = batch.x[i];
                bucket.y[at] = batch.y[i];
                bucket.z[at] = batch.z[i];
                if (has_intensity_) bucket.intensity[at] = batch.intensity[i];
                if (has_colour_) bucket.colour[at] = batch.colour[i];
                if (has_class_) bucket.classification[at] = batch.classification[i];
                bucket.order[at] =
                    batch.record.empty() ? static_cast<std::uint32_t>(base[b] + i) : batch.record[i];
            }
            std::vector<std::uint16_t>().swap(bucket_of_[b]);
        });
        batches_.clear();
        progress_.advance(0.4);
    }

    // Positions in the bucket, by curve index, ties by arrival.
    static std::vector<std::uint32_t> sorted(const Bucket& bucket, const CurveFrame& frame) {
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

    void open(OpenPage& page, std::size_t length) const {
        page.positions = std::make_shared<PositionPage>();
        page.positions->x.resize(length);
        page.positions->y.resize(length);
        page.positions->z.resize(length);
        if (has_intensity_) page.intensity = std::make_shared<std::vector<std::uint16_t>>(length);
        if (has_colour_) page.colour = std::make_shared<std::vector<std::uint32_t>>(length);
        if (has_class_) page.classification = std::make_shared<std::vector<std::uint8_t>>(length);
        page.order.resize(length);
    }

    void pour(const Bucket& bucket, const CurveFrame& frame) {
        const std::vector<std::uint32_t> from = sorted(bucket, frame);
        for (std::size_t done = 0; done < bucket.size;) {
            const std::uint64_t element = bucket.start + done;
            const std::size_t p = element / kPageSize, at = element % kPageSize;
            const std::size_t length = page_length(size_, p);
            const std::size_t n = std::min(bucket.size - done, length - at);
            OpenPage& page = open_[p];
            std::call_once(page.opened, [&] { open(page, length); });
            const std::uint32_t* take = from.data() + done;
            const auto gather = [&](auto& to, const auto& column) {
                for (std::size_t i = 0; i < n; ++i) to[at + i] = column[take[i]];
            };
            gather(page.positions->x, bucket.x);
            gather(page.positions->y, bucket.y);
            gather(page.positions->z, bucket.z);
            if (has_intensity_) gather(*page.intensity, bucket.intensity);
            if (has_colour_) gather(*page.colour, bucket.colour);
            if (has_class_) gather(*page.classification, bucket.classification);
            gather(page.order, bucket.order);
            if (page.filled.fetch_add(n) + n == length) close(p);
            done += n;
        }
    }

    // Called once a page, by whoever brought its last point.
    void close(std::size_t p) {
        OpenPage& page = open_[p];
        packed_order_[p] = pack_deltas(page.order);
        std::vector<std::uint32_t>().swap(page.order);
        PositionPage& pos = *page.positions;
        PageInfo& info = parts_.info[p];
        std::vector<std::int32_t> s32;
        std::vector<std::uint16_t> s16;
        std::vector<std::uint32_t> su32;
        std::vector<std::uint8_t> s8;
        for (std::size_t b = 0; b * kBlockSize < pos.size(); ++b) {
            const std::size_t first = b * kBlockSize, n = std::min(kBlockSize, pos.size() - first);
            shuffle_block(pos.x.data() + first, n, s32);
            shuffle_block(pos.y.data() + first, n, s32);
            shuffle_block(pos.z.data() + first, n, s32);
            if (has_intensity_) shuffle_block(page.intensity->data() + first, n, s16);
            if (has_colour_) shuffle_block(page.colour->data() + first, n, su32);
            if (has_class_) shuffle_block(page.classification->data() + first, n, s8);
            info.blocks[b] = box_of(pos, first, first + n);
            info.spacing[b] = block_spacing(pos, first, n, parts_.grid);
        }
        info.bounds = box_of(pos, 0, pos.size());
        if (has_intensity_) {
            const auto [lo, hi] = std::minmax_element(page.intensity->begin(), page.intensity->end());
            info.intensity_lo = *lo;
            info.intensity_hi = *hi;
        }
        parts_.positions[p] = page.positions;
    }

    template <class T, class Member>
    PagedArray<T> column(Member member) {
        std::vector<typename PagedArray<T>::PagePtr> pages;
        for (OpenPage& page : open_) pages.push_back(std::move(page.*member));
        return PagedArray<T>(size_, std::move(pages));
    }

    void collect() {
        if (has_intensity_) parts_.intensity = column<std::uint16_t>(&OpenPage::intensity);
        if (has_colour_) parts_.colour = column<std::uint32_t>(&OpenPage::colour);
        if (has_class_) parts_.classification = column<std::uint8_t>(&OpenPage::classification);
        parts_.order = std::make_shared<PackedOrder>(size_, std::move(packed_order_));
    }

    std::vector<PointBatch> batches_;
    PointCloud::Parts parts_;
    Progress& progress_;
    std::uint64_t size_;
    const PointBatch* like_ = nullptr;
    bool has_intensity_ = false, has_colour_ = false, has_class_ = false;
    std::vector<std::uint64_t> splitters_;
    std::vector<std::vector<std::uint16_t>> bucket_of_;
    std::vector<std::vector<std::uint32_t>> offsets_;
    std::vector<Bucket> buckets_;
    std::vector<OpenPage> open_;
    std::vector<std::string> packed_order_;
};

}  // namespace

CurveFrame frame_of(const std::vector<PointBatch>& batches) {
    std::array<std::vector<std::int32_t>, 3> samples;
    for_sample(batches, [&](const PointBatch& b, std::size_t i) {
        samples[0].push_back(b.x[i]);
        samples[1].push_back(b.y[i]);
        samples[2].push_back(b.z[i]);
    });
    return curve_frame(samples);
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

std::shared_ptr<const PointCloud> build(std::vector<PointBatch> batches, PointCloud::Parts parts,
                                        Progress& progress) {
    return Sorter(std::move(batches), std::move(parts), progress).run();
}

}  // namespace pristine::cloud
