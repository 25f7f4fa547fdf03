// A hand tool: a small state machine on neutral events. It knows no widgets, so it is tested without a
// window; it makes a shape, and somebody else decides what the shape selects.

#pragma once

#include <functional>
#include <optional>
#include <vector>

#include "core/geometry/view_frame.h"
#include "core/select/fence.h"
#include "core/select/solid.h"

namespace pristine::app {

enum class ToolKey { Finish, Cancel, Back };

/// What a tool in space made: places in the world, and the pixel where it ended.
struct SpaceShape {
    enum class Kind { Ball, Cylinder, Plane, Level, Section, Pick, BallBrush } kind;
    std::vector<Vec3> points;
    PixelPoint end;
};

class Tool {
  public:
    /// The world point under a pixel: on what is seen there, or in the middle distance over the background.
    using Anchor = std::function<Vec3(PixelPoint)>;

    virtual ~Tool() = default;
    virtual void press(PixelPoint, const ViewFrame&, const Anchor&) = 0;
    virtual void move(PixelPoint, const ViewFrame&) = 0;
    virtual void release(PixelPoint, const ViewFrame&) = 0;
    virtual void double_click(PixelPoint, const ViewFrame&) = 0;
    virtual void key(ToolKey, const ViewFrame&) = 0;

    /// The outline as it stands, for drawing over the picture; empty when nothing is begun.
    virtual Polygon outline(const ViewFrame&) const = 0;
    virtual bool begun() const = 0;
    /// A finished fence, once; the tool is then ready for the next.
    virtual std::optional<select::Fence> take_fence() = 0;
    /// A finished shape in space, once.
    virtual std::optional<SpaceShape> take_shape() { return std::nullopt; }
    /// A box that was changed by dragging, once.
    virtual std::optional<select::Box> take_box() { return std::nullopt; }
    /// Lines and handles in the world that are drawn over the picture while the tool is in hand.
    virtual std::vector<std::vector<Vec3>> guides() const { return {}; }
    virtual std::vector<Vec3> handles() const { return {}; }
    /// Whether the outline follows the pointer even when nothing is begun.
    virtual bool shows_pointer() const { return false; }
    /// Whether each fence is a piece of a stroke that ends with the release.
    virtual bool is_brush() const { return false; }
    /// Ctrl + wheel.
    virtual void resize(double /*factor*/) {}
};

}  // namespace pristine::app
