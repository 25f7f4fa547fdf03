// An E57 file of two scans with pictures in it, of which it is known what colour each point must get.

#pragma once

#include <cstdint>
#include <filesystem>

#include "core/geometry/vec.h"

namespace pristine::test {

enum class PicturedFault { None, OffsetOutside, NoSize, NoPicture };

/// Scan 1 with a spherical picture ("dome") and a cylindrical one ("drum"), scan 2 with one through a pinhole
/// ("window"), and a picture without a projection ("overview"). The fault is one of the dome.
void write_pictured_e57(const std::filesystem::path&, PicturedFault = PicturedFault::None);

struct PicturedTruth {
    static constexpr Vec3 kFirst{412300, 5218930, 59.5}, kSecond{412320, 5218930, 59.5};
    /// Of a point of that file, 0xRRGGBB; grey where no picture shows it.
    std::uint32_t colour(const Vec3& point) const;
};

}  // namespace pristine::test
