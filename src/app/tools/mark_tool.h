// Plants the places of a mark on what is seen.

#pragma once

#include <vector>

#include "app/tools/tool.h"
#include "core/geometry/mark.h"

namespace pristine::app {

/// Clicks plant places; the mark is done when its kind has as many as it needs, else with Enter or a double
/// click. Backspace takes one back, Esc drops it. A height above something needs one click: its foot is found
/// by somebody else.
class MarkTool : public Tool {
  public:
    void set_kind(MarkKind);
    MarkKind kind() const { return kind_; }
    void press(PixelPoint, const ViewFrame&, const Anchor&) override;
    void move(PixelPoint p, const ViewFrame&) override { pointer_ = p; }
    void release(PixelPoint, const ViewFrame&) override {}
    void double_click(PixelPoint, const ViewFrame&) override { end(); }
    void key(ToolKey, const ViewFrame&) override;
    Polygon outline(const ViewFrame&) const override;
    bool outline_is_open() const override { return kind_ != MarkKind::Area; }
    bool begun() const override { return !points_.empty(); }
    bool measures() const override { return true; }
    std::optional<select::Fence> take_fence() override { return std::nullopt; }
    std::optional<SpaceShape> take_shape() override { return std::exchange(shape_, std::nullopt); }

  private:
    void end();
    MarkKind kind_ = MarkKind::Distance;
    std::vector<Vec3> points_;
    PixelPoint pointer_;
    std::optional<SpaceShape> shape_;
};

}  // namespace pristine::app
