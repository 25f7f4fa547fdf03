// A strip along a line: cables, rails, kerbs, edges of walls.

#pragma once

#include "app/tools/drag_tool.h"

namespace pristine::app {

/// Press at one end, drag to the other, release: what lies within half the width of the line between. Ctrl
/// and the wheel make it wider or narrower, also while it is dragged. Less than 3 pixels make nothing.
class StripTool : public DragTool {
  public:
    static constexpr double kUsual_px = 24, kLeast_px = 4, kMost_px = 400;

    void resize(double factor) override;
    double width_px() const { return width_px_; }

  protected:
    Polygon shape(PixelPoint from, PixelPoint to) const override;

  private:
    double width_px_ = kUsual_px;
};

/// The strip of this width round a line from a to b; no corners when they are the same place.
Polygon strip(PixelPoint a, PixelPoint b, double width_px);

}  // namespace pristine::app
