#include "core/cloud/builder.h"

#include <algorithm>
#include <atomic>
#include <utility>

#include "core/base/memory.h"
#include "core/base/parallel.h"
#include "core/cloud/page_filler.h"
#include "core/cloud/sample.h"

namespace pristine::cloud {
namespace {

std::uint64_t total(const std::vector<PointBatch>& batches) {
    std::uint64_t n = 0;
    for (const PointBatch& b : batches) n += b.size();
    return n;
}

ColumnSet columns_of(const std::vector<PointBatch>& batches) {
    for (const PointBatch& b : batches)
        if (b.size() > 0) return {!b.intensity.empty(), !b.colour.empty(), !b.classification.empty()};
    return {};
}

// Small clouds too are shared out among cores.
std::size_t buckets_for(std::uint64_t points) {
    constexpr std::uint64_t kFew = 8, kLeast = 1u << 14;
    return std::max<std::uint64_t>({1, points / kBucketTarget, std::min(kFew, points / kLeast)});
}

class Sorter {
  public:
    Sorter(std::vector<PointBatch> batches, PointCloud::Parts parts, Progress& progress)
        : batches_(std::move(batches)),
          parts_(std::move(parts)),
          progress_(progress),
          size_(total(batches_)),
          set_(columns_of(batches_)) {}

    PointCloud::Parts run() {
        check_point_count(size_);
        parts_.size = size_;
        PageSink sink(size_, set_, false);
        PageFiller filler(size_, set_, parts_.grid, sink);
        if (size_ > 0) sort(filler);
        parts_.info = std::move(filler.info());
        sink.finish(parts_);
        return std::move(parts_);
    }

  private:
    void sort(PageFiller& filler) {
        Sample sample;
        std::uint64_t base = 0;
        for (const PointBatch& b : batches_) {
            sample.add(b, base, size_);
            base += b.size();
        }
        const CurveFrame frame = sample.frame();
        splitters_ = sample.splitters(frame, buckets_for(size_));
        assign_buckets(frame);
        scatter();
        std::atomic<std::size_t> done{0};
        parallel::for_each(buckets_.size(), [&](std::size_t k) {
            progress_.check();
            filler.pour(buckets_[k], frame);
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
                const std::size_t k = bucket_of(splitters_, at);
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
            buckets_[k].allocate(set_);
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
                if (set_.intensity) bucket.intensity[at] = batch.intensity[i];
                if (set_.colour) bucket.colour[at] = batch.colour[i];
                if (set_.classification) bucket.classification[at] = batch.classification[i];
                bucket.order[at] =
                    batch.record.empty() ? static_cast<std::uint32_t>(base[b] + i) : batch.record[i];
            }
            std::vector<std::uint16_t>().swap(bucket_of_[b]);
        });
        batches_.clear();
        progress_.advance(0.4);
    }

    std::vector<PointBatch> batches_;
    PointCloud::Parts parts_;
    Progress& progress_;
    std::uint64_t size_;
    ColumnSet set_;
    std::vector<std::uint64_t> splitters_;
    std::vector<std::vector<std::uint16_t>> bucket_of_;
    std::vector<std::vector<std::uint32_t>> offsets_;
    std::vector<Bucket> buckets_;
};

}  // namespace

void check_point_count(std::uint64_t points) {
    if (points > 0xFFFFFFFFu)
        throw Error(ErrorCode::Unsupported, "More than 4,294,967,295 points in one cloud", {},
                    "Split the file.");
}

std::shared_ptr<const PointCloud> build(std::vector<PointBatch> batches, PointCloud::Parts parts,
                                        Progress& progress) {
    return std::make_shared<PointCloud>(sorted_parts(std::move(batches), std::move(parts), progress));
}

PointCloud::Parts sorted_parts(std::vector<PointBatch> batches, PointCloud::Parts parts, Progress& progress) {
    return Sorter(std::move(batches), std::move(parts), progress).run();
}

std::shared_ptr<const PointCloud> build(const PointSource& source, PointCloud::Parts parts,
                                        Progress& progress) {
    std::uint64_t most = 0;
    for (const std::uint32_t n : source.sizes) most += n;
    if (!fits_memory(memory_needed(most, source.columns)))
        return build_through_file(source, std::move(parts), memory_budget() / 4, progress);
    std::vector<PointBatch> batches(source.sizes.size());
    std::atomic<std::size_t> done{0};
    progress.stretch(0, source.read_share, "Reading points");
    parallel::for_each(batches.size(), [&](std::size_t b) {
        progress.check();
        batches[b] = source.batch(b);
        progress.advance(static_cast<double>(++done) / static_cast<double>(batches.size()));
    });
    if (source.settle) source.settle(batches);
    progress.stretch(source.read_share, 1, "Sorting points");
    return build(std::move(batches), std::move(parts), progress);
}

}  // namespace pristine::cloud
