#include "core/surface/orthophoto.h"

#include <algorithm>
#include <cmath>

#include "core/base/bytes.h"
#include "core/base/compress.h"
#include "core/base/error.h"

namespace pristine::surface {
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

constexpr std::size_t kHead = 2 * 4 + 6 * 8;

}  // namespace

Orthophoto::Orthophoto(std::string name, int width, int height, const std::array<double, 6>& at,
                       std::vector<std::uint32_t> pixels)
    : name_(std::move(name)), at_(at) {
    if (width < 1 || height < 1 ||
        pixels.size() != static_cast<std::size_t>(width) * static_cast<std::size_t>(height))
        throw Error(ErrorCode::Usage, "The size of a picture does not fit its pixels");
    const double det = std::fabs(at[1] * at[5] - at[2] * at[4]);
    if (!(det > 0) || !std::isfinite(det))
        throw Error(ErrorCode::Usage, "It is not said where the picture lies");
    per_unit_ = std::sqrt(det);
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

std::uint32_t Orthophoto::colour(double x, double y, double size) const {
    const double column = at_[0] + at_[1] * x + at_[2] * y, row = at_[3] + at_[4] * x + at_[5] * y;
    if (!(column >= 0 && row >= 0 && column < width() && row < height())) return 0;
    const double spot = size * per_unit_;
    const auto level = static_cast<std::size_t>(
        std::clamp(spot > 1 ? std::log2(spot) : 0.0, 0.0, static_cast<double>(levels_.size() - 1)));
    const Level& l = levels_[level];
    const auto u = static_cast<std::size_t>(column) >> level, v = static_cast<std::size_t>(row) >> level;
    return l.pixels[v * static_cast<std::size_t>(l.width) + u];
}

std::string Orthophoto::packed() const {
    const Level& l = levels_[0];
    std::string head(kHead, '\0');
    store_le(head.data(), static_cast<std::int32_t>(l.width));
    store_le(head.data() + 4, static_cast<std::int32_t>(l.height));
    for (std::size_t k = 0; k < 6; ++k) store_le(head.data() + 8 + 8 * k, at_[k]);
    std::string raw(l.pixels.size() * 4, '\0');
    for (std::size_t i = 0; i < l.pixels.size(); ++i) store_le(raw.data() + 4 * i, l.pixels[i]);
    return pack(head + to_planes(raw, 4) + name_);
}

Orthophoto Orthophoto::unpacked(const std::string& text) {
    const std::string bytes = unpack(text, std::uint64_t{1} << 33);
    if (bytes.size() < kHead) throw Error(ErrorCode::Format, "A picture of the ground is damaged");
    const auto* raw = reinterpret_cast<const std::byte*>(bytes.data());
    const auto width = load_le<std::int32_t>(raw), height = load_le<std::int32_t>(raw + 4);
    std::array<double, 6> at{};
    for (std::size_t k = 0; k < 6; ++k) at[k] = load_le<double>(raw + 8 + 8 * k);
    if (width < 1 || height < 1 || width > 1'000'000 || height > 1'000'000 ||
        bytes.size() - kHead < 4 * static_cast<std::size_t>(width) * static_cast<std::size_t>(height))
        throw Error(ErrorCode::Format, "A picture of the ground is damaged");
    const std::size_t n = static_cast<std::size_t>(width) * static_cast<std::size_t>(height);
    const std::string planes = from_planes(std::string_view(bytes).substr(kHead, 4 * n), 4);
    std::vector<std::uint32_t> pixels(n);
    for (std::size_t i = 0; i < n; ++i)
        pixels[i] = load_le<std::uint32_t>(reinterpret_cast<const std::byte*>(planes.data()) + 4 * i);
    return Orthophoto(bytes.substr(kHead + 4 * n), width, height, at, std::move(pixels));
}

}  // namespace pristine::surface
