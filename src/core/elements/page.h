// The page: the unit of memory sharing, of undo, of parallel work, of drawing and of the project file.

#pragma once

#include <cstddef>
#include <cstdint>

namespace pristine {

inline constexpr std::size_t kPageSize = 65536;  ///< elements in every page but the last
inline constexpr std::size_t kBlockSize = 8192;  ///< elements in a block, a compact place shuffled inside
inline constexpr std::size_t kBlocksPerPage = kPageSize / kBlockSize;

/// How many pages hold `count` elements.
constexpr std::size_t pages_for(std::uint64_t count) {
    return static_cast<std::size_t>((count + kPageSize - 1) / kPageSize);
}
/// How many elements page `page` of `count` elements holds.
constexpr std::size_t page_length(std::uint64_t count, std::size_t page) {
    const std::uint64_t first = std::uint64_t{page} * kPageSize;
    return static_cast<std::size_t>(count - first < kPageSize ? count - first : kPageSize);
}

}  // namespace pristine
