// Integers as corrections of a prediction: the number of bits first, then the bits, the high ones modelled.

#pragma once

#include <algorithm>
#include <array>
#include <bit>
#include <vector>

#include "core/io/laz/arithmetic.h"

namespace pristine::io::laz {

/// Arithmetic modulo 2^32, as the format has it.
inline std::int32_t wrap_add(std::int32_t a, std::int32_t b) {
    return static_cast<std::int32_t>(static_cast<std::uint32_t>(a) + static_cast<std::uint32_t>(b));
}
inline std::int32_t wrap_sub(std::int32_t a, std::int32_t b) {
    return static_cast<std::int32_t>(static_cast<std::uint32_t>(a) - static_cast<std::uint32_t>(b));
}
inline std::int32_t wrap_mul(std::int32_t a, std::int32_t b) {
    return static_cast<std::int32_t>(static_cast<std::uint32_t>(a) * static_cast<std::uint32_t>(b));
}

/// Codes integers of 16 or 32 bits (8 bits too) in several contexts. 16-bit values are 0..65535.
class IntegerCoder {
  public:
    IntegerCoder(unsigned bits, unsigned contexts) : bits_(bits), lengths_(contexts) { restart(); }
    void restart() {
        for (SymbolModel& m : lengths_) m.start(bits_ + 1);
        sign_ = BitModel();
        for (unsigned k = 1; k <= bits_; ++k) corrections_[k].start(1u << std::min(k, kHighBits));
    }

    template <class Coder>
    std::int32_t code(Coder& c, std::int32_t prediction, std::int32_t real, unsigned context) {
        if constexpr (Coder::kEncodes) {
            std::int32_t correction = wrap_sub(real, prediction);
            if (bits_ < 32) {
                const std::int32_t half = 1 << (bits_ - 1);
                if (correction < -half) correction += 1 << bits_;
                if (correction > half - 1) correction -= 1 << bits_;
            }
            write(c, correction, lengths_[context]);
            return real;
        } else {
            const std::int32_t v = wrap_add(prediction, read(c, lengths_[context]));
            return bits_ < 32 ? v & ((1 << bits_) - 1) : v;
        }
    }
    /// Bits of the last correction: how well the prediction held.
    unsigned last_length() const { return last_length_; }

  private:
    static constexpr unsigned kHighBits = 8;

    std::int32_t read(Decoder& c, SymbolModel& lengths) {
        const unsigned k = c.symbol(lengths);
        last_length_ = k;
        if (k == 0) return c.bit(sign_) ? 1 : 0;
        if (k >= 32) return INT32_MIN;
        std::uint32_t v = c.symbol(corrections_[k]);
        if (k > kHighBits) v = v << (k - kHighBits) | c.bits(k - kHighBits);
        return v >= 1u << (k - 1) ? static_cast<std::int32_t>(v + 1)
                                  : static_cast<std::int32_t>(v - ((1u << k) - 1));
    }
    void write(Encoder& c, std::int32_t correction, SymbolModel& lengths) {
        const auto raw = static_cast<std::uint32_t>(correction);
        const std::uint32_t magnitude = correction <= 0 ? 0u - raw : raw - 1;
        const auto k = static_cast<unsigned>(std::bit_width(magnitude));
        last_length_ = k;
        c.symbol(lengths, k);
        if (k == 0) {
            c.bit(sign_, correction != 0);
        } else if (k < 32) {
            const std::uint32_t v = correction < 0 ? raw + ((1u << k) - 1) : raw - 1;
            if (k <= kHighBits) {
                c.symbol(corrections_[k], v);
            } else {
                const unsigned low = k - kHighBits;
                c.symbol(corrections_[k], v >> low);
                c.bits(low, v & ((1u << low) - 1));
            }
        }
    }

    unsigned bits_, last_length_ = 0;
    std::vector<SymbolModel> lengths_;
    BitModel sign_;
    std::array<SymbolModel, 33> corrections_;
};

/// A set of models of which few are ever used: each is made when first asked for.
class LazyModels {
  public:
    LazyModels(unsigned count, unsigned symbols) : symbols_(symbols), used_(count), models_(count) {}
    SymbolModel& operator[](std::size_t i) {
        if (!used_[i]) {
            models_[i].start(symbols_);
            used_[i] = 1;
        }
        return models_[i];
    }
    void restart() { std::fill(used_.begin(), used_.end(), char{0}); }

  private:
    unsigned symbols_;
    std::vector<char> used_;
    std::vector<SymbolModel> models_;
};

/// Running median of the last five values, by the rule of the format (it drops the largest and the smallest
/// in turn).
class Median5 {
  public:
    std::int32_t get() const { return v_[2]; }
    void add(std::int32_t x) {
        if (drop_high_) {
            if (x < v_[2]) {
                v_[4] = v_[3];
                v_[3] = v_[2];
                v_[2] = x < v_[1] ? v_[1] : x;
                if (x < v_[0]) {
                    v_[1] = v_[0];
                    v_[0] = x;
                } else if (x < v_[1]) {
                    v_[1] = x;
                }
            } else {
                v_[4] = x < v_[3] ? v_[3] : x;
                if (x < v_[3]) v_[3] = x;
                drop_high_ = false;
            }
        } else if (v_[2] < x) {
            v_[0] = v_[1];
            v_[1] = v_[2];
            v_[2] = v_[3] < x ? v_[3] : x;
            if (v_[4] < x) {
                v_[3] = v_[4];
                v_[4] = x;
            } else if (v_[3] < x) {
                v_[3] = x;
            }
        } else {
            v_[0] = v_[1] < x ? v_[1] : x;
            if (v_[1] < x) v_[1] = x;
            drop_high_ = true;
        }
    }

  private:
    std::array<std::int32_t, 5> v_{};
    bool drop_high_ = true;
};

}  // namespace pristine::io::laz
