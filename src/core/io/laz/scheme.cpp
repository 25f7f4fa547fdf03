#include "core/io/laz/scheme.h"

#include <fmt/format.h>

#include <vector>

#include "core/base/bytes.h"
#include "core/io/las/las_header.h"

namespace pristine::io::laz {
namespace {

enum Kind : std::uint16_t {
    kByte = 0,
    kPoint10 = 6,
    kTime11 = 7,
    kRgb12 = 8,
    kWave13 = 9,
    kPoint14 = 10,
    kRgb14 = 11,
    kRgbNir14 = 12,
    kWave14 = 13,
    kByte14 = 14,
};
enum Compressor : std::uint16_t { kWhole = 1, kChunked = 2, kLayered = 3 };

struct Item {
    std::uint16_t kind, bytes, version;
    bool operator==(const Item&) const = default;
};

std::vector<Item> items_of(const Scheme& s) {
    std::vector<Item> items;
    const auto extra = static_cast<std::uint16_t>(s.extra_bytes);
    if (s.layered) {
        items.push_back({kPoint14, 30, 3});
        if (s.has_nir)
            items.push_back({kRgbNir14, 8, 3});
        else if (s.has_rgb)
            items.push_back({kRgb14, 6, 3});
        if (s.has_wave) items.push_back({kWave14, 29, 3});
        if (extra) items.push_back({kByte14, extra, 3});
        return items;
    }
    items.push_back({kPoint10, 20, 2});
    if (s.has_time) items.push_back({kTime11, 8, 2});
    if (s.has_rgb) items.push_back({kRgb12, 6, 2});
    if (s.has_wave) items.push_back({kWave13, 29, 1});
    if (extra) items.push_back({kByte, extra, 2});
    return items;
}

}  // namespace

Scheme scheme_for(int pf, std::size_t record_bytes) {
    Scheme s;
    s.layered = pf >= 6;
    s.has_time = pf == 1 || pf >= 3;
    s.has_rgb = pf == 2 || pf == 3 || pf == 5 || pf == 7 || pf == 8 || pf == 10;
    s.has_nir = pf == 8 || pf == 10;
    s.has_wave = pf == 4 || pf == 5 || pf == 9 || pf == 10;
    s.extra_bytes = record_bytes - las_base_bytes(pf);
    return s;
}

std::string scheme_bytes(const Scheme& s) {
    const std::vector<Item> items = items_of(s);
    std::string b;
    append_le<std::uint16_t>(b, s.layered ? kLayered : kChunked);
    append_le<std::uint16_t>(b, 0);  // arithmetic coder
    append_le<std::uint8_t>(b, 3);   // version of the compressor: 3.4
    append_le<std::uint8_t>(b, 4);
    append_le<std::uint16_t>(b, 0);
    append_le<std::uint32_t>(b, 0);
    append_le<std::uint32_t>(b, s.chunk_points);
    append_le<std::int64_t>(b, -1);
    append_le<std::int64_t>(b, -1);
    append_le(b, static_cast<std::uint16_t>(items.size()));
    for (const Item& i : items) {
        append_le(b, i.kind);
        append_le(b, i.bytes);
        append_le(b, i.version);
    }
    return b;
}

Scheme parse_scheme(const std::string& vlr, int point_format, std::size_t record_bytes) {
    constexpr std::size_t kHead = 34;
    const auto damaged = [](const std::string& what) {
        return Error(ErrorCode::Format, what, "the VLR that describes the compression (22204)");
    };
    if (vlr.size() < kHead) throw damaged("The description of the compression is cut off");
    const char* p = vlr.data();
    const auto compressor = load_le<std::uint16_t>(p);
    const auto coder = load_le<std::uint16_t>(p + 2);
    if (compressor < kWhole || compressor > kLayered || coder != 0)
        throw Error(ErrorCode::Unsupported,
                    fmt::format("Compressor {} with coder {} is not known", compressor, coder));
    Scheme s = scheme_for(point_format, record_bytes);
    if (s.layered != (compressor == kLayered))
        throw Error(ErrorCode::Unsupported,
                    fmt::format("Point format {} with compressor {} is not known", point_format, compressor));
    s.has_table = compressor != kWhole;
    s.chunk_points = load_le<std::uint32_t>(p + 12);
    if (s.chunk_points == 0) throw damaged("Chunks are said to have no points");
    const std::size_t count = load_le<std::uint16_t>(p + 32);
    if (vlr.size() < kHead + 6 * count) throw damaged("The description of the compression is cut off");
    std::vector<Item> items;
    for (std::size_t i = 0; i < count; ++i) {
        const char* q = p + kHead + 6 * i;
        items.push_back(
            {load_le<std::uint16_t>(q), load_le<std::uint16_t>(q + 2), load_le<std::uint16_t>(q + 4)});
    }
    const std::vector<Item> wanted = items_of(s);
    if (items == wanted) return s;
    for (std::size_t i = 0; i < std::min(items.size(), wanted.size()); ++i)
        if (items[i].kind == wanted[i].kind && items[i].bytes == wanted[i].bytes &&
            items[i].version != wanted[i].version)
            throw Error(
                ErrorCode::Unsupported,
                fmt::format("Part {} of the compressed records has version {}; version {} can be read", i + 1,
                            items[i].version, wanted[i].version),
                "the VLR that describes the compression (22204)", "Have the file written anew as LAS.");
    throw damaged("The parts of the compressed records do not make up the point format of the header");
}

}  // namespace pristine::io::laz
