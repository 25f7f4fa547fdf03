#include "core/site/origin_file.h"

namespace pristine::site {

// Behind the file stands its format: "scan.e57 (E57, 2 scans)".
std::filesystem::path origin_file(const Item& item) {
    const auto bracket = item.origin.rfind(" (");
    return bracket == std::string::npos ? std::string() : item.origin.substr(0, bracket);
}

}  // namespace pristine::site
