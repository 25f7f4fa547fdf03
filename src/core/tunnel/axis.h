// A centreline, and places round it: chainage along it, angle round it, distance from it.

#pragma once

#include <vector>

#include "core/geometry/vec.h"

namespace pristine::tunnel {

/// A place by chainage, angle and radius.
struct Place {
    double chainage = 0;  ///< along the line from its start, data unit
    double angle = 0;     ///< radians, 0 upwards, growing to the right of who walks along; -pi..pi
    double radius = 0;    ///< from the line
    bool beyond = false;  ///< before the start or behind the end
};

/// A line with a chainage, data unit. Never changes.
class Axis {
  public:
    /// `lift` moves the line upwards. Throws Error(Usage) for fewer than two different points.
    Axis(const std::vector<Vec3>& line, double lift);

    double length() const { return start_.back(); }
    /// Of the nearest stretch among `candidates` (numbers of stretches), or of all.
    Place place(const Vec3& world, const std::vector<std::size_t>* candidates = nullptr) const;
    /// The point with this chainage, angle and radius.
    Vec3 world(double chainage, double angle, double radius) const;
    /// Stretches that may be nearest to some point of the box.
    std::vector<std::size_t> near(const Box3&) const;

  private:
    struct Stretch {
        Vec3 from, ahead, up, right;
        double length;
    };
    std::vector<Stretch> stretches_;
    std::vector<double> start_;  // chainage of each, and the end
};

}  // namespace pristine::tunnel
