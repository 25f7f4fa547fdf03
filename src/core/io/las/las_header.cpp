#include "core/io/las/las_header.h"
#include "core/base/file.h"

#include <fmt/format.h>

#include <algorithm>
#include <cctype>
#include <cmath>
#include <cstring>

#include "core/base/bytes.h"
#include "core/io/reference/system.h"

namespace pristine::io {
namespace {

using cloud::Field;
using cloud::FieldType;

constexpr std::array<std::size_t, 11> kBaseBytes{20, 28, 26, 34, 57, 63, 30, 36, 38, 59, 67};
constexpr std::uint16_t kVlrHeader = 54, kEvlrHeader = 60;
constexpr std::uint64_t kLargestEvlr = 16u << 20;

// Where things stand in the header, by the specification.
enum At : std::size_t {
    kVersionMajor = 24,
    kHeaderSize = 94,
    kPointsOffset = 96,
    kVlrCount = 100,
    kPointFormat = 104,
    kRecordLength = 105,
    kLegacyCount = 107,
    kLegacyReturns = 111,
    kScale = 131,
    kOffset = 155,
    kBounds = 179,  // max x, min x, max y, min y, max z, min z
    kWaveform = 227,
    kEvlrOffset = 235,
    kEvlrCount = 243,
    kCount64 = 247,
    kReturns64 = 255,
    kHeader12 = 227,
    kHeader13 = 235,
    kHeader14 = 375,
};

std::string trimmed(const char* text, std::size_t length) {
    return std::string(text, strnlen(text, length));
}

// Extra-bytes data types 1..10 of the specification.
constexpr FieldType kExtraTypes[11] = {FieldType::U8,  FieldType::U8,  FieldType::I8,  FieldType::U16,
                                       FieldType::I16, FieldType::U32, FieldType::I32, FieldType::U64,
                                       FieldType::I64, FieldType::F32, FieldType::F64};

int extra_code(FieldType type) {
    for (int code = 1; code <= 10; ++code)
        if (kExtraTypes[code] == type) return code;
    return 0;
}

void add_extra_bytes(const LasHeader& h, const std::vector<LasVlr>& vlrs, std::vector<Field>& fields) {
    std::size_t at = las_base_bytes(h.point_format);
    for (const LasVlr& vlr : vlrs) {
        if (vlr.user != "LASF_Spec" || vlr.id != 4) continue;
        for (std::size_t d = 0; d + 192 <= vlr.data.size(); d += 192) {
            const char* item = vlr.data.data() + d;
            const auto type = static_cast<unsigned char>(item[2]);
            const auto options = static_cast<unsigned char>(item[3]);
            if (type == 0) {  // undescribed: `options` is the number of bytes
                at += options;
                continue;
            }
            const std::string name = trimmed(item + 4, 32);
            const int parts = type > 20 ? 3 : type > 10 ? 2 : 1;  // deprecated tuples
            if (type > 30) return;
            const FieldType field_type = kExtraTypes[(type - 1) % 10 + 1];
            for (int part = 0; part < parts; ++part) {
                if (at + bytes_of(field_type) > h.record_bytes)
                    return;  // the VLR promises more than the record holds
                Field f{parts > 1 ? fmt::format("{}[{}]", name, part) : name, field_type, at};
                if (options & 8u) f.scale = load_le<double>(item + 112 + 8 * part);
                if (options & 16u) f.shift = load_le<double>(item + 136 + 8 * part);
                if (!(std::isfinite(f.scale) && f.scale != 0)) f.scale = 1;
                if (!std::isfinite(f.shift)) f.shift = 0;
                fields.push_back(std::move(f));
                at += bytes_of(field_type);
            }
        }
        return;
    }
}

}  // namespace

std::size_t las_base_bytes(int point_format) {
    return kBaseBytes[static_cast<std::size_t>(point_format)];
}

LasHeader read_las_header(const InputFile& file) {
    std::array<std::byte, kHeader14> raw{};
    const std::size_t got = file.read_some(0, raw);
    const std::byte* p = raw.data();
    const auto fail = [&](std::uint64_t at, const std::string& what) -> Error {
        return Error(ErrorCode::Format, what, file.place(at), "The file is damaged or no LAS file.");
    };
    if (got < 4 || std::memcmp(p, "LASF", 4) != 0) throw fail(0, "The letters LASF are missing at the start");
    if (got < kHeader12)
        throw fail(got, fmt::format("The header is cut off: 227 bytes are needed, there are {}", got));
    LasHeader h;
    h.major = static_cast<int>(p[kVersionMajor]);
    h.minor = static_cast<int>(p[kVersionMajor + 1]);
    if (h.major != 1 || h.minor > 4)
        throw Error(ErrorCode::Unsupported, fmt::format("LAS version {}.{} is not known", h.major, h.minor),
                    file.place(kVersionMajor), "Versions 1.0 to 1.4 can be read.");
    h.header_bytes = load_le<std::uint16_t>(p + kHeaderSize);
    const std::size_t least = h.minor == 4 ? kHeader14 : h.minor == 3 ? kHeader13 : kHeader12;
    if (h.header_bytes < least)
        throw fail(kHeaderSize, fmt::format("The header says that it has {} bytes; version 1.{} needs {}",
                                            h.header_bytes, h.minor, least));
    if (got < least)
        throw fail(got, fmt::format("The header is cut off: {} bytes are needed, there are {}", least, got));
    h.points_offset = load_le<std::uint32_t>(p + kPointsOffset);
    if (h.points_offset < h.header_bytes || h.points_offset > file.size())
        throw fail(kPointsOffset,
                   fmt::format("The points are said to start at byte {}, outside the file of {} bytes or "
                               "inside its header",
                               h.points_offset, file.size()));
    h.vlr_count = load_le<std::uint32_t>(p + kVlrCount);
    const auto format_byte = static_cast<unsigned>(p[kPointFormat]);
    h.compressed = (format_byte & 0xC0u) != 0;
    h.point_format = static_cast<int>(format_byte & 0x3Fu);
    if (h.point_format > 10)
        throw Error(ErrorCode::Unsupported, fmt::format("Point format {} is not known", h.point_format),
                    file.place(kPointFormat), "Formats 0 to 10 can be read.");
    h.record_bytes = load_le<std::uint16_t>(p + kRecordLength);
    if (h.record_bytes < las_base_bytes(h.point_format))
        throw fail(kRecordLength,
                   fmt::format("Records are said to have {} bytes; point format {} needs at least {}",
                               h.record_bytes, h.point_format, las_base_bytes(h.point_format)));
    h.point_count = load_le<std::uint32_t>(p + kLegacyCount);
    for (int a = 0; a < 3; ++a) {
        h.scale[a] = load_le<double>(p + kScale + 8 * a);
        h.offset[a] = load_le<double>(p + kOffset + 8 * a);
        h.hi[a] = load_le<double>(p + kBounds + 16 * a);
        h.lo[a] = load_le<double>(p + kBounds + 16 * a + 8);
        if (!std::isfinite(h.scale[a]) || h.scale[a] == 0)
            throw fail(kScale + 8 * static_cast<std::size_t>(a), "A scale factor is zero or no number");
        if (!std::isfinite(h.offset[a]))
            throw fail(kOffset + 8 * static_cast<std::size_t>(a), "An offset is no number");
    }
    if (h.minor >= 3) h.waveform_offset = load_le<std::uint64_t>(p + kWaveform);
    if (h.minor >= 4) {
        h.evlr_offset = load_le<std::uint64_t>(p + kEvlrOffset);
        h.evlr_count = load_le<std::uint32_t>(p + kEvlrCount);
        const auto count = load_le<std::uint64_t>(p + kCount64);
        if (count != 0) h.point_count = count;
    }
    return h;
}

std::vector<LasVlr> read_las_vlrs(const InputFile& file, const LasHeader& h,
                                  std::vector<std::string>& warnings) {
    std::vector<LasVlr> vlrs;
    std::uint64_t at = h.header_bytes;
    const auto add = [&](std::uint64_t head_bytes, std::uint64_t limit, std::uint64_t data_limit) {
        if (at > limit || limit - at < head_bytes) return false;
        const std::string head = file.read_string(at, head_bytes);
        const std::uint64_t length = head_bytes == kVlrHeader ? load_le<std::uint16_t>(head.data() + 20)
                                                              : load_le<std::uint64_t>(head.data() + 20);
        if (length > limit - at - head_bytes) return false;
        LasVlr vlr{trimmed(head.data() + 2, 16),
                   trimmed(head.data() + head_bytes - 32, 32),
                   load_le<std::uint16_t>(head.data() + 18),
                   {}};
        if (length <= data_limit) vlr.data = file.read_string(at + head_bytes, length);
        vlrs.push_back(std::move(vlr));
        at += head_bytes + length;
        return true;
    };
    for (std::uint32_t i = 0; i < h.vlr_count; ++i)
        if (!add(kVlrHeader, h.points_offset, 65535)) {
            warnings.push_back(fmt::format(
                "Variable length record {} of {} reaches into the points; it and the rest of them "
                "are not understood, but kept.",
                i + 1, h.vlr_count));
            break;
        }
    at = h.evlr_offset;
    for (std::uint32_t i = 0; i < h.evlr_count && h.evlr_offset != 0; ++i)
        if (!add(kEvlrHeader, file.size(), kLargestEvlr)) {
            warnings.push_back(
                fmt::format("Extended record {} of {} lies outside the file and is not understood.", i + 1,
                            h.evlr_count));
            break;
        }
    return vlrs;
}

std::vector<Field> las_fields(const LasHeader& h, const std::vector<LasVlr>& vlrs) {
    std::vector<Field> f;
    const int pf = h.point_format;
    const char* axis[3] = {"x", "y", "z"};
    for (int a = 0; a < 3; ++a)
        f.push_back(
            {axis[a], FieldType::I32, static_cast<std::size_t>(4 * a), 0, 0, h.scale[a], h.offset[a]});
    f.push_back({"intensity", FieldType::U16, 12});
    std::size_t after = 20;  // of GPS time, colours, waveform
    if (pf < 6) {
        f.push_back({"return", FieldType::U8, 14, 0, 3});
        f.push_back({"returns", FieldType::U8, 14, 3, 3});
        f.push_back({"scan_direction", FieldType::U8, 14, 6, 1});
        f.push_back({"edge_of_line", FieldType::U8, 14, 7, 1});
        f.push_back({"class", FieldType::U8, 15, 0, 5});
        f.push_back({"synthetic", FieldType::U8, 15, 5, 1});
        f.push_back({"key_point", FieldType::U8, 15, 6, 1});
        f.push_back({"withheld", FieldType::U8, 15, 7, 1});
        f.push_back({"scan_angle", FieldType::I8, 16});
        f.push_back({"user_data", FieldType::U8, 17});
        f.push_back({"scan", FieldType::U16, 18});
    } else {
        f.push_back({"return", FieldType::U8, 14, 0, 4});
        f.push_back({"returns", FieldType::U8, 14, 4, 4});
        f.push_back({"synthetic", FieldType::U8, 15, 0, 1});
        f.push_back({"key_point", FieldType::U8, 15, 1, 1});
        f.push_back({"withheld", FieldType::U8, 15, 2, 1});
        f.push_back({"overlap", FieldType::U8, 15, 3, 1});
        f.push_back({"channel", FieldType::U8, 15, 4, 2});
        f.push_back({"scan_direction", FieldType::U8, 15, 6, 1});
        f.push_back({"edge_of_line", FieldType::U8, 15, 7, 1});
        f.push_back({"class", FieldType::U8, 16});
        f.push_back({"user_data", FieldType::U8, 17});
        f.push_back({"scan_angle", FieldType::I16, 18, 0, 0, 0.006});
        f.push_back({"scan", FieldType::U16, 20});
        after = 22;
    }
    if (pf == 1 || pf >= 3) {
        f.push_back({"time", FieldType::F64, after});
        after += 8;
    }
    if (pf == 2 || pf == 3 || pf == 5 || pf == 7 || pf == 8 || pf == 10) {
        for (const char* name : {"red", "green", "blue"}) {
            f.push_back({name, FieldType::U16, after});
            after += 2;
        }
    }
    if (pf == 8 || pf == 10) f.push_back({"infrared", FieldType::U16, after});
    add_extra_bytes(h, vlrs, f);
    // Extra bytes may be called like a field of the standard, or like each other.
    for (std::size_t i = 1; i < f.size(); ++i) {
        const std::string own = f[i].name;
        const auto taken = [&] {
            return std::any_of(f.begin(), f.begin() + static_cast<std::ptrdiff_t>(i),
                               [&](const Field& other) { return other.name == f[i].name; });
        };
        for (int k = 2; taken(); ++k) f[i].name = own + "_" + std::to_string(k);
    }
    return f;
}

std::string las_crs(const std::vector<LasVlr>& vlrs) {
    for (const LasVlr& v : vlrs)
        if (v.user == "LASF_Projection" && v.id == 2112) return trimmed(v.data.data(), v.data.size());
    GeoKeys keys;
    for (const LasVlr& v : vlrs) {
        if (v.user != "LASF_Projection") continue;
        if (v.id == 34735)
            for (std::size_t at = 0; at + 2 <= v.data.size(); at += 2)
                keys.directory.push_back(load_le<std::uint16_t>(v.data.data() + at));
        if (v.id == 34736)
            for (std::size_t at = 0; at + 8 <= v.data.size(); at += 8)
                keys.numbers.push_back(load_le<double>(v.data.data() + at));
        if (v.id == 34737) keys.text = v.data;
    }
    return definition_of(keys);
}

std::string join_las_head(const LasHead& head) {
    std::string s;
    append_le(s, static_cast<std::uint64_t>(head.before.size()));
    return s + head.before + head.after;
}

std::size_t unreachable_tail(const LasHead& head) {
    constexpr std::size_t kMinor = 25;
    const auto points_at = [&](std::size_t field) {
        return head.before.size() >= field + 8 && load_le<std::uint64_t>(head.before.data() + field) != 0;
    };
    const int minor = head.before.size() > kMinor ? static_cast<int>(head.before[kMinor]) : 0;
    const bool reached = (minor >= 3 && points_at(kWaveform)) || (minor >= 4 && points_at(kEvlrOffset));
    return reached ? 0 : head.after.size();
}

LasHead split_las_head(const std::string& s) {
    const std::uint64_t n = s.size() < 8 ? UINT64_MAX : load_le<std::uint64_t>(s.data());
    if (n < kHeader12 || n > s.size() - 8)
        throw Error(ErrorCode::Format, "The stored header of a LAS file is damaged");
    LasHead head{s.substr(8, n), s.substr(8 + n)};
    if (head.before[kVersionMajor + 1] >= 4 && n < kHeader14)
        throw Error(ErrorCode::Format, "The stored header of a LAS file is damaged");
    return head;
}

void LasCounts::add(const std::byte* record, int point_format) {
    ++points;
    const unsigned returns = static_cast<unsigned>(record[14]) & (point_format < 6 ? 7u : 15u);
    if (returns >= 1) ++by_return[returns - 1];
    for (std::size_t a = 0; a < 3; ++a) {
        const auto v = load_le<std::int32_t>(record + 4 * a);
        lo[a] = std::min(lo[a], v);
        hi[a] = std::max(hi[a], v);
    }
}

std::uint64_t las_points_said(const std::string& head) {
    const char* p = head.data();
    const std::uint64_t legacy = load_le<std::uint32_t>(p + kLegacyCount);
    return p[kVersionMajor + 1] < 4 ? legacy : std::max(legacy, load_le<std::uint64_t>(p + kCount64));
}

void update_las_header(std::string& before, const LasCounts& counts) {
    char* p = before.data();
    const int minor = p[kVersionMajor + 1];
    const int point_format = p[kPointFormat] & 0x3F;
    const bool legacy = counts.points <= UINT32_MAX && (minor < 4 || point_format < 6);
    if (!legacy && minor < 4)
        throw Error(ErrorCode::Unsupported, "More than 4,294,967,295 points need LAS 1.4");
    store_le(p + kLegacyCount, legacy ? static_cast<std::uint32_t>(counts.points) : 0u);
    for (std::size_t r = 0; r < 5; ++r)
        store_le(p + kLegacyReturns + 4 * r, legacy ? static_cast<std::uint32_t>(counts.by_return[r]) : 0u);
    for (std::size_t a = 0; a < 3; ++a) {
        const double scale = load_le<double>(p + kScale + 8 * a),
                     offset = load_le<double>(p + kOffset + 8 * a);
        const double u = counts.points == 0 ? 0 : counts.lo[a] * scale + offset;
        const double v = counts.points == 0 ? 0 : counts.hi[a] * scale + offset;
        store_le(p + kBounds + 16 * a, std::max(u, v));
        store_le(p + kBounds + 16 * a + 8, std::min(u, v));
    }
    if (minor < 4) return;
    store_le(p + kCount64, counts.points);
    for (std::size_t r = 0; r < 15; ++r) store_le(p + kReturns64 + 8 * r, counts.by_return[r]);
}

void move_las_offsets(std::string& before, std::int64_t shift) {
    const int minor = before[kVersionMajor + 1];
    const auto moved = [&](std::size_t at) {
        const auto offset = load_le<std::uint64_t>(before.data() + at);
        if (offset != 0)
            store_le(before.data() + at,
                     static_cast<std::uint64_t>(static_cast<std::int64_t>(offset) + shift));
    };
    if (minor >= 3) moved(kWaveform);
    if (minor >= 4) moved(kEvlrOffset);
}

namespace {

std::string vlr_bytes(const std::string& user, std::uint16_t id, const std::string& description,
                      const std::string& data) {
    std::string s(kVlrHeader, '\0');
    std::memcpy(s.data() + 2, user.data(), std::min<std::size_t>(16, user.size()));
    store_le(s.data() + 18, id);
    store_le(s.data() + 20, static_cast<std::uint16_t>(data.size()));
    std::memcpy(s.data() + 22, description.data(), std::min<std::size_t>(32, description.size()));
    return s + data;
}

std::string system_vlr(const std::string& wkt) {
    return vlr_bytes("LASF_Projection", 2112, "Coordinate system", wkt + '\0');
}

// The keys of the system, as records of a header; appends how many to `count`.
std::string key_vlrs(const std::string& wkt, std::uint32_t& count) {
    const std::optional<GeoKeys> keys = wkt.empty() ? std::nullopt : geokeys_of(wkt);
    if (!keys) return {};
    std::string directory, numbers, out;
    for (const std::uint16_t k : keys->directory) append_le(directory, k);
    for (const double d : keys->numbers) append_le(numbers, d);
    const auto add = [&](std::uint16_t id, const char* what, const std::string& data) {
        if (data.empty()) return;
        out += vlr_bytes("LASF_Projection", id, what, data);
        ++count;
    };
    add(34735, "Keys of the system", directory);
    add(34736, "Numbers of the keys", numbers);
    add(34737, "Words of the keys", keys->text);
    return out;
}

}  // namespace

std::size_t makers_records(const std::string& before) {
    std::size_t n = 0, at = load_le<std::uint16_t>(before.data() + kHeaderSize);
    const auto count = load_le<std::uint32_t>(before.data() + kVlrCount);
    for (std::uint32_t i = 0; i < count && at + kVlrHeader <= before.size(); ++i) {
        const std::string user = trimmed(before.data() + at + 2, 16);
        const bool extra = user == "LASF_Spec" && load_le<std::uint16_t>(before.data() + at + 18) == 4;
        n += user != "LASF_Projection" && user != "laszip encoded" && !extra;
        at += kVlrHeader + load_le<std::uint16_t>(before.data() + at + 20);
    }
    if (before[kVersionMajor + 1] >= 4 && before.size() >= kEvlrCount + 4)
        n += load_le<std::uint32_t>(before.data() + kEvlrCount);
    return n;
}

std::string las_head_with_system(std::string before, const std::string& wkt) {
    const auto header = load_le<std::uint16_t>(before.data() + kHeaderSize);
    std::size_t at = header;
    auto count = load_le<std::uint32_t>(before.data() + kVlrCount);
    const auto gone = [](std::uint16_t id) {
        return id == 2111 || id == 2112 || (id >= 34735 && id <= 34737);
    };
    for (std::uint32_t i = 0, all = count; i < all && before.size() - at >= kVlrHeader; ++i) {
        const std::size_t length = kVlrHeader + load_le<std::uint16_t>(before.data() + at + 20);
        if (length > before.size() - at) break;
        if (trimmed(before.data() + at + 2, 16) == "LASF_Projection" &&
            gone(load_le<std::uint16_t>(before.data() + at + 18))) {
            before.erase(at, length);
            --count;
        } else {
            at += length;
        }
    }
    const bool states = !wkt.empty() && wkt.size() < 65535;
    if (states) {
        before.insert(header, system_vlr(wkt));
        ++count;
    }
    store_le(before.data() + kVlrCount, count);
    store_le(before.data() + kPointsOffset, static_cast<std::uint32_t>(before.size()));
    const auto flags = load_le<std::uint16_t>(before.data() + 6);
    store_le(before.data() + 6, static_cast<std::uint16_t>(states ? flags | 16u : flags & ~16u));
    return before;
}

std::string compressed_las_head(std::string before, const std::string& scheme) {
    const std::string vlr = vlr_bytes("laszip encoded", 22204, "Compression of the points", scheme);
    char* p = before.data();
    p[kPointFormat] = static_cast<char>((p[kPointFormat] & 0x3F) | 0x80);
    store_le(p + kPointsOffset, static_cast<std::uint32_t>(before.size() + vlr.size()));
    store_le(p + kVlrCount, load_le<std::uint32_t>(p + kVlrCount) + 1);
    before.insert(load_le<std::uint16_t>(p + kHeaderSize), vlr);
    return before;
}

std::string plain_las_head(std::string before) {
    char* p = before.data();
    p[kPointFormat] = static_cast<char>(p[kPointFormat] & 0x3F);
    std::size_t at = load_le<std::uint16_t>(p + kHeaderSize);
    const auto count = load_le<std::uint32_t>(p + kVlrCount);
    for (std::uint32_t i = 0; i < count && before.size() - at >= kVlrHeader; ++i) {
        const std::size_t length = kVlrHeader + load_le<std::uint16_t>(p + at + 20);
        if (length > before.size() - at) break;
        if (load_le<std::uint16_t>(p + at + 18) == 22204 && trimmed(p + at + 2, 16) == "laszip encoded") {
            store_le(p + kPointsOffset, static_cast<std::uint32_t>(before.size() - length));
            store_le(p + kVlrCount, count - 1);
            before.erase(at, length);
            break;
        }
        at += length;
    }
    return before;
}

std::string new_las_head(int point_format, const cloud::Grid& grid, const std::vector<Field>& extra,
                         const std::string& crs_wkt) {
    std::string vlrs;
    std::uint32_t vlr_count = 0;
    std::size_t record = las_base_bytes(point_format);
    if (!extra.empty()) {
        std::string items;
        for (const Field& f : extra) {
            std::string item(192, '\0');
            item[2] = static_cast<char>(extra_code(f.type));
            if (f.scale != 1) item[3] = static_cast<char>(item[3] | 8);
            if (f.shift != 0) item[3] = static_cast<char>(item[3] | 16);
            std::memcpy(item.data() + 4, f.name.data(), std::min<std::size_t>(32, f.name.size()));
            store_le(item.data() + 112, f.scale);
            store_le(item.data() + 136, f.shift);
            items += item;
            record += bytes_of(f.type);
        }
        if (items.size() > 65535 || record > 65535)
            throw Error(ErrorCode::Unsupported, "Too many columns for a LAS file", {},
                        "Write PLY or text instead.");
        vlrs += vlr_bytes("LASF_Spec", 4, "Extra bytes", items);
        ++vlr_count;
    }
    const bool old = point_format < 6, wkt = !old && !crs_wkt.empty() && crs_wkt.size() < 65535;
    if (old) vlrs += key_vlrs(crs_wkt, vlr_count);
    if (wkt) {
        vlrs += system_vlr(crs_wkt);
        ++vlr_count;
    }
    const std::size_t header = old ? kHeader12 : kHeader14;
    std::string s(header, '\0');
    char* p = s.data();
    std::memcpy(p, "LASF", 4);
    store_le(p + 6, static_cast<std::uint16_t>(wkt ? 16 : 0));
    p[kVersionMajor] = 1;
    p[kVersionMajor + 1] = old ? 2 : 4;
    std::memcpy(p + 26, "Pristine Cloud", 14);
    std::memcpy(p + 58, "Pristine Cloud 0.1", 18);
    store_le(p + kHeaderSize, static_cast<std::uint16_t>(header));
    store_le(p + kPointsOffset, static_cast<std::uint32_t>(header + vlrs.size()));
    store_le(p + kVlrCount, vlr_count);
    p[kPointFormat] = static_cast<char>(point_format);
    store_le(p + kRecordLength, static_cast<std::uint16_t>(record));
    for (int a = 0; a < 3; ++a) {
        store_le(p + kScale + 8 * a, grid.scale[a]);
        store_le(p + kOffset + 8 * a, grid.offset[a]);
    }
    return s + vlrs;
}

}  // namespace pristine::io
