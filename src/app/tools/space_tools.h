// Tools that plant points in the world: ball, upright cylinder, plane, level, section line, pick.

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

/// A box whose faces are dragged along their normals, and which is turned by the handle before its first
/// face.
class BoxTool : public Tool {
  public:
    void set_box(const select::Box& b) { box_ = b; }
    const select::Box& box() const { return box_; }
    void press(PixelPoint, const ViewFrame&, const Anchor&) override;
    void move(PixelPoint, const ViewFrame&) override;
    void release(PixelPoint, const ViewFrame&) override;
    void double_click(PixelPoint, const ViewFrame&) override {}
    void key(ToolKey, const ViewFrame&) override;
    Polygon outline(const ViewFrame&) const override { return {}; }
    bool begun() const override { return held_ >= 0; }
    std::optional<select::Fence> take_fence() override { return std::nullopt; }
    std::optional<select::Box> take_box() override;
    std::vector<std::vector<Vec3>> guides() const override;
    /// Centres of the faces -x +x -y +y -z +z of the box's own axes, then the handle that turns it.
    std::vector<Vec3> handles() const override;

  private:
    Vec3 axis(int a) const;
    select::Box box_{{}, {1, 1, 1}, 0};
    select::Box before_;
    int held_ = -1;
    PixelPoint from_;
    std::optional<select::Box> done_;
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
