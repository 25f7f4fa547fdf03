#include "core/base/mipmap.h"

#include <algorithm>
#include <cmath>

#include "core/base/error.h"

namespace pristine {
namespace {

// The mean of up to four pixels; empty ones do not count.
std::uint32_t mean(const std::uint32_t* begin, const std::uint32_t* end) {
    std::uint32_t n = 0, sum[3] = {};
    for (const std::uint32_t* p = begin; p != end; ++p) {
        if (*p >> 24 == 0) continue;
        ++n;
        for (int k = 0; k < 3; ++k) sum[k] += (*p >> (8 * k)) & 255u;
    }
    if (n == 0) return 0;
    std::uint32_t c = 0xFF000000u;
    for (int k = 0; k < 3; ++k) c |= (sum[k] + n / 2) / n << (8 * k);
    return c;
}

}  // namespace

Mipmap::Mipmap(int width, int height, std::vector<std::uint32_t> pixels) {
    if (width < 1 || height < 1 ||
        pixels.size() != static_cast<std::size_t>(width) * static_cast<std::size_t>(height))
        throw Error(ErrorCode::Usage, "The size of a picture does not fit its pixels");
    levels_.push_back({width, height, std::move(pixels)});
    while (levels_.back().width > 1 || levels_.back().height > 1) {
        const Level& fine = levels_.back();
        Level l{(fine.width + 1) / 2, (fine.height + 1) / 2, {}};
        l.pixels.reserve(static_cast<std::size_t>(l.width) * static_cast<std::size_t>(l.height));
        for (int y = 0; y < l.height; ++y)
            for (int x = 0; x < l.width; ++x) {
                std::uint32_t four[4];
                std::uint32_t* to = four;
                for (int v = 2 * y; v < std::min(2 * y + 2, fine.height); ++v)
                    for (int u = 2 * x; u < std::min(2 * x + 2, fine.width); ++u)
                        *to++ =
                            fine.pixels[static_cast<std::size_t>(v) * static_cast<std::size_t>(fine.width) +
                                        static_cast<std::size_t>(u)];
                l.pixels.push_back(mean(four, to));
            }
        levels_.push_back(std::move(l));
    }
}

std::uint32_t Mipmap::colour(double column, double row, double spot) const {
    if (!(column >= 0 && row >= 0 && column < width() && row < height())) return 0;
    const auto level = static_cast<std::size_t>(
        std::clamp(spot > 1 ? std::log2(spot) : 0.0, 0.0, static_cast<double>(levels_.size() - 1)));
    const Level& l = levels_[level];
    const auto u = static_cast<std::size_t>(column) >> level, v = static_cast<std::size_t>(row) >> level;
    return l.pixels[v * static_cast<std::size_t>(l.width) + u];
}

}  // namespace pristine
