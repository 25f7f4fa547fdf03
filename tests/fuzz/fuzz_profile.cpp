// Any bytes as a design profile: an Error, or three corners and more that are numbers.

#include "fuzz_support.h"

extern "C" int LLVMFuzzerTestOneInput(const std::uint8_t* data, std::size_t size) {
    return pristine::fuzz::read_profile(data, size);
}
