#include "core/cloud/column.h"

#include <algorithm>
#include <cmath>
#include <iterator>

#include "core/base/memory.h"
#include "core/base/parallel.h"
#include "core/elements/column_writer.h"

namespace pristine::cloud {
namespace {

// A column that takes 4 bytes a point, in a file where two of them would not fit in memory.
ColumnWriter<float> float_column(std::uint64_t count) {
    if (fits_memory(8 * count)) return ColumnWriter<float>(count);
    std::uint64_t at = 0;
    return {count, std::make_shared<ScratchFile>(pages_for(count) * PageColumn<float>::kPageBytes), at};
}

// The field of every record, in file order, as differences to the first finite one.
PagedArray<float> values_in_file_order(const RecordSource& records, const Field& field, double& base,
                                       Progress& progress) {
    const std::uint64_t count = records.count();
    const std::size_t bytes = records.layout().record_bytes;
    ColumnWriter<float> column = float_column(count);
    std::vector<std::byte> raw;
    base = NAN;
    for (std::size_t k = 0; k < pages_for(count); ++k) {
        const std::size_t n = page_length(count, k);
        raw.resize(n * bytes);
        records.read(std::uint64_t{k} * kPageSize, raw);
        std::vector<float> values(n);
        for (std::size_t i = 0; i < n; ++i) {
            const double v = value(field, raw.data() + i * bytes);
            if (std::isnan(base) && std::isfinite(v)) base = v;
            values[i] = static_cast<float>(v - base);
        }
        column.put(k, std::move(values));
        progress.advance(0.8 * static_cast<double>(k + 1) / static_cast<double>(pages_for(count)));
    }
    if (std::isnan(base)) base = 0;
    return column.finish();
}

}  // namespace

std::shared_ptr<const FetchedColumn> fetch_column(const PointCloud& cloud, const std::string& name,
                                                  Progress& progress) {
    const auto records = cloud.records();
    const Field* field = records->layout().find(name);
    if (!field) throw Error(ErrorCode::Usage, "The cloud has no column '" + name + "'");
    progress.stretch(0, 1, "Fetching " + name);
    auto column = std::make_shared<FetchedColumn>();
    const PagedArray<float> in_file = values_in_file_order(*records, *field, column->base, progress);
    const auto order = cloud.order();
    ColumnWriter<float> in_place = float_column(cloud.size());
    parallel::for_each(cloud.page_count(), [&](std::size_t p) {
        progress.check();
        const std::vector<std::uint32_t> original = order->page(p);
        std::vector<float> page(original.size());
        for (std::size_t i = 0; i < original.size(); ++i) page[i] = in_file[original[i]];
        in_place.put(p, std::move(page));
    });
    column->values = in_place.finish();
    std::vector<float> sample;
    constexpr std::size_t per_block = 32;
    for (std::size_t p = 0; p < cloud.page_count(); ++p)
        for (std::size_t b = 0, n = page_length(cloud.size(), p); b * kBlockSize < n; ++b) {
            const std::size_t count = std::min(per_block, n - b * kBlockSize);
            const float* first = column->values.block(p, b, count);
            std::copy_if(first, first + count, std::back_inserter(sample),
                         [](float v) { return std::isfinite(v); });
        }
    if (!sample.empty()) {
        std::sort(sample.begin(), sample.end());
        column->lo = sample[sample.size() / 100];
        column->hi = sample[sample.size() - 1 - sample.size() / 100];
    }
    progress.advance(1);
    return column;
}

}  // namespace pristine::cloud
