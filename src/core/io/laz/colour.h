// Colours of points: which bytes changed, then the change of each, green and blue predicted from red's.

#pragma once

#include <algorithm>
#include <array>

#include "core/io/laz/arithmetic.h"

namespace pristine::io::laz {

using Rgb = std::array<std::uint16_t, 3>;

/// The models that a colour is coded by, against the colour before it.
class RgbModels {
  public:
    void restart() {
        changed_.start(128);
        for (SymbolModel& m : bytes_) m.start(256);
    }

    template <class Coder>
    Rgb code(Coder& c, const Rgb& last, const Rgb& real) {
        unsigned sym = 0;
        if constexpr (Coder::kEncodes) sym = changes(last, real);
        sym = c.symbol(changed_, sym);
        Rgb now = last;
        const auto byte = [](std::uint16_t v, int high) {
            return static_cast<int>(high ? v >> 8 : v & 0xFF);
        };
        const auto put = [](std::uint16_t& v, int high, unsigned b) {
            v = static_cast<std::uint16_t>(high ? (v & 0x00FFu) | b << 8 : (v & 0xFF00u) | b);
        };
        // Bits of the symbol and models: red low, red high, green low, green high, blue low, blue high.
        const auto channel = [&](std::size_t k, int high, int prediction) {
            const std::size_t model = 2 * k + static_cast<std::size_t>(high);
            if (!(sym & 1u << model)) return;
            const int guess = std::clamp(prediction + byte(last[k], high), 0, 255);
            const unsigned fold = static_cast<unsigned>(byte(real[k], high) - guess) & 255u;
            put(now[k], high, (c.symbol(bytes_[model], fold) + static_cast<unsigned>(guess)) & 255u);
        };
        channel(0, 0, 0);
        channel(0, 1, 0);
        if (!(sym & 64u)) return {now[0], now[0], now[0]};
        for (int high = 0; high < 2; ++high) {
            const int red = byte(now[0], high) - byte(last[0], high);
            channel(1, high, red);
            channel(2, high, (red + byte(now[1], high) - byte(last[1], high)) / 2);
        }
        return now;
    }

  private:
    static unsigned changes(const Rgb& last, const Rgb& real) {
        unsigned sym = 0;
        for (std::size_t k = 0; k < 3; ++k) {
            const unsigned differs = last[k] ^ real[k];
            sym |= (differs & 0x00FFu ? 1u : 0u) << (2 * k) | (differs & 0xFF00u ? 2u : 0u) << (2 * k);
        }
        if (real[0] != real[1] || real[0] != real[2]) sym |= 64u;
        return sym;
    }

    SymbolModel changed_;
    std::array<SymbolModel, 6> bytes_;
};

/// The colour of a record, low byte first.
inline Rgb load_rgb(const std::byte* at) {
    Rgb v;
    std::memcpy(v.data(), at, 6);
    return v;
}

}  // namespace pristine::io::laz
