// Large blocks of memory that were let go are kept for whoever asks next.
//
// give_freed_pages_back() (memory.h) makes the system take back every large block at once, so that what is
// resident is what is held. But a block from the system comes page by page, each cleared first, and a step
// that takes a tenth of a second spends a fifth of it on that. So operator new and delete, replaced here,
// hold on to a few blocks: no more than kMostKept bytes in all, the oldest go first. Not in builds with
// sanitizers.

#pragma once

#include <cstddef>

namespace pristine {

inline constexpr std::size_t kMostKept = std::size_t{64} << 20;

/// Whether this build keeps any.
bool keeps_blocks();

/// Bytes that are kept just now. Thread safe.
std::size_t kept_blocks();

/// Gives all of them back to the system: for when nothing will run for a while. Thread safe.
void let_kept_blocks_go();

}  // namespace pristine
