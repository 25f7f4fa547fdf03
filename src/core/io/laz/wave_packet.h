// Wave packet descriptors, 29 bytes: index, offset in the waveform data, size, return point, direction.

#pragma once

#include "core/base/bytes.h"
#include "core/io/laz/integer.h"

namespace pristine::io::laz {

constexpr std::size_t kWaveBytes = 29;

/// Codes wave packets against the one before.
class WavePacketCoder {
  public:
    WavePacketCoder() : offset_(32, 1), size_(32, 1), return_point_(32, 1), direction_(32, 3) {}
    void restart(const std::byte* first) {
        std::memcpy(last_.data(), first, kWaveBytes);
        index_.start(256);
        for (SymbolModel& m : kind_) m.start(4);
        for (IntegerCoder* i : {&offset_, &size_, &return_point_, &direction_}) i->restart();
        last_kind_ = 0;
        last_step_ = 0;
    }
    std::byte* last() { return last_.data(); }

    template <class Coder>
    void code(Coder& c, std::byte* item) {
        code(c, item, last_.data());
    }
    /// With a last packet that is kept elsewhere.
    template <class Coder>
    void code(Coder& c, std::byte* item, std::byte* last) {
        item[0] = static_cast<std::byte>(c.symbol(index_, static_cast<unsigned>(item[0])));
        const auto old_offset = load_le<std::uint64_t>(last + 1);
        const auto old_size = load_le<std::uint32_t>(last + 9);
        store_le(item + 1, code_offset(c, old_offset, old_size, load_le<std::uint64_t>(item + 1)));
        const auto number = [&](IntegerCoder& i, std::size_t at, unsigned context) {
            store_le(item + at,
                     i.code(c, load_le<std::int32_t>(last + at), load_le<std::int32_t>(item + at), context));
        };
        number(size_, 9, 0);
        number(return_point_, 13, 0);
        for (unsigned a = 0; a < 3; ++a) number(direction_, 17 + 4 * a, a);
        std::memcpy(last, item, kWaveBytes);
    }

  private:
    template <class Coder>
    std::uint64_t code_offset(Coder& c, std::uint64_t old, std::uint32_t old_size, std::uint64_t real) {
        std::int32_t step = 0;
        unsigned kind = 0;
        if constexpr (Coder::kEncodes) {
            const auto whole = static_cast<std::int64_t>(real - old);
            step = static_cast<std::int32_t>(whole);
            kind = whole != step ? 3 : step == 0 ? 0 : static_cast<std::uint32_t>(step) == old_size ? 1 : 2;
        }
        last_kind_ = kind = c.symbol(kind_[last_kind_], kind);
        if (kind == 0) return old;
        if (kind == 1) return old + old_size;
        if (kind == 2) {
            last_step_ = offset_.code(c, last_step_, step, 0);
            return old + static_cast<std::uint64_t>(std::int64_t{last_step_});
        }
        const std::uint64_t low = c.bits(32, static_cast<std::uint32_t>(real));
        return low | std::uint64_t{c.bits(32, static_cast<std::uint32_t>(real >> 32))} << 32;
    }

    std::array<std::byte, kWaveBytes> last_{};
    SymbolModel index_;
    std::array<SymbolModel, 4> kind_;
    IntegerCoder offset_, size_, return_point_, direction_;
    unsigned last_kind_ = 0;
    std::int32_t last_step_ = 0;
};

}  // namespace pristine::io::laz
