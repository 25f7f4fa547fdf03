#include "core/select/growth.h"

#include <algorithm>
#include <cmath>
#include <cstdlib>

#include "core/base/parallel.h"
#include "core/select/cell_index.h"

namespace pristine::select {
namespace {

using Entry = CellIndex::Entry;

float squared_distance(const Entry& a, const Entry& b) {
    const float x = a.x - b.x, y = a.y - b.y, z = a.z - b.z;
    return x * x + y * y + z * z;
}

// The points of `candidates` within `distance` of a member of the index.
ElementSet near(const cloud::PointCloud& cloud, CellIndex& index, const ElementSet& candidates,
                double distance, Progress& progress) {
    ElementSet result(cloud.size());
    Box3 reach = index.bounds();
    if (reach.empty()) return result;
    const Vec3 margin{distance, distance, distance};
    reach = {reach.lo - margin, reach.hi + margin};
    const auto limit = static_cast<float>(distance * distance);
    const auto entries = index.entries();
    const auto is_near = [&](Vec3 w) {
        for (int a = 0; a < 3; ++a)
            if (w[a] < reach.lo[a] || w[a] > reach.hi[a]) return false;
        const Vec3 v = w - index.origin();
        const Entry e{0, 0, static_cast<float>(v.x), static_cast<float>(v.y), static_cast<float>(v.z)};
        return index.around(e.x, e.y, e.z, [&](std::uint32_t first, std::uint32_t last) {
            for (std::uint32_t i = first; i < last; ++i)
                if (squared_distance(entries[i], e) <= limit) return true;
            return false;
        });
    };
    const auto apart = [&](const Box3& b) {
        for (int a = 0; a < 3; ++a)
            if (b.hi[a] < reach.lo[a] || b.lo[a] > reach.hi[a]) return true;
        return false;
    };
    parallel::for_each(cloud.page_count(), [&](std::size_t p) {
        if (candidates.kind(p) == ElementSet::Kind::None ||
            apart(world_box(cloud.info(p).bounds, cloud.grid())))
            return;
        progress.check();
        const cloud::PositionPage& points = cloud.positions(p);
        PageBits bits;
        candidates.for_each_in_page(p, [&](std::size_t i) {
            if (is_near(cloud.grid().world(points.x[i], points.y[i], points.z[i]))) bits.set(i);
        });
        result.set_page(p, bits);
    });
    return result;
}

bool similar(std::uint32_t a, std::uint32_t b, int within) {
    for (int shift = 0; shift <= 16; shift += 8)
        if (std::abs(static_cast<int>(a >> shift & 255u) - static_cast<int>(b >> shift & 255u)) > within)
            return false;
    return true;
}

}  // namespace

ElementSet grown(const cloud::PointCloud& cloud, const ElementSet& set, const ElementSet& eligible,
                 double distance, Progress& progress) {
    CellIndex index(cloud, set, distance, progress);
    return set | near(cloud, index, eligible - set, distance, progress);
}

ElementSet shrunk(const cloud::PointCloud& cloud, const ElementSet& set, const ElementSet& eligible,
                  double distance, Progress& progress) {
    // Only what lies near the set matters of the rest, which may be large.
    CellIndex of_set(cloud, set, distance, progress);
    const ElementSet rim = near(cloud, of_set, eligible - set, distance, progress);
    CellIndex index(cloud, rim, distance, progress);
    return set - near(cloud, index, set, distance, progress);
}

ElementSet connected(const cloud::PointCloud& cloud, const ElementSet& seeds, const ElementSet& eligible,
                     const ConnectedOptions& options, Progress& progress) {
    CellIndex index(cloud, eligible | seeds, options.gap, progress);
    const auto entries = index.entries();
    const bool by_colour = options.colour_within >= 0 && cloud.colour();
    const auto limit = static_cast<float>(options.gap * options.gap);
    SpillVector<char> reached(entries.size(), 0);
    SpillVector<std::uint32_t> open;
    for (std::uint32_t i = 0; i < entries.size(); ++i)
        if (seeds.contains(entries[i].element)) {
            reached[i] = 1;
            open.push_back(i);
        }
    std::size_t steps = 0;
    while (!open.empty()) {
        if (++steps % 4096 == 0) progress.check();
        const Entry e = entries[open.back()];
        open.pop_back();
        const std::uint32_t colour = by_colour ? (*cloud.colour())[e.element] : 0;
        index.around(e.x, e.y, e.z, [&](std::uint32_t first, std::uint32_t last) {
            for (std::uint32_t i = first; i < last; ++i) {
                if (reached[i] || squared_distance(entries[i], e) > limit) continue;
                if (by_colour &&
                    !similar(colour, (*cloud.colour())[entries[i].element], options.colour_within))
                    continue;
                reached[i] = 1;
                open.push_back(i);
            }
            return false;
        });
    }
    std::vector<PageBits> pages(cloud.page_count());
    for (std::size_t i = 0; i < entries.size(); ++i)
        if (reached[i]) pages[entries[i].element / kPageSize].set(entries[i].element % kPageSize);
    ElementSet result(cloud.size());
    for (std::size_t p = 0; p < pages.size(); ++p) result.set_page(p, pages[p]);
    return result;
}

}  // namespace pristine::select
