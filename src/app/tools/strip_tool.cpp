#include "app/tools/strip_tool.h"

#include <algorithm>
#include <cmath>
#include <utility>

namespace pristine::app {
namespace {

constexpr double kClick_px = 3;

}  // namespace

Polygon strip(PixelPoint a, PixelPoint b, double width_px) {
    const double dx = b.x - a.x, dy = b.y - a.y, length = std::hypot(dx, dy);
    if (!(length > 0)) return {};
    const double x = -dy / length * width_px / 2, y = dx / length * width_px / 2;
    return {{a.x + x, a.y + y}, {b.x + x, b.y + y}, {b.x - x, b.y - y}, {a.x - x, a.y - y}};
}

void StripTool::press(PixelPoint p, const ViewFrame&, const Anchor&) {
    begun_ = true;
    from_ = to_ = p;
}

void StripTool::move(PixelPoint p, const ViewFrame&) {
    if (begun_) to_ = p;
}

void StripTool::release(PixelPoint p, const ViewFrame& view) {
    if (!begun_) return;
    begun_ = false;
    to_ = p;
    if (std::hypot(to_.x - from_.x, to_.y - from_.y) >= kClick_px)
        fence_ = select::Fence{view, strip(from_, to_, width_px_)};
}

void StripTool::key(ToolKey k, const ViewFrame& view) {
    if (k == ToolKey::Finish && begun_) release(to_, view);
    if (k == ToolKey::Cancel) begun_ = false;
}

Polygon StripTool::outline(const ViewFrame&) const {
    return begun_ ? strip(from_, to_, width_px_) : Polygon();
}

std::optional<select::Fence> StripTool::take_fence() {
    return std::exchange(fence_, std::nullopt);
}

void StripTool::resize(double factor) {
    width_px_ = std::clamp(width_px_ * factor, kLeast_px, kMost_px);
}

}  // namespace pristine::app
