// The freehand loop, the circle, and the disc brush.

#pragma once

#include "app/tools/drag_tool.h"

namespace pristine::app {

/// Press, draw a loop, release: the loop closes itself. Fewer than three corners make nothing.
class FreehandTool : public Tool {
  public:
    void press(PixelPoint, const ViewFrame&, const Anchor&) override;
    void move(PixelPoint, const ViewFrame&) override;
    void release(PixelPoint, const ViewFrame&) override;
    void double_click(PixelPoint, const ViewFrame&) override {}
    void key(ToolKey, const ViewFrame&) override;
    Polygon outline(const ViewFrame&) const override { return path_; }
    bool begun() const override { return !path_.empty(); }
    std::optional<select::Fence> take_fence() override;

  private:
    Polygon path_;
    std::optional<select::Fence> fence_;
};

/// Press, draw a line, release: the line stays open. A click makes a line of one place.
class AcrossTool : public Tool {
  public:
    void press(PixelPoint, const ViewFrame&, const Anchor&) override;
    void move(PixelPoint, const ViewFrame&) override;
    void release(PixelPoint, const ViewFrame&) override;
    void double_click(PixelPoint, const ViewFrame&) override {}
    void key(ToolKey, const ViewFrame&) override;
    Polygon outline(const ViewFrame&) const override { return path_; }
    bool outline_is_open() const override { return true; }
    bool begun() const override { return !path_.empty(); }
    std::optional<select::Fence> take_fence() override;

  private:
    Polygon path_;
    std::optional<select::Fence> fence_;
};

/// Press at the middle, drag to the rim, release. Less than 3 pixels make nothing.
class CircleTool : public DragTool {
  protected:
    Polygon shape(PixelPoint middle, PixelPoint rim) const override;
};

/// A corner every few degrees; 3 or more pixels of radius.
Polygon circle(PixelPoint middle, double radius_px);

/// A disc that is dragged over the view: each movement gives a fence, what the disc passed over.
class BrushTool : public Tool {
  public:
    void press(PixelPoint, const ViewFrame&, const Anchor&) override;
    void move(PixelPoint, const ViewFrame&) override;
    void release(PixelPoint, const ViewFrame&) override;
    void double_click(PixelPoint, const ViewFrame&) override {}
    void key(ToolKey, const ViewFrame&) override;
    Polygon outline(const ViewFrame&) const override { return circle(at_, radius_px_); }
    bool begun() const override { return painting_; }
    bool shows_pointer() const override { return true; }
    bool is_brush() const override { return true; }
    std::optional<select::Fence> take_fence() override;
    void resize(double factor) override;
    PixelPoint pointer() const { return at_; }
    double radius_px() const { return radius_px_; }
    void set_radius_px(double r) { radius_px_ = r; }

  private:
    bool painting_ = false;
    PixelPoint at_, from_;
    double radius_px_ = 24;
    std::optional<select::Fence> fence_;
};

}  // namespace pristine::app
