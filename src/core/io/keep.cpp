#include "core/io/keep.h"

#include <algorithm>
#include <cstring>

#include "core/base/parallel.h"

namespace pristine::io {

std::shared_ptr<const KeepBits> keep_all_but(const cloud::PointCloud& cloud, const ElementSet& dropped,
                                             Progress& progress) {
    auto keep = std::make_shared<KeepBits>(cloud.records()->count());
    const auto order = cloud.order();
    parallel::for_each(cloud.page_count(), [&](std::size_t p) {
        if (dropped.kind(p) == ElementSet::Kind::None) return;
        progress.check();
        const std::vector<std::uint32_t> original = order->page(p);
        dropped.for_each_in_page(p, [&](std::size_t i) { keep->drop(original[i]); });
    });
    return keep;
}

std::shared_ptr<const KeepBits> keep_only(const cloud::PointCloud& cloud, const ElementSet& kept,
                                          Progress& progress) {
    auto keep = std::make_shared<KeepBits>(cloud.records()->count(), false);
    const auto order = cloud.order();
    parallel::for_each(cloud.page_count(), [&](std::size_t p) {
        if (kept.kind(p) == ElementSet::Kind::None) return;
        progress.check();
        const std::vector<std::uint32_t> original = order->page(p);
        kept.for_each_in_page(p, [&](std::size_t i) { keep->keep(original[i]); });
    });
    return keep;
}

std::shared_ptr<const KeepBits> keep_points(const WriteItem& item, Progress& progress) {
    const cloud::PointCloud& cloud = *item.cloud;
    const std::uint64_t records = cloud.records()->count();
    if (cloud.size() == records) return item.keep;
    auto keep = std::make_shared<KeepBits>(records, false);
    const auto order = cloud.order();
    parallel::for_each(cloud.page_count(), [&](std::size_t p) {
        progress.check();
        for (const std::uint32_t record : order->page(p))
            if (!item.keep || (*item.keep)[record]) keep->keep(record);
    });
    return keep;
}

cloud::RecordLayout layout_of(const WriteItem& item) {
    cloud::RecordLayout l = item.cloud->records()->layout();
    if (!item.classes || l.find("class")) return l;
    // No longer a record of that format: what it is written as has to be made of its columns.
    l.format.clear();
    l.head.clear();
    l.fields.push_back({"class", cloud::FieldType::U8, l.record_bytes});
    l.record_bytes += 1;
    return l;
}

namespace {

// Reads records, with the classes that are given.
class Records {
  public:
    explicit Records(const WriteItem& item)
        : source_(item.cloud->records()), classes_(item.classes.get()), layout_(layout_of(item)) {
        if (!classes_) return;
        if (classes_->size() != source_->count())
            throw Error(ErrorCode::Usage, "There are not as many classes as points");
        const cloud::Field& f = *layout_.find("class");
        const auto highest = std::max_element(classes_->begin(), classes_->end());
        if (f.bits > 0 && highest != classes_->end() && *highest >> f.bits != 0)
            throw Error(ErrorCode::Usage,
                        "Class " + std::to_string(*highest) +
                            " does not fit: this point format of LAS has classes up to " +
                            std::to_string((1 << f.bits) - 1),
                        {}, "Use another class, or write PLY.");
    }
    std::uint64_t count() const { return source_->count(); }
    std::size_t bytes() const { return layout_.record_bytes; }
    void read(std::uint64_t first, std::span<std::byte> out) {
        const std::size_t own = source_->layout().record_bytes, n = out.size() / bytes();
        if (own == bytes()) {
            source_->read(first, out);
        } else {
            narrow_.resize(n * own);
            source_->read(first, narrow_);
            for (std::size_t i = 0; i < n; ++i)
                std::memcpy(out.data() + i * bytes(), narrow_.data() + i * own, own);
        }
        if (!classes_) return;
        const cloud::Field& f = *layout_.find("class");
        for (std::size_t i = 0; i < n; ++i) put(f, out.data() + i * bytes(), (*classes_)[first + i]);
    }

  private:
    std::shared_ptr<const cloud::RecordSource> source_;
    const std::vector<std::uint8_t>* classes_;
    cloud::RecordLayout layout_;
    std::vector<std::byte> narrow_;
};

}  // namespace

void for_kept_records(const WriteItem& item, Progress& progress, double from, double to,
                      const std::function<void(const std::byte*, std::size_t)>& visit) {
    const auto source = item.cloud->records();
    Records records(item);
    const std::size_t bytes = records.bytes();
    const std::uint64_t count = source->count();
    const cloud::Field* mark = nullptr;
    const double mark_value = item.dropped == Dropped::Withheld ? 1 : item.dropped == Dropped::Noise ? 7 : 18;
    if (item.dropped != Dropped::LeftOut) {
        mark = source->layout().find(item.dropped == Dropped::Withheld ? "withheld" : "class");
        if (!mark || source->layout().format != "las")
            throw Error(ErrorCode::Usage, "Only points that came as LAS or LAZ can be marked as removed", {},
                        "Leave them out instead.");
        if (item.dropped == Dropped::HighNoise && mark->bits == 5)
            throw Error(ErrorCode::Usage, "Class 18, high noise, exists only in point formats 6 to 10", {},
                        "Mark by class 7 or as withheld.");
    }
    std::vector<std::byte> stretch(std::min<std::uint64_t>(kPageSize, count) * bytes);
    for (std::uint64_t first = 0; first < count; first += kPageSize) {
        const std::size_t n = page_length(count, first / kPageSize);
        if (item.keep && !mark && !item.keep->any(first, n)) continue;
        records.read(first, std::span(stretch.data(), n * bytes));
        std::size_t kept = n;
        if (item.keep && mark) {
            for (std::size_t i = 0; i < n; ++i)
                if (!(*item.keep)[first + i]) put(*mark, stretch.data() + i * bytes, mark_value);
        } else if (item.keep) {
            kept = 0;
            for (std::size_t i = 0; i < n; ++i) {
                if (!(*item.keep)[first + i]) continue;
                if (kept != i) std::memcpy(stretch.data() + kept * bytes, stretch.data() + i * bytes, bytes);
                ++kept;
            }
        }
        if (kept > 0) visit(stretch.data(), kept);
        progress.advance(from + (to - from) * static_cast<double>(first + n) / static_cast<double>(count));
    }
}

}  // namespace pristine::io
