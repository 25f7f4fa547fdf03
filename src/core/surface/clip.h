// A surface cut along lines in plan.

#pragma once

#include <memory>
#include <optional>
#include <span>
#include <string>
#include <vector>

#include "core/base/progress.h"
#include "core/mesh/tri_mesh.h"

namespace pristine::surface {

/// Closed rings in plan; what lies inside an odd number of them is inside: outer lines, holes in them,
/// islands in holes. A ring does not repeat its first point. Heights are not looked at.
using Rings = std::vector<std::vector<Vec3>>;

/// Which side of the rings stays.
enum class Keep : std::uint8_t { Inside, Outside };
/// What becomes of triangles that a ring crosses.
enum class Edges : std::uint8_t {
    Exact,  ///< triangles are cut at the line; heights of new vertices lie in the triangle that they cut
    Whole   ///< a triangle stays when its middle does
};

/// Throws Error(Usage) with the place for a ring of fewer than three points, or one that crosses itself or
/// another. O(n log n). `rings` may touch in points.
void check_rings(const Rings&);
/// What check_rings would throw, and the place; none: nothing.
struct RingTrouble {
    std::string what, advice;
    Vec3 where;
};
std::optional<RingTrouble> trouble_of(const Rings&);

/// The part of a surface inside the rings, or outside. Triangles off the line stay as they are, bit for bit.
/// Vertices that are no longer used are left out. Throws as check_rings; Cancelled. O(triangles + crossings).
mesh::TriMesh clip(const mesh::TriMesh&, const Rings&, Keep, Edges, Progress& = Progress::none());

/// Whether a place lies inside.
class Inside {
  public:
    explicit Inside(const Rings&);
    ~Inside();
    bool operator()(double x, double y) const;
    /// Relative to this, places are given to the polygons.
    const Vec3& origin() const { return origin_; }

  private:
    struct Masks;
    Vec3 origin_;
    std::unique_ptr<Masks> masks_;
};

}  // namespace pristine::surface
