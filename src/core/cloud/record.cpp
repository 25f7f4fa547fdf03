#include "core/cloud/record.h"

#include <algorithm>
#include <array>
#include <cmath>
#include <limits>

#include "core/base/bytes.h"
#include "core/base/error.h"

namespace pristine::cloud {
namespace {

struct TypeInfo {
    FieldType type;
    const char* name;
    std::size_t bytes;
};
constexpr std::array<TypeInfo, 10> kTypes{{{FieldType::U8, "u8", 1},
                                           {FieldType::I8, "i8", 1},
                                           {FieldType::U16, "u16", 2},
                                           {FieldType::I16, "i16", 2},
                                           {FieldType::U32, "u32", 4},
                                           {FieldType::I32, "i32", 4},
                                           {FieldType::U64, "u64", 8},
                                           {FieldType::I64, "i64", 8},
                                           {FieldType::F32, "f32", 4},
                                           {FieldType::F64, "f64", 8}}};

template <class T>
T saturated(double v) {
    if (std::isnan(v)) return 0;
    const double r = std::nearbyint(v);
    if (r <= static_cast<double>(std::numeric_limits<T>::min())) return std::numeric_limits<T>::min();
    if (r >= static_cast<double>(std::numeric_limits<T>::max())) return std::numeric_limits<T>::max();
    return static_cast<T>(r);
}

double raw_value(FieldType type, const std::byte* at) {
    switch (type) {
        case FieldType::U8:
            return static_cast<double>(load_le<std::uint8_t>(at));
        case FieldType::I8:
            return static_cast<double>(load_le<std::int8_t>(at));
        case FieldType::U16:
            return static_cast<double>(load_le<std::uint16_t>(at));
        case FieldType::I16:
            return static_cast<double>(load_le<std::int16_t>(at));
        case FieldType::U32:
            return static_cast<double>(load_le<std::uint32_t>(at));
        case FieldType::I32:
            return static_cast<double>(load_le<std::int32_t>(at));
        case FieldType::U64:
            return static_cast<double>(load_le<std::uint64_t>(at));
        case FieldType::I64:
            return static_cast<double>(load_le<std::int64_t>(at));
        case FieldType::F32:
            return static_cast<double>(load_le<float>(at));
        case FieldType::F64:
            return load_le<double>(at);
    }
    return 0;
}

void put_raw(FieldType type, std::byte* at, double v) {
    switch (type) {
        case FieldType::U8:
            return store_le(at, saturated<std::uint8_t>(v));
        case FieldType::I8:
            return store_le(at, saturated<std::int8_t>(v));
        case FieldType::U16:
            return store_le(at, saturated<std::uint16_t>(v));
        case FieldType::I16:
            return store_le(at, saturated<std::int16_t>(v));
        case FieldType::U32:
            return store_le(at, saturated<std::uint32_t>(v));
        case FieldType::I32:
            return store_le(at, saturated<std::int32_t>(v));
        case FieldType::U64:
            return store_le(at, saturated<std::uint64_t>(v));
        case FieldType::I64:
            return store_le(at, saturated<std::int64_t>(v));
        case FieldType::F32:
            return store_le(at, static_cast<float>(v));
        case FieldType::F64:
            return store_le(at, v);
    }
}

}  // namespace

std::size_t bytes_of(FieldType type) {
    return kTypes[static_cast<std::size_t>(type)].bytes;
}
std::string word_of(const Field& f, double v) {
    if (!f.words || !(v >= 0) || v >= static_cast<double>(f.words->size())) return {};
    return (*f.words)[static_cast<std::size_t>(v)];
}

const char* name_of(FieldType type) {
    return kTypes[static_cast<std::size_t>(type)].name;
}

FieldType field_type(const std::string& name) {
    for (const TypeInfo& t : kTypes)
        if (name == t.name) return t.type;
    throw Error(ErrorCode::Format, "Unknown type of column '" + name + "'");
}

double value(const Field& f, const std::byte* record) {
    double raw = raw_value(f.type, record + f.offset);
    if (f.bits != 0) {
        // Parts of bytes are whole; a damaged layout may say otherwise.
        constexpr double kAll = 18446744073709551615.0;
        const auto whole = raw >= 0 && raw < kAll ? static_cast<std::uint64_t>(raw) : 0;
        raw = static_cast<double>((whole >> f.first_bit) & ((std::uint64_t{1} << f.bits) - 1));
    }
    return raw * f.scale + f.shift;
}

void put(const Field& f, std::byte* record, double v) {
    const double raw = (v - f.shift) / f.scale;
    if (f.bits == 0) return put_raw(f.type, record + f.offset, raw);
    const std::uint64_t mask = ((std::uint64_t{1} << f.bits) - 1) << f.first_bit;
    const auto limit = static_cast<double>((std::uint64_t{1} << f.bits) - 1);
    const auto part =
        static_cast<std::uint64_t>(std::isnan(raw) ? 0.0 : std::clamp(std::nearbyint(raw), 0.0, limit));
    const auto before = static_cast<std::uint64_t>(raw_value(f.type, record + f.offset));
    put_raw(f.type, record + f.offset, static_cast<double>((before & ~mask) | (part << f.first_bit)));
}

const Field* RecordLayout::find(const std::string& name) const {
    for (const Field& f : fields)
        if (f.name == name) return &f;
    return nullptr;
}

void MemoryRecords::read(std::uint64_t first, std::span<std::byte> out) const {
    const std::uint64_t at = first * layout_.record_bytes;
    if (at > bytes_.size() || out.size() > bytes_.size() - at)
        throw Error(ErrorCode::Usage, "Records beyond the end were asked for");
    std::memcpy(out.data(), bytes_.data() + at, out.size());
}

}  // namespace pristine::cloud
