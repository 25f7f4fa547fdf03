// SplitMix64 (Steele, Lea & Flood 2014): small, good, and the same everywhere.

#pragma once

#include <algorithm>
#include <cmath>
#include <cstdint>
#include <numbers>

namespace pristine::demo {

class Dice {
  public:
    explicit Dice(std::uint64_t seed) : state_(seed) {}
    double uniform() {
        state_ += 0x9E3779B97F4A7C15u;
        std::uint64_t z = state_;
        z = (z ^ (z >> 30)) * 0xBF58476D1CE4E5B9u;
        z = (z ^ (z >> 27)) * 0x94D049BB133111EBu;
        return static_cast<double>((z ^ (z >> 31)) >> 11) * 0x1.0p-53;
    }
    double between(double lo, double hi) { return lo + (hi - lo) * uniform(); }
    double normal() {
        const double u = std::max(uniform(), 1e-300);
        return std::sqrt(-2 * std::log(u)) * std::cos(2 * std::numbers::pi * uniform());
    }

  private:
    std::uint64_t state_;
};

}  // namespace pristine::demo
