#include "app/tools/space_tools.h"

#include <cmath>
#include <utility>

#include "app/tools/path_tools.h"

namespace pristine::app {
namespace {

constexpr double kClick_px = 3;

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
    if (std::hypot(to_.x - from_.x, to_.y - from_.y) < kClick_px) return;
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
