#include "core/report/viewer.h"

#ifdef PRISTINE_VIEWER_FILE
// The bytes as they are: as a text of half a megabyte they would take the compiler seconds.
__asm__(
    ".section .rodata\n"
    ".global pristine_viewer_begin\n"
    "pristine_viewer_begin:\n"
    ".incbin \"" PRISTINE_VIEWER_FILE
    "\"\n"
    ".global pristine_viewer_end\n"
    "pristine_viewer_end:\n"
    ".byte 0\n"
    ".previous\n");
extern "C" const char pristine_viewer_begin[];
extern "C" const char pristine_viewer_end[];
#endif

namespace pristine::report {

std::string_view viewer_script() {
#ifdef PRISTINE_VIEWER_FILE
    return {pristine_viewer_begin, static_cast<std::size_t>(pristine_viewer_end - pristine_viewer_begin)};
#else
    return {};
#endif
}

}  // namespace pristine::report
