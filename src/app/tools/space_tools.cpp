#include "app/tools/space_tools.h"

#include <algorithm>
#include <cmath>
#include <utility>

#include "app/tools/path_tools.h"

namespace pristine::app {
namespace {

constexpr double kShortest_px = 3;

}  // namespace

void SpanTool::press(PixelPoint p, const ViewFrame&, const Anchor& anchor) {
    begun_ = true;
    from_ = to_ = p;
    start_ = anchor(p);
    anchor_ = anchor;
}

void SpanTool::move(PixelPoint p, const ViewFrame&) {
    if (begun_) to_ = p;
}

void SpanTool::release(PixelPoint p, const ViewFrame& view) {
    if (!begun_) return;
    begun_ = false;
    to_ = p;
    if (std::hypot(to_.x - from_.x, to_.y - from_.y) < kShortest_px) return;
    const bool line = kind_ == SpaceShape::Kind::Section;
    shape_ = SpaceShape{kind_, {start_, line ? anchor_(to_) : view.lift(to_, view.depth(start_))}, to_};
}

void SpanTool::key(ToolKey k, const ViewFrame& view) {
    if (k == ToolKey::Finish) release(to_, view);
    if (k == ToolKey::Cancel) begun_ = false;
}

Polygon SpanTool::outline(const ViewFrame&) const {
    if (!begun_) return {};
    if (kind_ == SpaceShape::Kind::Section) return {from_, to_};
    return circle(from_, std::max(3.0, std::hypot(to_.x - from_.x, to_.y - from_.y)));
}

std::optional<SpaceShape> SpanTool::take_shape() {
    return std::exchange(shape_, std::nullopt);
}

void SampleTool::press(PixelPoint p, const ViewFrame& view, const Anchor& anchor) {
    painting_ = true;
    anchor_ = anchor;
    at_ = last_ = p;
    painted_.points = {anchor(p)};
    painted_.radius = radius_px_ / view.pixels_per_unit(view.depth(painted_.points[0]));
}

void SampleTool::move(PixelPoint p, const ViewFrame&) {
    at_ = p;
    if (!painting_ || std::hypot(p.x - last_.x, p.y - last_.y) < radius_px_) return;
    last_ = p;
    painted_.points.push_back(anchor_(p));
}

void SampleTool::release(PixelPoint p, const ViewFrame&) {
    if (!std::exchange(painting_, false)) return;
    at_ = p;
    painted_.end = p;
    shape_ = painted_;
}

void SampleTool::key(ToolKey k, const ViewFrame& view) {
    if (k == ToolKey::Finish) release(at_, view);
    if (k == ToolKey::Cancel) painting_ = false;
}

Polygon SampleTool::outline(const ViewFrame&) const {
    return circle(at_, radius_px_);
}

void SampleTool::resize(double factor) {
    radius_px_ = std::clamp(radius_px_ * factor, 3.0, 400.0);
}

std::optional<SpaceShape> SampleTool::take_shape() {
    return std::exchange(shape_, std::nullopt);
}

void PointsTool::press(PixelPoint p, const ViewFrame&, const Anchor& anchor) {
    points_.push_back(anchor(p));
    pointer_ = p;
    if (points_.size() < count_) return;
    shape_ = SpaceShape{kind_, std::exchange(points_, {}), p};
}

void PointsTool::key(ToolKey k, const ViewFrame&) {
    if (k == ToolKey::Back && !points_.empty()) points_.pop_back();
    if (k == ToolKey::Cancel) points_.clear();
}

Polygon PointsTool::outline(const ViewFrame& view) const {
    Polygon p;
    for (const Vec3& w : points_)
        if (view.depth(w) >= view.near_depth) p.push_back(view.project(w));
    if (!p.empty()) p.push_back(pointer_);
    return p;
}

std::optional<SpaceShape> PointsTool::take_shape() {
    return std::exchange(shape_, std::nullopt);
}

}  // namespace pristine::app
