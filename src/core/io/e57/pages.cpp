#include "core/io/e57/pages.h"

#include <fmt/format.h>

#include <algorithm>
#include <array>
#include <cstring>

#include "core/base/bytes.h"
#include "core/base/fuzzing.h"

namespace pristine::io::e57 {
namespace {

using Tables = std::array<std::array<std::uint32_t, 256>, 8>;

// Tables for eight bytes at a time (Kounavis and Berry 2005).
Tables make_tables() {
    Tables t{};
    for (std::uint32_t i = 0; i < 256; ++i) {
        std::uint32_t c = i;
        for (int bit = 0; bit < 8; ++bit) c = c & 1 ? c >> 1 ^ 0x82F63B78u : c >> 1;
        t[0][i] = c;
    }
    for (std::size_t k = 1; k < 8; ++k)
        for (std::size_t i = 0; i < 256; ++i) t[k][i] = t[k - 1][i] >> 8 ^ t[0][t[k - 1][i] & 255u];
    return t;
}

constexpr std::uint64_t kWindow = 256;  // pages read at once

}  // namespace

std::uint32_t crc32c(std::span<const std::byte> bytes) {
    static const Tables t = make_tables();
    std::uint32_t c = ~0u;
    std::size_t i = 0;
    for (; i + 8 <= bytes.size(); i += 8) {
        const std::uint64_t w = load_le<std::uint64_t>(bytes.data() + i) ^ c;
        c = 0;
        for (std::size_t k = 0; k < 8; ++k) c ^= t[7 - k][w >> (8 * k) & 255u];
    }
    for (; i < bytes.size(); ++i) c = c >> 8 ^ t[0][(c ^ static_cast<std::uint32_t>(bytes[i])) & 255u];
    return ~c;
}

const std::vector<std::byte>& PagedReader::page(std::uint64_t number) {
    if (number == page_number_) return page_;
    if (first_ == UINT64_MAX || number < first_ || (number - first_ + 1) * kPageBytes > window_.size()) {
        window_.resize(kWindow * kPageBytes);
        window_.resize(file_.read_some(number * kPageBytes, window_));
        first_ = number;
    }
    const std::uint64_t at = (number - first_) * kPageBytes;
    if (at + kPageBytes > window_.size())
        throw Error(ErrorCode::Format, "The file ends too early", file_.place(file_.size()));
    const std::span<const std::byte> whole = std::span(window_).subspan(at, kPageBytes);
    // The checksum stands with its high byte first.
    if (!fuzzing &&
        crc32c(whole.first(kPayload)) != byte_swapped(load_le<std::uint32_t>(whole.data() + kPayload)))
        throw Error(ErrorCode::Format, fmt::format("Page {} is damaged: its checksum does not match", number),
                    file_.place(number * kPageBytes));
    page_.assign(whole.begin(), whole.begin() + kPayload);
    page_number_ = number;
    return page_;
}

void PagedReader::read(std::uint64_t logical, std::span<std::byte> out) {
    while (!out.empty()) {
        const std::uint64_t number = logical / kPayload, from = logical % kPayload;
        const std::vector<std::byte>& p = page(number);
        const std::size_t n = std::min<std::size_t>(out.size(), kPayload - from);
        std::memcpy(out.data(), p.data() + from, n);
        out = out.subspan(n);
        logical += n;
    }
}

void PagedWriter::write(std::span<const std::byte> bytes) {
    while (!bytes.empty()) {
        const std::size_t n = std::min<std::size_t>(bytes.size(), kPayload - page_.size());
        page_.insert(page_.end(), bytes.begin(), bytes.begin() + static_cast<std::ptrdiff_t>(n));
        bytes = bytes.subspan(n);
        if (page_.size() == kPayload) flush();
    }
}

void PagedWriter::flush() {
    if (done_ == 0) first_page_ = page_;
    const std::uint32_t sum = byte_swapped(crc32c(page_));
    out_.write(page_.data(), page_.size());
    out_.write(&sum, 4);
    done_ += page_.size();
    page_.clear();
}

void PagedWriter::finish(const std::string& head) {
    if (!page_.empty()) {
        page_.resize(kPayload);
        flush();
    }
    std::memcpy(first_page_.data(), head.data(), head.size());
    const std::uint32_t sum = byte_swapped(crc32c(first_page_));
    out_.write_at(0, first_page_.data(), first_page_.size());
    out_.write_at(kPayload, &sum, 4);
}

}  // namespace pristine::io::e57
