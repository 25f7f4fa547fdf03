// The project as an archive: all in one compact file.

#include "core/store/project.h"

namespace pristine::store {

std::uint64_t Project::copy_bytes() {
    const auto number = [&](const char* pragma) {
        Statement s = db_->prepare(pragma);
        return s.step() ? static_cast<std::uint64_t>(s.number(0)) : 0;
    };
    return (number("PRAGMA page_count") - number("PRAGMA freelist_count")) * number("PRAGMA page_size");
}

}  // namespace pristine::store
