#include "app/tools/strip_tool.h"

#include <algorithm>
#include <cmath>

namespace pristine::app {

Polygon strip(PixelPoint a, PixelPoint b, double width_px) {
    const double dx = b.x - a.x, dy = b.y - a.y, length = std::hypot(dx, dy);
    if (!(length > 0)) return {};
    const double x = -dy / length * width_px / 2, y = dx / length * width_px / 2;
    return {{a.x + x, a.y + y}, {b.x + x, b.y + y}, {b.x - x, b.y - y}, {a.x - x, a.y - y}};
}

Polygon StripTool::shape(PixelPoint from, PixelPoint to) const {
    return strip(from, to, width_px_);
}

void StripTool::resize(double factor) {
    width_px_ = std::clamp(width_px_ * factor, kLeast_px, kMost_px);
}

}  // namespace pristine::app
