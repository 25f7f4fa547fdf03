// What a station measured in each direction: the nearest and the farthest range round it, and the surface
// there, in cells of equal angle.

#pragma once

#include <array>
#include <cstdint>
#include <optional>
#include <vector>

#include "core/base/spill_vector.h"
#include "core/geometry/vec.h"

namespace pristine::score {

/// What one station measured in each direction. Never changes; safe to ask from several threads.
class RangeImage {
  public:
    struct Sight {
        float near = 0,
              far = 0;  ///< over the cell and its neighbours, data unit; far < near: too little seen
    };
    /// Cells a little larger than the usual spacing of the directions, which is measured.
    /// `points`: from the station. O(n).
    explicit RangeImage(const SpillVector<std::array<float, 3>>& points);

    Sight sight(const Vec3& from_station) const;

    struct Surface {
        Vec3 away;                       ///< unit normal of the plane, pointing away from the station
        double distance = 0, rough = 0;  ///< of the plane from the station; root mean square from it
        /// How far in front of it a place lies; behind it: negative.
        double in_front(const Vec3& from_station) const { return distance - dot(away, from_station); }
    };
    /// The plane through what was measured in the cell and its neighbours; nothing where that is no surface.
    std::optional<Surface> surface(const Vec3& from_station) const;
    /// Angle across a cell, radians.
    double cell() const { return cell_; }
    std::size_t size() const { return near_.size(); }

  private:
    struct Place {
        int row = 0;
        std::uint32_t column = 0;
    };
    void set_cell(double cell);
    Place place(double x, double y, double z) const;
    std::uint32_t column_in(int row, double azimuth) const;
    std::size_t at(const Place& p) const { return first_[static_cast<std::size_t>(p.row)] + p.column; }
    template <class Visit>
    void for_neighbours(int row, double azimuth, Visit&& visit) const;

    double cell_ = 0.02;
    std::vector<std::size_t> first_;  // cell of each row, rows by elevation
    std::vector<float> near_, far_;
    std::vector<std::array<float, 3>>
        mean_;  // place of what was measured in a cell; not a number: nothing was
};

}  // namespace pristine::score
