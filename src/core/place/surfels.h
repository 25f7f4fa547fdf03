// A cloud as small planes, one for each cube in which its points lie on one.

#pragma once

#include <cstdint>
#include <vector>

#include "core/base/progress.h"
#include "core/cloud/point_cloud.h"
#include "core/elements/element_set.h"
#include "core/geometry/vec.h"

namespace pristine::place {

/// The plane of the places in one cube.
struct Surfel {
    Vec3 middle, normal;  ///< normal of unit length, either way round
    double rms = 0;       ///< of the points about the plane
    std::uint32_t count = 0;
};

/// Planes of a cloud, by cubes. Never changes; safe to ask from several threads.
class SurfelMap {
  public:
    /// Of places, in cubes of this side. Cubes with fewer than eight places, or in which these make no plane,
    /// hold none. O(n log n). Throws Cancelled.
    SurfelMap(const std::vector<Vec3>& places, double side, Progress& = Progress::none());
    /// The plane whose middle is nearest, of those in the cube of the place and the 26 round it; null: none.
    const Surfel* nearest(const Vec3& place) const;
    const std::vector<Surfel>& all() const { return surfels_; }
    double side() const { return side_; }

  private:
    double side_;
    std::vector<Surfel> surfels_;
    std::vector<std::uint64_t> code_;   // of each, ascending
    std::vector<std::uint32_t> table_;  // a hash of the codes, open addressing; number + 1
};

/// Places of about `most` eligible points, an even sample of each part of the cloud, relative to `origin`.
/// O(points taken). Throws Cancelled.
std::vector<Vec3> places_of(const cloud::PointCloud&, const ElementSet& eligible, const Vec3& origin,
                            std::size_t most, Progress& = Progress::none());

/// Places thinned so that no cube of this side holds more than one, the first of each; in their order.
std::vector<Vec3> one_in_each(const std::vector<Vec3>& places, double side);

}  // namespace pristine::place
