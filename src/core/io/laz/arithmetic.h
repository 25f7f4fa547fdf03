// The arithmetic coder of LAZ files, with its adaptive models.
//
// Method: A. Said, "Introduction to Arithmetic Coding - Theory and Practice" (2004): a 32-bit interval,
// byte-wise renormalisation, carry propagation in the encoder, models that are brought up to date at growing
// intervals. The constants are part of the file format.
//
// Encoder and Decoder offer the same members with the same signatures, each returning the value that was
// coded. What is coded is therefore described once, in code that is a template over the direction: the
// decoder ignores the value that it is handed.

#pragma once

#include <algorithm>
#include <array>
#include <bit>
#include <cstdint>
#include <cstring>
#include <memory>
#include <span>
#include <string>
#include <vector>

#include "core/base/error.h"

namespace pristine::io::laz {

constexpr std::uint32_t kLeastLength = 0x01000000u, kWholeLength = 0xFFFFFFFFu;
constexpr unsigned kBitShift = 13, kSymbolShift = 15;

/// Place m: 2^27 / (m + 2049), rounded down.
constexpr std::array<std::uint16_t, 2048> kReciprocals = [] {
    std::array<std::uint16_t, 2048> r{};
    for (std::uint32_t m = 0; m < r.size(); ++m) r[m] = static_cast<std::uint16_t>((1u << 27) / (m + 2049));
    return r;
}();

/// value / length or a little less (a part in 2000), in half the time of a division. `length` is not 0.
inline std::uint32_t at_most_quotient(std::uint32_t value, std::uint32_t length) {
    const auto shift = static_cast<unsigned>(std::countl_zero(length));
    const std::uint32_t leading = length << shift >> 20;
    return static_cast<std::uint32_t>(std::uint64_t{value} * kReciprocals[leading - 2048] >> (47 - shift));
}

/// Probability of a bit being 0.
class BitModel {
  public:
    std::uint32_t zero_probability() const { return probability_; }
    void saw(bool bit) {
        if (!bit) ++zeros_;
        if (--until_update_ == 0) [[unlikely]]
            update();
    }

  private:
    void update() {
        if ((total_ += cycle_) > (1u << kBitShift)) {
            total_ = (total_ + 1) >> 1;
            zeros_ = (zeros_ + 1) >> 1;
            if (zeros_ == total_) ++total_;
        }
        probability_ = (zeros_ * (0x80000000u / total_)) >> (31 - kBitShift);
        cycle_ = std::min(5 * cycle_ >> 2, 64u);
        until_update_ = cycle_;
    }
    std::uint32_t zeros_ = 1, total_ = 2, probability_ = 1u << (kBitShift - 1), cycle_ = 4, until_update_ = 4;
};

/// Probabilities of 2 to 2048 symbols. Empty until start(); copying is not needed and not offered.
class SymbolModel {
  public:
    SymbolModel() = default;
    explicit SymbolModel(unsigned symbols) { start(symbols); }
    bool started() const { return symbols_ != 0; }
    /// Every symbol equally likely. Called again, it begins afresh without allocating.
    void start(unsigned symbols);
    unsigned last() const { return symbols_ - 1; }
    /// Cumulative, in units of 2^-15; [0] is 0.
    const std::uint16_t* distribution() const { return distribution_; }
    /// A symbol not above the one at `share` (0 .. 2^15 and a little), to search on from.
    unsigned first_guess(std::uint32_t share) const { return table_[share >> table_shift_]; }
    void saw(unsigned symbol) {
        ++counts_[symbol];
        if (--until_update_ == 0) [[unlikely]]
            update();
    }

  private:
    void update();
    std::unique_ptr<std::uint16_t[]> memory_;
    std::uint16_t *distribution_ = nullptr, *counts_ = nullptr, *table_ = nullptr;
    unsigned symbols_ = 0, table_shift_ = 0, table_size_ = 0;
    std::uint32_t total_ = 0, cycle_ = 0, until_update_ = 0;
};

/// Reads what Encoder wrote. Reads beyond the end are zeros for a few bytes, then Error(Format).
class Decoder {
  public:
    static constexpr bool kEncodes = false;
    Decoder() = default;
    explicit Decoder(std::span<const std::byte> bytes) { start(bytes); }
    void start(std::span<const std::byte> bytes) {
        at_ = bytes.data();
        end_ = at_ + bytes.size();
        begin_ = at_;
        length_ = kWholeLength;
        value_ = 0;
        beyond_ = 0;
        for (int i = 0; i < 4; ++i) value_ = value_ << 8 | next_byte();
    }
    /// Bytes read so far: after the last value, where the encoder's output ends.
    std::size_t consumed() const { return static_cast<std::size_t>(at_ - begin_); }

