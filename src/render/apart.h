// How far each point of a block lies from the next one: what is far from all others is drawn as a point and
// not as a disc.

#pragma once

#include <map>
#include <memory>
#include <mutex>
#include <tuple>
#include <vector>

#include "render/scene.h"

namespace pristine::render {

/// Distance of each of `count` points to the nearest other one, in the unit of `grid`; not looked for beyond
/// kFarApart times `spacing`, which is given then. Expected O(count).
inline constexpr float kFarApart = 4;
std::vector<float> nearest_distances(const cloud::PositionPage&, const cloud::Grid&, float spacing);

/// The distances of the blocks that were drawn as discs, kept while their clouds are drawn. All methods may
/// be called from several threads.
class ApartCache {
  public:
    using Distances = std::shared_ptr<const std::vector<float>>;
    /// Whether a block is eight times thinner than its cloud usually is: it holds strays, or what lies far
    /// beyond the job.
    bool is_thin(const std::shared_ptr<const cloud::PointCloud>&, std::size_t page, std::size_t block);
    /// Of a block; null when it is not known yet and not to be worked out.
    Distances of(const std::shared_ptr<const cloud::PointCloud>&, std::size_t page, std::size_t block,
                 bool work_out);
    /// Forgets clouds that are not in the scene, and everything beyond a limit of memory.
    void keep_only(const Scene&);

  private:
    using Key = std::tuple<const cloud::PointCloud*, std::size_t, std::size_t>;
    struct Known {
        std::shared_ptr<const cloud::PointCloud> cloud;  // so that no other takes its address
        Distances distances;
    };
    std::mutex mutex_;
    std::map<Key, Known> known_;
    std::map<const cloud::PointCloud*, std::pair<std::shared_ptr<const cloud::PointCloud>, float>> usual_;
};

}  // namespace pristine::render
