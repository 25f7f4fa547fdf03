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

void for_kept_records(const WriteItem& item, Progress& progress, double from, double to,
                      const std::function<void(const std::byte*, std::size_t)>& visit) {
    const auto source = item.cloud->records();
    const std::size_t bytes = source->layout().record_bytes;
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
        source->read(first, std::span(stretch.data(), n * bytes));
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
