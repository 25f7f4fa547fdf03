// Differences of 32-bit coordinates in 32 bits, so that loops over them vectorise.

#pragma once

#include <cstdint>

namespace pristine {

/// a - b modulo 2^32. Right whenever the true difference fits; for points more than 2^31 steps apart it
/// wraps, which the callers allow for: such points are nobody's neighbours, and lie outside of every block
/// that is looked into.
inline std::int32_t wrapped_difference(std::int32_t a, std::int32_t b) {
    return static_cast<std::int32_t>(static_cast<std::uint32_t>(a) - static_cast<std::uint32_t>(b));
}

}  // namespace pristine
