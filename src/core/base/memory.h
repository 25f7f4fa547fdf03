// What the process holds in memory, and a setting of the allocator that gives pages back when they are freed.

#pragma once

#include <cstdint>

namespace pristine {

/// Bytes resident now, and the most there ever was; 0 where the system does not tell.
struct ResidentMemory {
    std::uint64_t now = 0, peak = 0;
};
ResidentMemory resident_memory();

/// Makes freed page buffers go back to the system at once. Call first thing in main().
void give_freed_pages_back();

}  // namespace pristine
