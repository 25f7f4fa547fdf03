// The space-filling curve that decides the order of points in pages, and the fixed shuffle inside a block.
//
// Method: compact Hilbert indices by a table of 24 states (Hamilton & Rau-Chaplin 2008, "Compact Hilbert
// indices: space-filling curves for domains with unequal side lengths"), with equal sides, two levels a step.

#pragma once

#include <array>
#include <cstdint>
#include <vector>

namespace pristine::cloud {

inline constexpr int kCurveBits = 15;  ///< per axis; with 19 bits of index a sort key fits 64 bits

/// Position along the curve of the cell (x, y, z), each below 2^kCurveBits. A bijection onto [0, 2^45); cells
/// next to each other on the curve are next to each other in space.
std::uint64_t curve_index(std::uint32_t x, std::uint32_t y, std::uint32_t z);

/// The integer grid laid over a cloud for the curve: robust against strays, which fall into the cells at its
/// rim.
struct CurveFrame {
    std::array<std::int64_t, 3> lo{};
    int shift = 0;  ///< right shift that brings a difference to lo below 2^kCurveBits

    std::uint64_t index(std::int32_t x, std::int32_t y, std::int32_t z) const {
        return curve_index(cell(x, 0), cell(y, 1), cell(z, 2));
    }

  private:
    std::uint32_t cell(std::int32_t v, std::size_t axis) const {
        const std::int64_t d = (std::int64_t{v} - lo[axis]) >> shift;
        constexpr std::int64_t top = (std::int64_t{1} << kCurveBits) - 1;
        return static_cast<std::uint32_t>(d < 0 ? 0 : d > top ? top : d);
    }
};

/// The frame for a cloud of which `samples[axis]` is an even sample (reordered by the call; empty gives a
/// zero frame): it spans the 0.1 % to 99.9 % quantiles with half as much again on either side.
CurveFrame curve_frame(std::array<std::vector<std::int32_t>, 3>& samples);

/// The shuffle of a block of `length` elements: new position i holds old element shuffle[i]. Same length,
/// same shuffle.
const std::vector<std::uint16_t>& block_shuffle(std::size_t length);

}  // namespace pristine::cloud
