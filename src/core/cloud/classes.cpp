#include "core/cloud/classes.h"

#include <algorithm>
#include <array>
#include <iterator>
#include <mutex>

#include "core/base/parallel.h"

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

std::uint32_t class_colour(int code) {
    static constexpr std::uint32_t kNamed[] = {
        0xB9B2A4, 0xCFC8BA, 0x9C7B53, 0xA5B86A, 0x74A04F, 0x3E7F3C, 0xC77452, 0xE0457B, 0x7E8CC4, 0x3F86C2,
        0x6E6A75, 0x84807A, 0xD9A441, 0x4FB0A6, 0xE2C14B, 0x8E6BB0, 0x5C92A8, 0xAA8F7A, 0xF0595A};
    if (code < static_cast<int>(std::size(kNamed))) return kNamed[code];
    const auto h = static_cast<std::uint32_t>(code) * 2654435761u;
    return 0x606060 + (h & 0x7F7F7Fu);
}

namespace {

using ClassSets = std::map<std::uint8_t, ElementSet>;

ClassSets sets_of(const PointCloud& c) {
    ClassSets out;
    if (!c.classification()) {
        if (c.size() > 0) out.emplace(std::uint8_t{0}, ElementSet::all(c.size()));
        return out;
    }
    using PageSets = std::map<std::uint8_t, PageBits>;
    for (const auto& [code, count] : class_counts(c))
        out.emplace(static_cast<std::uint8_t>(code), ElementSet(c.size()));
    std::array<ElementSet*, 256> set{};
    for (auto& [code, one] : out) set[code] = &one;
    // Pages of a set are apart from each other: each may be written by a thread of its own.
    parallel::for_each(c.page_count(), [&](std::size_t p) {
        const auto page = c.classification()->page(p);
        PageSets bits;
        std::uint8_t last = page.empty() ? std::uint8_t{0} : page[0];
        PageBits* now = nullptr;
        for (std::size_t i = 0; i < page.size(); ++i) {
            if (!now || page[i] != last) now = &bits[last = page[i]];
            now->set(i);
        }
        for (const auto& [code, one] : bits) set[code]->set_page(p, one);
    });
    return out;
}

}  // namespace

std::shared_ptr<const ClassSets> class_sets(const std::shared_ptr<const PointCloud>& cloud) {
    struct Known {
        std::weak_ptr<const PointCloud> cloud;
        std::shared_ptr<const ClassSets> sets;
    };
    constexpr std::size_t kRemembered = 8;
    static std::mutex guard;
    static std::array<Known, kRemembered> known;  // the one asked for last first
    // Another reference of a cloud has the same classes.
    const std::shared_ptr<const PointCloud>& own = cloud->base() ? cloud->base() : cloud;
    {
        const std::lock_guard lock(guard);
        for (Known& k : known)
            if (k.sets && k.cloud.lock() == own) {
                std::rotate(known.data(), &k, &k + 1);
                return known[0].sets;
            }
    }
    auto fresh = std::make_shared<const ClassSets>(sets_of(*own));
    const std::lock_guard lock(guard);
    std::rotate(known.begin(), known.end() - 1, known.end());
    known[0] = {own, fresh};
    return fresh;
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
