#include "core/select/cell_index.h"

#include <algorithm>
#include <bit>
#include <cmath>

#include "core/base/error.h"

namespace pristine::select {
namespace {

std::size_t hash(std::uint64_t v) {
    return static_cast<std::size_t>((v ^ v >> 29) * 0x9E3779B97F4A7C15ull >> 20);
}

}  // namespace

CellIndex::CellIndex(const cloud::PointCloud& cloud, const ElementSet& set, double side, Progress& progress)
    : side_(side) {
    if (cloud.size() > UINT32_MAX)
        throw Error(ErrorCode::Unsupported, "The cloud has too many points for this");
    for (std::size_t p = 0; p < set.page_count(); ++p)
        if (set.kind(p) != ElementSet::Kind::None) bounds_.add(world_box(cloud.info(p).bounds, cloud.grid()));
    if (bounds_.empty()) return;
    constexpr double kMostCubes = 2'000'000;
    if (std::max({bounds_.hi.x - bounds_.lo.x, bounds_.hi.y - bounds_.lo.y, bounds_.hi.z - bounds_.lo.z}) >
        side_ * kMostCubes) {
        // Pages with far strays reach farther than the members do.
        bounds_ = {};
        set.for_each([&](std::uint64_t i) { bounds_.add(cloud.position(i)); });
    }
    for (int a = 0; a < 3; ++a) side_ = std::max(side_, (bounds_.hi[a] - bounds_.lo[a]) / kMostCubes);
    // Nothing lies at a negative cube, so that the cubes round any member can be counted.
    origin_ = bounds_.lo - Vec3{side_, side_, side_};
    inverse_ = static_cast<float>(1 / side_);
    entries_.reserve(set.count());
    for (std::size_t p = 0; p < set.page_count(); ++p) {
        if (set.kind(p) == ElementSet::Kind::None) continue;
        progress.check();
        const cloud::PositionPage& points = cloud.positions(p);
        set.for_each_in_page(p, [&](std::size_t i) {
            const Vec3 w = cloud.grid().world(points.x[i], points.y[i], points.z[i]) - origin_;
            const auto x = static_cast<float>(w.x), y = static_cast<float>(w.y), z = static_cast<float>(w.z);
            entries_.push_back(
                {key(cube(x), cube(y), cube(z)), static_cast<std::uint32_t>(p * kPageSize + i), x, y, z});
        });
    }
    std::sort(entries_.begin(), entries_.end(), [](const Entry& a, const Entry& b) {
        return a.cell != b.cell ? a.cell < b.cell : a.element < b.element;
    });
    progress.check();
    std::size_t cells = 0;
    for (std::size_t i = 0; i < entries_.size(); ++i)
        cells += i == 0 || entries_[i].cell != entries_[i - 1].cell;
    slots_.resize(std::bit_ceil(2 * cells + 1));
    for (std::size_t i = 0; i < entries_.size();) {
        std::size_t j = i;
        while (j < entries_.size() && entries_[j].cell == entries_[i].cell) ++j;
        std::size_t at = hash(entries_[i].cell) & (slots_.size() - 1);
        while (slots_[at].cell != UINT64_MAX) at = (at + 1) & (slots_.size() - 1);
        slots_[at] = {entries_[i].cell, static_cast<std::uint32_t>(i), static_cast<std::uint32_t>(j)};
        i = j;
    }
}

const CellIndex::Slot* CellIndex::find(std::uint64_t cell) const {
    if (slots_.empty()) return nullptr;
    for (std::size_t at = hash(cell) & (slots_.size() - 1);; at = (at + 1) & (slots_.size() - 1)) {
        if (slots_[at].cell == cell) return &slots_[at];
        if (slots_[at].cell == UINT64_MAX) return nullptr;
    }
}

}  // namespace pristine::select
