// pristine-reader: called by the other programs for files whose reader is not ours
// (core/io/foreign/guarded.h).

#include "core/io/foreign/guarded.h"

int main(int argc, char** argv) {
    return pristine::io::reader_main({argv + 1, argv + argc});
}
