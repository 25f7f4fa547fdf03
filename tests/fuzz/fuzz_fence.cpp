// Any bytes as a text of rings: an Error, or a result that can be looked into; never a crash, a hang or a
// large allocation.

#include "fuzz_support.h"

extern "C" int LLVMFuzzerTestOneInput(const std::uint8_t* data, std::size_t size) {
    return pristine::fuzz::read_fence(data, size, "txt");
}
