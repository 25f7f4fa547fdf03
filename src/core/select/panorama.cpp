#include "core/select/panorama.h"

#include <algorithm>
#include <array>
#include <atomic>
#include <bit>
#include <cmath>
#include <numbers>
#include <tuple>

#include "core/base/error.h"
#include "core/base/parallel.h"

namespace pristine::select {
namespace {

constexpr double kDeg = 180 / std::numbers::pi;

constexpr std::uint64_t kNothing = UINT64_MAX;

std::uint64_t key_of(float range, std::uint64_t element) {
    return std::uint64_t{std::bit_cast<std::uint32_t>(range)} << 32 | element;
}

std::size_t pixels_of(const PanoramaFrame& f) {
    return static_cast<std::size_t>(f.width) * static_cast<std::size_t>(f.height);
}

// Number of the pixel of a point with its range; pixels_of() outside the picture.
std::size_t pixel_at(const PanoramaFrame& f, Vec3 p, double& range) {
    const PixelPoint q = f.project(p, range);
    if (range <= 0 || !(q.y >= 0 && q.y < f.height)) return pixels_of(f);
    return static_cast<std::size_t>(q.y) * static_cast<std::size_t>(f.width) +
           static_cast<std::size_t>(std::min(static_cast<int>(q.x), f.width - 1));
}

// Where in the picture a box can be seen: rows, and columns that may run over the right edge.
struct Extent {
    double x0, x1, y0, y1;
};

// By the ball round the box: its directions lie within asin(radius / distance) of its middle.
Extent extent_of(const PanoramaFrame& f, const Box3& box) {
    const double full = 360 * f.pixels_per_deg;
    const Extent everything{0, full, -1, 181 * f.pixels_per_deg + 1};
    const Vec3 d = box.centre() - f.station;
    const double far = norm(d), radius = box.diagonal() / 2;
    if (far <= radius * 1.0001) return everything;
    const double wide = std::asin(radius / far) * kDeg;
    const double up = std::asin(std::clamp(d.z / far, -1.0, 1.0)) * kDeg;
    double range = 0;
    const PixelPoint middle = f.project(box.centre(), range);
    // A pixel of margin for the rounding of both ways to compute it.
    Extent r{0, full, middle.y - wide * f.pixels_per_deg - 1, middle.y + wide * f.pixels_per_deg + 1};
    if (std::fabs(up) + wide >= 89.9) return r;  // it holds a pole: any azimuth
    const double aside =
        std::asin(std::min(1.0, std::sin(wide / kDeg) / std::cos(up / kDeg))) * kDeg * f.pixels_per_deg + 1;
    r.x0 = middle.x - aside;
    r.x1 = middle.x + aside;
    return r;
}

// Pixels to be drawn anew, and a coarse grid of them.
class Wanted {
  public:
    explicit Wanted(const PanoramaFrame& f)
        : f_(f),
          columns_(f.width / kTile + 1),
          tiles_(static_cast<std::size_t>(columns_) * static_cast<std::size_t>(f.height / kTile + 1)),
          pixels_(pixels_of(f)) {}
    void add(std::size_t pixel) {
        any_ = true;
        pixels_[pixel] = 1;
        const auto w = static_cast<std::size_t>(f_.width);
        tiles_[pixel / w / kTile * static_cast<std::size_t>(columns_) + pixel % w / kTile] = 1;
    }
    bool any() const { return any_; }
    bool has(std::size_t pixel) const { return pixels_[pixel] != 0; }
    bool touches(const Extent& r) const {
        const double full = 360 * f_.pixels_per_deg;
        for (const double shift : {0.0, full, -full})
            if (touches(r.x0 + shift, r.x1 + shift, r.y0, r.y1)) return true;
        return false;
    }

