#include "core/site/origin_file.h"

namespace pristine::site {

// Behind the file stands its format: "scan.e57 (E57, 2 scans)".
std::filesystem::path origin_file(const Item& item) {
    return item.origin.substr(0, item.origin.rfind(" ("));
}

}  // namespace pristine::site
