// The camera of the stage: where the eye is and how it is moved. z stays up.

#pragma once

#include "core/geometry/view_frame.h"

namespace pristine::render {

enum class AxisView { Top, Bottom, Front, Back, Left, Right };

struct Camera {
    Vec3 eye{0, 0, 10};
    double yaw_deg = 0;      ///< direction looked at: 0 north (+y), 90 east (+x)
    double pitch_deg = -90;  ///< -90 straight down … 90 straight up
    double focus = 10;  ///< distance to what is looked at, world units; sets the scale of a parallel view
    bool perspective = true;
    double field_deg = 55;  ///< vertical field of view

    bool operator==(const Camera&) const = default;

    /// The mapping to pixels for a viewport. `scene` is what may be seen; in parallel views the eye is put
    /// outside of it.
    ViewFrame frame(int width, int height, const Box3& scene) const;

    /// Turns about a world point, which keeps its place in the view. Pitch is held within ±90 degrees.
    void turn_about(Vec3 centre, double yaw_by_deg, double pitch_by_deg);
    /// Moves so that a point at `depth` follows the pointer by so many pixels of a viewport of this height.
    void move_by(double dx_px, double dy_px, double depth, int viewport_height);
    /// factor < 1 goes nearer; the world point keeps its place in the view.
    void zoom_at(Vec3 point, double factor);
    /// Looks along an axis at the middle of the box, all of it in view.
    void look_along(AxisView, const Box3&, double aspect);
    /// Keeps the direction and puts all of the box in view. aspect = width / height.
    void look_at_all(const Box3&, double aspect);

    Vec3 right() const;
    Vec3 ahead() const;
};

}  // namespace pristine::render
