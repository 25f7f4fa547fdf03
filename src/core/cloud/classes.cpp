#include "core/cloud/classes.h"

#include <array>

namespace pristine::cloud {

std::string class_name(int code) {
    static constexpr std::array<const char*, 23> kNames{"Never classified",
                                                        "Unclassified",
                                                        "Ground",
                                                        "Low vegetation",
                                                        "Medium vegetation",
                                                        "High vegetation",
                                                        "Building",
                                                        "Low point (noise)",
                                                        "",
                                                        "Water",
                                                        "Rail",
                                                        "Road surface",
                                                        "",
                                                        "Wire, guard",
                                                        "Wire, conductor",
                                                        "Transmission tower",
                                                        "Wire connector",
                                                        "Bridge deck",
                                                        "High noise",
                                                        "Overhead structure",
                                                        "Ignored ground",
                                                        "Snow",
                                                        "Temporal exclusion"};
    return code >= 0 && code < static_cast<int>(kNames.size()) ? kNames[static_cast<std::size_t>(code)] : "";
}

std::map<int, std::uint64_t> class_counts(const PointCloud& c) {
    std::map<int, std::uint64_t> out;
    if (!c.classification()) return out;
    std::array<std::uint64_t, 256> counts{};
    for (std::size_t p = 0; p < c.page_count(); ++p)
        for (const std::uint8_t k : c.classification()->page(p)) ++counts[k];
    for (std::size_t k = 0; k < counts.size(); ++k)
        if (counts[k] > 0) out[static_cast<int>(k)] = counts[k];
    return out;
}

}  // namespace pristine::cloud
