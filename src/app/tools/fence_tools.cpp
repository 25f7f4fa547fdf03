#include "app/tools/fence_tools.h"

#include <cmath>
#include <utility>

namespace pristine::app {
namespace {

constexpr double kClick_px = 3, kFreehand_px = 9;

Polygon corners_of(PixelPoint a, PixelPoint b) {
    return {{a.x, a.y}, {b.x, a.y}, {b.x, b.y}, {a.x, b.y}};
}

}  // namespace

void RectangleTool::press(PixelPoint p, const ViewFrame&, const Anchor&) {
    begun_ = true;
    from_ = to_ = p;
}

void RectangleTool::move(PixelPoint p, const ViewFrame&) {
    if (begun_) to_ = p;
}

void RectangleTool::release(PixelPoint p, const ViewFrame& view) {
    if (!begun_) return;
    to_ = p;
    begun_ = false;
    if (std::fabs(to_.x - from_.x) < kClick_px || std::fabs(to_.y - from_.y) < kClick_px) return;
    fence_ = select::Fence{view, corners_of(from_, to_)};
}

void RectangleTool::key(ToolKey k, const ViewFrame& view) {
    if (k == ToolKey::Finish) release(to_, view);
    if (k == ToolKey::Cancel) begun_ = false;
}

Polygon RectangleTool::outline(const ViewFrame&) const {
    return begun_ ? corners_of(from_, to_) : Polygon{};
}

std::optional<select::Fence> RectangleTool::take_fence() {
    return std::exchange(fence_, std::nullopt);
}

void PolygonTool::press(PixelPoint p, const ViewFrame&, const Anchor& anchor) {
    refusal_.clear();
    pointer_ = planted_ = p;
    corners_.push_back(anchor(p));
    pressed_ = true;
    anchor_ = anchor;
}

void PolygonTool::move(PixelPoint p, const ViewFrame&) {
    pointer_ = p;
    if (!pressed_ || corners_.empty() || std::hypot(p.x - planted_.x, p.y - planted_.y) < kFreehand_px)
        return;
    corners_.push_back(anchor_(p));
    planted_ = p;
}

void PolygonTool::double_click(PixelPoint, const ViewFrame& view) {
    // The first click of the two has set the last corner already.
    close(view);
}

void PolygonTool::key(ToolKey k, const ViewFrame& view) {
    if (k == ToolKey::Finish) close(view);
    if (k == ToolKey::Back && !corners_.empty()) corners_.pop_back();
    if (k == ToolKey::Cancel) corners_.clear();
}

void PolygonTool::close(const ViewFrame& view) {
    if (corners_.size() < 3) {
        refusal_ = "A fence needs at least three corners";
        return;
    }
    Polygon polygon;
    for (const Vec3& c : corners_) {
        if (view.depth(c) < view.near_depth) {
            refusal_ = "A corner of the fence lies behind you. Turn back until all corners are in front";
            return;
        }
        polygon.push_back(view.project(c));
    }
    fence_ = select::Fence{view, std::move(polygon)};
    corners_.clear();
}

Polygon PolygonTool::outline(const ViewFrame& view) const {
    Polygon polygon;
    for (const Vec3& c : corners_)
        if (view.depth(c) >= view.near_depth) polygon.push_back(view.project(c));
    if (!polygon.empty()) polygon.push_back(pointer_);
    return polygon;
}

std::optional<select::Fence> PolygonTool::take_fence() {
    return std::exchange(fence_, std::nullopt);
}

}  // namespace pristine::app
