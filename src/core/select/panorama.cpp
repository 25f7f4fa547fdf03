#include "core/select/panorama.h"

#include <algorithm>
#include <atomic>
#include <bit>
#include <cmath>
#include <numbers>

#include "core/base/error.h"
#include "core/base/parallel.h"

namespace pristine::select {
namespace {

constexpr double kDeg = 180 / std::numbers::pi;

std::uint64_t key_of(float range, std::uint64_t element) {
    return std::uint64_t{std::bit_cast<std::uint32_t>(range)} << 32 | element;
}

}  // namespace

PixelPoint PanoramaFrame::project(Vec3 p, double& range) const {
    const Vec3 d = p - station;
    const double flat = std::hypot(d.x, d.y);
    range = std::sqrt(flat * flat + d.z * d.z);
    double azimuth = std::atan2(d.x, d.y) * kDeg - left_deg;
    azimuth -= 360 * std::floor(azimuth / 360);
    return {azimuth * pixels_per_deg, (top_deg - std::atan2(d.z, flat) * kDeg) * pixels_per_deg};
}

PanoramaFrame panorama_for(const cloud::PointCloud& cloud, const ElementSet& eligible, Vec3 station,
                           int width) {
    PanoramaFrame f;
    f.station = station;
    f.width = width;
    f.pixels_per_deg = width / 360.0;
    std::vector<double> elevations;
    const std::uint64_t stride = std::max<std::uint64_t>(1, eligible.count() / 50'000);
    std::uint64_t k = 0;
    eligible.for_each([&](std::uint64_t e) {
        if (k++ % stride) return;
        double range = 0;
        const double y = f.project(cloud.position(e), range).y;
        if (range > 0) elevations.push_back(f.top_deg - y / f.pixels_per_deg);
    });
    double low = -60, high = 60;
    if (!elevations.empty()) {
        std::sort(elevations.begin(), elevations.end());
        low = elevations[elevations.size() / 100] - 4;
        high = elevations[elevations.size() - 1 - elevations.size() / 100] + 4;
    }
    f.top_deg = std::min(90.0, high);
    f.height = std::max(8, static_cast<int>((f.top_deg - std::max(-90.0, low)) * f.pixels_per_deg));
    return f;
}

RangePicture draw_panorama(const cloud::PointCloud& cloud, const ElementSet& eligible, const PanoramaFrame& f,
                           Progress& progress) {
    if (cloud.size() > UINT32_MAX)
        throw Error(ErrorCode::Unsupported, "The cloud has too many points for a panorama");
    const std::size_t n = static_cast<std::size_t>(f.width) * static_cast<std::size_t>(f.height);
    std::vector<std::atomic<std::uint64_t>> keys(n);
    for (auto& k : keys) k.store(UINT64_MAX, std::memory_order_relaxed);
    parallel::for_each(cloud.page_count(), [&](std::size_t p) {
        if (eligible.kind(p) == ElementSet::Kind::None) return;
        progress.check();
        const cloud::PositionPage& points = cloud.positions(p);
        eligible.for_each_in_page(p, [&](std::size_t i) {
            double range = 0;
            const PixelPoint q = f.project(cloud.grid().world(points.x[i], points.y[i], points.z[i]), range);
            if (range <= 0 || !(q.y >= 0 && q.y < f.height)) return;
            const int x = std::min(static_cast<int>(q.x), f.width - 1);
            auto& at = keys[static_cast<std::size_t>(q.y) * static_cast<std::size_t>(f.width) +
                            static_cast<std::size_t>(x)];
            const std::uint64_t key = key_of(static_cast<float>(range), p * kPageSize + i);
            std::uint64_t now = at.load(std::memory_order_relaxed);
            while (key < now && !at.compare_exchange_weak(now, key, std::memory_order_relaxed)) {
            }
        });
    });
    RangePicture out;
    out.range.resize(n);
    out.element.resize(n);
    for (std::size_t i = 0; i < n; ++i) {
        const std::uint64_t key = keys[i].load(std::memory_order_relaxed);
        out.range[i] = key == UINT64_MAX ? std::numeric_limits<float>::infinity()
                                         : std::bit_cast<float>(static_cast<std::uint32_t>(key >> 32));
        out.element[i] = key & 0xFFFFFFFFu;
    }
    return out;
}

ElementSet panorama_fence(const cloud::PointCloud& cloud, const PanoramaFrame& f, const Polygon& corners,
                          const ElementSet& eligible, const RangePicture* seen, Progress& progress) {
    ElementSet result(cloud.size());
    if (corners.size() < 3) return result;
    const PixelRect r = bounds(corners);
    parallel::for_each(cloud.page_count(), [&](std::size_t p) {
        if (eligible.kind(p) == ElementSet::Kind::None) return;
        progress.check();
        const cloud::PositionPage& points = cloud.positions(p);
        PageBits bits;
        eligible.for_each_in_page(p, [&](std::size_t i) {
            double range = 0;
            const PixelPoint q = f.project(cloud.grid().world(points.x[i], points.y[i], points.z[i]), range);
            if (range <= 0 || q.x < r.x0 || q.x > r.x1 || q.y < r.y0 || q.y > r.y1 || !contains(corners, q))
                return;
            if (seen) {
                if (!(q.y >= 0 && q.y < f.height)) return;
                const auto at = static_cast<std::size_t>(q.y) * static_cast<std::size_t>(f.width) +
                                static_cast<std::size_t>(std::min(static_cast<int>(q.x), f.width - 1));
                const double slack =
                    0.02 * range + 2 * static_cast<double>(cloud.info(p).spacing[i / kBlockSize]);
                if (range > static_cast<double>(seen->range[at]) + slack) return;
            }
            bits.set(i);
        });
        result.set_page(p, bits);
    });
    return result;
}

}  // namespace pristine::select
