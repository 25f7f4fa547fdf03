#include "core/select/summary.h"

#include <algorithm>
#include <cmath>

#include "core/base/parallel.h"

namespace pristine::select {
namespace {

constexpr std::size_t kBins = 24;

}  // namespace

Summary summarise(const cloud::PointCloud& cloud, const ElementSet& selection, const ElementSet& eligible,
                  const terrain::GroundModel* ground, Progress& progress) {
    struct Part {
        double lowest = INFINITY, highest = -INFINITY, above = INFINITY, above_most = -INFINITY;
        std::vector<float> heights;  // above the ground
        Box3 box;
    };
    const auto parts = parallel::map<Part>(cloud.page_count(), [&](std::size_t p) {
        Part part;
        if (selection.kind(p) == ElementSet::Kind::None) return part;
        progress.check();
        const bool all = selection.kind(p) == ElementSet::Kind::All;
        const auto look = [&](const cloud::PositionPage& points, std::size_t i) {
            const Vec3 w = cloud.grid().world(points.x[i], points.y[i], points.z[i]);
            if (!all) part.box.add(w);
            part.lowest = std::min(part.lowest, w.z);
            part.highest = std::max(part.highest, w.z);
            if (!ground) return;
            // A little below the ground still counts: its surface is not known better.
            const auto h = ground->below(w.x, w.y, w.z, ground->column());
            if (!h) return;
            part.above = std::min(part.above, w.z - *h);
            part.above_most = std::max(part.above_most, w.z - *h);
            part.heights.push_back(static_cast<float>(w.z - *h));
        };
        if (!all) {
            const cloud::PositionPage points = cloud.positions(p);
            selection.for_each_in_page(p, [&](std::size_t i) { look(points, i); });
            return part;
        }
        part.box = cloud::world_box(cloud.info(p).bounds, cloud.grid());
        part.lowest = part.box.lo.z;
        part.highest = part.box.hi.z;
        for (std::size_t b = 0, n = page_length(cloud.size(), p); ground && b * kBlockSize < n; ++b) {
            const auto points = cloud.block_positions(p, b, std::min(kBlockHead, n - b * kBlockSize));
            for (std::size_t i = 0; i < points.size(); ++i) look(points, i);
        }
        return part;
    });
    Summary s;
    s.count = selection.count();
    s.of = eligible.count();
    double lowest = INFINITY, highest = -INFINITY, above = INFINITY, above_most = -INFINITY;
    for (const Part& part : parts) {
        lowest = std::min(lowest, part.lowest);
        highest = std::max(highest, part.highest);
        above = std::min(above, part.above);
        above_most = std::max(above_most, part.above_most);
        s.box.add(part.box);
    }
    if (std::isfinite(above_most)) {
        s.histogram_top = std::max(above_most, 1e-6);
        s.above_ground.assign(kBins, 0);
        for (const Part& part : parts)
            for (const float h : part.heights)
                ++s.above_ground[static_cast<std::size_t>(
                    std::clamp(static_cast<double>(h) / s.histogram_top * kBins, 0.0, kBins - 1.0))];
    }
    if (s.count > 0) {
        s.lowest = lowest;
        s.highest = highest;
        if (std::isfinite(above)) s.lowest_above_ground = above;
    }
    return s;
}

Summary together(const Summary& a, const Summary& b) {
    const auto either = [](const std::optional<double>& x, const std::optional<double>& y, auto choose) {
        return x && y ? std::optional(choose(*x, *y)) : x ? x : y;
    };
    Summary s;
    s.count = a.count + b.count;
    s.of = a.of + b.of;
    s.lowest = either(a.lowest, b.lowest, [](double x, double y) { return std::min(x, y); });
    s.highest = either(a.highest, b.highest, [](double x, double y) { return std::max(x, y); });
    s.box = a.box;
    s.box.add(b.box);
    return s;
}

}  // namespace pristine::select
