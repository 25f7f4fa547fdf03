// Pages of an array that are not held in memory as such.
//
// A source owes a reader two things: a page as a whole, whose place in memory stays valid as long as the
// source lives, and the head of each block without any loading: the first elements of a block are an even
// sample of its place, so that a moving picture is drawn from heads alone.

#pragma once

#include <cstddef>
#include <span>

#include "core/elements/page.h"

namespace pristine {

/// How many elements at the start of each block are always at hand.
inline constexpr std::size_t kBlockHead = 256;

/// Where pages come from that are not in memory.
template <class T>
class PageSource {
  public:
    virtual ~PageSource() = default;
    /// Thread safe. The span stays valid as long as the source lives.
    virtual std::span<const T> page(std::size_t page) const = 0;
    /// The first kBlockHead elements of a block, or all of a shorter one.
    virtual std::span<const T> head(std::size_t page, std::size_t block) const = 0;
};

}  // namespace pristine
