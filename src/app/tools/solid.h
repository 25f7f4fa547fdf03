// A shape in space that is drawn once and then adjusted by its handles: ball, upright cylinder, box, plane.

#pragma once

#include <cmath>
#include <vector>

#include "core/geometry/view_frame.h"
#include "core/select/solid.h"

namespace pristine::app {

struct Solid {
    enum class Kind { Ball, Cylinder, Box, Plane } kind = Kind::Ball;
    Vec3 centre;                                ///< of a plane: the middle of the patch that is drawn
    double radius = 1;                          ///< of ball and cylinder; half the side of a plane's patch
    double bottom = -INFINITY, top = INFINITY;  ///< of a cylinder; infinite: not cut off
    double drawn_bottom = 0, drawn_top = 1;     ///< where an uncut end is drawn
    Vec3 half{1, 1, 1};                         ///< of a box
    double yaw_deg = 0, pitch_deg = 0, roll_deg = 0;  ///< of a box, as of select::Box
    Vec3 normal{0, 0, 1};                             ///< of a plane, unit length

    static Solid of(const select::Box&);
    select::Box box() const { return {centre, half, yaw_deg, pitch_deg, roll_deg}; }

    /// Where it can be taken hold of. The middle is the last but for boxes, whose last three turn them about
    /// their own axes: beside it about the upright one, behind it and over it about the others.
    std::vector<Vec3> handles() const;
    std::vector<std::vector<Vec3>> outline() const;
    /// With handle `h` dragged from one pixel to another.
    Solid dragged(std::size_t h, PixelPoint from, PixelPoint to, const ViewFrame&) const;
};

}  // namespace pristine::app
