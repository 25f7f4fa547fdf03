// Tools that plant points in the world: ball, upright cylinder, box, planes, section line, pick.

#pragma once

#include <vector>

#include "app/tools/tool.h"

namespace pristine::app {

/// Press at the middle on what is seen, drag to the rim, release: two places at the same depth.
/// As a section line, both ends lie on what is seen.
class SpanTool : public Tool {
  public:
    explicit SpanTool(SpaceShape::Kind kind) : kind_(kind) {}
    void press(PixelPoint, const ViewFrame&, const Anchor&) override;
    void move(PixelPoint, const ViewFrame&) override;
    void release(PixelPoint, const ViewFrame&) override;
    void double_click(PixelPoint, const ViewFrame&) override {}
    void key(ToolKey, const ViewFrame&) override;
    Polygon outline(const ViewFrame&) const override;
    bool begun() const override { return begun_; }
    std::optional<select::Fence> take_fence() override { return std::nullopt; }
    std::optional<SpaceShape> take_shape() override;

  private:
    SpaceShape::Kind kind_;
    bool begun_ = false;
    PixelPoint from_, to_;
    Vec3 start_;
    Anchor anchor_;
    std::optional<SpaceShape> shape_;
};

/// Painting over a surface: places on it, a brush wide.
class SampleTool : public Tool {
  public:
    void press(PixelPoint, const ViewFrame&, const Anchor&) override;
    void move(PixelPoint, const ViewFrame&) override;
    void release(PixelPoint, const ViewFrame&) override;
    void double_click(PixelPoint, const ViewFrame&) override {}
    void key(ToolKey, const ViewFrame&) override;
    Polygon outline(const ViewFrame&) const override;
    bool begun() const override { return painting_; }
    bool shows_pointer() const override { return true; }
    void resize(double factor) override;
    std::optional<select::Fence> take_fence() override { return std::nullopt; }
    std::optional<SpaceShape> take_shape() override;

  private:
    bool painting_ = false;
    double radius_px_ = 16;
    PixelPoint at_, last_;
    Anchor anchor_;
    SpaceShape painted_{SpaceShape::Kind::PaintedPlane, {}, {}};
    std::optional<SpaceShape> shape_;
};

/// So many clicks on what is seen.
class PointsTool : public Tool {
  public:
    PointsTool(SpaceShape::Kind kind, std::size_t count) : kind_(kind), count_(count) {}
    void press(PixelPoint, const ViewFrame&, const Anchor&) override;
    void move(PixelPoint p, const ViewFrame&) override { pointer_ = p; }
    void release(PixelPoint, const ViewFrame&) override {}
    void double_click(PixelPoint, const ViewFrame&) override {}
    void key(ToolKey, const ViewFrame&) override;
    Polygon outline(const ViewFrame&) const override;
    bool begun() const override { return !points_.empty(); }
    std::optional<select::Fence> take_fence() override { return std::nullopt; }
    std::optional<SpaceShape> take_shape() override;

  private:
    SpaceShape::Kind kind_;
    std::size_t count_;
    std::vector<Vec3> points_;
    PixelPoint pointer_;
    std::optional<SpaceShape> shape_;
};

}  // namespace pristine::app
