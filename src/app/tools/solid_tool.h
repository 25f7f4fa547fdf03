// A tool whose shape stays in the view and is adjusted by its handles until another one is drawn.

#pragma once

#include <memory>

#include "app/tools/solid.h"
#include "app/tools/tool.h"

namespace pristine::app {

class SolidTool : public Tool {
  public:
    /// `maker` draws the first shape; none: there is always one, set from outside (the clip box).
    explicit SolidTool(std::unique_ptr<Tool> maker) : maker_(std::move(maker)) {}
    /// What the handles are at; none: they go.
    void set_solid(std::optional<Solid> s) { solid_ = std::move(s); }
    const std::optional<Solid>& solid() const { return solid_; }

    void press(PixelPoint, const ViewFrame&, const Anchor&) override;
    void move(PixelPoint, const ViewFrame&) override;
    void release(PixelPoint, const ViewFrame&) override;
    void double_click(PixelPoint p, const ViewFrame& v) override;
    void key(ToolKey, const ViewFrame&) override;
    Polygon outline(const ViewFrame& v) const override { return maker_ ? maker_->outline(v) : Polygon{}; }
    bool begun() const override { return held_ || (maker_ && maker_->begun()); }
    std::optional<select::Fence> take_fence() override { return std::nullopt; }
    std::optional<SpaceShape> take_shape() override;
    std::optional<Solid> take_solid() override { return std::exchange(done_, std::nullopt); }
    std::vector<std::vector<Vec3>> guides() const override;
    std::vector<Vec3> handles() const override;
    bool shows_pointer() const override { return maker_ && maker_->shows_pointer(); }
    void resize(double factor) override {
        if (maker_) maker_->resize(factor);
    }

  private:
    std::unique_ptr<Tool> maker_;
    std::optional<Solid> solid_, done_;
    Solid before_;
    std::optional<std::size_t> held_;
    PixelPoint from_;
};

}  // namespace pristine::app
