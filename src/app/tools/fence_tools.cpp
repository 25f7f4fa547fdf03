#include "app/tools/fence_tools.h"

#include <cmath>
#include <utility>

namespace pristine::app {
namespace {

constexpr double kFreehand_px = 9;

}  // namespace

Polygon RectangleTool::shape(PixelPoint a, PixelPoint b) const {
    return {{a.x, a.y}, {b.x, a.y}, {b.x, b.y}, {a.x, b.y}};
}

bool RectangleTool::large_enough(PixelPoint a, PixelPoint b) const {
    return std::fabs(b.x - a.x) >= kClick_px && std::fabs(b.y - a.y) >= kClick_px;
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