    bool bit(BitModel& m, bool = false) {
        const std::uint32_t x = m.zero_probability() * (length_ >> kBitShift);
        const bool one = value_ >= x;
        if (one) {
            value_ -= x;
            length_ -= x;
        } else {
            length_ = x;
        }
        if (length_ < kLeastLength) renormalise();
        m.saw(one);
        return one;
    }
    unsigned symbol(SymbolModel& m, unsigned = 0) {
        const std::uint16_t* d = m.distribution();
        std::uint32_t high = length_;
        length_ >>= kSymbolShift;
        unsigned s = m.first_guess(at_most_quotient(value_, length_));
        std::uint32_t low = d[s] * length_;
        // The guess is close: a short walk beats a search that the processor cannot predict.
        for (;; ++s) {
            if (s == m.last()) break;
            const std::uint32_t next = d[s + 1] * length_;
            if (next > value_) {
                high = next;
                break;
            }
            low = next;
        }
        value_ -= low;
        length_ = high - low;
        if (length_ < kLeastLength) renormalise();
        m.saw(s);
        return s;
    }
    /// Raw bits, 1 to 32.
    std::uint32_t bits(unsigned count, std::uint32_t = 0) {
        if (count > 19) {
            const std::uint32_t low = bits(16);
            return bits(count - 16) << 16 | low;
        }
        length_ >>= count;
        const std::uint32_t v = value_ / length_;
        value_ -= v * length_;
        if (length_ < kLeastLength) renormalise();
        return v & ((1u << count) - 1);
    }

  private:
    std::uint32_t next_byte() {
        if (at_ != end_) [[likely]]
            return static_cast<std::uint32_t>(*at_++);
        if (++beyond_ > 16) throw Error(ErrorCode::Format, "Compressed points end too early");
        return 0;
    }
    void renormalise() {
        do value_ = value_ << 8 | next_byte();
        while ((length_ <<= 8) < kLeastLength);
    }
    const std::byte *at_ = nullptr, *end_ = nullptr, *begin_ = nullptr;
    std::uint32_t value_ = 0, length_ = kWholeLength;
    unsigned beyond_ = 0;
};

/// The opposite of Decoder: the same calls write what it reads.
class Encoder {
  public:
    static constexpr bool kEncodes = true;

    bool bit(BitModel& m, bool one) {
        const std::uint32_t x = m.zero_probability() * (length_ >> kBitShift);
        if (one) {
            add(x);
            length_ -= x;
        } else {
            length_ = x;
        }
        if (length_ < kLeastLength) renormalise();
        m.saw(one);
        return one;
    }
    unsigned symbol(SymbolModel& m, unsigned s) {
        const std::uint16_t* d = m.distribution();
        const std::uint32_t whole = length_;
        length_ >>= kSymbolShift;
        const std::uint32_t low = d[s] * length_;
        length_ = (s == m.last() ? whole : d[s + 1] * length_) - low;
        add(low);
        if (length_ < kLeastLength) renormalise();
        m.saw(s);
        return s;
    }
    std::uint32_t bits(unsigned count, std::uint32_t v) {
        if (count > 19) {
            bits(16, v & 0xFFFFu);
            bits(count - 16, v >> 16);
            return v;
        }
        length_ >>= count;
        add(v * length_);
        if (length_ < kLeastLength) renormalise();
        return v;
    }
    /// Ends the stream and returns it; the encoder begins afresh.
    std::string finish();

  private:
    void add(std::uint32_t x) {
        const std::uint32_t before = base_;
        base_ += x;
        if (base_ >= before) return;
        std::size_t i = out_.size() - 1;  // carry: there is a byte to carry into, or base could not overflow
        while (static_cast<unsigned char>(out_[i]) == 0xFF) out_[i--] = 0;
        out_[i] = static_cast<char>(static_cast<unsigned char>(out_[i]) + 1);
    }
    void renormalise() {
        do {
            out_.push_back(static_cast<char>(base_ >> 24));
            base_ <<= 8;
        } while ((length_ <<= 8) < kLeastLength);
    }
    std::string out_;
    std::uint32_t base_ = 0, length_ = kWholeLength;
};

}  // namespace pristine::io::laz
