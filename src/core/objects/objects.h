// Things that stand on the ground: connected groups of points, described, and told by kind.

#pragma once

#include <cstdint>
#include <string>
#include <vector>

#include "core/score/score.h"

namespace pristine::score {

/// What stands on the ground.
enum class ObjectKind : std::uint8_t { Person, Vehicle, Machine, Building, Vegetation, Pole, Other };
inline constexpr std::size_t kObjectKinds = 7;
/// "person", "vehicle", … as in files and on the command line.
const char* name_of(ObjectKind);

/// Lengths in metres, whatever the unit of the data.
struct Object {
    ObjectKind kind = ObjectKind::Other;
    std::uint64_t count = 0;
    Vec3 centre;                        ///< middle of its box, data unit
    double length = 0, width = 0;       ///< of the box round it in plan, along and across its own axis
    double height = 0;                  ///< of its highest point above the ground
    double footprint = 0;               ///< square metres of plan that it covers
    double planarity = 0, scatter = 0;  ///< mean over its cells, 0 to 1
};

/// How things are told from the ground and from each other.
struct ObjectOptions {
    double foot = 0.2;         ///< metres above the ground where things begin
    double gap = 0.3;          ///< metres that separate two things
    std::uint64_t least = 30;  ///< points
};

/// The things on the ground of one cloud. Never changes.
class Objects {
  public:
    /// From heights above the ground (score `ground`), data unit. O(n log n). Throws Cancelled.
    Objects(const Input&, const Column& above_ground, const ObjectOptions& = {},
            Progress& = Progress::none());

    /// Largest first.
    const std::vector<Object>& list() const { return objects_; }
    /// The points of one, or of all of a kind.
    ElementSet of(std::size_t object) const;
    ElementSet of(ObjectKind) const;
    /// Says of what kind an object is; those that are described most alike follow, unless they were told
    /// themselves. Returns which objects changed, the told one among them.
    std::vector<std::size_t> tell(std::size_t object, ObjectKind);

  private:
    std::uint64_t size_ = 0;
    std::vector<Object> objects_;
    std::vector<std::vector<std::uint32_t>> elements_;  // of each
    std::vector<char> told_;
};

/// By size and shape alone.
ObjectKind kind_of(const Object&);

/// Gap and least size of things on the ground for points as dense as these.
ObjectOptions suggested_objects(const cloud::PointCloud&);

}  // namespace pristine::score
