#include "core/io/record_cloud.h"

#include <fmt/format.h>

#include <algorithm>
#include <atomic>

#include "core/base/bytes.h"
#include "core/base/parallel.h"
#include "core/cloud/builder.h"
#include "core/io/full_scale.h"

namespace pristine::io {
namespace {

using cloud::Field;
using cloud::FieldType;
using cloud::PointBatch;

struct ColumnFields {
    const Field *x, *y, *z, *intensity, *red, *green, *blue, *classification;
    explicit ColumnFields(const cloud::RecordLayout& l)
        : x(l.find("x")),
          y(l.find("y")),
          z(l.find("z")),
          intensity(l.find("intensity")),
          red(l.find("red")),
          green(l.find("green")),
          blue(l.find("blue")),
          classification(l.find("class")) {
        if (!green || !blue) red = nullptr;
    }
};

class Loader {
  public:
    Loader(const cloud::RecordSource& records, const std::vector<FieldRange>& ranges, const cloud::Grid& grid)
        : records_(records), grid_(grid), c_(records.layout()) {
        const auto& fields = records.layout().fields;
        for (std::size_t i = 0; i < fields.size(); ++i)
            if (&fields[i] == c_.intensity) intensity_ = las_intensity(fields[i], ranges[i]);
        const auto range = [&](const Field* f) {
            return ranges[static_cast<std::size_t>(f - fields.data())];
        };
        if (c_.red)
            colour_ =
                colour_scale({c_.red, c_.green, c_.blue}, {range(c_.red), range(c_.green), range(c_.blue)});
    }

    PointBatch page(std::size_t p, bool name_records) const {
        const std::size_t n = page_length(records_.count(), p), bytes = records_.layout().record_bytes;
        std::vector<std::byte> raw(n * bytes);
        records_.read(std::uint64_t{p} * kPageSize, raw);
        PointBatch b;
        for (std::size_t i = 0; i < n; ++i) add(b, raw.data() + i * bytes, p * kPageSize + i, name_records);
        return b;
    }

    cloud::ColumnSet columns() const {
        return {c_.intensity != nullptr, c_.red != nullptr, c_.classification != nullptr};
    }

  private:
    void add(PointBatch& b, const std::byte* r, std::uint64_t number, bool name_records) const {
        const Vec3 w{value(*c_.x, r), value(*c_.y, r), value(*c_.z, r)};
        if (!std::isfinite(w.x) || !std::isfinite(w.y) || !std::isfinite(w.z)) return;
        const auto snap = [&](int a) {
            return static_cast<std::int32_t>(std::clamp(
                std::nearbyint((w[a] - grid_.offset[a]) / grid_.scale[a]), -2147483647.0, 2147483647.0));
        };
        b.x.push_back(snap(0));
        b.y.push_back(snap(1));
        b.z.push_back(snap(2));
        if (c_.intensity) b.intensity.push_back(intensity(value(*c_.intensity, r)));
        if (c_.red) b.colour.push_back(byte(*c_.red, r) << 16 | byte(*c_.green, r) << 8 | byte(*c_.blue, r));
        if (c_.classification)
            b.classification.push_back(
                static_cast<std::uint8_t>(std::clamp(value(*c_.classification, r), 0.0, 255.0)));
        if (name_records) b.record.push_back(static_cast<std::uint32_t>(number));
    }

    std::uint16_t intensity(double v) const {
        if (!std::isfinite(v)) return 0;
        return static_cast<std::uint16_t>(std::clamp(v * intensity_.factor + intensity_.shift, 0.0, 65535.0));
    }
    // 65535 is 255, and so is what is just below it: as shifting by eight bits gives.
    std::uint32_t byte(const Field& f, const std::byte* r) const {
        const double v = value(f, r), share = colour_.share(v);
        if (f.type == FieldType::U8) return static_cast<std::uint32_t>(share * 255 + 0.5);
        return static_cast<std::uint32_t>(
            std::min(share * (colour_.hi > 255 ? 65535 / 256.0 : 255.999), 255.0));
    }

