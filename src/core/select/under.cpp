#include "core/select/under.h"

#include <algorithm>

#include "core/select/fence.h"

namespace pristine::select {
namespace {

constexpr double kGap = 6;  // spacings

struct Hit {
    double depth;
    std::uint64_t element;
    double spacing;
};

}  // namespace

std::vector<Layer> layers_under(const cloud::PointCloud& c, const ElementSet& eligible, const ViewFrame& view,
                                PixelPoint at, double radius, Progress& progress) {
    const Polygon square{{at.x - radius, at.y - radius},
                         {at.x + radius, at.y - radius},
                         {at.x + radius, at.y + radius},
                         {at.x - radius, at.y + radius}};
    FenceOptions touching;
    touching.reach = Reach::Touches;
    const ElementSet inside = fence(c, Fence{view, square}, eligible, touching, progress);
    std::vector<Hit> hits;
    inside.for_each([&](std::uint64_t e) {
        const auto page = static_cast<std::size_t>(e / kPageSize);
        const auto block = static_cast<std::size_t>(e % kPageSize) / kBlockSize;
        hits.push_back({view.depth(c.position(e)), e, static_cast<double>(c.info(page).spacing[block])});
    });
    std::sort(hits.begin(), hits.end(), [](const Hit& a, const Hit& b) {
        return a.depth != b.depth ? a.depth < b.depth : a.element < b.element;
    });
    std::vector<Layer> layers;
    for (std::size_t k = 0; k < hits.size(); ++k) {
        const bool gap = k == 0 || hits[k].depth - hits[k - 1].depth >
                                       kGap * std::max(hits[k].spacing, hits[k - 1].spacing);
        if (gap) layers.push_back({hits[k].element, 0, hits[k].depth, c.position(hits[k].element)});
        ++layers.back().count;
    }
    return layers;
}

}  // namespace pristine::select
