#include "render/apart.h"

#include <algorithm>
#include <array>
#include <cmath>
#include <set>

namespace pristine::render {
namespace {

constexpr std::size_t kMostBlocks = 2000;  // 32 kB each
constexpr std::uint32_t kNone = ~std::uint32_t{0};
constexpr float kThinner = 8;

float usual_spacing(const cloud::PointCloud& c) {
    std::vector<float> all;
    for (std::size_t p = 0; p < c.page_count(); ++p)
        for (const float s : c.info(p).spacing)
            if (s > 0) all.push_back(s);
    if (all.empty()) return 0;
    std::nth_element(all.begin(), all.begin() + static_cast<std::ptrdiff_t>(all.size() / 2), all.end());
    return all[all.size() / 2];
}

struct Place {
    float x, y, z;
};

// Points by cells of one side, behind a hash; points of a cell are chained.
class Cells {
  public:
    Cells(const std::vector<Place>& points, float side)
        : points_(points), per_side_(1 / side), next_(points.size(), kNone) {
        std::size_t slots = 64;
        while (slots < 2 * points.size()) slots *= 2;
        first_.assign(slots, kNone);
        for (std::uint32_t i = 0; i < points.size(); ++i) {
            std::uint32_t& slot = first_[slot_of(cell(points[i]))];
            next_[i] = slot;
            slot = i;
        }
    }
    using Cell = std::array<std::int32_t, 3>;
    Cell cell(const Place& p) const {
        const auto of = [&](float v) { return static_cast<std::int32_t>(std::floor(v * per_side_)); };
        return {of(p.x), of(p.y), of(p.z)};
    }
    // Least squared distance of point i to the others in the shell of cells at `ring` around it. Cells that
    // share a slot do no harm: their points are looked at as well.
    float nearest_in_ring(std::uint32_t i, std::int32_t ring, float best) const {
        const Cell c = cell(points_[i]);
        for (std::int32_t dz = -ring; dz <= ring; ++dz)
            for (std::int32_t dy = -ring; dy <= ring; ++dy) {
                const bool face = std::abs(dz) == ring || std::abs(dy) == ring;
                for (std::int32_t dx = -ring; dx <= ring; dx += face || ring == 0 ? 1 : 2 * ring)
                    best = std::min(best, nearest_in({c[0] + dx, c[1] + dy, c[2] + dz}, i));
            }
        return best;
    }

  private:
    std::size_t slot_of(const Cell& c) const {
        const auto part = [](std::int32_t v, std::uint64_t by) { return static_cast<std::uint32_t>(v) * by; };
        const std::uint64_t h = part(c[0], 0x9E3779B97F4A7C15u) ^ part(c[1], 0xC2B2AE3D27D4EB4Fu) ^
                                part(c[2], 0x165667B19E3779F9u);
        return static_cast<std::size_t>(h >> 20) & (first_.size() - 1);
    }
    float nearest_in(const Cell& c, std::uint32_t i) const {
        float best = INFINITY;
        const Place& p = points_[i];
        for (std::uint32_t k = first_[slot_of(c)]; k != kNone; k = next_[k]) {
            if (k == i) continue;
            const Place& q = points_[k];
            const float dx = p.x - q.x, dy = p.y - q.y, dz = p.z - q.z;
            best = std::min(best, dx * dx + dy * dy + dz * dz);
        }
        return best;
    }
    const std::vector<Place>& points_;
    float per_side_;
    std::vector<std::uint32_t> first_, next_;
};

std::vector<Place> places(const cloud::PositionPage& p, const cloud::Grid& grid) {
    std::vector<Place> out(p.size());
    // From the first point on in doubles, so that floats have the digits for the rest.
    for (std::size_t i = 0; i < p.size(); ++i)
        out[i] = {static_cast<float>((static_cast<double>(p.x[i]) - p.x[0]) * grid.scale.x),
                  static_cast<float>((static_cast<double>(p.y[i]) - p.y[0]) * grid.scale.y),
                  static_cast<float>((static_cast<double>(p.z[i]) - p.z[0]) * grid.scale.z)};
    return out;
}

}  // namespace

std::vector<float> nearest_distances(const cloud::PositionPage& p, const cloud::Grid& grid, float spacing) {
    const float far = kFarApart * spacing;
    std::vector<float> out(p.size(), far);
    if (p.size() < 2 || !(spacing > 0)) return out;
    const std::vector<Place> points = places(p, grid);
    const Cells fine(points, spacing), coarse(points, far);
    for (std::uint32_t i = 0; i < points.size(); ++i) {
        // Most strays have nothing in 27 large cells; the rest is looked for in rings of small ones.
        float best = std::min(coarse.nearest_in_ring(i, 0, far * far), fine.nearest_in_ring(i, 0, far * far));
        if (best >= far * far) best = coarse.nearest_in_ring(i, 1, best);
        if (best >= far * far) continue;
        for (std::int32_t ring = 1; ring <= static_cast<std::int32_t>(kFarApart); ++ring) {
            // Nothing in this ring or beyond is nearer than ring - 1 cells.
            const float least = static_cast<float>(ring - 1) * spacing;
            if (best <= least * least) break;
            best = fine.nearest_in_ring(i, ring, best);
        }
        out[i] = std::sqrt(best);
    }
    return out;
}

bool ApartCache::is_thin(const std::shared_ptr<const cloud::PointCloud>& cloud, std::size_t page,
                         std::size_t block) {
    const std::lock_guard guard(mutex_);
    auto usual = usual_.find(cloud.get());
    if (usual == usual_.end())
        usual = usual_.emplace(cloud.get(), std::pair(cloud, usual_spacing(*cloud))).first;
    return cloud->info(page).spacing[block] > kThinner * usual->second.second;
}

ApartCache::Distances ApartCache::of(const std::shared_ptr<const cloud::PointCloud>& cloud, std::size_t page,
                                     std::size_t block, bool work_out) {
    const Key key{cloud.get(), page, block};
    {
        const std::lock_guard guard(mutex_);
        if (const auto known = known_.find(key); known != known_.end()) return known->second.distances;
    }
    if (!work_out) return nullptr;
    const std::size_t first = block * kBlockSize;
    const std::size_t length = std::min(kBlockSize, page_length(cloud->size(), page) - first);
    auto made = std::make_shared<const std::vector<float>>(nearest_distances(
        cloud->block_positions(page, block, length), cloud->grid(), cloud->info(page).spacing[block]));
    const std::lock_guard guard(mutex_);
    return known_.emplace(key, Known{cloud, std::move(made)}).first->second.distances;
}

void ApartCache::keep_only(const Scene& scene) {
    std::set<const cloud::PointCloud*> drawn;
    for (const DrawItem& item : scene.items()) drawn.insert(item.cloud.get());
    const std::lock_guard guard(mutex_);
    if (known_.size() > kMostBlocks) known_.clear();
    std::erase_if(known_, [&](const auto& k) { return !drawn.contains(std::get<0>(k.first)); });
    std::erase_if(usual_, [&](const auto& k) { return !drawn.contains(k.first); });
}

}  // namespace pristine::render
