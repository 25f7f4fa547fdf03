// The rectangle and the polygon fence.

#pragma once

#include "app/tools/drag_tool.h"

namespace pristine::app {

/// From corner to corner; a drag of less than 3 pixels either way makes nothing.
class RectangleTool : public DragTool {
  protected:
    Polygon shape(PixelPoint from, PixelPoint to) const override;
    bool large_enough(PixelPoint from, PixelPoint to) const override;
};

/// A corner with each click; a double click or Finish closes, Back takes a corner back, Cancel drops it.
/// While the button is held the line is drawn freehand. Corners are planted in the world, so the view can be
/// turned meanwhile and they stay where they were set.
class PolygonTool : public Tool {
  public:
    void press(PixelPoint, const ViewFrame&, const Anchor&) override;
    void move(PixelPoint, const ViewFrame&) override;
    void release(PixelPoint, const ViewFrame&) override { pressed_ = false; }
    void double_click(PixelPoint, const ViewFrame&) override;
    void key(ToolKey, const ViewFrame&) override;
    Polygon outline(const ViewFrame&) const override;
    bool begun() const override { return !corners_.empty(); }
    std::optional<select::Fence> take_fence() override;
    /// Why the last attempt to close came to nothing; empty if it did not fail.
    const std::string& refusal() const { return refusal_; }
    std::size_t corner_count() const { return corners_.size(); }

  private:
    void close(const ViewFrame&);
    std::vector<Vec3> corners_;
    bool pressed_ = false;
    PixelPoint planted_;  // pixel of the last corner
    Anchor anchor_;
    PixelPoint pointer_;
    std::optional<select::Fence> fence_;
    std::string refusal_;
};

}  // namespace pristine::app
