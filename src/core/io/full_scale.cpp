#include "core/io/full_scale.h"

#include <algorithm>

namespace pristine::io {
namespace {

using cloud::Field;
using cloud::FieldType;

bool is_unsigned(const Field& f) {
    return f.type == FieldType::U8 || f.type == FieldType::U16;
}

// The value of a full intensity or colour in a column of unsigned integers. Readers that know the limits of a
// column (E57) scale it to 65535, colours in bytes to 255.
double top_of(const Field& f) {
    const bool scaled = f.scale != 1 || f.shift != 0;
    return f.type == FieldType::U8 && !(scaled && f.name == "intensity") ? 255 : 65535;
}

FullScale usual(const FieldRange& r) {
    if (!(r.lo <= r.hi)) return {};
    if (r.lo >= 0 && r.hi <= 1) return {0, 1};
    if (r.integers && r.lo >= 0 && r.hi <= 255) return {0, 255};
    if (r.integers && r.lo >= 0 && r.hi <= 65535) return {0, 65535};
    return {r.lo, r.hi, true};
}

// All numbers of 8 bits, the same in 16 bits, or not yet known to be otherwise.
bool within_bytes(const FieldRange& r) {
    return r.integers && (r.hi <= 255 || r.by_256 || r.by_257);
}

// Of bytes, and of intensities of 16 bits, the type says all.
std::vector<std::string> names_to_look_at(const cloud::RecordLayout& l) {
    std::vector<std::string> names{"none"};  // no name would mean all
    for (const char* name : {"intensity", "red", "green", "blue"}) {
        const Field* f = l.find(name);
        const bool known =
            f && (f->type == FieldType::U8 || (f->type == FieldType::U16 && f->name == "intensity"));
        if (f && !known) names.emplace_back(name);
    }
    return names;
}

}  // namespace

FullScale intensity_scale(const Field& f, const FieldRange& r) {
    return is_unsigned(f) ? FullScale{0, top_of(f)} : usual(r);
}

FullScale colour_scale(const std::array<const Field*, 3>& f, const std::array<FieldRange, 3>& r) {
    FieldRange all = r[0];
    for (const FieldRange& other : r) merge(all, other);
    if (f[0]->type == FieldType::U8) return {0, top_of(*f[0])};
    if (f[0]->type == FieldType::U16 && (all.hi > 255 || f[0]->scale != 1)) return {0, top_of(*f[0])};
    if (f[0]->type == FieldType::U16) return {0, 255};
    return usual(all);
}

LasIntensity las_intensity(const Field& f, const FieldRange& r) {
    if (is_unsigned(f) || !(r.lo <= r.hi)) return {};
    if (r.integers && r.lo >= 0 && r.hi <= 65535 && r.hi > 1) return {};
    if (r.lo >= 0 && r.hi <= 1) return {65535, 0};
    const double factor = r.hi > r.lo ? 65535 / (r.hi - r.lo) : 1;
    return {factor, -r.lo * factor, true};
}

Scales scales_of(const std::vector<WriteItem>& items, Progress& progress) {
    Scales out;
    const Field* intensity = nullptr;
    std::array<const Field*, 3> rgb{};
    FieldRange of_intensity;
    std::array<FieldRange, 3> of_rgb;
    for (const WriteItem& item : items) {
        const auto records = item.cloud->records();
        const auto ranges = field_ranges(*records, progress, names_to_look_at(records->layout()));
        const auto take = [&](const char* name, const Field*& field, FieldRange& range) {
            const Field* f = records->layout().find(name);
            if (!f) return;
            // Of clouds that differ the wider type speaks for all.
            if (!field || bytes_of(f->type) > bytes_of(field->type)) field = f;
            merge(range, ranges[static_cast<std::size_t>(f - records->layout().fields.data())]);
        };
        take("intensity", intensity, of_intensity);
        const char* names[3] = {"red", "green", "blue"};
        for (std::size_t c = 0; c < 3; ++c) take(names[c], rgb[c], of_rgb[c]);
    }
    if (intensity && (is_unsigned(*intensity) || of_intensity.lo <= of_intensity.hi)) {
        out.intensity = intensity_scale(*intensity, of_intensity);
        out.las = las_intensity(*intensity, of_intensity);
        out.least = of_intensity.lo;
        out.greatest = of_intensity.hi;
    }
    if (rgb[0] && rgb[1] && rgb[2]) {
        out.colour = colour_scale(rgb, of_rgb);
        out.bytes = rgb[0]->type == FieldType::U8 ||
                    std::all_of(of_rgb.begin(), of_rgb.end(), within_bytes) ||
                    (rgb[0]->type != FieldType::U16 && out.colour.hi != 65535);
    }
    return out;
}

}  // namespace pristine::io
