#include "core/score/colour_sample.h"

#include <algorithm>
#include <cmath>
#include <limits>
#include <vector>

#include "core/score/colour.h"
#include "core/score/suggest.h"
#include "core/select/solid.h"

namespace pristine::score {

std::optional<ColourSample> sample_colours(const cloud::PointCloud& cloud, const ElementSet& set) {
    constexpr std::uint64_t kMost = 20'000;
    const std::uint64_t count = set.count();
    if (!cloud.colour() || count == 0) return std::nullopt;
    const std::uint64_t stride = std::max<std::uint64_t>(1, count / kMost);
    std::vector<std::uint32_t> colours;
    std::uint64_t k = 0;
    set.for_each([&](std::uint64_t e) {
        if (k++ % stride == 0) colours.push_back((*cloud.colour())[e] & 0xFFFFFFu);
    });
    ColourSample out;
    out.count = count;
    for (int shift = 0; shift <= 16; shift += 8) {
        double sum = 0;
        for (const std::uint32_t c : colours) sum += c >> shift & 255u;
        out.rgb |= static_cast<std::uint32_t>(std::lround(sum / static_cast<double>(colours.size())))
                   << shift;
    }
    const Lab mean = lab_of(out.rgb);
    std::vector<double> off;
    for (const std::uint32_t c : colours) off.push_back(ciede2000(mean, lab_of(c)));
    const auto at = off.begin() + static_cast<std::ptrdiff_t>((off.size() - 1) * 95 / 100);
    std::nth_element(off.begin(), at, off.end());
    out.spread = *at;
    return out;
}

std::optional<ColourSample> colour_at(const cloud::PointCloud& cloud, const ElementSet& shown,
                                      const Vec3& place) {
    constexpr double kSpacings = 3, kAlike = 10;
    if (!cloud.colour()) return std::nullopt;
    ElementSet near = select::in_ball(cloud, place, kSpacings * spacing_of(cloud), shown);
    std::uint64_t nearest = 0;
    double least = std::numeric_limits<double>::infinity();
    near.for_each([&](std::uint64_t e) {
        if (const double d = norm(cloud.position(e) - place); d < least) {
            least = d;
            nearest = e;
        }
    });
    if (!std::isfinite(least)) return std::nullopt;
    const Lab own = lab_of((*cloud.colour())[nearest]);
    ElementSet alike(cloud.size());
    near.for_each([&](std::uint64_t e) {
        if (ciede2000(own, lab_of((*cloud.colour())[e])) <= kAlike) alike.insert(e);
    });
    return sample_colours(cloud, alike);
}

}  // namespace pristine::score
