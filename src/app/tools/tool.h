// A hand tool: a small state machine on neutral events. It knows no widgets, so it is tested without a
// window; it makes a shape, and somebody else decides what the shape selects.

#pragma once

#include <cstdint>
#include <functional>
#include <optional>
#include <vector>

#include "app/tools/solid.h"
#include "core/geometry/view_frame.h"
#include "core/select/fence.h"
#include "core/select/solid.h"

namespace pristine::app {

/// A line as a tool draws and edits it; id 0: a new one.
struct DrawnLine {
    std::uint64_t id = 0;
    std::vector<Vec3> points;
    bool closed = false;
};

enum class ToolKey { Finish, Cancel, Back };

/// What a tool in space made: places in the world, and the pixel where it ended.
struct SpaceShape {
    enum class Kind { Ball, Cylinder, Box, Plane, Level, PaintedPlane, Section, Pick, Mark } kind;
    std::vector<Vec3> points;
    PixelPoint end;
    double radius = 0;  ///< of what was painted, world
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
    /// Whether the outline is a line, not a closed shape.
    virtual bool outline_is_open() const { return false; }
    /// A finished fence, once; the tool is then ready for the next.
    virtual std::optional<select::Fence> take_fence() = 0;
    /// A finished shape in space, once.
    virtual std::optional<SpaceShape> take_shape() { return std::nullopt; }
    /// A shape that was changed by its handles, once.
    virtual std::optional<Solid> take_solid() { return std::nullopt; }
    /// A line that was drawn or changed, once.
    virtual std::optional<DrawnLine> take_line() { return std::nullopt; }
    /// The line of which a corner is being dragged, as it is now.
    virtual std::optional<DrawnLine> held_line() const { return std::nullopt; }
    /// Lines and handles in the world that are drawn over the picture while the tool is in hand.
    virtual std::vector<std::vector<Vec3>> guides() const { return {}; }
    virtual std::vector<Vec3> handles() const { return {}; }
    /// Whether the outline follows the pointer even when nothing is begun.
    virtual bool shows_pointer() const { return false; }
    /// Whether each fence is a piece of a stroke that ends with the release.
    virtual bool is_brush() const { return false; }
    /// Whether its places are drawn to lines, corners and edges, and none may lie over nothing.
    virtual bool measures() const { return false; }
    /// Whether Ctrl is held at the press that follows.
    virtual void hold_control(bool) {}
    /// Ctrl + wheel.
    virtual void resize(double /*factor*/) {}
};

}  // namespace pristine::app
