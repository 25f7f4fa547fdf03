// Where a click that measures lands: on the nearest thing of note under the pointer.

#pragma once

#include <optional>
#include <vector>

#include "app/stage/guide.h"
#include "core/geometry/view_frame.h"
#include "render/renderer.h"

namespace pristine::app {

enum class SnapKind { LinePlace, Line, Corner, Edge, Surface, Point };

struct Snapped {
    Vec3 place;
    SnapKind kind = SnapKind::Point;
};

/// In this order: a place of a line that snaps within 8 pixels, the line within 6; a corner of the triangle
/// that is seen within 8, its edge within 6, the triangle itself; the point that is seen within 3. None over
/// the background. `on_triangle`: where the line of sight meets the triangle that is seen.
std::optional<Snapped> snap(PixelPoint, const ViewFrame&, const std::vector<Guide>&,
                            const render::Picture* seen, const std::optional<Vec3>& on_triangle);

}  // namespace pristine::app
