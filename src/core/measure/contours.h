// Lines of equal height on a surface, and its heights along a line. True to the triangles: nothing is
// smoothed.

#pragma once

#include <memory>
#include <optional>

#include "core/base/progress.h"
#include "core/mesh/tri_mesh.h"

namespace pristine::measure {

/// A line of equal height.
struct Contour {
    double level = 0;
    bool closed = false;       ///< else it ends at rims
    std::vector<Vec3> points;  ///< z is the level; higher ground to the right
};
/// At all multiples of the interval. A vertex exactly at a level counts as above it, so that lines never
/// branch. O(triangles + points), by levels in parallel. Throws Error(Usage) for an interval that is not
/// positive, or makes more than a million levels; Cancelled.
std::vector<Contour> contours(const mesh::TriMesh&, double interval, Progress& = Progress::none());

/// Arrows down the slope, each one line: foot, tip, and the barbs of its head; about `count` of them, evenly
/// in plan, at the middles of triangles. Longer where it is steeper, at most as long as they lie apart; none
/// where it is level.
std::vector<std::vector<Vec3>> slope_arrows(const mesh::TriMesh&, std::size_t count);

/// A place of a profile.
struct ProfilePoint {
    double chainage = 0;  ///< along the line in plan
    Vec3 place;
};
/// Heights where the line crosses edges and at its corners; a gap where there is no surface begins a new
/// stretch. O(triangles met).
std::vector<std::vector<ProfilePoint>> profile(const mesh::TriMesh&, const std::vector<Vec3>& line);

/// The same for many lines over one surface, which must outlive it. O(triangles) to make. Safe to ask from
/// several threads.
class Profiles {
  public:
    explicit Profiles(const mesh::TriMesh&);
    Profiles(Profiles&&) noexcept;
    ~Profiles();
    std::vector<std::vector<ProfilePoint>> along(const std::vector<Vec3>& line) const;

  private:
    struct Index;
    const mesh::TriMesh* mesh_;
    std::unique_ptr<Index> index_;
};

}  // namespace pristine::measure
