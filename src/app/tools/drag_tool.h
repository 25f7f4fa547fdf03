// Fences that one drag makes: press, drag, release.

#pragma once

#include <utility>

#include "app/tools/tool.h"

namespace pristine::app {

/// Enter ends the drag where the pointer is, Esc drops it. What shape() gives is the fence; less than three
/// corners make none.
class DragTool : public Tool {
  public:
    static constexpr double kClick_px = 3;  ///< a shorter drag is a click

    void press(PixelPoint p, const ViewFrame&, const Anchor&) override {
        begun_ = true;
        from_ = to_ = p;
    }
    void move(PixelPoint p, const ViewFrame&) override {
        if (begun_) to_ = p;
    }
    void release(PixelPoint p, const ViewFrame& view) override {
        if (!begun_) return;
        begun_ = false;
        to_ = p;
        if (Polygon corners = large_enough(from_, to_) ? shape(from_, to_) : Polygon(); corners.size() >= 3)
            fence_ = select::Fence{view, std::move(corners)};
    }
    void double_click(PixelPoint, const ViewFrame&) override {}
    void key(ToolKey k, const ViewFrame& view) override {
        if (k == ToolKey::Finish) release(to_, view);
        if (k == ToolKey::Cancel) begun_ = false;
    }
    Polygon outline(const ViewFrame&) const override { return begun_ ? shape(from_, to_) : Polygon(); }
    bool begun() const override { return begun_; }
    std::optional<select::Fence> take_fence() override { return std::exchange(fence_, std::nullopt); }

  protected:
    virtual Polygon shape(PixelPoint from, PixelPoint to) const = 0;
    /// Whether the drag is none by mistake.
    virtual bool large_enough(PixelPoint from, PixelPoint to) const;

  private:
    bool begun_ = false;
    PixelPoint from_, to_;
    std::optional<select::Fence> fence_;
};

}  // namespace pristine::app
