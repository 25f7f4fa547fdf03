// When a shape takes a triangle.

#pragma once

#include <cstdint>

namespace pristine::select {

/// When a shape takes a triangle.
enum class Reach : std::uint8_t {
    Middle,   ///< its middle lies in the shape
    Touches,  ///< some of it does, border included
    Whole     ///< all of it does
};

}  // namespace pristine::select
