// Any bytes as a stored set of elements.

#include "core/base/error.h"
#include "core/elements/element_set.h"

extern "C" int LLVMFuzzerTestOneInput(const std::uint8_t* data, std::size_t size) {
    try {
        const auto s = pristine::ElementSet::unpacked({reinterpret_cast<const char*>(data), size});
        if (!(pristine::ElementSet::unpacked(s.packed()) == s)) __builtin_trap();
    } catch (const pristine::Error&) {
    }
    return 0;
}