  private:
    static constexpr int kTile = 8;
    bool touches(double x0, double x1, double y0, double y1) const {
        if (x1 < 0 || y1 < 0 || x0 >= f_.width || y0 >= f_.height) return false;
        const auto tile = [](double v, int end) {
            return static_cast<int>(std::clamp(v, 0.0, end - 1.0)) / kTile;
        };
        for (int y = tile(y0, f_.height); y <= tile(y1, f_.height); ++y)
            for (int x = tile(x0, f_.width); x <= tile(x1, f_.width); ++x)
                if (tiles_[static_cast<std::size_t>(y) * static_cast<std::size_t>(columns_) +
                           static_cast<std::size_t>(x)])
                    return true;
        return false;
    }
    const PanoramaFrame& f_;
    int columns_;
    std::vector<std::uint8_t> tiles_, pixels_;
    bool any_ = false;
};

// Calls each(index in the page) for the eligible elements of the blocks that `met` says yes to.
template <class Met, class Each>
void in_blocks(const cloud::PointCloud& cloud, std::size_t page, const ElementSet& eligible, const Met& met,
               const Each& each) {
    std::array<bool, kBlocksPerPage> in{};
    bool any = false;
    const cloud::PageInfo info = cloud.info(page);
    for (std::size_t b = 0; b * kBlockSize < page_length(cloud.size(), page); ++b)
        any |= in[b] = met(world_box(info.blocks[b], cloud.grid()));
    if (!any) return;
    eligible.for_each_in_page(page, [&](std::size_t i) {
        if (in[i / kBlockSize]) each(i);
    });
}

using Keys = std::vector<std::atomic<std::uint64_t>>;

// The nearest of these points at each pixel; of `wanted`, if given, only.
void draw_keys(const PanoramaSource& s, const ElementSet& points, const PanoramaFrame& f,
               const Wanted* wanted, Keys& keys, Progress& progress) {
    if (s.cloud->size() > UINT32_MAX)
        throw Error(ErrorCode::Unsupported, "The cloud has too many points for a panorama");
    parallel::for_each(s.cloud->page_count(), [&](std::size_t p) {
        if (points.kind(p) == ElementSet::Kind::None) return;
        progress.check();
        const cloud::PositionPage& at = s.cloud->positions(p);
        const auto draw = [&](std::size_t i) {
            double range = 0;
            const std::size_t pixel = pixel_at(f, s.cloud->grid().world(at.x[i], at.y[i], at.z[i]), range);
            if (pixel >= keys.size() || (wanted && !wanted->has(pixel))) return;
            const std::uint64_t key = key_of(static_cast<float>(range), p * kPageSize + i);
            std::uint64_t now = keys[pixel].load(std::memory_order_relaxed);
            while (key < now && !keys[pixel].compare_exchange_weak(now, key, std::memory_order_relaxed)) {
            }
        };
        if (wanted)
            in_blocks(
                *s.cloud, p, points, [&](const Box3& b) { return wanted->touches(extent_of(f, b)); }, draw);
        else
            points.for_each_in_page(p, draw);
    });
}

// Puts what one source shows into the picture where it is nearer, and clears the keys.
void merge_keys(Keys& keys, std::size_t source, RangePicture& out) {
    parallel::for_ranges(keys.size(), 1 << 16, [&](std::size_t begin, std::size_t end) {
        for (std::size_t i = begin; i < end; ++i) {
            const std::uint64_t key = keys[i].load(std::memory_order_relaxed);
            if (key == kNothing) continue;
            keys[i].store(kNothing, std::memory_order_relaxed);
            const float range = std::bit_cast<float>(static_cast<std::uint32_t>(key >> 32));
            const auto element = static_cast<std::uint32_t>(key);
            const auto mine = static_cast<std::uint16_t>(source);
            if (std::tie(range, mine, element) >= std::tie(out.range[i], out.source[i], out.element[i]))
                continue;
            out.range[i] = range;
            out.element[i] = element;
            out.source[i] = mine;
        }
    });
}

Keys empty_keys(std::span<const PanoramaSource> sources, const PanoramaFrame& f) {
    if (sources.size() > UINT16_MAX)
        throw Error(ErrorCode::Unsupported, "There are too many items for a panorama");
    Keys keys(pixels_of(f));
    for (auto& k : keys) k.store(kNothing, std::memory_order_relaxed);
    return keys;
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

PanoramaFrame panorama_for(std::span<const PanoramaSource> sources, Vec3 station, int width) {
    PanoramaFrame f;
    f.station = station;
    f.width = width;
    f.pixels_per_deg = width / 360.0;
    std::vector<double> elevations;
    for (const PanoramaSource& s : sources) {
        const std::uint64_t stride = std::max<std::uint64_t>(1, s.eligible->count() / 50'000);
        std::uint64_t k = 0;
        s.eligible->for_each([&](std::uint64_t e) {
            if (k++ % stride) return;
            double range = 0;
            const double y = f.project(s.cloud->position(e), range).y;
            if (range > 0) elevations.push_back(f.top_deg - y / f.pixels_per_deg);
        });
    }
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

RangePicture draw_panorama(std::span<const PanoramaSource> sources, const PanoramaFrame& f,
                           Progress& progress) {
    Keys keys = empty_keys(sources, f);
    RangePicture out;
    out.range.assign(keys.size(), std::numeric_limits<float>::infinity());
    out.element.resize(keys.size());
    out.source.resize(keys.size());
    for (std::size_t k = 0; k < sources.size(); ++k) {
        draw_keys(sources[k], *sources[k].eligible, f, nullptr, keys, progress);
        merge_keys(keys, k, out);
    }
    return out;
}

void redraw_panorama(RangePicture& picture, std::span<const PanoramaSource> sources,
                     std::span<const ElementSet* const> before, const PanoramaFrame& f, Progress& progress) {
    Keys keys = empty_keys(sources, f);
    Wanted lost(f);
    for (std::size_t i = 0; i < keys.size(); ++i) {
        if (!std::isfinite(picture.range[i]) ||
            sources[picture.source[i]].eligible->contains(picture.element[i]))
            continue;
        picture.range[i] = std::numeric_limits<float>::infinity();
        lost.add(i);
    }
    for (std::size_t k = 0; k < sources.size(); ++k) {
        if (lost.any()) draw_keys(sources[k], *sources[k].eligible, f, &lost, keys, progress);
        const ElementSet came = *sources[k].eligible - *before[k];
        if (!came.empty()) draw_keys(sources[k], came, f, nullptr, keys, progress);
        merge_keys(keys, k, picture);
    }
}

ElementSet panorama_fence(const cloud::PointCloud& cloud, const PanoramaFrame& f, const Polygon& corners,
                          const ElementSet& eligible, const RangePicture* seen, Progress& progress) {
    ElementSet result(cloud.size());
    if (corners.size() < 3) return result;
    const PixelRect r = bounds(corners);
    const double full = 360 * f.pixels_per_deg;
    const auto met = [&](const Box3& box) {
        const Extent b = extent_of(f, box);
        if (b.y1 < r.y0 || b.y0 > r.y1) return false;
        for (const double shift : {0.0, full, -full})
            if (b.x1 + shift >= r.x0 && b.x0 + shift <= r.x1) return true;
        return false;
    };
    parallel::for_each(cloud.page_count(), [&](std::size_t p) {
        if (eligible.kind(p) == ElementSet::Kind::None) return;
        progress.check();
        const cloud::PositionPage& points = cloud.positions(p);
        PageBits bits;
        in_blocks(cloud, p, eligible, met, [&](std::size_t i) {
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
