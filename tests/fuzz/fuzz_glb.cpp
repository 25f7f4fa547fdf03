// Any bytes as a .glb file: an Error, or triangles that name vertices that are there, with as much of each
// attribute as there are triangles.

#include "fuzz_support.h"

extern "C" int LLVMFuzzerTestOneInput(const std::uint8_t* data, std::size_t size) {
    return pristine::fuzz::read_meshes(data, size, "glb");
}
