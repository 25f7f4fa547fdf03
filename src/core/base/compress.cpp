#include "core/base/compress.h"

#include <zstd.h>

#include <algorithm>

#include "core/base/bytes.h"
#include "core/base/error.h"

namespace pristine {
namespace {

constexpr std::size_t kStretch = 256;  // records

}  // namespace

std::string pack(std::string_view bytes) {
    std::string out(ZSTD_compressBound(bytes.size()), '\0');
    const std::size_t n = ZSTD_compress(out.data(), out.size(), bytes.data(), bytes.size(), 1);
    if (ZSTD_isError(n)) throw Error(ErrorCode::Memory, "Packing a page failed", ZSTD_getErrorName(n));
    out.resize(n);
    out.shrink_to_fit();  // the bound is a third larger than what packed pages need
    return out;
}

std::string unpack(std::string_view packed, std::uint64_t limit) {
    const unsigned long long size = ZSTD_getFrameContentSize(packed.data(), packed.size());
    if (size == ZSTD_CONTENTSIZE_ERROR || size == ZSTD_CONTENTSIZE_UNKNOWN || size > limit)
        throw Error(ErrorCode::Format, "A packed page is damaged", "its size is unreadable or too large");
    std::string out(size, '\0');
    const std::size_t n = ZSTD_decompress(out.data(), out.size(), packed.data(), packed.size());
    if (ZSTD_isError(n) || n != size)
        throw Error(ErrorCode::Format, "A packed page is damaged",
                    ZSTD_isError(n) ? ZSTD_getErrorName(n) : "short");
    return out;
}

std::string to_planes(std::string_view bytes, std::size_t record_bytes) {
    const std::size_t count = bytes.size() / record_bytes;
    std::string planes(bytes.size(), '\0');
    // A stretch of records at a time, so that it stays in the first-level cache while its bytes are dealt
    // out.
    for (std::size_t first = 0; first < count; first += kStretch) {
        const std::size_t n = std::min(kStretch, count - first);
        for (std::size_t b = 0; b < record_bytes; ++b) {
            const char* from = bytes.data() + first * record_bytes + b;
            char* to = planes.data() + b * count + first;
            for (std::size_t i = 0; i < n; ++i) to[i] = from[i * record_bytes];
        }
    }
    return planes;
}

std::string from_planes(std::string_view planes, std::size_t record_bytes) {
    const std::size_t count = planes.size() / record_bytes;
    std::string bytes(planes.size(), '\0');
    for (std::size_t first = 0; first < count; first += kStretch) {
        const std::size_t n = std::min(kStretch, count - first);
        for (std::size_t b = 0; b < record_bytes; ++b) {
            const char* from = planes.data() + b * count + first;
            char* to = bytes.data() + first * record_bytes + b;
            for (std::size_t i = 0; i < n; ++i) to[i * record_bytes] = from[i];
        }
    }
    return bytes;
}

std::string pack_deltas(std::span<const std::uint32_t> values) {
    std::string raw(values.size() * 4, '\0');
    std::uint32_t before = 0;
    for (std::size_t i = 0; i < values.size(); ++i) {
        const std::uint32_t delta = values[i] - before;  // wraps, by design
        before = values[i];
        // Zigzag, so that small steps back are small numbers too.
        const std::uint32_t zigzag = (delta << 1) ^ (0u - (delta >> 31));
        store_le(raw.data() + 4 * i, zigzag);
    }
    return pack(to_planes(raw, 4));
}

std::vector<std::uint32_t> unpack_deltas(std::string_view packed, std::size_t count) {
    const std::string raw = from_planes(unpack(packed, count * 4), 4);
    if (raw.size() != count * 4)
        throw Error(ErrorCode::Format, "A packed page is damaged", "wrong number of values");
    std::vector<std::uint32_t> values(count);
    std::uint32_t before = 0;
    for (std::size_t i = 0; i < count; ++i) {
        const auto zigzag = load_le<std::uint32_t>(raw.data() + 4 * i);
        before += (zigzag >> 1) ^ (0u - (zigzag & 1u));
        values[i] = before;
    }
    return values;
}

}  // namespace pristine
