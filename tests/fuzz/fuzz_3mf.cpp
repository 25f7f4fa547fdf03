// Any bytes as a .3mf file: an Error, or triangles that name vertices that are there.

#include "fuzz_support.h"

extern "C" int LLVMFuzzerTestOneInput(const std::uint8_t* data, std::size_t size) {
    return pristine::fuzz::read_meshes(data, size, "3mf");
}