    const cloud::RecordSource& records_;
    cloud::Grid grid_;
    ColumnFields c_;
    LasIntensity intensity_;
    FullScale colour_;
};

}  // namespace

namespace {

bool is_plain_word(const Field& f) {
    return f.type == FieldType::U16 && f.bits == 0 && f.scale == 1 && f.shift == 0;
}

// The same as below for the columns that are most frequent, without a detour over doubles.
FieldRange range_of_words(const std::byte* first, std::size_t n, std::size_t bytes) {
    std::uint32_t lo = 65535, hi = 0, rest_256 = 0, rest_257 = 0;
    for (std::size_t i = 0; i < n; ++i) {
        const std::uint32_t v = load_le<std::uint16_t>(first + i * bytes);
        lo = std::min(lo, v);
        hi = std::max(hi, v);
        rest_256 |= v & 255u;
        rest_257 |= v % 257u;
    }
    FieldRange r;
    r.by_256 = rest_256 == 0;
    r.by_257 = rest_257 == 0;
    if (n == 0) return r;
    r.lo = lo;
    r.hi = hi;
    return r;
}

}  // namespace

void merge(FieldRange& into, const FieldRange& r) {
    into.lo = std::min(into.lo, r.lo);
    into.hi = std::max(into.hi, r.hi);
    into.integers &= r.integers;
    into.finite &= r.finite;
    into.by_256 &= r.by_256;
    into.by_257 &= r.by_257;
}

std::vector<FieldRange> field_ranges(const cloud::RecordSource& records, Progress& progress,
                                     const std::vector<std::string>& names) {
    const auto& fields = records.layout().fields;
    std::vector<std::size_t> wanted;
    for (std::size_t f = 0; f < fields.size(); ++f)
        if (names.empty() || std::find(names.begin(), names.end(), fields[f].name) != names.end())
            wanted.push_back(f);
    if (wanted.empty()) return std::vector<FieldRange>(fields.size());
    const std::size_t bytes = records.layout().record_bytes, pages = pages_for(records.count());
    std::atomic<std::size_t> done{0};
    const auto parts = parallel::map<std::vector<FieldRange>>(pages, [&](std::size_t p) {
        const std::size_t n = page_length(records.count(), p);
        std::vector<std::byte> raw(n * bytes);
        records.read(std::uint64_t{p} * kPageSize, raw);
        std::vector<FieldRange> ranges(fields.size());
        for (const std::size_t f : wanted) {
            if (is_plain_word(fields[f])) {
                ranges[f] = range_of_words(raw.data() + fields[f].offset, n, bytes);
                continue;
            }
            const bool words = fields[f].type == FieldType::U16 && !names.empty();
            for (std::size_t i = 0; i < n; ++i) {
                const double v = value(fields[f], raw.data() + i * bytes);
                if (!std::isfinite(v)) {
                    ranges[f].finite = false;
                    continue;
                }
                ranges[f].lo = std::min(ranges[f].lo, v);
                ranges[f].hi = std::max(ranges[f].hi, v);
                ranges[f].integers &= v == std::floor(v);
                if (words) {
                    const auto w = static_cast<std::uint32_t>(std::clamp(v, 0.0, 65535.0));
                    ranges[f].by_256 &= w % 256 == 0;
                    ranges[f].by_257 &= w % 257 == 0;
                }
            }
            if (!words) ranges[f].by_256 = ranges[f].by_257 = false;
        }
        progress.advance(static_cast<double>(++done) / static_cast<double>(pages));
        return ranges;
    });
    std::vector<FieldRange> all(fields.size());
    for (const auto& part : parts)
        for (std::size_t f = 0; f < all.size(); ++f) merge(all[f], part[f]);
    return all;
}

cloud::Grid grid_for(const FieldRange& x, const FieldRange& y, const FieldRange& z, int decimals) {
    cloud::Grid grid;
    const FieldRange* axes[3] = {&x, &y, &z};
    double longest = 0;
    for (int a = 0; a < 3; ++a) {
        if (!(axes[a]->lo <= axes[a]->hi)) continue;
        grid.offset[a] = std::floor((axes[a]->lo + axes[a]->hi) / 2);
        longest = std::max({longest, axes[a]->hi - grid.offset[a], grid.offset[a] - axes[a]->lo});
    }
    int digits = decimals >= 0 ? std::max(decimals, 4) : 7;
    while (digits > -300 && longest * std::pow(10.0, digits) > 2.1e9) --digits;
    const double scale = digits >= 0 ? 1 / std::pow(10.0, digits) : std::pow(10.0, -digits);
    grid.scale = {scale, scale, scale};
    return grid;
}

std::shared_ptr<const cloud::PointCloud> cloud_from_records(
    std::shared_ptr<const cloud::RecordSource> records, const std::vector<FieldRange>& ranges, int decimals,
    std::vector<std::string>& warnings, Progress& progress, cloud::PointCloud::Parts parts) {
    const auto& layout = records->layout();
    const auto range = [&](const char* name) {
        return ranges[static_cast<std::size_t>(layout.find(name) - layout.fields.data())];
    };
    parts.grid = grid_for(range("x"), range("y"), range("z"), decimals);
    if (std::max({parts.grid.scale.x}) > 1e-4)
        warnings.push_back(
            fmt::format("The extent is so large that positions are shown to {} of the unit only; the file's "
                        "own numbers are kept for export.",
                        parts.grid.scale.x));
    parts.records = records;
    const Loader loader(*records, ranges, parts.grid);
    const bool some_missing = !range("x").finite || !range("y").finite || !range("z").finite;
    cloud::PointSource source;
    for (std::size_t p = 0; p < pages_for(records->count()); ++p)
        source.sizes.push_back(static_cast<std::uint32_t>(page_length(records->count(), p)));
    source.columns = loader.columns();
    source.batch = [&](std::size_t p) { return loader.page(p, some_missing); };
    auto built = cloud::build(source, std::move(parts), progress);
    if (built->size() != records->count())
        warnings.push_back(
            fmt::format("{} records have no finite coordinates; they are kept, but cannot be shown.",
                        records->count() - built->size()));
    return built;
}

}  // namespace pristine::io
