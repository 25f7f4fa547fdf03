#define CATCH_CONFIG_RUNNER
#include <catch2/catch.hpp>

#include "core/base/memory.h"

int main(int argc, char** argv) {
    pristine::give_freed_pages_back();
    return Catch::Session().run(argc, argv);
}
