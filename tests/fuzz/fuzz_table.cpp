// Any bytes as a table of markers whose columns somebody named: an Error, or markers that are numbers.

#include "fuzz_support.h"

extern "C" int LLVMFuzzerTestOneInput(const std::uint8_t* data, std::size_t size) {
    return pristine::fuzz::read_marker_table(data, size);
}
