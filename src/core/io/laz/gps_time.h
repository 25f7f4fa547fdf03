// GPS times of points: differences to the times of up to four interleaved sequences, as multiples of the last
// difference.

#pragma once

#include <algorithm>
#include <array>

#include "core/io/laz/integer.h"

namespace pristine::io::laz {

/// Codes times against the sequences that they belong to.
class GpsTimeCoder {
  public:
    /// Point formats 0-5 have a symbol for "unchanged"; in 6-10 an unchanged time is told elsewhere.
    explicit GpsTimeCoder(bool has_unchanged_symbol)
        : shift_(has_unchanged_symbol ? 1 : 0), full_(511 + shift_), differences_(32, 9) {
        restart(0);
    }
    void restart(std::int64_t first) {
        at_ = next_ = 0;
        times_ = {first, 0, 0, 0};
        last_difference_ = {};
        extremes_ = {};
        multiples_.start(515 + shift_);
        from_zero_.start(5 + shift_);
        differences_.restart();
    }

    /// The bits of the double as an integer.
    template <class Coder>
    std::int64_t code(Coder& c, std::int64_t time) {
        // A valid stream changes sequence once at most before a time comes.
        for (int changes = 0; changes < 4; ++changes) {
            const bool done = last_difference_[at_] == 0 ? after_zero(c, time) : after_difference(c, time);
            if (done) return times_[at_];
        }
        throw Error(ErrorCode::Format, "Compressed GPS times are damaged");
    }

  private:
    static constexpr int kMost = 500, kLeast = -10;

    static std::int64_t plus(std::int64_t a, std::int64_t b) {
        return static_cast<std::int64_t>(static_cast<std::uint64_t>(a) + static_cast<std::uint64_t>(b));
    }
    static bool difference(std::int64_t a, std::int64_t b, std::int32_t& d) {
        const auto whole =
            static_cast<std::int64_t>(static_cast<std::uint64_t>(a) - static_cast<std::uint64_t>(b));
        d = static_cast<std::int32_t>(whole);
        return whole == d;
    }
    unsigned other_sequence(std::int64_t time) const {
        std::int32_t d = 0;
        for (unsigned i = 1; i < 4; ++i)
            if (difference(time, times_[(at_ + i) & 3], d)) return i;
        return 0;
    }
    void set_difference(std::int32_t d) {
        last_difference_[at_] = d;
        extremes_[at_] = 0;
    }
    void count_extreme(std::int32_t d) {
        if (++extremes_[at_] > 3) set_difference(d);
    }

    template <class Coder>
    void code_whole(Coder& c, std::int64_t time) {
        const auto high = static_cast<std::uint32_t>(differences_.code(
            c, static_cast<std::int32_t>(times_[at_] >> 32), static_cast<std::int32_t>(time >> 32), 8));
        const std::uint32_t low = c.bits(32, static_cast<std::uint32_t>(time));
        at_ = next_ = (next_ + 1) & 3;
        times_[at_] = static_cast<std::int64_t>(std::uint64_t{high} << 32 | low);
        set_difference(0);
    }

    template <class Coder>
    bool after_zero(Coder& c, std::int64_t time) {
        unsigned s = 0;
        std::int32_t d = 0;
        if constexpr (Coder::kEncodes) {
            if (shift_ && time == times_[at_])
                s = 0;
            else if (difference(time, times_[at_], d))
                s = shift_;
            else if (const unsigned i = other_sequence(time))
                s = shift_ + 1 + i;
            else
                s = shift_ + 1;
        }
        s = c.symbol(from_zero_, s);
        if (s < shift_) return true;
        if (s == shift_) {
            d = differences_.code(c, 0, d, 0);
            times_[at_] = plus(times_[at_], d);
            set_difference(d);
            return true;
        }
        if (s == shift_ + 1) {
            code_whole(c, time);
            return true;
        }
        at_ = (at_ + s - shift_ - 1) & 3;
        return false;
    }

    static int multiple_of(std::int32_t d, std::int32_t unit) {
        const float f = static_cast<float>(d) / static_cast<float>(unit);
        return static_cast<int>(std::clamp(f >= 0 ? f + 0.5f : f - 0.5f, -1000.0f, 1000.0f));
    }

    template <class Coder>
    bool after_difference(Coder& c, std::int64_t time) {
        unsigned s = 0;
        std::int32_t d = 0;
        if constexpr (Coder::kEncodes) {
            if (shift_ && time == times_[at_])
                s = full_ - 1;
            else if (difference(time, times_[at_], d)) {
                const int m = multiple_of(d, last_difference_[at_]);
                s = static_cast<unsigned>(m >= 0 ? std::min(m, kMost) : kMost - std::max(m, kLeast));
            } else {
                s = full_ + other_sequence(time);
            }
        }
        s = c.symbol(multiples_, s);
        if (s == full_) {
            code_whole(c, time);
            return true;
        }
        if (s > full_) {
            at_ = (at_ + s - full_) & 3;
            return false;
        }
        if (shift_ && s == full_ - 1) return true;
        code_multiple(c, static_cast<int>(s), d);
        return true;
    }

    template <class Coder>
    void code_multiple(Coder& c, int s, std::int32_t d) {
        const int m = s <= kMost ? s : kMost - s;
        const unsigned context = m == 1        ? 1u
                                 : m == 0      ? 7u
                                 : m == kMost  ? 4u
                                 : m == kLeast ? 6u
                                 : m < 0       ? 5u
                                 : m < 10      ? 2u
                                               : 3u;
        d = differences_.code(c, wrap_mul(m, last_difference_[at_]), d, context);
        times_[at_] = plus(times_[at_], d);
        if (m == 1)
            extremes_[at_] = 0;
        else if (m == 0 || m == kMost || m == kLeast)
            count_extreme(d);
    }

    unsigned shift_, full_, at_ = 0, next_ = 0;
    std::array<std::int64_t, 4> times_{};
    std::array<std::int32_t, 4> last_difference_{}, extremes_{};
    SymbolModel multiples_, from_zero_;
    IntegerCoder differences_;
};

}  // namespace pristine::io::laz
