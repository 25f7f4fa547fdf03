#include "core/surface/orthophoto.h"

#include <cmath>

#include "core/base/bytes.h"
#include "core/base/compress.h"
#include "core/base/error.h"

namespace pristine::surface {
namespace {

constexpr std::size_t kHead = 2 * 4 + 6 * 8;

}  // namespace

Orthophoto::Orthophoto(std::string name, int width, int height, const std::array<double, 6>& at,
                       std::vector<std::uint32_t> pixels)
    : name_(std::move(name)), at_(at), picture_(width, height, std::move(pixels)) {
    const double det = std::fabs(at[1] * at[5] - at[2] * at[4]);
    if (!(det > 0) || !std::isfinite(det))
        throw Error(ErrorCode::Usage, "It is not said where the picture lies");
    per_unit_ = std::sqrt(det);
}

std::uint32_t Orthophoto::colour(double x, double y, double size) const {
    return picture_.colour(at_[0] + at_[1] * x + at_[2] * y, at_[3] + at_[4] * x + at_[5] * y,
                           size * per_unit_);
}

std::string Orthophoto::packed() const {
    const std::vector<std::uint32_t>& pixels = picture_.pixels();
    std::string head(kHead, '\0');
    store_le(head.data(), static_cast<std::int32_t>(width()));
    store_le(head.data() + 4, static_cast<std::int32_t>(height()));
    for (std::size_t k = 0; k < 6; ++k) store_le(head.data() + 8 + 8 * k, at_[k]);
    std::string raw(pixels.size() * 4, '\0');
    for (std::size_t i = 0; i < pixels.size(); ++i) store_le(raw.data() + 4 * i, pixels[i]);
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
