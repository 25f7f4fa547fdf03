#include "core/cloud/sample.h"

#include <algorithm>

namespace pristine::cloud {
namespace {

constexpr std::size_t kSampleTarget = 1u << 18;
constexpr std::size_t kSamplePerBucket = 1u << 12;

void append_to(std::vector<std::int32_t>& to, const std::vector<std::int32_t>& from) {
    to.insert(to.end(), from.begin(), from.end());
}

}  // namespace

void Sample::add(const PointBatch& b, std::uint64_t base, std::uint64_t total) {
    const std::uint64_t stride = std::max<std::uint64_t>(1, total / kSampleTarget);
    for (std::uint64_t i = (stride - base % stride) % stride; i < b.size(); i += stride) {
        x.push_back(b.x[i]);
        y.push_back(b.y[i]);
        z.push_back(b.z[i]);
    }
}

void Sample::append(const Sample& other) {
    append_to(x, other.x);
    append_to(y, other.y);
    append_to(z, other.z);
}

CurveFrame Sample::frame() const {
    std::array<std::vector<std::int32_t>, 3> axes{x, y, z};
    return curve_frame(axes);
}

std::vector<std::uint64_t> Sample::splitters(const CurveFrame& frame, std::size_t buckets) const {
    std::vector<std::uint64_t> at, cuts;
    if (buckets < 2) return cuts;
    // Buckets that differ by a few parts in a hundred are even enough.
    const std::size_t step = std::max<std::size_t>(1, x.size() / (buckets * kSamplePerBucket));
    for (std::size_t i = 0; i < x.size(); i += step) at.push_back(frame.index(x[i], y[i], z[i]));
    std::sort(at.begin(), at.end());
    for (std::size_t k = 1; k < buckets; ++k) cuts.push_back(at[k * at.size() / buckets]);
    cuts.erase(std::unique(cuts.begin(), cuts.end()), cuts.end());
    return cuts;
}

std::size_t bucket_of(const std::vector<std::uint64_t>& splitters, std::uint64_t position) {
    return static_cast<std::size_t>(std::upper_bound(splitters.begin(), splitters.end(), position) -
                                    splitters.begin());
}

}  // namespace pristine::cloud
