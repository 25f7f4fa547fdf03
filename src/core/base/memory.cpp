#include "core/base/memory.h"

#include <malloc.h>

#include <fstream>
#include <string>

namespace pristine {

ResidentMemory resident_memory() {
    ResidentMemory memory;
    std::ifstream status("/proc/self/status");
    std::string key;
    std::uint64_t kib = 0;
    while (status >> key) {
        if (key == "VmRSS:" && status >> kib) memory.now = kib * 1024;
        if (key == "VmHWM:" && status >> kib) memory.peak = kib * 1024;
    }
    return memory;
}

void give_freed_pages_back() {
    // A fixed threshold: left alone, glibc raises it after the first large free and then keeps freed pages in
    // its heap.
    mallopt(M_MMAP_THRESHOLD, 128 * 1024);
}

}  // namespace pristine
