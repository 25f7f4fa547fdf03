// Draws lines on what is seen, and edits the one in work by its corners.

#pragma once

#include "app/tools/tool.h"

namespace pristine::app {

/// Clicks plant corners on what is seen; Enter or a double click ends the line, a click on its first corner
/// closes it, Backspace takes a corner back. Corners of the line in work are dragged; Ctrl and a click on one
/// takes it out; a double click between two puts one in.
class LineTool : public Tool {
  public:
    /// The line whose corners are handles; none: nothing is edited.
    void set_line(std::optional<DrawnLine> line) { edited_ = std::move(line); }
    const std::optional<DrawnLine>& line() const { return edited_; }
    void hold_control(bool on) override { taking_out_ = on; }

    void press(PixelPoint, const ViewFrame&, const Anchor&) override;
    void move(PixelPoint, const ViewFrame&) override;
    void release(PixelPoint, const ViewFrame&) override;
    void double_click(PixelPoint, const ViewFrame&) override;
    void key(ToolKey, const ViewFrame&) override;
    Polygon outline(const ViewFrame&) const override;
    bool begun() const override { return !points_.empty() || held_; }
    std::optional<select::Fence> take_fence() override { return std::nullopt; }
    std::optional<DrawnLine> take_line() override { return std::exchange(done_, std::nullopt); }
    std::optional<DrawnLine> held_line() const override { return held_ ? edited_ : std::nullopt; }
    std::vector<std::vector<Vec3>> guides() const override;
    std::vector<Vec3> handles() const override;

  private:
    std::optional<std::size_t> corner_at(const std::vector<Vec3>&, PixelPoint, const ViewFrame&) const;
    void end(bool closed);
    Anchor anchor_;
    std::vector<Vec3> points_;
    PixelPoint pointer_, planted_;
    std::optional<DrawnLine> edited_, done_;
    std::optional<std::size_t> held_;
    DrawnLine before_;
    bool taking_out_ = false;
};

}  // namespace pristine::app
