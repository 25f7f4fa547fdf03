#include <algorithm>
#include <atomic>
#include <cstring>
#include <utility>

#include "core/base/parallel.h"
#include "core/base/scratch_file.h"
#include "core/cloud/builder.h"
#include "core/cloud/page_filler.h"
#include "core/cloud/sample.h"

namespace pristine::cloud {
namespace {

constexpr std::size_t kOrderBytes = 4;

// Where the points of one group of batches lie in the file of runs: those of bucket k are
// [first[k], first[k + 1]) of the run, column after column.
struct Run {
    std::uint64_t offset = 0;
    std::vector<std::uint32_t> first;
};

class ExternalSorter {
  public:
    ExternalSorter(const PointSource& source, PointCloud::Parts parts, std::uint64_t memory,
                   Progress& progress)
        : source_(source),
          parts_(std::move(parts)),
          progress_(progress),
          // A group is held twice: as batches and scattered.
          group_points_(std::max<std::uint64_t>(1u << 20, memory / (2 * point_bytes()))) {}

    std::shared_ptr<const PointCloud> run() {
        progress_.stretch(0, 0.3, "Reading points");
        measure();
        check_point_count(size_);
        parts_.size = size_;
        PageSink sink(size_, source_.columns, true);
        PageFiller filler(size_, source_.columns, parts_.grid, sink);
        if (size_ > 0) {
            frame_ = sample_.frame();
            splitters_ = sample_.splitters(frame_, std::max<std::size_t>(1, size_ / kBucketTarget));
            progress_.stretch(0.3, 0.65, "Sorting points on the disk");
            write_runs();
            progress_.stretch(0.65, 1, "Sorting points on the disk");
            gather(filler);
        }
        parts_.info = std::move(filler.info());
        sink.finish(parts_);
        return std::make_shared<PointCloud>(std::move(parts_));
    }

  private:
    std::size_t point_bytes() const { return source_.columns.bytes() + kOrderBytes; }

    // Sizes of the batches and an even sample. When batches turn out smaller than announced, the sample was
    // taken with a wrong stride: once more, so that the result is the same as in memory.
    void measure() {
        sizes_ = source_.sizes;
        const std::vector<std::uint32_t> found = look_through();
        if (source_.settle) source_.settle({});
        if (found == sizes_) return;
        sizes_ = found;
        look_through();
    }

    std::vector<std::uint32_t> look_through() {
        base_.assign(sizes_.size() + 1, 0);
        for (std::size_t b = 0; b < sizes_.size(); ++b) base_[b + 1] = base_[b] + sizes_[b];
        size_ = base_.back();
        std::vector<std::uint32_t> found(sizes_.size());
        std::vector<Sample> samples(sizes_.size());
        std::atomic<std::size_t> done{0};
        parallel::for_each(sizes_.size(), [&](std::size_t b) {
            const PointBatch batch = source_.batch(b);
            found[b] = static_cast<std::uint32_t>(batch.size());
            samples[b].add(batch, base_[b], size_);
            progress_.advance(static_cast<double>(++done) / static_cast<double>(sizes_.size()));
        });
        sample_ = {};
        for (const Sample& s : samples) sample_.append(s);
        return found;
    }

    void write_runs() {
        std::uint64_t at = 0;
        for (std::size_t first = 0; first < sizes_.size();) {
            std::size_t last = first;
            while (last < sizes_.size() && (last == first || base_[last + 1] - base_[first] <= group_points_))
                ++last;
            at += write_run(first, last, at);
            first = last;
            progress_.advance(static_cast<double>(base_[first]) / static_cast<double>(size_));
        }
        starts_.assign(splitters_.size() + 2, 0);
        for (std::size_t k = 0; k <= splitters_.size(); ++k) {
            starts_[k + 1] = starts_[k];
            for (const Run& r : runs_) starts_[k + 1] += r.first[k + 1] - r.first[k];
        }
    }

