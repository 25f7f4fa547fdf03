// Any bytes as a table of markers: an Error, or markers whose places and radii are numbers.

#include "fuzz_support.h"

extern "C" int LLVMFuzzerTestOneInput(const std::uint8_t* data, std::size_t size) {
    return pristine::fuzz::read_markers(data, size);
}
