// A hand tool: a small state machine on neutral events. It knows no widgets, so it is tested without a
// window; it makes a shape, and somebody else decides what the shape selects.

#pragma once

#include <functional>
#include <optional>
#include <vector>

#include "core/geometry/view_frame.h"
#include "core/select/fence.h"

namespace pristine::app {

enum class ToolKey { Finish, Cancel, Back };

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
};

}  // namespace pristine::app