    // Scatters the batches [first, last) by bucket and writes them; returns the bytes written.
    std::uint64_t write_run(std::size_t first, std::size_t last, std::uint64_t at) {
        const std::size_t n = last - first, buckets = splitters_.size() + 1;
        std::vector<PointBatch> batches(n);
        std::vector<std::vector<std::uint16_t>> bucket(n);
        std::vector<std::vector<std::uint32_t>> next(n, std::vector<std::uint32_t>(buckets, 0));
        parallel::for_each(n, [&](std::size_t b) {
            progress_.check();
            batches[b] = source_.batch(first + b);
            const PointBatch& p = batches[b];
            bucket[b].resize(p.size());
            for (std::size_t i = 0; i < p.size(); ++i) {
                bucket[b][i] =
                    static_cast<std::uint16_t>(bucket_of(splitters_, frame_.index(p.x[i], p.y[i], p.z[i])));
                ++next[b][bucket[b][i]];
            }
        });
        Run run{at, std::vector<std::uint32_t>(buckets + 1, 0)};
        std::uint32_t sum = 0;
        for (std::size_t k = 0; k < buckets; ++k) {
            for (auto& counts : next) sum += std::exchange(counts[k], sum);
            run.first[k + 1] = sum;
        }
        std::vector<std::byte> bytes(std::size_t{sum} * point_bytes());
        parallel::for_each(n, [&](std::size_t b) {
            place(batches[b], base_[first + b], bucket[b], next[b], run, bytes.data());
            batches[b] = {};
        });
        runs_file_.write_at(at, bytes);
        runs_.push_back(std::move(run));
        return bytes.size();
    }

    // Inside the stretch of a bucket its columns follow each other: x of all its points, y of all …
    void place(const PointBatch& p, std::uint64_t base, const std::vector<std::uint16_t>& bucket,
               std::vector<std::uint32_t>& next, const Run& run, std::byte* out) const {
        const ColumnSet& set = source_.columns;
        for (std::size_t i = 0; i < p.size(); ++i) {
            const std::size_t k = bucket[i], first = run.first[k], length = run.first[k + 1] - first;
            const std::size_t slot = next[k]++ - first;
            std::byte* column = out + first * point_bytes();
            const auto put = [&](auto value) {
                std::memcpy(column + slot * sizeof value, &value, sizeof value);
                column += length * sizeof value;
            };
            put(p.x[i]);
            put(p.y[i]);
            put(p.z[i]);
            put(p.record.empty() ? static_cast<std::uint32_t>(base + i) : p.record[i]);
            if (set.colour) put(p.colour[i]);
            if (set.intensity) put(p.intensity[i]);
            if (set.classification) put(p.classification[i]);
        }
    }

    void gather(PageFiller& filler) {
        std::atomic<std::size_t> done{0};
        const std::size_t buckets = splitters_.size() + 1;
        parallel::for_each(buckets, [&](std::size_t k) {
            progress_.check();
            filler.pour(read_bucket(k), frame_);
            progress_.advance(static_cast<double>(++done) / static_cast<double>(buckets));
        });
    }

    Bucket read_bucket(std::size_t k) const {
        Bucket bucket;
        bucket.start = starts_[k];
        bucket.size = static_cast<std::size_t>(starts_[k + 1] - starts_[k]);
        bucket.allocate(source_.columns);
        std::vector<std::byte> bytes;
        std::size_t at = 0;
        for (const Run& run : runs_) {
            const std::size_t n = run.first[k + 1] - run.first[k];
            if (n == 0) continue;
            bytes.resize(n * point_bytes());
            runs_file_.read_at(run.offset + run.first[k] * std::uint64_t{point_bytes()}, bytes);
            const std::byte* from = bytes.data();
            const auto take = [&](auto& column) {
                if (!column) return;
                std::memcpy(column.get() + at, from, n * sizeof column[0]);
                from += n * sizeof column[0];
            };
            take(bucket.x);
            take(bucket.y);
            take(bucket.z);
            take(bucket.order);
            take(bucket.colour);
            take(bucket.intensity);
            take(bucket.classification);
            at += n;
        }
        return bucket;
    }

    const PointSource& source_;
    PointCloud::Parts parts_;
    Progress& progress_;
    std::uint64_t group_points_, size_ = 0;
    std::vector<std::uint32_t> sizes_;
    std::vector<std::uint64_t> base_, starts_;
    Sample sample_;
    CurveFrame frame_;
    std::vector<std::uint64_t> splitters_;
    ScratchFile runs_file_;
    std::vector<Run> runs_;
};

}  // namespace

std::shared_ptr<const PointCloud> build_through_file(const PointSource& source, PointCloud::Parts parts,
                                                     std::uint64_t memory, Progress& progress) {
    return ExternalSorter(source, std::move(parts), memory, progress).run();
}

}  // namespace pristine::cloud
