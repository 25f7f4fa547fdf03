#include "core/cloud/column.h"

#include <algorithm>
#include <cmath>

#include "core/base/parallel.h"

namespace pristine::cloud {
namespace {

// The field of every record, in file order, as differences to the first finite one.
std::vector<float> values_in_file_order(const RecordSource& records, const Field& field, double& base,
                                        Progress& progress) {
    const std::uint64_t count = records.count();
    const std::size_t bytes = records.layout().record_bytes;
    std::vector<float> values(count);
    std::vector<std::byte> raw;
    base = NAN;
    for (std::uint64_t first = 0; first < count; first += kPageSize) {
        const std::size_t n = page_length(count, first / kPageSize);
        raw.resize(n * bytes);
        records.read(first, raw);
        for (std::size_t i = 0; i < n; ++i) {
            const double v = value(field, raw.data() + i * bytes);
            if (std::isnan(base) && std::isfinite(v)) base = v;
            values[first + i] = static_cast<float>(v - base);
        }
        progress.advance(0.8 * static_cast<double>(first + n) / static_cast<double>(count));
    }
    if (std::isnan(base)) base = 0;
    return values;
}

}  // namespace

std::shared_ptr<const FetchedColumn> fetch_column(const PointCloud& cloud, const std::string& name,
                                                  Progress& progress) {
    const auto records = cloud.records();
    const Field* field = records->layout().find(name);
    if (!field) throw Error(ErrorCode::Usage, "The cloud has no column '" + name + "'");
    progress.stretch(0, 1, "Fetching " + name);
    auto column = std::make_shared<FetchedColumn>();
    const std::vector<float> in_file = values_in_file_order(*records, *field, column->base, progress);
    const auto order = cloud.order();
    std::vector<PagedArray<float>::PagePtr> pages(cloud.page_count());
    parallel::for_each(pages.size(), [&](std::size_t p) {
        progress.check();
        const std::vector<std::uint32_t> original = order->page(p);
        auto page = std::make_shared<std::vector<float>>(original.size());
        for (std::size_t i = 0; i < original.size(); ++i) (*page)[i] = in_file[original[i]];
        pages[p] = std::move(page);
    });
    std::vector<float> sample;
    for (const auto& page : pages)
        for (std::size_t b = 0; b < page->size(); b += kBlockSize)
            for (std::size_t i = b; i < std::min(b + 32, page->size()); ++i)
                if (std::isfinite((*page)[i])) sample.push_back((*page)[i]);
    if (!sample.empty()) {
        std::sort(sample.begin(), sample.end());
        column->lo = sample[sample.size() / 100];
        column->hi = sample[sample.size() - 1 - sample.size() / 100];
    }
    column->values = PagedArray<float>(cloud.size(), std::move(pages));
    progress.advance(1);
    return column;
}

}  // namespace pristine::cloud
