// A strip along a line: cables, rails, kerbs, edges of walls.

#pragma once

#include "app/tools/tool.h"

namespace pristine::app {

/// Press at one end, drag to the other, release: what lies within half the width of the line between. Ctrl
/// and the wheel make it wider or narrower, also while it is dragged. Less than 3 pixels make nothing.
class StripTool : public Tool {
  public:
    static constexpr double kUsual_px = 24, kLeast_px = 4, kMost_px = 400;

    void press(PixelPoint, const ViewFrame&, const Anchor&) override;
    void move(PixelPoint, const ViewFrame&) override;
    void release(PixelPoint, const ViewFrame&) override;
    void double_click(PixelPoint, const ViewFrame&) override {}
    void key(ToolKey, const ViewFrame&) override;
    Polygon outline(const ViewFrame&) const override;
    bool begun() const override { return begun_; }
    std::optional<select::Fence> take_fence() override;
    void resize(double factor) override;
    double width_px() const { return width_px_; }

  private:
    bool begun_ = false;
    PixelPoint from_, to_;
    double width_px_ = kUsual_px;
    std::optional<select::Fence> fence_;
};

/// The strip of this width round a line from a to b; no corners when they are the same place.
Polygon strip(PixelPoint a, PixelPoint b, double width_px);

}  // namespace pristine::app
